// glTF ↔ GLB there and back: every value of the JSON, every byte of the buffers, and, for what nobody here made (assimp-testmodels 5.2.5, licences per
// folder), the same verdict of gltf-validator and the same document for @gltf-transform/core.

import { afterAll, describe, expect, test } from '@jest/globals';
import { Logger, NodeIO } from '@gltf-transform/core';
import fc from 'fast-check';
import fs from 'node:fs';
import path from 'node:path';
import { validateBytes } from 'gltf-validator';
import { apply } from '../changes/apply';
import { applying } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { placeOf, withMember, withoutMember } from '../documents/jsonPlaces';
import { readGlb } from '../documents/gltfFile';
import { MemoryTree } from '../files/memoryTree';
import { treePath as p } from '../files/treePath';
import { planConvert } from '../plans/planConvert';
import type { Workspace } from '../plans/workspace';
import { applyPieces, piecesOf } from '../text/edits';
import { utf8 } from '../text/bytes';

const samples = process.env.SATCHEL_SAMPLES ?? path.resolve('.cache/samples');
const said = (b: Uint8Array) => new TextDecoder().decode(b);

describe('edits of JSON', () => {
  test.each([
    ['{"a":1}', 'a', '{}'],
    ['{ "a" : 1 , "b":2}', 'a', '{ "b":2}'],
    ['{"b":2,\n  "a": "x,}"\n}', 'a', '{"b":2\n}'],
    ['{"a":1,"b":{"a":3},"a":[1,{"c":2}]}', 'a', '{"a":1,"b":{"a":3}}'],
  ])('%s without %s', (text, key, expected) => {
    const b = utf8(text);
    const edit = withoutMember(b, placeOf(b, [])!, key)!;
    expect(said(applyPieces(b, piecesOf([edit], b.length)))).toBe(expected);
  });
  test('what is taken out and put in anywhere is what JSON.parse would have', () => {
    fc.assert(
      fc.property(
        fc.dictionary(fc.string(), fc.jsonValue(), { minKeys: 1 }),
        fc.integer({ min: 0, max: 3 }),
        (json, indent) => {
          const b = utf8(JSON.stringify({ in: [0, json] }, null, indent));
          const object = placeOf(b, ['in', 1])!;
          const keys = Object.keys(json);
          const key = keys[0]!;
          const without = applyPieces(b, piecesOf([withoutMember(b, object, key)!], b.length));
          const { [key]: _, ...rest } = json;
          expect(JSON.parse(said(without))).toEqual(JSON.parse(JSON.stringify({ in: [0, rest] })));
          const again = applyPieces(
            without,
            piecesOf([withMember(without, placeOf(without, ['in', 1])!, 'new "key"', 'ü')], without.length),
          );
          expect(JSON.parse(said(again))).toEqual(
            JSON.parse(JSON.stringify({ in: [0, { ...rest, 'new "key"': 'ü' }] })),
          );
          expect(placeOf(b, ['in', 7])).toBeNull();
        },
      ),
    );
  });
});

let count = 0;
function folder(files: Record<string, Uint8Array | string>): Workspace & { tree: MemoryTree } {
  return {
    root: '/w',
    tree: new MemoryTree(files),
    outside: memoryOutside({}),
    file: { homes: {}, libraries: [], places: [] },
  };
}
async function convert(w: Workspace & { tree: MemoryTree }, path: string, to: string, follow = false) {
  const plan = await planConvert(w, { path: p(path), to: p(to), follow });
  await apply(w.tree, plan, applying(`c${String(++count).padStart(4, '0')}`));
  return plan;
}
const bytesOf = (w: { tree: MemoryTree }, at: string) => w.tree.files.get(at)!.bytes;

const scene = `{\n  "asset": { "version": "2.0" },\n  "buffers": [ { "uri": "my%20buffer.bin", "byteLength": 5, "extras": 1.50 } ],\n  "images": [{"uri":"../t/ü.png"}],\n  "extensionsUsed": ["X_unknown"], "extensions": {"X_unknown": {"a": 1e3}}\n}\n`;

describe('there and back', () => {
  test('text to binary: only the place of the buffer goes; the original stays', async () => {
    const w = folder({ 's/boat.gltf': `\ufeff${scene}`, 's/my buffer.bin': 'BUFFE' });
    await convert(w, 's/boat.gltf', 's/boat.glb');
    const glb = bytesOf(w, 's/boat.glb');
    expect(glb.length % 4).toBe(0);
    const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
    expect(said(glb.subarray(20, 20 + length)).trimEnd()).toBe(
      scene.replace('"uri": "my%20buffer.bin", ', '').trimEnd(),
    );
    const { buffers, json } = readGlb(glb)!;
    expect(said((await buffers(async () => null))(0)!.subarray(0, 5))).toBe('BUFFE');
    expect(json).toMatchObject({ extensions: { X_unknown: { a: 1000 } } });
    await convert(w, 's/boat.glb', 's/again.gltf');
    const back = said(bytesOf(w, 's/again.gltf'));
    expect(back.trimEnd()).toBe(scene.replace('"uri": "my%20buffer.bin"', '"uri": "again.bin"').trimEnd());
    expect(said(bytesOf(w, 's/again.bin'))).toBe('BUFFE');
  });

  test('references follow, if wanted', async () => {
    const w = folder({
      'boat.gltf': '{"asset":{"version":"2.0"}}',
      'all.usda': '#usda 1.0\n(\n    subLayers = [@boat.gltf@]\n)\n',
    });
    await convert(w, 'boat.gltf', 'boat.glb', true);
    expect(said(bytesOf(w, 'all.usda'))).toContain('@boat.glb@');
  });

  test.each<[string, Record<string, string>, string, string]>([
    ['no buffer there', { 'a.gltf': scene }, 'a.gltf', 'a.glb'],
    ['a buffer that is too short', { 'a.gltf': scene, 'my buffer.bin': 'X' }, 'a.gltf', 'a.glb'],
    ['no JSON', { 'a.gltf': '{' }, 'a.gltf', 'a.glb'],
    ['glTF 1', { 'a.gltf': '{"asset":{"version":"1.0"}}' }, 'a.gltf', 'a.glb'],
    ['no GLB', { 'a.glb': 'glTF' }, 'a.glb', 'a.gltf'],
    ['another folder', { 'a.gltf': scene, 'my buffer.bin': 'BUFFE' }, 'a.gltf', 'b/a.glb'],
    ['another format', { 'a.gltf': scene }, 'a.gltf', 'a.obj'],
  ])('%s: refused, and nothing is written', async (_, files, from, to) => {
    const w = folder(files);
    await expect(convert(w, from, to)).rejects.toMatchObject({ name: 'AppError' });
    expect([...w.tree.files.keys()].sort()).toEqual(Object.keys(files).sort());
  });

  test('a buffer that changes before it is written makes the plan stale', async () => {
    const w = folder({ 'a.gltf': scene, 'my buffer.bin': 'BUFFE' });
    const plan = await planConvert(w, { path: p('a.gltf'), to: p('a.glb'), follow: false });
    w.tree.set('my buffer.bin', 'OTHER, longer');
    await expect(apply(w.tree, plan, applying('stale'))).rejects.toMatchObject({ code: 'stale-plan' });
    expect(w.tree.files.has('a.glb')).toBe(false);
  });
});

function* filesBelow(dir: string): Iterable<string> {
  for (const e of fs.readdirSync(dir, { withFileTypes: true })) {
    const full = path.join(dir, e.name);
    if (e.isDirectory()) yield* filesBelow(full);
    else if (/\.(gltf|glb)$/.test(e.name)) yield full;
  }
}
const real = fs.existsSync(samples) ? [...filesBelow(samples)] : [];

/** Everything beside a file, as a tree. */
function beside(file: string): Record<string, Uint8Array> {
  const dir = path.dirname(file);
  return Object.fromEntries(
    fs
      .readdirSync(dir, { withFileTypes: true })
      .flatMap((e) =>
        e.isFile() ? [[e.name, new Uint8Array(fs.readFileSync(path.join(dir, e.name)))] as const] : [],
      ),
  );
}

/** What gltf-validator finds: its codes with how often, and what it counts. */
async function verdict(w: { tree: MemoryTree }, file: string) {
  const report = await validateBytes(bytesOf(w, file), {
    externalResourceFunction: async (uri: string) => {
      const held = w.tree.files.get(decodeURIComponent(uri));
      if (!held) throw new Error('not there');
      return held.bytes;
    },
  });
  const { issues, info } = report as unknown as {
    issues: { messages: { code: string; severity: number }[] };
    info?: Record<string, unknown>;
  };
  const codes = issues.messages
    .filter((m) => m.severity < 2)
    .map((m) => m.code)
    .sort();
  const { resources: _, ...counted } = info ?? {};
  return { codes, counted };
}

(real.length > 0 ? describe : describe.skip)('real files', () => {
  const converted = new Set<string>();
  afterAll(() => expect(converted.size).toBeGreaterThanOrEqual(30));
  test.each(real.map((f) => [path.relative(samples, f), f]))('%s', async (_, file) => {
    const name = path.basename(file);
    const w = folder(beside(file));
    const isText = name.endsWith('.gltf');
    const [other, again] = isText ? ['other form.glb', 'again.gltf'] : ['other form.gltf', 'again.glb'];
    try {
      await convert(w, name, other);
    } catch (cause) {
      // Broken, of version 1, or with a buffer that is not there: said, not guessed.
      expect((cause as { code: string }).code).toMatch(/^(unsupported|not-found)$/);
      return;
    }
    await convert(w, other, again);
    converted.add(file);
    const [first, last] = [await verdict(w, name), await verdict(w, again)];
    expect(last).toEqual(first);
    expect((await verdict(w, other)).counted).toEqual(first.counted);
    if (first.codes.length > 0) return;
    const io = new NodeIO().setLogger(new Logger(Logger.Verbosity.SILENT));
    const dir = fs.mkdtempSync(path.join(fs.realpathSync('/tmp'), 'satchel-glb-'));
    for (const [at, held] of w.tree.files)
      if (!at.startsWith('.satchel/')) fs.writeFileSync(path.join(dir, at), held.bytes);
    const load = (at: string) => io.read(path.join(dir, at)).catch(() => null);
    const [a, b] = [await load(name), await load(again)];
    fs.rmSync(dir, { recursive: true });
    if (!a || !b) return;
    // Both written by it in one form: all that it knows of is the same.
    const written = await Promise.all(
      [a, b].map((doc) => {
        for (const buffer of doc.getRoot().listBuffers()) buffer.setURI('');
        return io.writeBinary(doc);
      }),
    );
    expect(Buffer.compare(written[0]!, written[1]!)).toBe(0);
  });
});
