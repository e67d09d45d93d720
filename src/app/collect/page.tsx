import { CollectPage } from '@/ui/collect/CollectPage';

export default function Route() {
  return <CollectPage />;
}
