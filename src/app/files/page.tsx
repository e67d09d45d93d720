import { FilesPage } from '@/ui/pages';

export default function Route() {
  return <FilesPage />;
}
