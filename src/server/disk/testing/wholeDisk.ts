// Everything a folder on disk holds, to the byte, for comparing before and after: content, links, kinds, modes and times.

import { createHash } from 'node:crypto';
import fs from 'node:fs';

/** Path (as latin1 of its bytes, so that any name has one) → what lies there. Our own records are left out. */
export function wholeDisk(root: string, options: { times?: boolean } = {}): Record<string, string> {
  const found: Record<string, string> = {};
  const waiting: Buffer[] = [Buffer.from('')];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    for (const name of fs.readdirSync(Buffer.concat([Buffer.from(`${root}/`), at]), { encoding: 'buffer' })) {
      const path = at.length === 0 ? name : Buffer.concat([at, Buffer.from('/'), name]);
      const full = Buffer.concat([Buffer.from(`${root}/`), path]);
      const key = path.toString('latin1');
      if (key === '.satchel') continue;
      const stat = fs.lstatSync(full);
      const mode = (stat.mode & 0o7777).toString(8);
      const time = options.times === false ? '' : ` ${Math.round(stat.mtimeMs * 1000)}`;
      if (stat.isSymbolicLink()) found[key] = `link ${fs.readlinkSync(full)}`;
      else if (stat.isDirectory()) {
        found[`${key}/`] = `folder ${mode}`;
        waiting.push(path);
      } else if (stat.isFile())
        found[key] =
          `file ${mode}${time} ${createHash('sha256').update(fs.readFileSync(full)).digest('hex').slice(0, 16)}`;
      else found[key] = 'other';
    }
  }
  return Object.fromEntries(Object.entries(found).sort());
}

/** The same with times a microsecond apart taken for one: a time is set in seconds as a double. */
export function sameDisk(a: Record<string, string>, b: Record<string, string>): string[] {
  const differs: string[] = [];
  for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
    const [x, y] = [a[key], b[key]];
    if (x === y) continue;
    const [p, q] = [x?.split(' '), y?.split(' ')];
    const isClose =
      p?.[0] === 'file' &&
      q?.[0] === 'file' &&
      p[1] === q[1] &&
      p[3] === q[3] &&
      Math.abs(Number(p[2]) - Number(q[2])) <= 1;
    if (!isClose) differs.push(`${key}: ${x ?? 'nothing'} → ${y ?? 'nothing'}`);
  }
  return differs;
}
