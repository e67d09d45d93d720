// Against parsers and files that nobody here made, for the formats beside glTF (outside.test.ts). Data: assimp-testmodels 5.2.5,
// the libraries of MaterialX 1.39.4, OpenUSD's own schema layers (scripts/samples.mjs says from where). Parsers: saxes (XML as the
// standard has it), three.js' MTLLoader. Where they disagree, the reason stands here and in docs/formats.md.

import { describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import { SaxesParser } from 'saxes';
import { MTLLoader } from 'three/examples/jsm/loaders/MTLLoader.js';
import { applyPieces, piecesOf } from '../text/edits';
import type { Format } from './format';
import { formatOf, formatOfName } from './formats';
import { rewriteAll } from './testing/rewriteAll';

const cache = path.resolve('.cache');

function* filesBelow(dir: string): Iterable<string> {
  if (!fs.existsSync(dir)) return;
  for (const e of fs.readdirSync(dir, { withFileTypes: true })) {
    const full = path.join(dir, e.name);
    if (e.isDirectory()) yield* filesBelow(full);
    else if (formatOfName(full)) yield full;
  }
}

interface Sample {
  name: string;
  content: Uint8Array;
  format: Format;
}

const all: Sample[] = ['samples', 'materialx', 'openusd']
  .flatMap((d) => [...filesBelow(path.join(cache, d))])
  .map((file) => {
    const content = new Uint8Array(fs.readFileSync(file));
    return { name: path.relative(cache, file), content, format: formatOf(file, content.subarray(0, 4096))! };
  });
const of = (...ids: string[]) =>
  all.filter((s) => ids.includes(s.format.id)).map((s) => [s.name, s] as const);

/** A text file by its mark or its declaration, as an XML parser is to read it. */
function textOf(b: Uint8Array): string {
  if (b[0] === 0xff && b[1] === 0xfe) return new TextDecoder('utf-16le').decode(b);
  return new TextDecoder(
    /encoding=["']iso-8859-1/i.test(String.fromCharCode(...b.subarray(0, 100))) ? 'latin1' : 'utf-8',
  ).decode(b);
}

interface Element {
  name: string;
  attributes: Record<string, string>;
  parents: string[];
  text: string;
}

/** Every element by saxes; null where the file is not well-formed. */
function elementsOf(b: Uint8Array): Element[] | null {
  const parser = new SaxesParser({ xmlns: false });
  const found: Element[] = [];
  const open: Element[] = [];
  let bad = false;
  parser.on('error', () => (bad = true));
  const local = (n: string) => n.slice(n.indexOf(':') + 1);
  parser.on('opentag', (t) => {
    const e: Element = {
      name: local(t.name),
      attributes: t.attributes as Record<string, string>,
      parents: open.map((o) => o.name),
      text: '',
    };
    found.push(e);
    open.push(e);
  });
  const text = (t: string) => {
    const e = open.at(-1);
    if (e) e.text += t;
  };
  parser.on('text', text);
  parser.on('cdata', text);
  parser.on('closetag', () => open.pop());
  try {
    parser.write(textOf(b)).close();
  } catch {
    return null;
  }
  return bad ? null : found;
}

const written = (s: Sample) => s.format.read(s.content, s.content.length).references.map((r) => r.written);

(all.length > 0 ? describe : describe.skip)('real scene files', () => {
  test('there are at least a hundred, in at least six formats', () => {
    expect(all.length).toBeGreaterThanOrEqual(100);
    expect(new Set(all.map((s) => s.format.id)).size).toBeGreaterThanOrEqual(6);
  });

  test('every one is read, is unchanged by an empty rewrite, and comes back to the byte from a rewrite and its undoing', () => {
    const differs: string[] = [];
    for (const { name, content, format } of all) {
      if (format.id === 'gltf' || format.id === 'glb' || format.readParts) continue; // outside.test.ts; packages have their own
      const { references } = format.read(content, content.length);
      expect(
        Buffer.compare(
          rewriteAll(format, content, (w) => w),
          content,
        ),
      ).toBe(0);
      if (references.some((r) => r.prefix)) continue;
      const there = rewriteAll(format, content, (w) => `moved/${w}`);
      expect(format.read(there, there.length).references.map((r) => r.written)).toEqual(
        references.map((r) => `moved/${r.written}`),
      );
      if (
        Buffer.compare(
          rewriteAll(format, there, (w) => w.slice(6)),
          content,
        ) !== 0
      )
        differs.push(name);
    }
    expect(differs).toEqual([]);
  });

  test('after a rewrite saxes and three.js see the new paths, and nothing else has changed', () => {
    const seen = (s: Sample, b: Uint8Array) =>
      s.format.id === 'mtl'
        ? JSON.stringify(
            (
              new MTLLoader().parse(new TextDecoder('latin1').decode(b), '') as unknown as {
                materialsInfo: object;
              }
            ).materialsInfo,
          )
        : JSON.stringify(elementsOf(b));
    let compared = 0;
    for (const [name, s] of of('dae', 'x3d', 'mtlx', 'mtl')) {
      const references = s.format.read(s.content).references.filter((r) => r.prefix === undefined);
      const before = seen(s, s.content);
      if (before === 'null' || references.length === 0) continue;
      // A mark that stands nowhere else.
      const edits = references.map((r) => ({
        span: r.span!,
        bytes: s.format.encode(`qqmoved/${r.written}`, r)!,
      }));
      const after = seen(s, applyPieces(s.content, piecesOf(edits, s.content.length)));
      expect([name, after.replaceAll('qqmoved/', '')]).toEqual([name, before]);
      expect([name, after.split('qqmoved/').length - 1 > 0]).toEqual([name, true]);
      compared++;
    }
    expect(compared).toBeGreaterThanOrEqual(12); // most of the others name no file
  });

  test.each(of('dae'))('%s: the images and URLs that saxes finds', (_, s) => {
    const elements = elementsOf(s.content);
    if (elements === null) {
      expect(Array.isArray(written(s))).toBe(true);
      return;
    }
    const images = elements
      .filter((e) => e.name === 'init_from' && e.parents.at(-1) === 'image')
      .map((e) => e.text.trim());
    const refs = elements
      .filter((e) => e.name === 'ref' && e.parents.at(-1) === 'init_from')
      .map((e) => e.text.trim());
    const urls = elements
      .filter((e) => e.name.startsWith('instance_'))
      .map((e) => e.attributes.url?.trim() ?? '')
      .filter((u) => u !== '' && !u.startsWith('#'));
    expect(written(s).sort()).toEqual([...images, ...refs, ...urls].filter((t) => t !== '').sort());
  });

  test.each(of('mtlx'))('%s: the filename values, sources and includes that saxes finds', (_, s) => {
    const elements = elementsOf(s.content);
    if (elements === null) {
      // Three library files hold a bare `&&` in an attribute: not well-formed, read by MaterialX itself, and here.
      expect(textOf(s.content)).toMatch(/&&|& /);
      expect(s.format.read(s.content).problems).toEqual([]);
      return;
    }
    const theirs = elements
      .flatMap((e) => [
        ...(e.attributes.type === 'filename' ? [e.attributes.value, e.attributes.default] : []),
        ...(e.name === 'implementation' ? [e.attributes.file] : []),
        ...(e.name === 'include' ? [e.attributes.href] : []),
      ])
      .filter((t): t is string => !!t);
    expect(written(s).sort()).toEqual(theirs.sort());
  });

  test('the MaterialX libraries name 195 shader sources and pictures in all', () => {
    expect(of('mtlx').reduce((n, [, s]) => n + written(s).length, 0)).toBeGreaterThanOrEqual(
      of('mtlx').length === 0 ? 0 : 190,
    );
  });

  test.each(of('x3d'))('%s: the strings of the url attributes that saxes finds', (_, s) => {
    const theirs = (elementsOf(s.content) ?? [])
      .filter(
        (e) => ['Inline', 'ImageTexture', 'MovieTexture', 'AudioClip'].includes(e.name) && e.attributes.url,
      )
      .flatMap((e) => [...e.attributes.url!.matchAll(/"((?:[^"\\]|\\.)*)"/g)].map((m) => m[1]!))
      .filter((u) => u !== '');
    expect(written(s)).toEqual(theirs);
  });

  test.each(of('mtl'))('%s: the maps that three.js finds', (_, s) => {
    const text = new TextDecoder('latin1').decode(s.content);
    const { materialsInfo } = new MTLLoader().parse(text, '') as unknown as {
      materialsInfo: Record<string, Record<string, string | number[]>>;
    };
    const ours = s.format.read(s.content).references;
    for (const [material, info] of Object.entries(materialsInfo))
      for (const [key, value] of Object.entries(info)) {
        if (
          typeof value !== 'string' ||
          !/^(map_|bump$|disp$|decal$|refl$|norm$)/.test(key) ||
          value.trim() === ''
        )
          continue;
        // It keeps the last of two statements with one keyword, and the options before the name.
        const names = ours
          .filter((r) => r.at.toLowerCase().startsWith(`newmtl ${material} / ${key}`.toLowerCase()))
          .map((r) => r.written);
        expect(names.some((n) => value.trim().endsWith(n))).toBe(true);
      }
  });

  test('OpenUSD’s own layers: documentation is full of @, and only asset paths are found', () => {
    const layers = Object.fromEntries(
      of('usda').map(([name, s]) => [name.replace(/^.*resources\//, '').replace('openusd/', ''), written(s)]),
    );
    if (Object.keys(layers).length === 0) return;
    const found = Object.values(layers).flat();
    expect(found.every((w) => /^(\.\/)?[\w/.]+\.(usda|glslfx)$/.test(w))).toBe(true);
    expect(found).toContain('usdGeom/schema.usda');
    expect(found.filter((w) => w === './previewSurface.glslfx')).toHaveLength(1);
    expect(found.join()).not.toContain('BigSet');
    for (const [, s] of of('usda')) expect(s.format.read(s.content).problems).toEqual([]);
  });
});
