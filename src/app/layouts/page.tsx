import { LayoutsPage } from '@/ui/pages';

export default function Route() {
  return <LayoutsPage />;
}
