import { MapPage } from '@/ui/map/MapPage';

export default function Route() {
  return <MapPage />;
}
