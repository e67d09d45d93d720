// Who asks. On one's own machine nobody has to say: the one who started the server. On a server for several it is a person with a role,
// or a program with a key.

import type { Role } from '@/wire/routes/roles';

export interface Who {
  id: string;
  name: string;
  role: Role;
}

/** The id of a program that comes in by a key. */
export const idOfKey = (key: string): string => `key ${key}`;
/** Whether it is a program that asks. */
export const isProgram = (who: Who): boolean => who.id.startsWith(idOfKey(''));
