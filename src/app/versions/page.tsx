import { VersionsPage } from '@/ui/versions/VersionsPage';

export default function Route() {
  return <VersionsPage />;
}
