// Who asks. On one's own machine nobody has to say: the one who started the server. On a server for several it is a person with a role.

import type { Role } from '@/wire/routes/roles';

export interface Who {
  id: string;
  name: string;
  role: Role;
}
