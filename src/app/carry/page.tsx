import { CarryPage } from '@/ui/carry/CarryPage';

export default function Route() {
  return <CarryPage />;
}
