import { SignIn } from '@/ui/pages';

export default function Route() {
  return <SignIn />;
}
