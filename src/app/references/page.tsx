import { ReferencesPage } from '@/ui/pages';

export default function Route() {
  return <ReferencesPage />;
}
