import { Join } from '@/ui/pages';

export default function Route() {
  return <Join />;
}
