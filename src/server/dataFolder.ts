// Where the application keeps its own data (not the workspaces).

import os from 'node:os';
import path from 'node:path';

/** Where the application keeps its own data (not the workspaces): SATCHEL_DATA, else the usual folder of the system. */
export function dataFolder(): string {
  if (process.env.SATCHEL_DATA) return path.resolve(process.env.SATCHEL_DATA);
  const home = os.homedir();
  if (process.platform === 'win32')
    return path.join(process.env.LOCALAPPDATA ?? path.join(home, 'AppData', 'Local'), 'Loyal Satchel');
  if (process.platform === 'darwin')
    return path.join(home, 'Library', 'Application Support', 'Loyal Satchel');
  return path.join(process.env.XDG_DATA_HOME ?? path.join(home, '.local', 'share'), 'loyal-satchel');
}
