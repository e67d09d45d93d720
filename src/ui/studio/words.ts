// What roles are called.

import type { Role } from '@/wire/routes/roles';

export const roleNames: readonly (readonly [Role, string])[] = [
  ['look', 'looks'],
  ['change', 'looks and changes'],
  ['manage', 'manages'],
];

export const roleName = (role: Role): string => roleNames.find(([id]) => id === role)![1];
