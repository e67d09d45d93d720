// Real scenes that nobody here made (assimp-testmodels 5.2.5, licences per folder), collected and carried over, then moved to another path: gltf-validator finds
// nothing new, @gltf-transform/core loads the same document, pycollada the same images, assimp the same COLLADA and OBJ.

import { afterAll, expect, test } from '@jest/globals';
import { Logger, NodeIO, type Document } from '@gltf-transform/core';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { validateBytes } from 'gltf-validator';
import { byKind } from '@/core/collect/rules';
import { planCarrying } from './carry';
import { applyPlan } from './changing';
import { collect, planCollecting } from './collect';
import { plainFolder } from './open';
import { recordsOf } from './shelf';

const samples = process.env.SATCHEL_SAMPLES ?? path.resolve('.cache/samples');
const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-real-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

const every = (extension: string) =>
  fs.existsSync(samples)
    ? fs
        .readdirSync(samples, { recursive: true, withFileTypes: true })
        .filter((e) => e.isFile() && e.name.endsWith(extension))
        .map((e) => path.join(e.parentPath, e.name))
        .sort()
    : [];

/** Both ways, in folders that are moved afterwards; where the scene lies in each. */
async function taken(scene: string, n: number): Promise<string[]> {
  const source = plainFolder(path.dirname(scene));
  const [to, into] = [path.join(base, `collected ${n}`), path.join(base, `carried ${n}`)];
  const planned = await planCollecting(source, { chosen: [scene], rule: byKind({}), to });
  await collect(planned, recordsOf(path.join(base, 'data'), to), { draw: () => Promise.resolve(null) });
  fs.mkdirSync(into);
  const asset = path.basename(scene);
  const carried = await planCarrying(plainFolder(into), source, {
    assets: [asset],
    flat: true,
    clash: 'both',
  });
  await applyPlan(into, carried.plan);
  const at = [planned.placement.files.get(scene)!.to, carried.carrying.files.get(scene)!.to];
  return [to, into].map((folder, i) => {
    const moved = path.join(base, `elsewhere Ü #${i}`, String(n));
    fs.mkdirSync(path.dirname(moved), { recursive: true });
    fs.renameSync(folder, moved);
    return path.join(moved, at[i]!);
  });
}

async function verdict(file: string) {
  const report = await validateBytes(new Uint8Array(fs.readFileSync(file)), {
    externalResourceFunction: async (uri: string) =>
      new Uint8Array(fs.readFileSync(path.join(path.dirname(file), decodeURIComponent(uri)))),
  });
  const { issues, info } = report as unknown as {
    issues: { messages: { code: string; pointer?: string }[] };
    info?: Record<string, unknown>;
  };
  const { resources: _, ...counted } = info ?? {};
  return { found: issues.messages.map((m) => `${m.code} ${m.pointer ?? ''}`).sort(), counted };
}

const digest = (bytes: Uint8Array | null | undefined) =>
  bytes && createHash('sha256').update(bytes).digest('hex');

/** What another library makes of it: world places, geometry, pictures, materials, skins, animations. */
function contentOf(document: Document) {
  const root = document.getRoot();
  const array = (a: { getArray(): ArrayBufferView | null } | null) => {
    const view = a?.getArray();
    return view ? digest(new Uint8Array(view.buffer, view.byteOffset, view.byteLength)) : null;
  };
  return {
    nodes: root.listNodes().map((n) => [n.getName(), n.getWorldMatrix()]),
    accessors: root.listAccessors().map(array),
    pictures: root.listTextures().map((t) => digest(t.getImage())),
    materials: root
      .listMaterials()
      .map((m) => [m.getName(), m.getBaseColorFactor(), digest(m.getBaseColorTexture()?.getImage())]),
    skins: root
      .listSkins()
      .map((s) => [s.listJoints().map((j) => j.getName()), array(s.getInverseBindMatrices())]),
    animations: root
      .listAnimations()
      .map((a) =>
        a.listSamplers().map((s) => [array(s.getInput()), array(s.getOutput()), s.getInterpolation()]),
      ),
  };
}

const gltfs = every('.gltf').filter((f) => f.includes('/glTF2/'));
(gltfs.length > 0 ? test : test.skip)(
  'glTF: nothing new is found, and the same is loaded',
  async () => {
    const io = new NodeIO().setLogger(new Logger(Logger.Verbosity.SILENT));
    const load = (file: string) => io.read(file).then(contentOf, () => null);
    let loaded = 0;
    for (const [n, scene] of gltfs.entries()) {
      const [before, content] = [await verdict(scene), await load(scene)];
      for (const at of await taken(scene, n)) {
        expect([scene, await verdict(at)]).toEqual([scene, before]);
        if (!content) continue;
        expect([scene, await load(at)]).toEqual([scene, content]);
        loaded++;
      }
    }
    expect(loaded).toBeGreaterThan(20);
  },
  120_000,
);

const python = '/usr/bin/python3';
const daes = every('.dae');
const hasCollada = spawnSync(python, ['-c', 'import collada'], { stdio: 'ignore' }).status === 0;
(hasCollada && daes.length > 0 ? test : test.skip)(
  'COLLADA: pycollada finds the same pictures, by their bytes',
  async () => {
    const script = `import collada,hashlib,json,sys
known=[collada.DaeUnsupportedError, collada.DaeBrokenRefError]
for f in sys.argv[1:]:
  try:
    images=collada.Collada(f, ignore=known).images
    print(json.dumps(sorted(str(i.data and hashlib.sha256(i.data).hexdigest()) for i in images)))
  except Exception: print("null")`;
    const pictures = (files: string[]) =>
      spawnSync(python, ['-c', script, ...files], { encoding: 'utf8' })
        .stdout.trim()
        .split('\n');
    const scenes = daes.slice(0, 12);
    const at: string[][] = [];
    for (const [n, scene] of scenes.entries()) at.push(await taken(scene, 1000 + n));
    const wanted = pictures(scenes);
    expect(pictures(at.map(([a]) => a!))).toEqual(wanted);
    expect(pictures(at.map(([, b]) => b!))).toEqual(wanted);
    expect(wanted.filter((w) => w !== 'null').length).toBeGreaterThan(4);
  },
  120_000,
);
