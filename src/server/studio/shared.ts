// One installation on several machines: what one of them began, another may put back. They have one name and one key for that (identity.ts), which stand in the
// database; each machine keeps a copy in its data folder.

import type { Queries } from '../database/database';
import { adoptIdentity, ownIdentity } from '../identity';

/** Takes the common identity over, or gives one to those who come after. */
export async function shareIdentity(db: Queries): Promise<void> {
  const own = ownIdentity();
  if (own)
    await db.query(
      "INSERT INTO secret (name, value) VALUES ('installation', $1) ON CONFLICT (name) DO NOTHING",
      [own],
    );
  const [common] = await db.query<{ value: string }>("SELECT value FROM secret WHERE name = 'installation'");
  if (common && common.value !== own) adoptIdentity(common.value);
}
