import { FilesPage } from '@/ui/files/FilesPage';

export default function Route() {
  return <FilesPage />;
}
