// A workspace on the real disk as somebody with a year's work might have it: millisecond times, modes, links of every kind, names of every
// script and form, twins, strangers with usual names, hard links, scenes in several formats, unknown ones, a workspace inside. All of it
// follows from one seed.

import fs from 'node:fs';
import path from 'node:path';
import { seeded } from '@/core/files/testing/seeded';
import type { WorkspaceFile } from '@/core/layouts/workspace';

export interface Generated {
  root: string;
  outside: string;
  file: WorkspaceFile;
  /** Numbers from 0 to n - 1 that follow from the seed, too. */
  pick: (n: number) => number;
}

const folders = [
  'textures',
  'textures/wood',
  'textures/4k',
  'scenes',
  'scenes/old',
  'models',
  'intake/pack',
  'lose Ü',
  'refs',
];
const names = [
  'wood.png',
  'Wood.png',
  'diffuse.png',
  'color.png',
  'tile#1.png',
  'tile%231.png',
  'what?.png',
  'a b.png',
  'grün.png'.normalize('NFC'),
  'grün.png'.normalize('NFD'),
  '木目.png',
  'back\\slash.png',
  'q"uote.png',
  `${'long'.repeat(56)}.png`,
  'rope.moving-1',
  '.hidden.png',
  'x.satchel-part.png',
  'wall.1001.png',
  'wall.1002.png',
  'sea.0001.ply',
  'sea.0002.ply',
  'buffer.bin',
];
const homes = {
  scene: 'scenes',
  texture: 'textures',
  model: 'models',
  cache: 'caches',
  other: 'intake',
  material: 'models',
};

/** A written path as its format writes it: percent-encoded for glTF. */
const uri = (p: string) => p.split('/').map(encodeURIComponent).join('/');

function relative(from: string, to: string): string {
  return path.posix.relative(path.posix.dirname(from), to);
}

/** Lays the workspace below `base`, a new folder. */
export function generate(base: string, seed: number): Generated {
  const next = seeded(seed);
  const pick = (n: number) => Math.floor(next() * n);
  const one = <T>(list: readonly T[]): T => list[pick(list.length)]!;
  const root = path.join(base, 'w ö');
  const outside = path.join(base, 'outside');
  const there: string[] = [];
  const put = (at: string, content: string | Buffer, below = root) => {
    const file = path.join(below, at);
    if (fs.existsSync(file)) return;
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content);
    fs.chmodSync(file, one([0o644, 0o600, 0o755, 0o640]));
    const time = 1.6e9 + Math.floor(next() * 1.9e11) / 1000;
    fs.utimesSync(file, time, time);
    if (below === root) there.push(at);
  };
  for (const f of folders) if (pick(5) > 0) fs.mkdirSync(path.join(root, f), { recursive: true });
  for (let n = 4 + pick(14); n > 0; n--) {
    const at = `${one(folders)}/${one(names)}`;
    // Few contents, so that some are there twice; and strangers of one name with different ones.
    put(at, /\.ply$/.test(at) ? 'ply\nformat ascii 1.0\nend_header\n' : `content ${pick(5)}`);
  }
  for (let n = 1 + pick(4); n > 0; n--) put(one(names), `outside ${pick(5)}`, outside);
  links(root, outside, there, one, pick);
  for (let n = 1 + pick(5); n > 0; n--) scene(root, outside, there, n, one, pick, put);
  if (pick(3) === 0)
    put('scenes/unknown.sceneish', Buffer.from(`\x01\x02${path.basename(one(there))}\0more ${one(there)}\0`));
  if (pick(6) === 0) put('inner/.satchel/workspace.json', '{"format":1}');
  if (pick(5) === 0 && there.length > 0)
    try {
      fs.linkSync(path.join(root, one(there)), path.join(root, 'textures', 'hard.png'));
    } catch {
      // The name is taken, or the folder is not there.
    }
  if (pick(6) === 0)
    fs.writeFileSync(Buffer.concat([Buffer.from(`${root}/`), Buffer.from([0x66, 0xfc, 0x72])]), 'latin');
  const file: WorkspaceFile = {
    format: 1,
    name: 'w',
    created: '2026-01-01T00:00:00Z',
    layout: 'x',
    folders: [],
    homes,
    libraries: [],
    places: [],
  };
  fs.mkdirSync(path.join(root, '.satchel'), { recursive: true });
  fs.writeFileSync(path.join(root, '.satchel', 'workspace.json'), `${JSON.stringify(file, null, 2)}\n`);
  return { root, outside, file, pick };
}

function links(
  root: string,
  outside: string,
  there: string[],
  one: <T>(list: readonly T[]) => T,
  pick: (n: number) => number,
): void {
  for (let n = pick(4); n > 0; n--) {
    const at = `${one(folders)}/link${n}${one(['.png', ''])}`;
    const target = one([one(there), one(folders), 'nowhere.png']);
    const text = one([
      relative(at, target),
      relative(at, target),
      `${root}/${target}`,
      path.join(outside, 'wood.png'),
      '..',
    ]);
    try {
      fs.mkdirSync(path.dirname(path.join(root, at)), { recursive: true });
      fs.symlinkSync(text, path.join(root, at));
      // References may lead through it.
      if (
        target !== 'nowhere.png' &&
        fs.existsSync(path.join(root, at)) &&
        !text.includes('outside') &&
        text !== '..'
      )
        there.push(fs.statSync(path.join(root, at)).isDirectory() ? `${at}/${one(names)}` : at);
    } catch {
      // The name is taken.
    }
  }
}

function scene(
  root: string,
  outside: string,
  there: readonly string[],
  n: number,
  one: <T>(list: readonly T[]) => T,
  pick: (n: number) => number,
  put: (at: string, content: string) => void,
): void {
  const at = `${one(folders)}/scene${n}${one(['.gltf', '.gltf', '.mtl', '.usda', '.mtlx'])}`;
  const targets = Array.from({ length: 1 + pick(4) }, () =>
    one([...there, `${one(folders)}/${one(names)}`, 'gone/x.png']),
  );
  const isUri = at.endsWith('.gltf');
  const written = targets.map((t) => {
    const whole = one([
      relative(at, t),
      relative(at, t),
      relative(at, t),
      `${root}/${t}`,
      path.join(outside, path.basename(t)),
    ]);
    return isUri ? (whole.startsWith('/') ? `file://${uri(whole)}` : uri(whole)) : whole;
  });
  const safe = written.filter((w) => isUri || !/["\\#?\n]/.test(w));
  if (at.endsWith('.gltf'))
    put(
      at,
      JSON.stringify({ asset: { version: '2.0' }, images: safe.map((w) => ({ uri: w })) }, null, pick(3)),
    );
  else if (at.endsWith('.mtl')) put(at, safe.map((w, i) => `newmtl m${i}\nmap_Kd ${w}\n`).join(''));
  else if (at.endsWith('.usda'))
    put(at, `#usda 1.0\n${safe.map((w, i) => `def "p${i}" { asset a = @${w}@ }\n`).join('')}`);
  else
    put(
      at,
      `<?xml version="1.0"?>\n<materialx version="1.39">${safe.map((w, i) => `<image name="i${i}" type="color3"><input name="file" type="filename" value="${w.replaceAll('&', '&amp;')}"/></image>`).join('')}</materialx>\n`,
    );
}
