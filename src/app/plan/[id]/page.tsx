import { ReviewPage } from '@/ui/review/ReviewPage';

export default function Route() {
  return <ReviewPage />;
}
