import { TravelPage } from '@/ui/travel/TravelPage';

export default function Route() {
  return <TravelPage />;
}
