// What lies below a folder, byte by byte.

import fs from 'node:fs';

/** Every file below a folder: its bytes and its time. Links are told by their text. */
export function snapshot(folder: string): Record<string, string> {
  const found: Record<string, string> = {};
  const walk = (at: Buffer): void => {
    for (const e of fs.readdirSync(at, { withFileTypes: true, encoding: 'buffer' })) {
      const full = Buffer.concat([at, Buffer.from('/'), e.name]);
      if (e.isDirectory()) walk(full);
      else {
        const stat = fs.lstatSync(full, { bigint: true });
        const said = e.isSymbolicLink()
          ? fs.readlinkSync(full)
          : e.isFile()
            ? fs.readFileSync(full, 'base64')
            : '';
        found[full.toString('latin1')] = `${stat.mtimeNs} ${said}`;
      }
    }
  };
  walk(Buffer.from(folder));
  return found;
}
