import { MapPage } from '@/ui/pages';

export default function Route() {
  return <MapPage />;
}
