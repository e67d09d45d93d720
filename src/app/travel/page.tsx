import { TravelPage } from '@/ui/pages';

export default function Route() {
  return <TravelPage />;
}
