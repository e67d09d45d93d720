import { cookies } from 'next/headers';
import { SettingsPage } from '@/ui/settings/SettingsPage';

export default async function Route() {
  return <SettingsPage theme={(await cookies()).get('theme')?.value ?? 'system'} />;
}
