import { ReferencesPage } from '@/ui/references/ReferencesPage';

export default function Route() {
  return <ReferencesPage />;
}
