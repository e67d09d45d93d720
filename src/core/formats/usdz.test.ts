// USD packages: what lies inside needs nothing, what leads out is listed; what USD programs refuse is said.

import { describe, expect, test } from '@jest/globals';
import yauzl from 'yauzl';
import yazl from 'yazl';
import { applyPieces, piecesOf } from '../text/edits';
import { packageOf } from './testing/usdzPackage';
import { usdz } from './usdz';
import { crc32 } from '../text/crc32';

const read = (b: Uint8Array) => usdz.readParts!(async ([from, to]) => b.subarray(from, to), b.length);
const layer = (...paths: string[]) =>
  `#usda 1.0\ndef "A"\n{\n${paths.map((p, i) => `  asset a${i} = @${p}@\n`).join('')}}\n`;

test('what the package holds is no reference; what leads out of it is, with its place', async () => {
  const b = packageOf([
    ['boat.usda', layer('./t/hull.png', 't/w.<UDIM>.png', 'sub/deck.usda', '../sea.exr')],
    ['t/hull.png', 'x'],
    ['t/w.1001.png', 'x'],
    ['sub/deck.usda', layer('../t/hull.png', 't/hull.png', 'gone.png')],
  ]);
  const { references, problems } = await read(b);
  expect(problems).toEqual([]);
  expect(references.map((r) => [r.at, r.written])).toEqual([
    ['boat.usda: /A.a3', '../sea.exr'],
    ['sub/deck.usda: /A.a2', 'gone.png'],
  ]);
  for (const r of references)
    expect(new TextDecoder().decode(b.subarray(...(r.span as [number, number])))).toBe(r.written);
});

test('what USD programs refuse, or the specification does, is said', async () => {
  expect((await read(packageOf([['boat.usda', layer()]], false))).problems.map((p) => p.code)).toEqual([
    'not-aligned',
  ]);
  expect(
    (
      await read(
        packageOf([
          ['t.png', 'x'],
          ['boat.usda', layer()],
        ]),
      )
    ).problems.map((p) => p.code),
  ).toEqual(['no-root-layer']);
  const zip = new yazl.ZipFile();
  zip.addBuffer(Buffer.from(layer('x.png').repeat(50)), 'boat.usda', { compress: true });
  zip.end();
  const parts: Buffer[] = [];
  for await (const p of zip.outputStream as unknown as AsyncIterable<Buffer>) parts.push(p);
  expect((await read(Buffer.concat(parts))).problems.map((p) => p.code)).toEqual(['compressed']);
});

describe('rewriting', () => {
  const moved = async (b: Uint8Array, to = (w: string) => `./moved/${w}`) => {
    const reading = await read(b);
    const edits = reading.rewrite!(reading.references.map((r) => ({ at: r.at, value: to(r.written) })))!;
    return applyPieces(b, piecesOf(edits, b.length));
  };
  /** What an independent reader (yauzl) finds inside, with its checksums tried. */
  const unpacked = (b: Uint8Array) =>
    new Promise<[string, string][]>((resolve, reject) => {
      yauzl.fromBuffer(Buffer.from(b), { lazyEntries: true }, (cause, zip) => {
        if (cause) return reject(cause);
        const out: [string, string][] = [];
        zip
          .on('error', reject)
          .on('end', () => resolve(out))
          .on('entry', (e: yauzl.Entry) =>
            zip.openReadStream(e, (failed, stream) => {
              if (failed) return reject(failed);
              const parts: Buffer[] = [];
              stream
                .on('data', (p: Buffer) => parts.push(p))
                .on('end', () => {
                  if (crc32(Buffer.concat(parts)) !== e.crc32)
                    reject(new Error(`${e.fileName}: wrong checksum`));
                  out.push([e.fileName, Buffer.concat(parts).toString()]);
                  zip.readEntry();
                });
            }),
          );
        zip.readEntry();
      });
    });
  const files: [string, string][] = [
    ['boat.usda', layer('../sea.exr', 't/hull.png')],
    ['t/hull.png', 'PNG'],
    ['sub/deck.usda', layer('../../far/gone.png')],
    ['z.png', 'z'.repeat(100)],
  ];

  test('new paths in the layers, everything else as it was, all at multiples of 64', async () => {
    const after = await moved(packageOf(files));
    expect(await unpacked(after)).toEqual([
      ['boat.usda', layer('./moved/../sea.exr', 't/hull.png')],
      files[1],
      ['sub/deck.usda', layer('./moved/../../far/gone.png')],
      files[3],
    ]);
    const again = await read(after);
    expect([again.problems, again.references.map((r) => r.written)]).toEqual([
      [],
      ['./moved/../sea.exr', './moved/../../far/gone.png'],
    ]);
  });
  test('back again gives the same bytes; a package that was not aligned is afterwards', async () => {
    const b = packageOf(files);
    const back = await moved(await moved(b), (w) => w.replace('./moved/', ''));
    expect(Buffer.from(back).toString('latin1')).toBe(Buffer.from(b).toString('latin1'));
    expect((await read(await moved(packageOf(files, false)))).problems).toEqual([]);
  });
  test('a package with a comment at its end, or nothing that leads out, is not rewritten', async () => {
    const b = packageOf(files);
    const commented = Buffer.concat([b, Buffer.from('hello')]);
    commented.writeUInt16LE(5, b.length - 2);
    const reading = await read(commented);
    expect([reading.references.length, reading.rewrite]).toEqual([2, undefined]);
    expect((await read(packageOf([['a.usda', layer()]]))).rewrite).toBeUndefined();
    expect((await read(b)).rewrite!([{ at: 'boat.usda: /A.a0', value: 'a\nb' }])).toBeNull();
  });
});

test('the checksum is ZIP’s (the check value of CRC-32: cbf43926 for 123456789)', () =>
  expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926));

test('cut anywhere: problems, no exception', async () => {
  const b = packageOf([
    ['boat.usda', layer('../x.png')],
    ['a.png', 'x'],
  ]);
  for (let n = 0; n < b.length; n++) await expect(read(b.subarray(0, n))).resolves.toBeDefined();
  expect((await read(b.subarray(0, 50))).problems.map((p) => p.code)).toEqual(['truncated']);
});

describe('entries that share their bytes', () => {
  /** A package whose list names one stored layer many times, as a bomb does (all entries lead to one local header). */
  const bomb = (times: number): Uint8Array => {
    const plain = packageOf([['boat.usda', layer('../x.png')]]);
    const v = new DataView(plain.buffer, plain.byteOffset, plain.byteLength);
    const end = plain.length - 22;
    const [size, at] = [v.getUint32(end + 12, true), v.getUint32(end + 16, true)];
    const central = plain.subarray(at, at + size);
    const out = new Uint8Array(at + size * times + 22);
    out.set(plain.subarray(0, at));
    for (let i = 0; i < times; i++) out.set(central, at + size * i);
    out.set(plain.subarray(end), at + size * times);
    const w = new DataView(out.buffer);
    for (const field of [8, 10]) w.setUint16(at + size * times + field, times, true);
    w.setUint32(at + size * times + 12, size * times, true);
    return out;
  };
  test('are not looked into: the package is one finding, however often it names them', async () => {
    let bytesRead = 0;
    const b = bomb(5000);
    const reading = await usdz.readParts!(async ([from, to]) => {
      bytesRead += to - from;
      return b.subarray(from, to);
    }, b.length);
    expect([reading.references, reading.problems.map((p) => p.code)]).toEqual([[], ['shared-bytes']]);
    expect(bytesRead).toBeLessThan(4 * b.length);
  });
  test('one entry alone is read as ever', async () => {
    expect((await read(bomb(1))).references.map((r) => r.written)).toEqual(['../x.png']);
  });
});
