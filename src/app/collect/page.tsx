import { CollectPage } from '@/ui/pages';

export default function Route() {
  return <CollectPage />;
}
