// Seconds of a first reading of a workspace into the index and of readings after it in which nothing, one scene, or one name has changed.
// Run by run.mjs: node rescan.mjs FOLDER → one JSON line. The index itself (the database) is not part of it.

import fs from 'node:fs';
import path from 'node:path';
import { scanInto } from '../src/server/jobs/scanWork';
import { plainFolder } from '../src/server/workspaces/open';

const root = process.argv[2]!;
let base: string | null = null;
let n = 0;

async function once(): Promise<{ seconds: number; sent: number }> {
  const start = performance.now();
  let sent = 0;
  const next = `scan ${++n}`;
  await scanInto(
    plainFolder(root),
    { base, next },
    new AbortController().signal,
    (m) => {
      if (m.say === 'rows') sent += m.rows.length;
    },
    () => {},
  );
  base = next;
  return { seconds: (performance.now() - start) / 1000, sent };
}
async function median(before: () => void): Promise<{ seconds: number; sent: number }> {
  const all = [];
  for (let i = 0; i < 5; i++) {
    before();
    all.push(await once());
  }
  return all.sort((a, b) => a.seconds - b.seconds)[2]!;
}

const first = await once();
const nothing = await median(() => {});
const scene = path.join(root, 'scenes', 'shot0', fs.readdirSync(path.join(root, 'scenes', 'shot0'))[0]!);
const oneScene = await median(() => fs.appendFileSync(scene, '\n'));
const oneName = await median(() => fs.writeFileSync(path.join(root, 'textures', `new${n}.png`), ''));
console.log(JSON.stringify({ first, nothing, oneScene, oneName, memory: process.memoryUsage().rss / 1e6 }));
