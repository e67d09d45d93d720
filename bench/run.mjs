// Speed beside the tools a user would otherwise use, in the same run, as ratios. Needs cp, cat, b3sum, zip, sha512sum (Debian's
// packages) and about 7 GB of room. `node bench/run.mjs [reading|scenes|scan|versions|checkpoints|changes|collect|nodes|adopt|copy|pack|backups|anywhere]`; without a word, all. Figures go to docs/performance.md
// by hand, with the machine they were taken on.

import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { buildCli, bundled, project } from '../scripts/setup.mjs';

await buildCli();
const base = fs.mkdtempSync(path.join(process.env.BENCH_DIR ?? os.tmpdir(), 'satchel-bench-'));
const cli = path.join(project, 'dist', 'satchel.mjs');
const only = process.argv[2];
const memory =
  'data:text/javascript,process.on("exit",()=>process.stderr.write("maxrss "+process.resourceUsage().maxRSS+"\\n"))';

/** Seconds of a shell line or a satchel call; output is thrown away. */
function time(command, args) {
  const start = process.hrtime.bigint();
  const done = spawnSync(command, args, { stdio: ['ignore', 'ignore', 'pipe'], maxBuffer: 2 ** 28 });
  const seconds = Number(process.hrtime.bigint() - start) / 1e9;
  if (done.status !== 0 && done.status !== 1) throw new Error(`${command} ${args.join(' ')}: ${done.stderr}`);
  return { seconds, rss: Number(/maxrss (\d+)/.exec(done.stderr.toString())?.[1] ?? 0) / 1000 };
}
const satchel = (...args) => time(process.execPath, ['--import', memory, cli, ...args]);
const shell = (line) => time('sh', ['-c', line]);
const median = (n, work) =>
  Array.from({ length: n }, work).sort((a, b) => a.seconds - b.seconds)[Math.floor(n / 2)];
const show = (what, text) => console.log(`${what.padEnd(46)} ${text}`);
const s = (x) => `${x.seconds.toFixed(3)} s`;

/** A bench in TypeScript, as a file that Node.js runs. */
async function bench(name) {
  const { build } = await import('esbuild');
  const outfile = path.join(project, 'dist', `bench-${name}.mjs`);
  await build({
    ...bundled,
    entryPoints: [`bench/${name}.ts`],
    outfile,
  });
  return outfile;
}

const startUp = median(5, () => satchel('refs', '--help'));
show('start-up (satchel refs --help)', s(startUp));

function glb(file, size) {
  let json = JSON.stringify({
    asset: { version: '2.0' },
    images: Array.from({ length: 10 }, (_, i) => ({ uri: `t${i}.png` })),
    nodes: Array.from({ length: 200 }, (_, i) => ({ name: `node ${i}`, translation: [i, 0, 0] })),
  });
  while (json.length % 4) json += ' ';
  const head = Buffer.alloc(28 + json.length);
  [
    [0, 0x46546c67],
    [4, 2],
    [8, size],
    [12, json.length],
    [16, 0x4e4f534a],
    [20 + json.length, size - 28 - json.length],
    [24 + json.length, 0x004e4942],
  ].forEach(([at, v]) => head.writeUInt32LE(v, at));
  head.write(json, 20);
  fs.writeFileSync(file, head);
  fs.truncateSync(file, size);
}

if (!only || only === 'reading') {
  glb(path.join(base, 'small.glb'), 2_000_000);
  glb(path.join(base, 'large.glb'), 2_000_000_000);
  const small = median(7, () => satchel('refs', path.join(base, 'small.glb'), '--json'));
  const large = median(7, () => satchel('refs', path.join(base, 'large.glb'), '--json'));
  show('references of a 2 MB GLB', s(small));
  show('references of a 2 GB GLB', `${s(large)}   ratio ${(large.seconds / small.seconds).toFixed(2)}`);
}

if (!only || only === 'scenes') {
  for (const [name, nodes] of [
    ['small (2 kB)', 0],
    ['usual (100 kB)', 1000],
  ]) {
    const dir = path.join(base, `scenes-${nodes}`);
    fs.mkdirSync(path.join(dir, 't'), { recursive: true });
    for (let i = 0; i < 10; i++) fs.writeFileSync(path.join(dir, 't', `${i}.png`), 'x');
    const body = Array.from({ length: nodes }, (_, i) => ({
      name: `node ${i}`,
      mesh: i,
      translation: [i * 0.1, 1.25, -3.5],
      rotation: [0, 0, 0, 1],
    }));
    for (let i = 0; i < 1000; i++)
      fs.writeFileSync(
        path.join(dir, `s${i}.gltf`),
        JSON.stringify(
          {
            asset: { version: '2.0' },
            nodes: body,
            images: Array.from({ length: 10 }, (_, n) => ({ uri: `t/${n}.png` })),
          },
          null,
          nodes ? 1 : 0,
        ),
      );
    const cat = median(5, () => shell(`find '${dir}' -name '*.gltf' -print0 | xargs -0 cat > /dev/null`));
    const ours = median(5, () => satchel('refs', dir, '--json'));
    show(`1,000 scenes, ${name}: find + cat`, s(cat));
    show(
      `1,000 scenes, ${name}: satchel refs`,
      `${s(ours)}   less start-up ${(ours.seconds - startUp.seconds).toFixed(3)} s, ratio ${((ours.seconds - startUp.seconds) / cat.seconds).toFixed(2)}; memory ${ours.rss.toFixed(0)} MB`,
    );
  }
}

if (!only || only === 'scan') {
  // 5,000 scenes with 100,000 references to 20,000 files, in the formats people mix.
  const dir = path.join(base, 'scan');
  for (let f = 0; f < 200; f++) {
    fs.mkdirSync(path.join(dir, 'textures', `set${f}`), { recursive: true });
    for (let i = 0; i < 100; i++) fs.writeFileSync(path.join(dir, 'textures', `set${f}`, `t${i}.png`), 'x');
  }
  const uris = (n) =>
    Array.from({ length: 20 }, (_, i) => `../../textures/set${(n * 7 + i) % 200}/t${(n + i * 13) % 100}.png`);
  const write = {
    gltf: (n) =>
      JSON.stringify({
        asset: { version: '2.0' },
        nodes: Array.from({ length: 100 }, (_, i) => ({
          name: `node ${i}`,
          mesh: i,
          translation: [i, 1.25, -3.5],
        })),
        images: uris(n).map((uri) => ({ uri })),
      }),
    usda: (n) =>
      `#usda 1.0\n${uris(n)
        .map(
          (u, i) =>
            `def Shader "S${i}"\n{\n    asset inputs:file = @${u}@\n    float3[] points = [${'(0.1, 0.2, 0.3), '.repeat(30)}]\n}\n`,
        )
        .join('')}`,
    dae: (n) =>
      `<?xml version="1.0"?><COLLADA><library_images>${uris(n)
        .map((u, i) => `<image id="i${i}"><init_from>${u}</init_from></image>`)
        .join('')}</library_images><float_array>${'0.125 '.repeat(2000)}</float_array></COLLADA>`,
    mtl: (n) =>
      uris(n)
        .map((u, i) => `newmtl m${i}\nKd 0.5 0.5 0.5\nKs 0 0 0\nmap_Kd ${u}\n`)
        .join(''),
  };
  const kinds = Object.keys(write);
  for (let n = 0; n < 5000; n++) {
    const folder = path.join(dir, 'scenes', `shot${n % 50}`);
    fs.mkdirSync(folder, { recursive: true });
    const kind = kinds[n % kinds.length];
    fs.writeFileSync(path.join(folder, `s${n}.${kind}`), write[kind](n));
  }
  const find = `find '${dir}' -type f \\( -name '*.gltf' -o -name '*.usda' -o -name '*.dae' -o -name '*.mtl' \\) -print0 | xargs -0 cat > /dev/null`;
  const cold = () =>
    spawnSync('sh', ['-c', 'sync; echo 3 > /proc/sys/vm/drop_caches'], { stdio: 'ignore' }).status === 0;
  for (const state of ['warm', 'cold']) {
    if (state === 'cold' && !cold()) continue;
    const ready = () => state === 'warm' || cold();
    const theirs = median(3, () => (ready(), shell(find)));
    const ours = median(3, () => (ready(), satchel('refs', dir, '--json')));
    show(`5,000 scenes, 100,000 references, ${state}: find + cat`, s(theirs));
    show(
      `5,000 scenes, 100,000 references, ${state}: satchel`,
      `${s(ours)}   less start-up ${(ours.seconds - startUp.seconds).toFixed(3)} s, ratio ${((ours.seconds - startUp.seconds) / theirs.seconds).toFixed(2)}; memory ${ours.rss.toFixed(0)} MB`,
    );
  }
  const out = await bench('rescan');
  const list = median(7, () => shell(`find '${dir}' -type f -printf '%p %s %T@\\n' > /dev/null`));
  const {
    first,
    nothing,
    oneScene,
    oneName,
    memory: held,
  } = JSON.parse(spawnSync(process.execPath, [out, dir], { encoding: 'utf8' }).stdout);
  fs.rmSync(out);
  show('5,000 scenes: find with sizes and times', s(list));
  show('5,000 scenes: first reading into the index', `${s(first)}   memory ${held.toFixed(0)} MB`);
  show(
    '5,000 scenes: rescan, nothing changed',
    `${s(nothing)}   ratio ${(nothing.seconds / list.seconds).toFixed(2)}; ${nothing.sent} rows sent`,
  );
  show('5,000 scenes: rescan, one scene saved', `${s(oneScene)}   ${oneScene.sent} rows sent`);
  show('5,000 scenes: rescan, one file more', `${s(oneName)}   ${oneName.sent} rows sent`);
  fs.rmSync(dir, { recursive: true });
}

// Versions in the store, checkpoints, two scenes side by side: each prints its figures as it has them.
for (const name of ['versions', 'checkpoints'])
  if (!only || only === name) {
    const dir = path.join(base, name);
    fs.mkdirSync(dir);
    const out = await bench(name);
    const ran = spawnSync(process.execPath, [out, dir], { encoding: 'utf8', maxBuffer: 2 ** 28 });
    if (ran.status !== 0) throw new Error(ran.stderr);
    fs.rmSync(out);
    for (const [what, figure] of Object.entries(JSON.parse(ran.stdout))) show(what, JSON.stringify(figure));
  }

for (const name of ['collect', 'nodes'])
  if (!only || only === name) {
    const folder = path.join(base, name);
    fs.mkdirSync(folder);
    const { stdout } = spawnSync(process.execPath, [await bench(name), folder], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    for (const [what, seconds] of Object.entries(JSON.parse(stdout.toString())))
      show(`${name}, ${what}`, String(seconds));
    fs.rmSync(folder, { recursive: true });
  }

if (!only || only === 'changes') {
  const dir = path.join(base, 'changes');
  fs.mkdirSync(dir);
  const out = await bench('changes');
  const ran = spawnSync(process.execPath, [out, dir], { encoding: 'utf8', maxBuffer: 2 ** 28 });
  if (ran.status !== 0) throw new Error(ran.stderr);
  const f = JSON.parse(ran.stdout);
  fs.rmSync(out);
  for (const [what, seconds] of Object.entries(f)) show(what, `${seconds.toFixed(3)} s`);
  for (const n of [9000, 20000])
    for (const part of ['planned', 'applied', 'undo planned'])
      show(
        `${n} shifted by one: ${part}`,
        `ratio to a script's renames ${(f[`${n}: ${part}`] / f[`${n}: renamed by a script`]).toFixed(1)}`,
      );
  const known = 'by a script that knows where they went';
  for (const n of [5000, 20000])
    show(
      `${n} references relinked, planned`,
      `ratio to a script that knows where they went ${(f[`${n}: relink planned`] / f[`${n}: ${known}`]).toFixed(1)}`,
    );
  show(
    'a ledger with two entries of 100,000 paths',
    `shown in ${(f['ledger: shown'] / f['ledger: read with all it says']).toFixed(3)} of the time it takes to read all`,
  );
  fs.rmSync(dir, { recursive: true });
}

if (!only || only === 'adopt') {
  // A folder that grew for years: 50,000 files in 1,000 folders, 500 scenes among them, half of the files not where their kind belongs.
  const dir = path.join(base, 'adopt');
  for (let f = 0; f < 1000; f++) {
    const folder = path.join(dir, `stuff ${f % 40}`, `part ${f}`);
    fs.mkdirSync(folder, { recursive: true });
    for (let i = 0; i < 50; i++) {
      if (f % 2 === 0 && i === 0)
        fs.writeFileSync(
          path.join(folder, `scene ${f}.gltf`),
          JSON.stringify({
            asset: { version: '2.0' },
            nodes: Array.from({ length: 300 }, (_, n) => ({
              name: `node ${n}`,
              translation: [n, 1.25, -3.5],
            })),
            images: Array.from({ length: 20 }, (_, n) => ({ uri: `t${n + 1}.png` })),
          }),
        );
      else fs.writeFileSync(path.join(folder, i < 30 ? `t${i}.png` : `note ${i}.txt`), 'x');
    }
  }
  const theirs = median(5, () =>
    shell(
      `find '${dir}' -type f -printf '%p %s %T@\\n' > /dev/null; find '${dir}' -name '*.gltf' -print0 | xargs -0 cat > /dev/null`,
    ),
  );
  const look = median(5, () => satchel('adopt', dir, '--json'));
  const tidy = median(3, () => satchel('adopt', dir, '--tidy', '--json'));
  show('50,000 files: find, then cat of the scenes', s(theirs));
  const ratio = (x) =>
    `${s(x)}   less start-up ${(x.seconds - startUp.seconds).toFixed(3)} s, ratio ${((x.seconds - startUp.seconds) / theirs.seconds).toFixed(2)}; memory ${x.rss.toFixed(0)} MB`;
  show('50,000 files: satchel adopt, planned', ratio(look));
  show('50,000 files: satchel adopt --tidy, planned', ratio(tidy));
  const done = satchel('adopt', dir, '--yes');
  show('50,000 files: satchel adopt, applied', ratio(done));
  fs.rmSync(dir, { recursive: true });
}

const block = Buffer.alloc(16 * 1024 * 1024);
for (let i = 0; i < block.length; i += 4) block.writeUInt32LE((i * 2654435761) >>> 0, i);
function big(file, bytes) {
  const fd = fs.openSync(file, 'w');
  for (let at = 0; at < bytes; at += block.length)
    fs.writeSync(fd, block, 0, Math.min(block.length, bytes - at));
  fs.closeSync(fd);
}

if (!only || only === 'copy') {
  const source = path.join(base, 'texture.exr');
  big(source, 1_000_000_000);
  fs.mkdirSync(path.join(base, 'w'));
  satchel('new', path.join(base, 'w'), 'W', '--layout', 'game-environment', '--yes');
  const copy = path.join(base, 'copy.exr');
  const theirs = median(3, () => {
    fs.rmSync(copy, { force: true });
    return shell(`cp '${source}' '${copy}' && b3sum '${copy}'`);
  });
  const durable = median(3, () => {
    fs.rmSync(copy, { force: true });
    return shell(`cp '${source}' '${copy}' && sync '${copy}' && b3sum '${copy}'`);
  });
  const ours = median(3, () => {
    fs.rmSync(path.join(base, 'w', 'W', 'textures', 'texture.exr'), { force: true });
    return satchel('bring', source, '--into', path.join(base, 'w', 'W'), '--yes');
  });
  show('copy 1 GB: cp, then b3sum', s(theirs));
  show('copy 1 GB: cp, sync, then b3sum', s(durable));
  show(
    'copy 1 GB: satchel bring (hash, flush, ledger)',
    `${s(ours)}   ratio ${(ours.seconds / theirs.seconds).toFixed(2)} (flushed: ${(ours.seconds / durable.seconds).toFixed(2)}); memory ${ours.rss.toFixed(0)} MB`,
  );
  fs.rmSync(copy, { force: true });
  fs.rmSync(source);
  fs.rmSync(path.join(base, 'w'), { recursive: true });
}

if (!only || only === 'pack') {
  satchel('new', base, 'P', '--layout', 'game-environment', '--yes');
  const root = path.join(base, 'P');
  for (let i = 0; i < 20; i++) big(path.join(root, 'textures', `t${i}.exr`), 100_000_000);
  const [theirZip, ourZip] = [path.join(base, 'their.zip'), path.join(base, 'our.zip')];
  const theirs = median(3, () => {
    fs.rmSync(theirZip, { force: true });
    return shell(`cd '${base}' && zip -0 -q -r '${theirZip}' P && find P -type f -exec sha512sum {} + `);
  });
  const ours = median(3, () => {
    fs.rmSync(ourZip, { force: true });
    return satchel('pack', root, '--to', ourZip);
  });
  show('pack 2 GB: zip -0, then sha512sum', s(theirs));
  show(
    'pack 2 GB: satchel pack',
    `${s(ours)}   ratio ${(ours.seconds / theirs.seconds).toFixed(2)}; memory ${ours.rss.toFixed(0)} MB`,
  );
  shell(`cd '${base}' && unzip -q '${ourZip}'`);
  const summed = median(3, () => shell(`cd '${base}/our' && sha512sum -c --quiet manifest-sha512.txt`));
  const verified = median(3, () => satchel('verify', ourZip));
  show('verify 2 GB: sha512sum -c', s(summed));
  show(
    'verify 2 GB: satchel verify',
    `${s(verified)}   ratio ${(verified.seconds / summed.seconds).toFixed(2)}`,
  );
}
if (!only || only === 'backups') {
  // 20,000 files of 1 MB, 20 GB: what is in them is a beginning of their own and holes. Of these 1 % changed, to what nothing compresses.
  const root = path.join(base, 'W');
  const at = (n) => path.join(root, `d${n % 100}`, `f${n}.exr`);
  const put = (file, content, n) => {
    fs.writeFileSync(file, content);
    fs.truncateSync(file, 1_000_000);
    fs.utimesSync(file, 1_764_000_000 + n, 1_764_000_000 + Math.floor(Math.random() * 1e6));
  };
  for (let d = 0; d < 100; d++) fs.mkdirSync(path.join(root, `d${d}`), { recursive: true });
  for (let n = 0; n < 20_000; n++) put(at(n), randomBytes(4096), n);
  const [folder, copies] = [path.join(base, 'B'), path.join(base, 'copies')];
  show('first snapshot of 20,000 files, 20 GB', s(satchel('backup', root, '--to', folder)));
  const changed = Array.from({ length: 200 }, (_, k) => k * 100);
  const round = () => {
    for (const n of changed) put(at(n), randomBytes(1_000_000), n);
    shell('sync');
    fs.rmSync(copies, { recursive: true, force: true });
    fs.mkdirSync(copies);
    const list = changed.map((n) => `d${n % 100}/f${n}.exr`).join(' ');
    const theirs = shell(
      `cd '${root}' && find . -type f -printf '%p %s %T@\\n' > '${base}/list' && cp ${list} '${copies}' && sync '${copies}'/*`,
    );
    const ours = satchel('backup', root, '--to', folder);
    return { theirs, ours };
  };
  const rounds = Array.from({ length: 3 }, round).sort((a, b) => a.ours.seconds - b.ours.seconds);
  const { theirs, ours } = rounds[1];
  show('1 % changed: find, cp, sync', s(theirs));
  show(
    '1 % changed: second snapshot',
    `${s(ours)}   ratio ${(ours.seconds / theirs.seconds).toFixed(2)}; memory ${ours.rss.toFixed(0)} MB`,
  );
  const [two, small] = [path.join(base, 'Two'), path.join(base, 'B2')];
  fs.mkdirSync(two);
  for (let n = 0; n < 2000; n++) put(path.join(two, `f${n}.exr`), randomBytes(1_000_000), n);
  satchel('backup', two, '--to', small);
  shell('sync');
  // Both flushed to the drive.
  const copied = median(3, () => {
    fs.rmSync(copies, { recursive: true, force: true });
    return shell(`cp -r '${two}' '${copies}' && sync -f '${copies}'`);
  });
  const given = median(3, () => {
    fs.rmSync(path.join(base, 'back'), { recursive: true, force: true });
    return satchel('give-back', small, 'latest', '--to', path.join(base, 'back'));
  });
  show('2 GB back: cp -r, flushed', s(copied));
  show(
    '2 GB back: give-back',
    `${s(given)}   ratio ${(given.seconds / copied.seconds).toFixed(2)}; memory ${given.rss.toFixed(0)} MB`,
  );
  const proven = satchel('prove', small);
  show(
    'every byte proven: b3sum of the same',
    s(shell(`find '${two}' -type f -exec b3sum {} + > /dev/null`)),
  );
  show('every byte proven: satchel prove', s(proven));
}
if (!only || only === 'anywhere')
  spawnSync(process.execPath, [await bench('anywhere')], { stdio: 'inherit' });
fs.rmSync(base, { recursive: true, force: true });
