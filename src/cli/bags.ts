// Verbs about bags: packed, verified, unpacked, rehearsed.

import {
  brokenScenes,
  classNames,
  travelClasses,
  type TravelChoice,
  type TravelClass,
} from '@/core/bags/travelling';
import { AppError } from '@/core/errors';
import type { KnownPlace } from '@/core/places/machine';
import { bytes, count } from '@/core/text/figures';
import type { Travelled } from '@/server/bags/packWorkspace';
import { toSystem } from '@/server/disk/system';
import { hasMarker } from '@/server/workspaces/open';
import { absolute, progress, table, text, type Call, type Verb } from './call';
import { ownParts } from './parts';
import { realWorkspaceOf } from './where';

/** The places that a file describes; one without a machine cannot be rehearsed. */
async function placesIn(file: string): Promise<KnownPlace[]> {
  const { readFile } = await import('node:fs/promises');
  const { readPlaces } = await import('@/wire/places');
  let content: string;
  try {
    content = await readFile(toSystem(file), 'utf8');
  } catch {
    throw new AppError('not-found', `${file} is not there, or cannot be read.`);
  }
  const places = readPlaces(content, file).filter((p) => p.machine);
  if (places.length === 0)
    throw new AppError('bad-request', `${file} describes no machine: a place needs one to be rehearsed.`);
  return places;
}

/** The classes by the words of the command line. `caches`: those that can be made again, as they are marked; all where none is. */
const words: Record<string, readonly TravelClass[]> = {
  outputs: ['outputs'],
  caches: ['remade'],
  versions: ['versions'],
  unused: ['unused'],
  intake: ['intake'],
};

function choiceOf({ flags }: Call, libraries: readonly string[]): TravelChoice {
  const given = ((flags.without as string[] | undefined) ?? []).flatMap((w) => w.split(','));
  const unknown = given.find((w) => !Object.hasOwn(words, w));
  if (unknown !== undefined)
    throw new AppError(
      'bad-request',
      `“${unknown}” is no class. Known are ${Object.keys(words).join(', ')}.`,
    );
  const without = new Set(given.flatMap((w) => words[w]!));
  if (!flags['with-history']) without.add('history');
  return {
    without: travelClasses.filter((c) => without.has(c)),
    byHand: [],
    along: flags['with-libraries'] ? [...libraries, ''] : [],
  };
}

/** A size: bytes, or with a unit of 1000 (as drives are sold) or of 1024. */
function volumeOf(call: Call): number | undefined {
  const given = text(call, 'volume');
  if (given === undefined) return undefined;
  const m = /^(\d+(?:\.\d+)?)\s*(k|m|g|t)?(i)?b?$/i.exec(given.trim());
  const size =
    m && Number(m[1]) * (m[3] ? 1024 : 1000) ** (m[2] ? 'kmgt'.indexOf(m[2].toLowerCase()) + 1 : 0);
  if (!size || size < 100_000)
    throw new AppError(
      'bad-request',
      '--volume is a size of at least 100 kB, as 4000000000 or 4GB or 3.9GiB.',
    );
  return Math.floor(size);
}

function packedText(packed: Travelled): string {
  const { volumes, references, ready, broken, without, leansOn, leftOut } = packed;
  const where =
    volumes.length === 1 ? packed.bag : `${count(volumes.length, 'volume')}, ${packed.bag} and on`;
  const lines = [`Packed ${count(packed.files, 'file')} (${bytes(packed.bytes)}) to ${where}.`];
  for (const w of without)
    lines.push(
      `Not taken: ${classNames[w.class].toLowerCase()} (${count(w.files, 'file')}, ${bytes(w.bytes)}).`,
    );
  for (const { scene, targets } of brokenScenes(broken))
    lines.push(
      `Left out, and needed by ${scene}: ${targets[0]}${targets.length > 1 ? ` and ${count(targets.length - 1, 'more', 'more')}` : ''}.`,
    );
  for (const name of leansOn)
    lines.push(
      name === ''
        ? 'It leans on files outside the root: make references travel first, or pack --with-libraries.'
        : `It leans on the library ${name}: --with-libraries brings along what is used of it.`,
    );
  if (ready < references)
    lines.push(
      `${references - ready} of ${references} references would not open on another machine; rehearse the bag to see which.`,
    );
  for (const { path: left, why } of leftOut) lines.push(`Left out: ${left}: ${why.replace(/\.$/, '')}.`);
  return lines.join('\n');
}

export const bagVerbs: Record<string, Verb> = {
  pack: {
    schema: async () => (await import('@/wire/results')).packResult,
    async run(call) {
      const to = text(call, 'to');
      if (to === undefined) throw new AppError('bad-request', 'Say where to: --to FILE.zip or --to DIR.');
      const workspace = await realWorkspaceOf(call.words[0]!);
      const { packWorkspace } = await import('@/server/bags/packWorkspace');
      const packed = await packWorkspace(workspace, absolute(to), {
        choice: choiceOf(
          call,
          workspace.file.libraries.map((l) => l.name),
        ),
        volume: volumeOf(call),
        parts: ownParts(),
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      return {
        json: packed,
        text: () => packedText(packed),
        findings: packed.ready < packed.references || packed.leftOut.length > 0 || packed.broken.length > 0,
      };
    },
  },
  verify: {
    schema: async () => (await import('@/wire/results')).verifyResult,
    async run(call) {
      const result = await (
        await import('@/server/bags/verify')
      ).verify(absolute(call.words[0]!), {
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      const valid = result.problems.length === 0;
      const lines = valid
        ? [
            `Valid: ${result.files} files (${bytes(result.bytes)}), every ${result.algorithms.join(' and ')} checksum matches.`,
          ]
        : result.problems.map((p) => p.message);
      return { json: { ...result, valid }, text: () => lines.join('\n'), findings: !valid };
    },
  },
  unpack: {
    schema: async () => (await import('@/wire/results')).unpackResult,
    async run(call) {
      const to = text(call, 'to');
      if (to === undefined) throw new AppError('bad-request', 'Say where to: --to DIR.');
      const result = await (
        await import('@/server/bags/unpack')
      ).unpack(absolute(call.words[0]!), absolute(to), {
        parts: ownParts(),
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      const isWorkspace = await hasMarker(result.root);
      return {
        json: { ...result, isWorkspace },
        text: () => `Unpacked ${result.files} files (${bytes(result.bytes)}) to ${result.root}.`,
        findings: false,
      };
    },
  },
  rehearse: {
    schema: async () => (await import('@/wire/results')).rehearseResult,
    async run(call) {
      const { rehearsePath } = await import('@/server/bags/rehearsal');
      const as = text(call, 'as') ?? 'windows';
      const described = /\.json$/i.test(as) ? await placesIn(absolute(as)) : [];
      const all = await rehearsePath(absolute(call.words[0]!), {
        places: described,
        // Of a file that describes several places all are rehearsed.
        ...(as === 'all' || described.length > 1 ? {} : { place: described[0]?.name ?? as }),
        at: text(call, 'at'),
        drive: text(call, 'drive'),
      });
      const asked =
        described.length > 1 ? all.filter((r) => described.some((p) => p.name === r.place.name)) : all;
      const documents = asked.map((r) => ({ ...r, opens: r.failures.length === 0 }));
      const lines = asked.flatMap((r) => [
        r.sentence,
        table(r.failures.map((f) => ['', f.path, f.written ?? '', f.message])),
      ]);
      return {
        json: documents.length === 1 ? documents[0] : { places: documents },
        text: () => lines.filter(Boolean).join('\n'),
        findings: asked.some((r) => r.failures.length > 0),
      };
    },
  },
};
