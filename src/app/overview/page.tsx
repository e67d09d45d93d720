import { OverviewPage } from '@/ui/overview/OverviewPage';

export default function Route() {
  return <OverviewPage />;
}
