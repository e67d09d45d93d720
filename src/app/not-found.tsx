import { NothingHere } from '@/ui/shell/NothingHere';

export default function Route() {
  return <NothingHere />;
}
