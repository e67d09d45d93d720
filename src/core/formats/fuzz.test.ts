// Damaged files of every format: problems, never an exception, in bounded time. A short, seeded run; SATCHEL_FUZZ=200000 makes a long one
// (npm run fuzz). Seeds are real files where there are any (.cache), and the fixtures.

import { figure } from '../text/figures';
import { expect, test } from '@jest/globals';
import { gzipSync, zipSync } from 'fflate';
import fs from 'node:fs';
import path from 'node:path';
import { formatOf, formatOfName, formats, readReferences } from './formats';
import { fullPath } from './format';
import { applyPieces, piecesOf } from '../text/edits';
import { seeded } from '../files/testing/seeded';
import { isDeep } from '../files/testing/depth';

const runs = Number(process.env.SATCHEL_FUZZ ?? (isDeep ? 3000 : 400));
const mostSeed = 200_000;

function* filesBelow(dir: string): Iterable<string> {
  if (!fs.existsSync(dir)) return;
  for (const e of fs.readdirSync(dir, { withFileTypes: true })) {
    const full = path.join(dir, e.name);
    if (e.isDirectory()) yield* filesBelow(full);
    else if (formatOfName(full)) yield full;
  }
}

const text = (s: string) => new TextEncoder().encode(s);
const own: [string, Uint8Array][] = [
  [
    'a.gltf',
    text(
      '{"asset":{"version":"2.0"},"images":[{"uri":"a.png"},{"uri":"b\\u0020c.png"}],"extensions":{"X":{"uri":"y"}}}',
    ),
  ],
  ['a.obj', text('mtllib a.mtl b c.mtl\nusemtl x\nf 1 2 3 \\\n 4\n')],
  ['a.mtl', text('newmtl a\nmap_Kd -s 1 1 1 -o 0.5 a b.png\nmap_Bump x.png -bm 1\nKd spectral a.rfl 1\n')],
  [
    'a.usda',
    text(
      '#usda 1.0\n(\n subLayers = [@a.usda@ (offset = 1)]\n)\ndef Xform "A" (\n prepend references = @@@b@c.usd@@@</X>\n)\n{\n asset x = @y.png@ # c\n string s = """a"""\n}\n',
    ),
  ],
  [
    'a.dae',
    text(
      '<?xml version="1.0"?><COLLADA><image id="a"><init_from>a&amp;b.png</init_from></image><instance_node url="x.dae#y"/></COLLADA>',
    ),
  ],
  ['a.mtlx', text('<materialx fileprefix="t/"><input type="filename" value="a.png"/></materialx>')],
  ['a.x3d', text('<X3D><ImageTexture url=\'"a.png" "b.png"\'/></X3D>')],
  [
    'a.wrl',
    text('#VRML V2.0 utf8\nShape { texture ImageTexture { url [ "a.png" ] } }\nEXTERNPROTO A [ ] "b.wrl"\n'),
  ],
  ['a.ply', text('ply\nformat ascii 1.0\ncomment TextureFile a.png\nend_header\n')],
  [
    'a.otio',
    text(
      '{"OTIO_SCHEMA":"Timeline.1","x":{"target_url":"a.mov"},"y":{"target_url_base":"f/","name_prefix":"a","frame_zero_padding":4}}',
    ),
  ],
];
const zip = (files: Record<string, string>) =>
  zipSync(Object.fromEntries(Object.entries(files).map(([n, t]) => [n, text(t)])), { level: 0 });
own.push(
  [
    'a.zae',
    zip({
      'manifest.xml': '<dae_root>a.dae</dae_root>',
      'a.dae': '<COLLADA><image><init_from>a.png</init_from></image></COLLADA>',
    }),
  ],
  ['a.otioz', zip({ 'content.otio': '{"OTIO_SCHEMA":"Timeline.1","x":{"target_url":"a.mov"}}' })],
  ['a.wrz', gzipSync(text('#VRML V2.0 utf8\nInline { url "a.wrl" }\n'))],
  [
    'a.3mf',
    zip({
      '[Content_Types].xml': '<Types/>',
      '_rels/.rels':
        '<Relationships><Relationship Target="https://example.org/x" TargetMode="External"/></Relationships>',
      '3D/a.model': '<model><texture2d path="/3D/t.png"/></model>',
    }),
  ],
  ['a.usdz', zip({ 'a.usda': '#usda 1.0\ndef "A" ( references = @../b.usda@ )\n{\n}\n' })],
  ['b.obj', new Uint8Array([0xff, 0xfe, ...Buffer.from('mtllib a b.mtl\n', 'utf16le')])],
);
const seeds: [string, Uint8Array][] = [
  ...own,
  ...['fixtures', '.cache/samples', '.cache/materialx', '.cache/openusd']
    .flatMap((d) => [...filesBelow(path.resolve(d))])
    .map((f): [string, Uint8Array] => (typeof f === 'string' ? [f, new Uint8Array(fs.readFileSync(f))] : f))
    .filter(([, b]) => b.length <= mostSeed),
];
const words = [
  '"',
  "'",
  '\\',
  '@',
  '@@@',
  '<',
  '>',
  '</',
  '<![CDATA[',
  ']]>',
  '&#x0;',
  '&',
  '{',
  '}',
  '[',
  ']',
  '(',
  ')',
  '#',
  '//',
  '/*',
  '\0',
  '\n',
  '\r',
  'uri":"',
  '__proto__',
  '%00',
  '../../../../',
  'mtllib ',
  'url ',
  '\ufeff',
  'é',
].map(text);

function damaged(b: Uint8Array, next: () => number): Uint8Array {
  let out: Uint8Array = b.slice();
  const at = () => Math.floor(next() * (out.length + 1));
  for (let n = 1 + Math.floor(next() * 5); n > 0; n--) {
    const how = next();
    if (how < 0.35 && out.length > 0) out[Math.min(out.length - 1, at())] = Math.floor(next() * 256);
    else if (how < 0.6) out = splice(out, at(), 0, words[Math.floor(next() * words.length)]!);
    else if (how < 0.75) out = splice(out, at(), Math.floor(next() * 64), new Uint8Array());
    else if (how < 0.85) out = out.slice(0, at());
    else {
      const from = at();
      out = splice(out, at(), 0, out.slice(from, from + Math.floor(next() * 200)));
    }
  }
  return out;
}

function splice(b: Uint8Array, at: number, remove: number, put: Uint8Array): Uint8Array {
  const rest = b.subarray(Math.min(b.length, at + remove));
  const out = new Uint8Array(at + put.length + rest.length);
  out.set(b.subarray(0, at));
  out.set(put, at);
  out.set(rest, at + put.length);
  return out;
}

test(`${figure(runs)} damaged files over all formats are read to an end, and what is found can be written`, async () => {
  expect(new Set(seeds.map(([name, b]) => formatOf(name, b)!.id)).size).toBe(formats.length);
  const next = seeded(Number(process.env.SATCHEL_FUZZ_SEED ?? 20261123));
  let slowest = 0;
  for (let n = 0; n < runs; n++) {
    const [name, seed] = seeds[n % 3 === 0 ? n % own.length : Math.floor(next() * seeds.length)]!;
    const b = damaged(seed, next);
    const began = performance.now();
    try {
      const reading = (await readReferences(name, b.length, async ([from, to]) => b.subarray(from, to)))!;
      for (const r of reading.references) {
        expect(typeof r.written).toBe('string');
        if (r.span) expect(r.span[0] >= 0 && r.span[0] <= r.span[1] && r.span[1] <= b.length).toBe(true);
      }
      for (const p of reading.problems) if (p.span) expect(p.span[1]).toBeLessThanOrEqual(b.length);
      // What is read can be written anew, without an exception.
      const edits = reading.references.flatMap((r) => {
        const bytes = r.span ? reading.format.encode(`x/${fullPath(r)}`, r) : null;
        return bytes ? [{ span: r.span!, bytes }] : [];
      });
      if (reading.bytes)
        applyPieces(
          reading.bytes,
          piecesOf(
            [...edits, ...(edits.length > 0 ? (reading.format.settle?.(reading.bytes, edits) ?? []) : [])],
            reading.bytes.length,
          ),
        );
    } catch (cause) {
      const kept = path.join('test-results', `fuzz-${n}-${path.basename(name)}`);
      fs.mkdirSync('test-results', { recursive: true });
      fs.writeFileSync(kept, b);
      throw new Error(`run ${n}, ${name}, kept as ${kept}: ${(cause as Error).stack}`, { cause });
    }
    slowest = Math.max(slowest, performance.now() - began);
  }
  // Seeds are at most 200 kB: a second for one would be a reader that goes round in circles.
  expect(slowest).toBeLessThan(5000);
}, 3_600_000);
