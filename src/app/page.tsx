import { WorkspacesPage } from '@/ui/workspaces/WorkspacesPage';

export default function Route() {
  return <WorkspacesPage />;
}
