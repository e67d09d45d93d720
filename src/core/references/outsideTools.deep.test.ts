// Whole chains beside two readers that nobody here made, on real files (assimp-testmodels 5.2.5, Debian): assimp 5.2.5 names the textures of a
// model through its material files, pycollada 0.4.1 the images of a COLLADA document. Every disagreement is written down with its reason.

import { expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { diskOutside } from '../../server/disk/diskOutside';
import { DiskTree } from '../../server/disk/diskTree';
import { settingOf } from '../plans/workspace';
import { percentDecode } from '../text/uri';
import { treePath } from '../files/treePath';
import { followChain } from './scan';

const models = path.resolve('.cache/samples/usr/share/assimp/models');
const has = (program: string, args: string[]) =>
  fs.existsSync(models) && spawnSync(program, args, { stdio: 'ignore' }).status === 0;
const python = '/usr/bin/python3';

function filesOf(pattern: RegExp): string[] {
  return (fs.readdirSync(models, { recursive: true }) as string[]).filter((f) => pattern.test(f)).sort();
}

async function ours(file: string): Promise<string[]> {
  const root = path.join(models, path.dirname(file));
  const tree = new DiskTree(root);
  const setting = settingOf({
    root,
    tree,
    outside: diskOutside,
    file: { homes: {}, libraries: [], places: [] },
  });
  const chain = await followChain(tree, diskOutside, setting, [treePath(path.basename(file))]);
  return chain
    .flatMap((r) => r.references)
    .filter((r) => r.kind === 'texture' || r.kind === 'video')
    .map((r) => r.written);
}

// assimp undoes escapes, turns slashes, and leaves out './'.
const plain = (name: string) => percentDecode(name).replaceAll('\\', '/').replace(/^\.\//, '').trim();
const sets = (a: readonly string[], b: readonly string[]) => {
  const [x, y] = [new Set(a.map(plain)), new Set(b.map(plain))];
  return { theirs: [...x].filter((n) => !y.has(n)), ours: [...y].filter((n) => !x.has(n)) };
};

// File → what only one of the two names, and who is right.
const disagreements: Record<string, { theirs: string[]; ours: string[] }> = {
  // Parts of the package itself: they travel with it, and are no references of the file.
  'Collada/duck.zae': { theirs: ['duck zaeCM.png'], ours: [] },
  'Collada/duck_nomanifest.zae': { theirs: ['duckzaeCM.png'], ours: [] },
  'Collada/human.zae': { theirs: ['textures/brown_eye.png'], ours: [] },
  // It takes the scheme off; here a value stays as it is written.
  'Collada/teapots.DAE': {
    theirs: ['../LWO/LWO2/MappingModes/earthSpherical.jpg'],
    ours: ['file://../LWO/LWO2/MappingModes/earthSpherical.jpg'],
  },
  // A material no face uses still names its file.
  'OBJ/spider.obj': { theirs: [], ours: ['wal69ar_small.jpg'] },
  // An MFString is a list of alternatives (ISO/IEC 19776-1): it takes the text between the outermost quotes for one name.
  'X3D/HelloX3dTrademark.x3d': {
    theirs: ['earth-topo.png""earth-topo.gif'],
    ours: [
      'earth-topo.png',
      'earth-topo.gif',
      'earth-topo-small.gif',
      ...['earth-topo.png', 'earth-topo.gif', 'earth-topo-small.gif'].map(
        (n) => `https://www.web3d.org/x3d/content/examples/Basic/development/${n}`,
      ),
    ],
  },
  // Used by an extension's materials, which it does not read.
  'glTF2/BoxTextured-glTF-techniqueWebGL/BoxTextured.gltf': { theirs: [], ours: ['CesiumLogoFlat.png'] },
  // An image that no material uses.
  'glTF2/ClearCoat-glTF/ClearCoatTest.gltf': { theirs: [], ours: ['PartialCoating.png'] },
};

(has('assimp', ['version']) ? test : test.skip)(
  'assimp names the same textures, through OBJ, MTL, COLLADA, PLY, X3D, glTF, 3MF',
  async () => {
    const found: Record<string, { theirs: string[]; ours: string[] }> = {};
    let compared = 0;
    for (const file of filesOf(/\.(obj|dae|ply|x3d|wrl|gltf|glb|3mf|zae)$/i)) {
      const { status, stdout } = spawnSync('assimp', ['info', path.join(models, file)], {
        encoding: 'latin1',
      });
      if (status !== 0) continue; // it refuses some of them
      compared++;
      const list = /Texture Refs:\n((?: {4}'.*'\n)*)/.exec(stdout)?.[1] ?? '';
      const theirs = [...list.matchAll(/^ {4}'(.*)'$/gm)].map((m) => m[1]!).filter((n) => !/^\*\d+$/.test(n)); // *0 is embedded
      const differs = sets(theirs, await ours(file));
      if (differs.theirs.length + differs.ours.length > 0) found[file] = differs;
    }
    expect(compared).toBeGreaterThanOrEqual(90);
    expect(found).toEqual(disagreements);
  },
  300_000,
);

(has(python, ['-c', 'import collada']) ? test : test.skip)(
  'pycollada names the same images',
  async () => {
    const files = filesOf(/\.dae$/i);
    const script =
      'import collada,json,sys\nfor f in sys.argv[1:]:\n  try: print(json.dumps([i.path for i in collada.Collada(f, ignore=[collada.DaeUnsupportedError, collada.DaeBrokenRefError]).images]))\n  except Exception: print("null")';
    const lines = spawnSync(python, ['-c', script, ...files.map((f) => path.join(models, f))], {
      encoding: 'utf8',
    })
      .stdout.trim()
      .split('\n')
      .map((l) => JSON.parse(l) as string[] | null);
    let compared = 0;
    for (const [i, file] of files.entries()) {
      const theirs = lines[i];
      if (!theirs) continue; // it refuses other profiles and broken files
      compared++;
      expect([
        file,
        sets(
          theirs.map((n) => n.replace(/^file:\/\//, '')),
          (await ours(file)).map((n) => n.replace(/^file:\/\//, '')),
        ),
      ]).toEqual([file, { theirs: [], ours: [] }]);
    }
    expect(compared).toBeGreaterThanOrEqual(15);
  },
  120_000,
);
