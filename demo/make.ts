// Makes the demo scenario "Harbour Lantern" in a folder: two machines, a share, and one of each trouble. Deterministic: the same
// bytes and times at every run, but for the absolute paths, which begin with the folder itself. See demo/README.md for what is where.
//
//   node dist/make-demo.mjs FOLDER

import fs from 'node:fs';
import path from 'node:path';
import { zipSync } from 'fflate';
import { planCreate, newWorkspaceFile } from '../src/core/plans/planCreate';
import { shippedLayouts } from '../src/core/layouts/layout';
import { netRound } from '../src/server/workspaces/net';
import { usualNet } from '../src/core/versions/net';
import { writeWorkspaceFile, type WorkspaceFile } from '../src/core/layouts/workspace';
import { glbBytes, gltfText, objText, seaFrame, type Scene } from './gltf';
import { makeMarket } from './market';
import {
  boathouse,
  buoy,
  buoyField,
  hook,
  moorings,
  quayLayer,
  quayLook,
  review,
  ropeCoil,
  signalSet,
  timber,
} from './others';
import { dusk, material, png } from './picture';

export const workspaceName = '2026-11 Harbour Lantern';

/** What the invented studio wants handed in. */
const askedFor = {
  format: 1,
  name: 'Harbour review',
  from: 'the studio',
  require: [{ path: 'scenes/*.gltf' }, { path: 'renders/**/*.png', say: 'stills for the review' }],
  names: [{ of: 'scenes/*.gltf', like: '*_v###' }],
  formats: [{ of: 'textures/**', allow: ['png', 'jpg', 'exr'] }],
  pictures: [{ of: 'textures/**', most: 4096, powersOfTwo: true }],
  units: { unit: 'm', upAxis: 'Y' },
  references: { complete: true, relative: true },
  size: { file: 4_294_967_295 },
  form: { as: 'zip' },
};

/** Lays every file; `folder` must not exist or be empty. Returns the workspace's root. */
export async function makeDemo(folder: string): Promise<string> {
  const base = path.resolve(folder);
  const portable = base.replaceAll('\\', '/');
  let minute = 0;
  const put = (name: string, content: string | Buffer) => {
    const file = path.join(base, ...name.split('/'));
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content);
    // Work of one November morning, a few minutes apart.
    const time = Date.UTC(2026, 10, 20, 8, minute++ * 3) / 1000;
    fs.utimesSync(file, time, time);
  };
  const root = `bench/work/${workspaceName}`;
  const picture = (name: string, colour: [number, number, number], band = 0, grain = 0.3, size = 64) =>
    put(name, png(size, material(colour, band, grain, name.length * 7 + colour[0])));
  const scene = (name: string, s: Scene, buffer?: string) => {
    const bin = buffer ?? `${name.slice(name.lastIndexOf('/') + 1).replace('.gltf', '')}.bin`;
    const { json, bin: bytes } = gltfText(s, bin);
    put(`${name.slice(0, name.lastIndexOf('/'))}/${bin}`, bytes);
    put(name, json);
  };

  const layout = shippedLayouts.find((l) => l.id === 'game-environment')!;
  const file: WorkspaceFile = {
    ...newWorkspaceFile({
      name: 'Harbour Lantern',
      layout,
      without: [],
      created: '2026-11-20T08:00:00.000Z',
    }),
    libraries: [{ name: 'harbour kit', path: `${portable}/barn/kits/harbour` }],
    places: [
      {
        name: 'Barn server',
        heads: [`${portable}/barn/kits`, '//barn/kits'],
        machine: { system: 'linux', fileSystem: 'ext4', root: '/srv/barn/work', free: 2_140_000_000_000 },
      },
      {
        name: 'Blue stick',
        heads: ['E:/', '/Volumes/Blue stick'],
        machine: {
          system: 'windows',
          fileSystem: 'fat32',
          root: 'E:/',
          free: 28_000_000_000,
          speed: { write: 9_500_000, smallFiles: 11 },
        },
      },
      { name: 'Bench', heads: ['D:/work'], machine: { system: 'windows' } },
      { name: 'Field laptop', heads: ['/Volumes/Work'], machine: { system: 'macos', free: 212_000_000_000 } },
      // An old renderer that takes short paths only.
      { name: 'Render box', heads: ['/mnt/jobs'], machine: { system: 'linux', longestPath: 72 } },
    ],
  };
  for (const step of planCreate(file).steps)
    if (step.do === 'make-folder')
      fs.mkdirSync(path.join(base, root, ...step.path.split('/')), { recursive: true });
  put(`${root}/.satchel/workspace.json`, writeWorkspaceFile(file));

  const t = `${root}/textures`;
  picture(`${t}/stone_base.png`, [176, 170, 158], 16, 0.4, 128);
  picture(`${t}/stone_normal.png`, [128, 128, 255], 16, 0.1);
  picture(`${t}/iron_base.png`, [70, 76, 82], 0, 0.5);
  picture(`${t}/lantern_glass.png`, [226, 196, 120], 0, 0.15);
  picture(`${t}/hull_planks_base.png`, [122, 78, 46], 8, 0.35, 128);
  picture(`${t}/hull_planks_normal.png`, [128, 128, 250], 8, 0.1);
  picture(`${t}/sand_base.png`, [214, 190, 142], 0, 0.5);
  picture(`${t}/sail_base.png`, [232, 224, 204], 32, 0.1);
  picture(`${t}/crate_wood.png`, [158, 118, 74], 12, 0.3);
  picture(`${t}/crate marks.png`, [52, 44, 38], 0, 0.6);
  picture(`${t}/signal_red.png`, [168, 52, 44], 0, 0.2);
  picture('bench/Downloads/rope_tile.png', [190, 166, 120], 4, 0.4);
  picture('bench/Downloads/rust/anchor_rust.png', [134, 74, 44], 0, 0.7);
  picture('bench/work/2026-03 Old Pier/textures/wet_wood_orm.png', [40, 150, 20], 8, 0.4);
  picture('barn/kits/harbour/textures/bollard_iron.png', [60, 62, 66], 0, 0.5);
  for (let frame = 1; frame <= 24; frame++)
    if (frame !== 17)
      put(`${root}/caches/sea/sea.${String(frame).padStart(4, '0')}.ply`, seaFrame(frame, 12));

  // It stands inside each harbour scene: what makes their saves dear.
  const water = `data:image/png;base64,${png(128, material([58, 92, 104], 10, 0.5, 6)).toString('base64')}`;
  const lighthouse = (extra: Scene['materials'] = {}): Scene => ({
    parts: [
      { name: 'tower', material: 'stone', centre: [0, 4, 0], size: [3, 8, 3] },
      { name: 'gallery', material: 'iron', centre: [0, 8.3, 0], size: [4, 0.6, 4] },
      { name: 'lamp room', material: 'glass', centre: [0, 9.4, 0], size: [2, 1.6, 2] },
      { name: 'beach', material: 'sand', centre: [0, -0.2, 0], size: [30, 0.4, 30] },
      { name: 'harbour water', material: 'water', centre: [0, 0.02, -13], size: [30, 0.1, 4] },
      ...(extra.signal
        ? [
            {
              name: 'signal',
              material: 'signal',
              centre: [0, 10.6, 0] as const,
              size: [0.5, 0.6, 0.5] as const,
            },
          ]
        : []),
    ],
    cameras: [
      { name: 'Pier', from: [4, 2, 22] },
      { name: 'Gallery', from: [0, 8.6, 2.2] },
    ],
    materials: {
      stone: { baseColor: '../textures/stone_base.png', normal: '../textures/stone_normal.png' },
      iron: { baseColor: '../textures/iron_base.png' },
      glass: { baseColor: '../textures/Lantern_Glass.PNG' },
      sand: { baseColor: 'C:/Users/mc/Desktop/2026-11%20Harbour%20Lantern/textures/sand_base.png' },
      water: { baseColor: water },
      ...extra,
    },
  });
  const s = `${root}/scenes`;
  scene(`${s}/harbour_v005.gltf`, lighthouse());
  scene(`${s}/harbour_v006.gltf`, lighthouse());
  scene(`${s}/harbour_v007.gltf`, lighthouse({ signal: { baseColor: '../textures/signal_red.png' } }));
  put(
    `${root}/.satchel/versions/scenes/harbour_v006.gltf.json`,
    `${JSON.stringify({ note: 'gallery widened', from: 'scenes/harbour_v005.gltf', saved: '2026-11-20T09:10:00.000Z' }, null, 2)}\n`,
  );
  put(
    `${root}/.satchel/versions/scenes/harbour_v007.gltf.json`,
    `${JSON.stringify({ note: 'signal light added', from: 'scenes/harbour_v006.gltf', saved: '2026-11-20T10:05:00.000Z' }, null, 2)}\n`,
  );
  scene(`${s}/boat_v004.gltf`, {
    parts: [
      { name: 'hull', material: 'planks', centre: [8, 0.6, 2], size: [5, 1.2, 2] },
      { name: 'deck', material: 'wet wood', centre: [8, 1.25, 2], size: [4.6, 0.1, 1.8] },
      { name: 'rigging', material: 'rope', centre: [8, 3, 2], size: [0.1, 4, 0.1] },
      { name: 'sail', material: 'canvas', centre: [8, 3.4, 2], size: [0.05, 2.4, 1.6] },
      { name: 'anchor', material: 'rust', centre: [10.6, 0.8, 2], size: [0.3, 0.6, 0.3] },
      { name: 'storm sky', material: 'sky', centre: [0, 20, -40], size: [80, 40, 0.1] },
    ],
    materials: {
      planks: { baseColor: '../texture/hull_planks_base.png', normal: '../texture/hull_planks_normal.png' },
      'wet wood': { orm: '../../2026-03%20Old%20Pier/textures/wet_wood_orm.png' },
      rope: { baseColor: `${portable}/bench/Downloads/rope_tile.png` },
      canvas: { baseColor: `${portable}/${root}/textures/sail_base.png`.replaceAll(' ', '%20') },
      rust: { baseColor: '../../../Downloads/rust/anchor_rust.png' },
      sky: { baseColor: 'E:/skies/storm_sky.png' },
    },
  });
  put(
    `${root}/models/lantern.glb`,
    glbBytes({
      parts: [
        { name: 'lantern', material: 'glass', centre: [0, 0.4, 0], size: [0.4, 0.6, 0.4] },
        { name: 'frame', material: 'iron', centre: [0, 0.75, 0], size: [0.5, 0.1, 0.5] },
        { name: 'bollard', material: 'kit iron', centre: [1, 0.4, 0], size: [0.4, 0.8, 0.4] },
      ],
      materials: {
        glass: { baseColor: '../textures/lantern_glass.png' },
        iron: { baseColor: '../textures/iron_base.png' },
        'kit iron': { baseColor: `${portable}/barn/kits/harbour/textures/bollard_iron.png` },
      },
    }),
  );
  put(`${root}/models/crate.obj`, objText('crate.mtl', 'crate'));
  put(
    `${root}/models/crate.mtl`,
    '# crate\r\nnewmtl crate\r\nKd 0.62 0.46 0.29\r\nmap_Kd -s 1 1 1 ..\\textures\\crate_wood.png\r\nmap_Bump -bm 0.4 ../textures/crate marks.png\r\nmap_Ks ../textures/crate_gloss.png\r\n',
  );
  for (const tile of [1001, 1002, 1004]) picture(`${t}/quay_wall.${tile}.png`, [150, 146, 138], 16, 0.3, 32);
  put(`${s}/quay.usda`, quayLayer);
  put(`${s}/quay_look.usda`, quayLook);
  put(`${root}/models/boathouse.dae`, boathouse);
  put(`${root}/models/timber.mtlx`, timber);
  put(`${root}/models/buoy.x3d`, buoy);
  put(`${root}/models/buoys.wrl`, buoyField);
  put(`${root}/models/rope_coil.ply`, ropeCoil);
  for (const frame of [1, 2, 3, 5, 6])
    put(
      `${root}/renders/lamp/lamp.${String(frame).padStart(4, '0')}.png`,
      png(16, material([226, 196, 120 + frame * 8], 0, 0.1, frame)),
    );
  put(`${s}/review.otio`, review);
  put(`${root}/models/signal_set.usdz`, signalSet(png(32, material([168, 52, 44], 0, 0.2, 9))));
  put(`${s}/moorings.usdc`, await moorings());
  put(`${root}/models/hook.3mf`, hook());
  // The same picture once more, under another name.
  put(
    `${root}/reference/quay stones.png`,
    fs.readFileSync(path.join(base, ...`${t}/stone_base.png`.split('/'))),
  );
  picture(`${t}/old_sign.png`, [96, 120, 110], 6, 0.4);
  put(`${root}/reference/.gitkeep`, '');
  put(`${root}/intake/read me first.txt`, 'Packs wait here until they are filed.\n');

  // A pack to bring in: a scene with its own folders, and a texture that lies elsewhere.
  const pack = 'bench/Downloads/bollard-pack';
  picture(`${pack}/maps/bollard base.png`, [92, 90, 84], 0, 0.5);
  picture(`${pack}/maps/bollard_normal.png`, [128, 128, 252], 0, 0.1);
  scene(`${pack}/bollard.gltf`, {
    parts: [
      { name: 'bollard', material: 'cast iron', centre: [0, 0.5, 0], size: [0.5, 1, 0.5] },
      { name: 'rope', material: 'rope', centre: [0, 0.6, 0], size: [0.6, 0.1, 0.6] },
    ],
    materials: {
      'cast iron': { baseColor: 'maps/bollard%20base.png', normal: 'maps/bollard_normal.png' },
      rope: { baseColor: '../rope_tile.png' },
    },
  });
  put(`${pack}/licence.txt`, 'Made for Harbour Lantern. Free to use.\n');
  // A pack as an archive: one of its pictures is the workspace's own, smaller; one scene needs a picture that is not in it.
  const { json, bin } = gltfText(
    {
      parts: [
        { name: 'lamp', material: 'brass', centre: [0, 0.3, 0], size: [0.3, 0.6, 0.3] },
        { name: 'foot', material: 'iron', centre: [0, 0.05, 0], size: [0.4, 0.1, 0.4] },
      ],
      materials: {
        brass: { baseColor: 'maps/brass_base.png', normal: 'maps/brass_normal.png' },
        iron: { baseColor: 'maps/iron_small.png' },
      },
    },
    'lamp.bin',
  );
  const when = { mtime: new Date(2026, 10, 20, 11, 0) };
  put(
    'bench/Downloads/lamp kit.zip',
    Buffer.from(
      zipSync({
        'lamp kit/lamp.gltf': [Buffer.from(json), when],
        'lamp kit/lamp.bin': [new Uint8Array(bin), when],
        'lamp kit/maps/brass_base.png': [new Uint8Array(png(64, material([190, 150, 70], 0, 0.4, 3))), when],
        'lamp kit/maps/brass_normal.png': [
          new Uint8Array(png(64, material([128, 128, 250], 4, 0.1, 4))),
          when,
        ],
        'lamp kit/maps/iron_small.png': [
          new Uint8Array(fs.readFileSync(path.join(base, ...`${t}/iron_base.png`.split('/')))),
          when,
        ],
        'lamp kit/maps/unused_mask.png': [new Uint8Array(png(32, material([30, 30, 30], 2, 0.9, 8))), when],
        'lamp kit/licence.txt': [Buffer.from('Free to use.\n'), when],
      }),
    ),
  );
  // A project that never was set up: everything where it fell, one texture missing, paths as they came.
  const mess = 'bench/work/Dinghy from Sam';
  picture(`${mess}/planks.png`, [132, 92, 60], 8, 0.3);
  picture(`${mess}/tex/sail white.png`, [236, 230, 214], 0, 0.1);
  picture(`${mess}/tex/sail_normal.png`, [128, 128, 252], 0, 0.1);
  picture(`${mess}/New folder/oar.png`, [150, 112, 72], 6, 0.3);
  scene(
    `${mess}/dinghy final2.gltf`,
    {
      parts: [
        { name: 'hull', material: 'planks', centre: [0, 30, 0], size: [300, 60, 120] },
        { name: 'sail', material: 'sail', centre: [0, 200, 0], size: [5, 260, 140] },
      ],
      materials: {
        planks: { baseColor: 'planks.png', normal: 'planks_nrm.png' },
        sail: { baseColor: 'tex/sail%20white.png', normal: 'tex/sail_normal.png' },
      },
    },
    'dinghy final2.bin',
  );
  put(`${mess}/New folder/oar.obj`, objText('oar.mtl', 'oar'));
  put(`${mess}/New folder/oar.mtl`, 'newmtl oar\nmap_Kd oar.png\n');
  put(
    `${mess}/waves.wav`,
    Buffer.from(
      'RIFF\x24\0\0\0WAVEfmt \x10\0\0\0\x01\0\x01\0\x40\x1f\0\0\x40\x1f\0\0\x01\0\x08\0data\0\0\0\0',
      'latin1',
    ),
  );
  put(`${mess}/to do.txt`, 'ask Sam for the planks normal\n');
  // The harbour from the pier; one frame was lost.
  for (let frame = 1; frame <= 12; frame++)
    if (frame !== 8)
      put(
        `${root}/renders/harbour/harbour_v007_Pier.${String(frame).padStart(4, '0')}.png`,
        png(320, dusk(frame / 12), 180),
      );
  const at = (name: string) => path.join(base, ...name.split('/'));
  makeMarket(root, {
    put,
    picture,
    scene,
    read: (name) => fs.readFileSync(at(name)),
    folder: (name) => fs.mkdirSync(at(name), { recursive: true }),
  });
  for (const folder of ['field-laptop', 'blue-stick', 'barn/backups'])
    fs.mkdirSync(path.join(base, ...folder.split('/')), { recursive: true });
  put('barn/asked for/harbour review.json', `${JSON.stringify(askedFor, null, 2)}\n`);
  await keepMorning(path.join(base, ...root.split('/')), lighthouse);
  return path.join(base, ...root.split('/'));
}

/** What the net kept while the signal light was made: every five minutes, with the application closed for a while, and a program that died once. */
async function keepMorning(root: string, lighthouse: (extra?: Scene['materials']) => Scene): Promise<void> {
  const file = path.join(root, 'scenes', 'harbour_v007.gltf');
  const [last, { mtime }] = [fs.readFileSync(file, 'utf8'), fs.statSync(file)];
  const at = (minutes: number) => Date.UTC(2026, 10, 20, 9, 30 + minutes);
  const round = (minutes: number, run: string, from: number) =>
    netRound(root, usualNet, {
      now: () => at(minutes),
      wait: async () => undefined,
      run: { id: run, from: at(from) },
    });
  const { json } = gltfText(
    lighthouse({ signal: { baseColor: '../textures/signal_red.png' } }),
    'harbour_v007.bin',
  );
  const runs = [
    { run: 'morning', minutes: [0, 5, 10, 15, 20, 25, 30] },
    { run: 'noon', minutes: [55, 60, 65, 70, 75] },
  ];
  for (const { run, minutes } of runs)
    for (const m of minutes) {
      const growing = json.replace('"tower"', `"tower, ${m} minutes on"`);
      fs.writeFileSync(file, m === 25 ? growing.slice(0, growing.length / 3) : growing);
      fs.utimesSync(file, at(m - 1) / 1000, at(m - 1) / 1000);
      await round(m, run, minutes[0]!);
    }
  fs.writeFileSync(file, last);
  fs.utimesSync(file, mtime, mtime);
  await round(80, 'noon', 55);
}

if (process.argv[2] && process.argv[1]?.endsWith('make-demo.mjs')) {
  const folder = process.argv[2];
  if (fs.existsSync(folder) && fs.readdirSync(folder).length > 0) {
    process.stderr.write(`${folder} is not empty; nothing was made.\n`);
    process.exitCode = 2;
  } else process.stdout.write(`${await makeDemo(folder)}\n`);
}
