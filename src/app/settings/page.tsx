import { cookies } from 'next/headers';
import { SettingsPage } from '@/ui/pages';

export default async function Route() {
  return <SettingsPage theme={(await cookies()).get('theme')?.value ?? 'system'} />;
}
