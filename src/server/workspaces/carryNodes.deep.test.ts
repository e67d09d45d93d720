// Parts of glTF scenes carried into others, on the real disk. Judged by gltf-validator (Khronos), @gltf-transform/core and three.js, which load what becomes of it: the same
// meshes, materials, pictures by their bytes, skins, animations and places in the world. Scenes: assimp-testmodels 5.2.5 (licences per folder), and generated ones
// that @gltf-transform/core writes.

import { afterAll, describe, expect, test } from '@jest/globals';
import { Document, Logger, NodeIO, type Accessor, type Node } from '@gltf-transform/core';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { validateBytes } from 'gltf-validator';
import type { Bone, Mesh, SkinnedMesh } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { howMany } from '@/core/files/testing/depth';
import { treePath } from '@/core/files/treePath';
import type { NodeClashWay } from '@/core/nodes/clashes';
import type { CarryNodesRequest } from '@/core/plans/carryNodes';
import { meant, nodesIn, planCarryNodes } from '@/core/plans/planCarryNodes';
import { applyPlan, recordsIn } from './changing';
import { sourceOf } from './collect';
import { planUndoOf } from './ledger';
import { plainFolder } from './open';

const samples = process.env.SATCHEL_SAMPLES ?? path.resolve('.cache/samples');
const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-nodes-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const io = new NodeIO().setLogger(new Logger(Logger.Verbosity.SILENT));
let folders = 0;
const freshFolder = () => {
  const at = path.join(base, `Ü #${++folders}`);
  fs.mkdirSync(at);
  return at;
};

async function verdict(file: string): Promise<Map<string, number>> {
  const report = await validateBytes(new Uint8Array(fs.readFileSync(file)), {
    externalResourceFunction: async (uri: string) =>
      new Uint8Array(fs.readFileSync(path.join(path.dirname(file), decodeURIComponent(uri)))),
  });
  const found = new Map<string, number>();
  for (const { code, severity } of (
    report as unknown as { issues: { messages: { code: string; severity: number }[] } }
  ).issues.messages)
    // A skinned mesh that is put under another node stands under one: it was asked for.
    if (severity <= 1 && code !== 'NODE_SKINNED_MESH_NON_ROOT') found.set(code, (found.get(code) ?? 0) + 1);
  return found;
}

const hash = (bytes: Uint8Array | null | undefined) =>
  bytes ? createHash('sha256').update(bytes).digest('hex').slice(0, 12) : null;
const held = (a: Accessor | null) => {
  const view = a?.getArray();
  return view && [a!.getType(), hash(new Uint8Array(view.buffer, view.byteOffset, view.byteLength))];
};
/** What is to be seen of a node: where it stands, and the joints of its skin; and all else, names of things left out. */
interface Seen {
  places: number[][];
  rest: string;
}

/** Every node of the scenes; nodes made to hold a place are left out. */
async function seen(file: string): Promise<Seen[]> {
  const document = await io.read(file);
  const all: Seen[] = [];
  const root = document.getRoot();
  for (const scene of root.listScenes())
    scene.traverse((node) => {
      if (node.getName().endsWith('_place')) return;
      const skin = node.getSkin();
      const primitives = node.getMesh()?.listPrimitives();
      const rest = {
        mesh: primitives?.map((p) => {
          const material = p.getMaterial();
          return [
            held(p.getIndices()),
            p.listSemantics().map((s) => [s, held(p.getAttribute(s))]),
            p.listTargets().map((t) => t.listSemantics().map((s) => [s, held(t.getAttribute(s))])),
            material && [material.getBaseColorFactor(), hash(material.getBaseColorTexture()?.getImage())],
          ];
        }),
        skin: skin && held(skin.getInverseBindMatrices()),
        camera: node.getCamera()?.getType(),
        moves: root
          .listAnimations()
          .flatMap((a) => a.listChannels())
          .filter((c) => c.getTargetNode() === node)
          .map((c) => [
            c.getTargetPath(),
            held(c.getSampler()!.getInput()),
            held(c.getSampler()!.getOutput()),
          ])
          .sort(),
      };
      const joints = skin?.listJoints() ?? [];
      all.push({ places: [node, ...joints].map((n) => n.getWorldMatrix()), rest: JSON.stringify(rest) });
    });
  return all;
}

/** What three.js draws of a GLB without pictures: each mesh where it stands, with its joints; and what each animation says at some times. */
async function drawn(file: string): Promise<{ meshes: Seen[]; tracks: string[] }> {
  const bytes = new Uint8Array(fs.readFileSync(file));
  const gltf = await new GLTFLoader().parseAsync(bytes.buffer, '');
  gltf.scene.updateMatrixWorld(true);
  const meshes: Seen[] = [];
  gltf.scene.traverse((object) => {
    const mesh = object as Mesh;
    if (!mesh.isMesh) return;
    const bones: Bone[] = (mesh as SkinnedMesh).isSkinnedMesh ? (mesh as SkinnedMesh).skeleton.bones : [];
    const array = (name: string) => {
      const values = mesh.geometry.getAttribute(name)?.array;
      return values ? [...values].map((x) => Math.fround(x)) : null;
    };
    const morphs = (mesh.geometry.morphAttributes.position ?? []).map((m) => [...m.array]);
    const index = mesh.geometry.index ? [...mesh.geometry.index.array] : null;
    meshes.push({
      places: [mesh, ...bones].map((o) => o.matrixWorld.toArray()),
      rest: JSON.stringify([array('position'), array('skinWeight'), index, morphs]),
    });
  });
  const tracks = gltf.animations.flatMap((clip) =>
    clip.tracks.map((track) => {
      const { createInterpolant } = track as unknown as {
        createInterpolant(out: Float32Array): { evaluate(t: number): Float32Array };
      };
      const at = createInterpolant.call(track, new Float32Array(track.getValueSize()));
      const said = [0, 0.3, 0.5, 1].map((t) => [...at.evaluate(t)].map((x) => x.toFixed(6)));
      return JSON.stringify([track.name.replace(/^.*\./, ''), said]);
    }),
  );
  return { meshes, tracks: tracks.sort() };
}

/** Of `wanted` what is not in `there`, and the other way round: places within 1e-6 of their size. */
function differing(there: readonly Seen[], wanted: readonly Seen[]): { lacking: Seen[]; more: Seen[] } {
  const more = [...there];
  const isSame = (a: Seen, b: Seen) =>
    a.rest === b.rest &&
    a.places.length === b.places.length &&
    a.places.every((m, i) => {
      const size = Math.max(1, ...m.map(Math.abs));
      return m.every((x, k) => Math.abs(x - b.places[i]![k]!) <= 1e-6 * size);
    });
  const lacking = wanted.filter((one) => {
    const at = more.findIndex((other) => isSame(one, other));
    if (at >= 0) more.splice(at, 1);
    return at < 0;
  });
  return { lacking, more };
}

interface Carry extends Partial<Omit<CarryNodesRequest, 'from' | 'into' | 'nodes' | 'clash'>> {
  all?: NodeClashWay;
}

/** Carries nodes by their names; returns the plan, and what `seen` told before. */
async function carried(from: string, words: string[], into: string, how: Carry = {}) {
  const { all, under = null, ...rest } = how;
  const source = sourceOf(plainFolder(path.dirname(from)));
  const target = plainFolder(path.dirname(into));
  const nodes = meant(await nodesIn(source, from), words, from);
  const there = under === null ? null : meant(await nodesIn(source, into), [under], into)[0]!.id;
  const result = await planCarryNodes(
    { source, target },
    {
      from,
      nodes: nodes.map((n) => n.id),
      into: treePath(path.basename(into)),
      under: there,
      place: 'world',
      clash: { all },
      pictures: 'as-there',
      buffer: 'own',
      ...rest,
    },
  );
  const record = await applyPlan(target.root, result.plan);
  return { ...result, record, target };
}

const bytesIn = (folder: string) =>
  Object.fromEntries(
    fs
      .readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && !e.parentPath.includes('.satchel'))
      .map((e) => path.join(e.parentPath, e.name))
      .map((f) => [path.relative(folder, f), [hash(fs.readFileSync(f)), Math.round(fs.statSync(f).mtimeMs)]]),
  );

/** Copies a scene with all beside it, carries, and holds what is there against what was. */
async function holds(from: string, into: string, words: string[], how: Carry = {}): Promise<void> {
  const [was, is] = [await seen(from), await seen(into)];
  const [a, b] = [await verdict(from), await verdict(into)];
  const before = bytesIn(path.dirname(into));
  const source = bytesIn(path.dirname(from));
  const { record, target } = await carried(from, words, into, how);
  expect(bytesIn(path.dirname(from))).toEqual(source);
  for (const [code, n] of await verdict(into))
    expect([code, n <= (a.get(code) ?? 0) + (b.get(code) ?? 0)]).toEqual([code, true]);
  expect(differing(await seen(into), [...was, ...is])).toEqual({ lacking: [], more: [] });
  await applyPlan(target.root, await planUndoOf(recordsIn(target.root), record.id));
  expect(bytesIn(path.dirname(into))).toEqual(before);
}

const real = fs.existsSync(samples)
  ? fs
      .readdirSync(samples, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && /\.gl(?:tf|b)$/.test(e.name) && e.parentPath.includes('/glTF2/'))
      .map((e) => path.join(e.parentPath, e.name))
      .sort()
  : [];

(real.length > 0 ? test : test.skip)(
  'real scenes into each other',
  async () => {
    const whole: string[] = [];
    for (const file of real) {
      const isRead = await seen(file).then(
        (s) => s.length > 0,
        () => false,
      );
      const isWhole = isRead && ![...(await verdict(file).catch(() => new Map([['x', 1]]))).keys()].length;
      if (isWhole) whole.push(file);
    }
    expect(whole.length).toBeGreaterThan(15);
    // Each with one far from it in the list: all pairs (650) were tried by hand.
    for (const [n, from] of whole.entries()) {
      const into = whole[(n * 7 + 5) % whole.length]!;
      if (from === into) continue;
      const [a, b] = [freshFolder(), freshFolder()];
      fs.cpSync(path.dirname(from), a, { recursive: true });
      fs.cpSync(path.dirname(into), b, { recursive: true });
      await holds(path.join(a, path.basename(from)), path.join(b, path.basename(into)), ['*'], {
        all: 'rename',
      });
    }
  },
  120_000,
);

const near = fc.integer({ min: -40, max: 40 }).map((x) => x / 8);
const place = fc.record({
  t: fc.tuple(near, near, near),
  q: fc
    .tuple(near, near, near, near)
    .map((q) => (Math.hypot(...q) < 0.1 ? [0, 0, 0, 1] : q.map((x) => x / Math.hypot(...q)))),
  s: fc.integer({ min: 1, max: 24 }).map((x) => x / 8),
});
const nodeArb = fc.record({
  place,
  parent: fc.nat(12),
  mesh: fc.option(fc.nat(3)),
  camera: fc.boolean(),
  moves: fc.boolean(),
  joints: fc.option(fc.array(fc.nat(12), { minLength: 1, maxLength: 3 }), { freq: 4 }),
});
const sceneArb = fc.record({
  nodes: fc.array(nodeArb, { minLength: 1, maxLength: 12 }),
  glb: fc.boolean(),
  sparse: fc.boolean(),
  pictures: fc.boolean(),
});
type Scene = typeof sceneArb extends fc.Arbitrary<infer T> ? T : never;

/** A scene written by the other library. */
async function made(scene: Scene, at: string, seed: number): Promise<void> {
  const document = new Document();
  const buffer = document.createBuffer();
  const numbers = (n: number, k: number) =>
    Float32Array.from({ length: n }, (_, i) => Math.fround(Math.sin(i * k + seed)));
  const accessor = (
    type: 'SCALAR' | 'VEC3' | 'VEC4' | 'MAT4',
    array: Float32Array | Uint16Array | Uint8Array,
  ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const picture = scene.pictures
    ? document.createTexture('paint').setMimeType('image/png').setImage(png(seed)).setURI('paint.png')
    : null;
  const materials = [0, 1].map((m) => {
    const material = document
      .createMaterial(m === 0 ? 'brass' : `own ${seed}`)
      .setBaseColorFactor([m, seed % 2, 0, 1]);
    return picture && m === 1 ? material.setBaseColorTexture(picture) : material;
  });
  const meshes = [0, 1, 2, 3].map((m) => {
    const points = accessor('VEC3', numbers(12, m + 1));
    if (scene.sparse && m === 2)
      points.setSparse(true).setArray(Float32Array.of(...new Array<number>(9).fill(0), 1, 2, 3));
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', points)
      .setIndices(accessor('SCALAR', Uint16Array.of(0, 1, 2, 2, 1, 3)))
      .setMaterial(materials[m % 2]!);
    if (m === 3) {
      primitive.setAttribute('JOINTS_0', accessor('VEC4', new Uint8Array(16)));
      primitive.setAttribute(
        'WEIGHTS_0',
        accessor(
          'VEC4',
          Float32Array.from({ length: 16 }, (_, i) => Number(i % 4 === 0)),
        ),
      );
    }
    if (m === 1)
      primitive.addTarget(
        document.createPrimitiveTarget().setAttribute('POSITION', accessor('VEC3', numbers(12, 9))),
      );
    return document.createMesh(`mesh ${m}`).addPrimitive(primitive);
  });
  const nodes: Node[] = [];
  const top = document.createScene();
  for (const [i, n] of scene.nodes.entries()) {
    const node = document.createNode(`n${i}`);
    node.setTranslation(n.place.t).setRotation(n.place.q as [number, number, number, number]);
    node.setScale([n.place.s, n.place.s, n.place.s]);
    if (i === 0 || n.parent >= i) top.addChild(node);
    else nodes[n.parent]!.addChild(node);
    nodes.push(node);
  }
  for (const [i, n] of scene.nodes.entries()) {
    const node = nodes[i]!;
    if (n.mesh !== null) node.setMesh(meshes[n.mesh]!);
    if (n.camera)
      node.setCamera(document.createCamera('eye').setType('perspective').setYFov(1).setZNear(1).setZFar(9));
    if (n.moves) {
      const sampler = document
        .createAnimationSampler()
        .setInput(accessor('SCALAR', Float32Array.of(0, 1)))
        .setOutput(accessor('VEC3', numbers(6, i)));
      const channel = document
        .createAnimationChannel()
        .setTargetNode(node)
        .setTargetPath('translation')
        .setSampler(sampler);
      document
        .createAnimation(`move ${i % 2}`)
        .addSampler(sampler)
        .addChannel(channel);
    }
    // Joints of one skin need one node above them all.
    const roots = (j: Node): Node => (nodes.includes(j.getParentNode()!) ? roots(j.getParentNode()!) : j);
    const joints = [...new Set((n.joints ?? []).flatMap((j) => nodes[j] ?? []))];
    const kin = joints.filter((j) => roots(j) === roots(joints[0]!));
    if (kin.length > 0 && n.mesh === 3) {
      const skin = document.createSkin(`rig ${i}`).setInverseBindMatrices(
        accessor(
          'MAT4',
          numbers(16 * kin.length, 3).map((x, k) => (k % 16 === 15 ? 1 : k % 4 === 3 ? 0 : x)),
        ),
      );
      for (const j of kin) skin.addJoint(j);
      node.setSkin(skin);
    } else if (n.mesh === 3) node.setMesh(meshes[0]!);
  }
  await io.write(at, document);
}

/** A picture of one point. */
function png(seed: number): Uint8Array {
  const data = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  return new Uint8Array([...data, seed % 250]);
}

describe('generated scenes', () => {
  test('all of one comes into another, and undo gives it back to the byte', async () => {
    await fc.assert(
      fc.asyncProperty(
        sceneArb,
        sceneArb,
        fc.boolean(),
        fc.constantFrom('as-there', 'files', 'inside'),
        fc.constantFrom('own', 'append'),
        async (a, b, isUnder, pictures, buffer) => {
          const [from, into] = [freshFolder(), freshFolder()];
          const [s, t] = [
            path.join(from, a.glb ? 'a.glb' : 'a.gltf'),
            path.join(into, b.glb ? 'b.glb' : 'b.gltf'),
          ];
          await made(a, s, 1);
          await made(b, t, 2);
          await holds(s, t, ['*'], { all: 'rename', pictures, buffer, ...(isUnder ? { under: 'n0' } : {}) });
        },
      ),
      { numRuns: howMany(20) },
    );
  }, 3_600_000);

  test('three.js draws the same, at the same places, moved alike', async () => {
    await fc.assert(
      fc.asyncProperty(sceneArb, sceneArb, fc.boolean(), async (a, b, isUnder) => {
        const [from, into] = [freshFolder(), freshFolder()];
        const [s, t] = [path.join(from, 'a.glb'), path.join(into, 'b.glb')];
        await made({ ...a, pictures: false }, s, 1);
        await made({ ...b, pictures: false }, t, 2);
        const [was, is] = [await drawn(s), await drawn(t)];
        await carried(s, ['*'], t, { all: 'rename', ...(isUnder ? { under: 'n0' } : {}) });
        const now = await drawn(t);
        expect(differing(now.meshes, [...was.meshes, ...is.meshes])).toEqual({ lacking: [], more: [] });
        expect(now.tracks).toEqual([...was.tracks, ...is.tracks].sort());
      }),
      { numRuns: howMany(14) },
    );
  }, 3_600_000);

  test('a node with what it stands on looks as it looked', async () => {
    await fc.assert(
      fc.asyncProperty(sceneArb, sceneArb, fc.nat(11), async (a, b, n) => {
        const [from, into] = [freshFolder(), freshFolder()];
        const [s, t] = [path.join(from, 'a.glb'), path.join(into, 'b.gltf')];
        await made(a, s, 1);
        await made(b, t, 2);
        const [was, is] = [await seen(s), await seen(t)];
        const valid = await verdict(s);
        const before = await verdict(t);
        const { things } = await carried(s, [`n${n % a.nodes.length}`], t, { all: 'rename', under: 'n0' });
        for (const [code, k] of await verdict(t))
          expect([code, k <= (valid.get(code) ?? 0) + (before.get(code) ?? 0)]).toEqual([code, true]);
        const { lacking, more } = differing(await seen(t), is);
        expect(lacking).toEqual([]);
        // What came is as it was, but for joints that come without what hangs on them.
        const bare = things.filter((x) => x.kind === 'joint').length;
        expect(more.length).toBe(things.filter((x) => x.kind === 'node').length + bare);
        expect(differing(more, was).more.length).toBeLessThanOrEqual(bare);
      }),
      { numRuns: howMany(20) },
    );
  }, 3_600_000);
});
