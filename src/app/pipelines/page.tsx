import { PipelinesPage } from '@/ui/pages';

export default function Route() {
  return <PipelinesPage />;
}
