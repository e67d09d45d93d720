import { LayoutsPage } from '@/ui/layouts/LayoutsPage';

export default function Route() {
  return <LayoutsPage />;
}
