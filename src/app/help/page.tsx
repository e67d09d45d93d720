import { HelpPage } from '@/ui/pages';

export default function Route() {
  return <HelpPage />;
}
