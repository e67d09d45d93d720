import { PipelinesPage } from '@/ui/studio/PipelinesPage';

export default function Route() {
  return <PipelinesPage />;
}
