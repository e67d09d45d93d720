import { WorkspacesPage } from '@/ui/pages';

export default function Route() {
  return <WorkspacesPage />;
}
