import { LedgerPage } from '@/ui/pages';

export default function Route() {
  return <LedgerPage />;
}
