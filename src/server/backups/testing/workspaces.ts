// Workspaces on a real disk for the tests of backups, with names and kinds of files that are easily lost on the way.

import { createCipheriv } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { wholeDisk } from '../../disk/testing/wholeDisk';

let count = 0;

/** The text of a workspace's marker; each is created at a time of its own. */
export const marker = (name: string) =>
  JSON.stringify({
    format: 1,
    name,
    created: `2026-11-27T08:00:00.${String(++count).padStart(3, '0')}Z`,
    layout: 'x',
    folders: [],
    homes: {},
  });

/** Bytes of which no two seeds share a stretch. */
function noise(size: number, seed: number): Buffer {
  const key = Buffer.alloc(16, seed & 0xff);
  const cipher = createCipheriv('aes-128-ctr', key, Buffer.alloc(16, (seed >> 8) + 1));
  return cipher.update(Buffer.alloc(size));
}

function put(root: string, files: Record<string, string | Buffer>): void {
  for (const [name, content] of Object.entries(files)) {
    const file = path.join(root, name);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content);
    // Long ago, with a fraction of a second: what is saved within the clock's grain is read anew anyway.
    fs.utimesSync(file, 1_764_000_000.345 + count++, 1_764_000_000.345 + count);
  }
}

/** All that lies below a folder, its own records, too. */
const everything = (root: string): Record<string, string> => ({
  ...wholeDisk(root),
  ...Object.fromEntries(
    Object.entries(
      fs.existsSync(path.join(root, '.satchel')) ? wholeDisk(path.join(root, '.satchel')) : {},
    ).map(([k, v]) => [`.satchel/${k}`, v]),
  ),
});

/** What tests lay below `base`. */
export function disksBelow(base: string) {
  const fresh = (name: string) => path.join(base, `${++count} ${name}`);
  const workspaceAt = (name = 'Boat', root = fresh('w')): string => {
    put(root, {
      '.satchel/workspace.json': marker(name),
      'scenes/boat ü_v001.gltf': '{"images":[{"uri":"../textures/hull.png"}]}',
      'textures/hull.png': noise(120_000, 1),
      'textures/100% #1?.png': noise(30_000, 2),
      'caches/sea.abc': noise(400_000, 3),
      '.hidden/x': '',
    });
    fs.chmodSync(path.join(root, 'textures/hull.png'), 0o600);
    fs.symlinkSync('../textures/hull.png', path.join(root, 'scenes/latest.png'));
    fs.mkdirSync(path.join(root, 'renders'));
    return root;
  };
  return { everything, fresh, noise, put, workspaceAt };
}
