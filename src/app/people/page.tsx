import { PeoplePage } from '@/ui/studio/PeoplePage';

export default function Route() {
  return <PeoplePage />;
}
