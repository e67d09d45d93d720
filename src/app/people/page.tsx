import { PeoplePage } from '@/ui/pages';

export default function Route() {
  return <PeoplePage />;
}
