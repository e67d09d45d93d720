// Every fixture of every format (fixtures/FORMAT/): what is found, where, and that a rewrite changes that and nothing else. What is expected stands
// in expected.json beside the files: [place, written value] in file order, the codes of problems. The traps are those of the formats'
// specifications as the readers cite them. The binary ones were made by small writers after the layouts, usdc/values.usdc by OpenUSD 22.

import { describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import { applyPieces, piecesOf } from '../text/edits';
import { decodeText, decodeWide, latin1 } from '../text/bytes';
import { fullPath, type Reference } from './format';
import { formats, readReferences, type FileReading } from './formats';

const base = path.resolve('fixtures');
type Expected = Record<string, { references: [at: string, written: string][]; problems: string[] }>;
const read = async (name: string, b: Uint8Array): Promise<FileReading> =>
  (await readReferences(name, b.length, async ([from, to]) => b.subarray(from, to)))!;

/** New content with each value as `to` says, by the reader's own means. */
function rewritten(reading: FileReading, b: Uint8Array, to: (r: Reference) => string): Uint8Array | null {
  const changes = reading.references
    .map((r) => ({ reference: r, value: to(r) }))
    .filter(({ reference, value }) => value !== fullPath(reference));
  if (reading.rewrite) {
    const edits = reading.rewrite(changes.map(({ reference, value }) => ({ at: reference.at, value })));
    return edits && applyPieces(b, piecesOf(edits, b.length));
  }
  const edits = changes.map(({ reference, value }) => {
    const bytes = reference.span ? reading.format.encode(value, reference) : null;
    return bytes && { span: reference.span!, bytes };
  });
  if (edits.some((e) => e === null)) return null;
  const all = edits as NonNullable<(typeof edits)[number]>[];
  return applyPieces(
    b,
    piecesOf(
      [
        ...all,
        ...(reading.bytes && all.length > 0 ? (reading.format.settle?.(reading.bytes, all) ?? []) : []),
      ],
      b.length,
    ),
  );
}

const readOnly = new Set(['zae', 'otioz', '3mf']);

test('each format has its folder', () => {
  expect(fs.readdirSync(base).sort()).toEqual(formats.map((f) => f.id as string).sort());
});

for (const folder of fs.readdirSync(base).sort()) {
  const expected = JSON.parse(fs.readFileSync(path.join(base, folder, 'expected.json'), 'utf8')) as Expected;
  describe(folder, () => {
    test('no fixture is without its expectation', () =>
      expect(Object.keys(expected).sort()).toEqual(
        fs
          .readdirSync(path.join(base, folder))
          .filter((f) => f !== 'expected.json')
          .sort(),
      ));
    test.each(Object.keys(expected))('%s', async (name) => {
      const b = new Uint8Array(fs.readFileSync(path.join(base, folder, name)));
      const reading = await read(name, b);
      expect({
        references: reading.references.map((r) => [r.at, r.written]),
        problems: reading.problems.map((p) => p.code),
      }).toEqual(expected[name]);
      for (const p of reading.problems)
        if (p.span) expect(p.span[0] <= p.span[1] && p.span[1] <= b.length).toBe(true);
      // A span holds the value: what stands there, its escapes undone, is what was read.
      for (const r of reading.references)
        if (r.span) {
          const raw = b.subarray(...r.span);
          const text =
            r.encoding === 'latin-1'
              ? latin1(raw)
              : r.encoding === 'utf-8'
                ? decodeText(raw).text
                : decodeWide(raw, r.encoding);
          expect(undone(text)).toBe(r.written);
        }
      expect(rewritten(reading, b, fullPath)).toEqual(b);
      if (
        readOnly.has(folder) ||
        reading.references.length === 0 ||
        reading.problems.some((p) => p.code === 'compressed')
      )
        return;
      // Other values, and back: the new ones are read, everything else is as it was, and the way back leads to the same bytes.
      // Some statements of OBJ and MTL cannot hold a blank; formats.test.ts has those that can.
      const to = (r: Reference) =>
        `${folder === 'obj' || folder === 'mtl' ? 'moved/' : 'moved & kept/'}${fullPath(r)}`;
      const there = rewritten(reading, b, to);
      expect(there).not.toBeNull();
      const again = await read(name, there!);
      expect(again.references.map((r) => [r.at, fullPath(r)])).toEqual(
        reading.references.map((r) => [r.at, to(r)]),
      );
      expect(again.problems.map((p) => p.code)).toEqual(reading.problems.map((p) => p.code));
      // Tables grow, padding moves, a prefix stays switched off, a chunk becomes aligned: those have tests of their own.
      if (folder === 'usdc' || folder === 'usdz' || folder === 'mtlx' || name === 'unaligned.glb') return;
      const old = new Map(reading.references.map((r) => [r.at, fullPath(r)]));
      expect(rewritten(again, there!, (r) => old.get(r.at)!)).toEqual(canonical(reading, b));
    });
  });
}

/** Escapes of JSON, XML, USD, VRML and OBJ undone, as far as the fixtures use them. */
function undone(text: string): string {
  return text
    .replace(/\\u([0-9a-f]{4})/g, (_, h: string) => String.fromCharCode(parseInt(h, 16)))
    .replace(/&(amp|lt|gt|quot);/g, (_, n: string) => ({ amp: '&', lt: '<', gt: '>', quot: '"' })[n]!)
    .replace(/\\(["/\\])/g, '$1');
}

/** The file with each value encoded as it is written anew: more escapes than needed are not put back. */
function canonical(reading: FileReading, b: Uint8Array): Uint8Array {
  const edits = reading.references.flatMap((r) =>
    r.span ? [{ span: r.span, bytes: reading.format.encode(fullPath(r), r)! }] : [],
  );
  const settled = reading.bytes ? (reading.format.settle?.(reading.bytes, edits) ?? []) : [];
  return applyPieces(b, piecesOf([...edits, ...settled], b.length));
}
