import { CarryPage } from '@/ui/pages';

export default function Route() {
  return <CarryPage />;
}
