import { HelpPage } from '@/ui/settings/HelpPage';

export default function Route() {
  return <HelpPage />;
}
