// 3MF (.3mf): an OPC package (ZIP). Its models name parts inside the package, absolute from its top; the only way out is a relationship
// with TargetMode="External". Inner parts that are not there are told; nothing is rewritten.
//
//     <texture2d id="1" path="/3D/Textures/hull.png" contenttype="image/png"/>      a part
//     <Relationship Target="https://example.org/licence.txt" TargetMode="External" …/>   a reference
//
// Source: 3MF Core Specification 1.3 and Materials, Production and Slice extensions; OPC (ECMA-376 part 2).

import type { Problem } from '../problem';
import type { Format, Reading } from './format';
import { kindOfPath } from './kinds';
import { decodeMarkup, eachMarkup, localName, numbering, openMarkup } from './markup';
import { bytesOfEntry, mostUnpacked } from './packed';
import { readDirectory, packageTrouble, type Read } from './zip';

const partAttributes: Record<string, readonly string[]> = {
  texture2d: ['path'],
  item: ['path'],
  component: ['path'],
  sliceref: ['slicepath'],
  object: ['thumbnail'],
};

async function readParts(read: Read, size: number): Promise<Reading> {
  const entries = size < 22 ? null : await readDirectory(read, size);
  const problem = (code: string, message: string, at = 0): Problem => ({
    code,
    message,
    span: [Math.min(at, size), Math.min(at + 4, size)],
  });
  const trouble = packageTrouble(entries, size);
  if (!entries || trouble)
    return { references: [], problems: trouble ? [problem(trouble.code, trouble.message)] : [] };
  const reading: Reading = { references: [], problems: [] };
  let unpacked = 0;
  const place = numbering();
  const names = new Set(entries.map((e) => e.name.toLowerCase())); // OPC: part names are compared without case
  for (const e of entries) {
    const isRelations = e.name.endsWith('.rels');
    if (!isRelations && !e.name.endsWith('.model')) continue;
    // What all parts come to counts, not each alone.
    const bytes = (unpacked += e.size) > mostUnpacked ? null : await bytesOfEntry(read, e, size);
    if (!bytes) {
      reading.problems.push(problem('unreadable', `${e.name} inside the package cannot be read.`, e.at));
      continue;
    }
    const m = openMarkup(bytes);
    const broken = eachMarkup(m, {
      open(name, attributes) {
        const value = (key: string) => {
          const a = attributes.find((x) => localName(x.name) === key);
          return a ? decodeMarkup(m, a.from, a.to).text : null;
        };
        const element = localName(name);
        if (isRelations) {
          const target =
            element === 'Relationship' && value('TargetMode') === 'External' ? value('Target') : null;
          if (target)
            reading.references.push({
              at: place(`${e.name} / Relationship`),
              kind: kindOfPath(target),
              written: target,
              span: null,
              encoding: 'utf-8',
            });
          return;
        }
        for (const key of partAttributes[element] ?? []) {
          const part = value(key);
          if (part && !names.has(part.replace(/^\//, '').toLowerCase()))
            reading.problems.push(
              problem('missing-part', `${e.name} names ${part}, which is not in the package.`, e.at),
            );
        }
      },
      close() {},
    });
    reading.problems.push(...broken.map((p) => ({ ...problem(p.code, `${e.name}: ${p.message}`, e.at) })));
  }
  if (!names.has('[content_types].xml'))
    reading.problems.push(
      problem('no-content-types', 'This package lacks [Content_Types].xml: programs refuse it.'),
    );
  return reading;
}

export const threemf: Format = {
  id: '3mf',
  name: '3MF',
  extensions: ['.3mf'],
  syntax: 'uri',
  sniff: (head) => head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4,
  read() {
    throw new Error('a package is read in parts');
  },
  readParts,
  encode: () => null,
};
