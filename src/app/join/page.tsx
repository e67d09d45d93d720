import { Join } from '@/ui/studio/Join';

export default function Route() {
  return <Join />;
}
