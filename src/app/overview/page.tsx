import { OverviewPage } from '@/ui/pages';

export default function Route() {
  return <OverviewPage />;
}
