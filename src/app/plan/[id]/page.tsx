import { ReviewPage } from '@/ui/pages';

export default function Route() {
  return <ReviewPage />;
}
