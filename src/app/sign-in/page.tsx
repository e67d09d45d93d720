import { SignIn } from '@/ui/studio/SignIn';

export default function Route() {
  return <SignIn />;
}
