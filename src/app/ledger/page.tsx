import { LedgerPage } from '@/ui/ledger/LedgerPage';

export default function Route() {
  return <LedgerPage />;
}
