import { VersionsPage } from '@/ui/pages';

export default function Route() {
  return <VersionsPage />;
}
