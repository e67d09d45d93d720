// A scene with all it needs as one file: glTF as GLB, USD as USDZ, COLLADA as ZAE, OBJ with its materials as ZIP. What cannot lie inside is named.

import {
  putFiles,
  sizeOfWritten,
  type FilesPiece,
  type Note,
  type PieceFile,
  type Plan,
} from '../changes/plan';
import { type Closure, type Source } from '../collect/closure';
import { place, placedTarget } from '../collect/placement';
import { padded } from '../convert/glb';
import { storedZip, type StoredFile } from '../convert/storedZip';
import { wholeGltf, type ToHold } from '../convert/wholeGltf';
import { holdingLists, thingsIn, wayOfList } from '../documents/gltfPointers';
import { openGltf } from '../documents/gltfText';
import { AppError } from '../errors';
import { extensionOf, folderOf, nameOf, type TreePath } from '../files/treePath';
import { leafOf } from '../formats/leaves';
import { crc32, crc32Of } from '../text/crc32';
import { bytesOfText, latin1, utf8 } from '../text/bytes';
import { bytes as bytesText, count } from '../text/figures';
import { applyPieces, piecesOf } from '../text/edits';
import type { Both } from './carryNodes';
import { contentAt } from './contentAt';
import {
  glbOfParts,
  gltfFiles,
  lengthOf,
  outsideDoor,
  pictureTypes,
  piecesAt,
  type Lying,
} from './gltfFiles';
import { leftNotes } from './planCollect';
import { placesOf, sceneFrom } from './sceneFrom';

export interface EmbedRequest {
  /** The scene, absolute. */
  from: string;
  /** The new file, in the target's tree. */
  to: TreePath;
}

/** Into what each kind of scene is put. */
export const wholeForms: Readonly<Record<string, string>> = {
  '.gltf': '.glb',
  '.glb': '.glb',
  '.usda': '.usdz',
  '.usdc': '.usdz',
  '.usd': '.usdz',
  '.dae': '.zae',
  '.obj': '.zip',
};

/** The plan. */
export async function planEmbed({ source, target }: Both, { from, to }: EmbedRequest): Promise<Plan> {
  const [a, b] = [extensionOf(from), extensionOf(to)];
  const form = wholeForms[a];
  if (!form)
    throw new AppError(
      'unsupported',
      `${nameOf(from)} cannot be put into one file: known are ${Object.entries(wholeForms)
        .map(([x, y]) => `${x} → ${y}`)
        .join(', ')}.`,
    );
  if (b !== form)
    throw new AppError('bad-request', `${nameOf(from)} is put into ${form}, not ${b || 'that'}.`);
  const notes: Note[] = [];
  if ((await target.tree.kind(to)) !== null)
    notes.push({ level: 'blocker', code: 'in-the-way', message: `${to} is there already.`, path: to });
  if (folderOf(to) !== '' && (await target.tree.kind(folderOf(to))) !== 'folder')
    throw new AppError('not-found', `${folderOf(to)} is no folder.`);
  const { closure } = await sceneFrom(source, from);
  const whole =
    form === '.glb'
      ? await glb(source, closure, from, notes)
      : await packed(source, closure, from, form, notes);
  const inside = whole.files.map((f) => f.state.size);
  notes.unshift({
    level: 'info',
    code: 'sizes',
    message: `${count(inside.length, 'file')} of ${bytesText(inside.reduce((x, y) => x + y, 0))} ${inside.length === 1 ? 'becomes' : 'become'} one of ${bytesText(sizeOfWritten(whole.pieces))}.`,
  });
  return {
    kind: 'embed',
    title: `Put ${nameOf(from)} and all it needs into ${nameOf(to)}`,
    steps: [putFiles(to, whole.files, whole.pieces)],
    notes: [...notes, ...closure.notes],
    paths: [],
    readiness: null,
  };
}

interface Whole {
  files: PieceFile[];
  pieces: FilesPiece[];
}

async function glb(source: Source, closure: Closure, from: string, notes: Note[]): Promise<Whole> {
  const scene = closure.files.get(from)!;
  const { outside } = source;
  const doc = await openGltf(scene.state.size, (range) => outside.read(from, range));
  if ('refused' in doc) throw new AppError('unsupported', `${nameOf(from)}: ${doc.refused}`);
  const places = placesOf(source, scene);
  const door = outsideDoor(outside);
  const side = gltfFiles(doc, from, scene.state.size, door, places);
  const lyings = new Map<string, Lying>();
  const held: ToHold[] = [];
  for (const list of holdingLists)
    for (const [index, thing] of thingsIn(doc.json, list).entries()) {
      const { uri } = thing;
      if (typeof uri !== 'string') continue;
      const lying = await side.lying(list, index);
      if (!lying) {
        notes.push(notInside(uri, from, /^https?:/i.test(uri) ? 'is a web address' : 'is missing'));
        continue;
      }
      const type = await typeOf(lying, thing.mimeType, uri, side);
      if (type === null) {
        notes.push(notInside(uri, from, 'is of a kind that glTF has no name for'));
        continue;
      }
      const key = 'bytes' in lying ? `${list} ${index}` : lying.path;
      lyings.set(key, lying);
      held.push({ list, index, uri, key, length: lengthOf(lying), mimeType: type });
    }
  const holders = new Set(
    [...holdingLists, 'buffers'].map((list) => `/${wayOfList(list as 'images').join('/')}/`),
  );
  for (const r of scene.references ?? [])
    if (![...holders].some((k) => r.at.startsWith(k)))
      notes.push(notInside(r.written, from, 'stands at a place that can only hold a path'));
  const whole = wholeGltf(doc, held);
  if ('refused' in whole) throw new AppError('unsupported', `${nameOf(from)}: ${whole.refused}`);
  const files: PieceFile[] = [];
  const bin: FilesPiece[] = [];
  for (const part of whole.bytes) {
    const lying = 'key' in part ? lyings.get(part.key)! : await side.lying('buffers', part.buffer);
    if (!lying || lengthOf(lying) < part.length)
      throw new AppError(
        'not-found',
        `Its buffer ${'buffer' in part ? String(thingsIn(doc.json, 'buffers')[part.buffer]?.uri ?? part.buffer) : ''} is missing or shorter than the scene says; without it nothing is written.`,
      );
    bin.push(...(await piecesAt(door, lying, files, [0, part.length])));
    if (padded(part.length) > part.length)
      bin.push({ latin1: '\0'.repeat(padded(part.length) - part.length) });
  }
  const text = latin1(applyPieces(doc.text, piecesOf(whole.edits, doc.text.length)));
  const known = files.findIndex((f) => f.path === from);
  const own = known >= 0 ? known : files.push({ path: from, state: scene.state, outside: true }) - 1;
  const others = doc.others.map((span): FilesPiece => ({ file: own, copy: span }));
  return { files, pieces: glbOfParts([{ latin1: text }], bin, others) };
}

const notInside = (written: string, path: string, why: string): Note => ({
  level: 'warning',
  code: 'not-inside',
  message: `${written} ${why}: it is not put inside.`,
  path,
});

const typesByName: Readonly<Record<string, string>> = {
  '.ies': 'application/x-ies-lm-63',
  '.mp3': 'audio/mpeg',
  '.wav': 'audio/wav',
};

async function typeOf(
  lying: Lying,
  said: unknown,
  uri: string,
  side: { read(lying: Lying, range: readonly [number, number]): Promise<Uint8Array> },
): Promise<string | null> {
  if (typeof said === 'string') return said;
  const type = pictureTypes[leafOf(await side.read(lying, [0, 64]))?.format ?? '']?.[0];
  const inData = /^data:([^;,]+)/i.exec(uri)?.[1];
  return type ?? inData ?? typesByName[extensionOf(uri)] ?? null;
}

/** Files of these kinds may lie in a .usdz (USDZ specification, "File Types"). */
export const inUsdz = /\.(?:usd|usda|usdc|png|jpe?g|exr|avif|m4a|mp3|wav)$/i;

/** A package of the scene and all it needs, as it lies below the folder that holds all of it, paths written for there. */
async function packed(
  source: Source,
  closure: Closure,
  from: string,
  form: string,
  notes: Note[],
): Promise<Whole> {
  const placement = place(closure, {
    root: source.root,
    libraries: source.setting.libraries,
    rule: { by: 'mirror' },
    reserved: form === '.zae' ? ['manifest.xml'] : [],
  });
  notes.push(
    ...leftNotes(closure.left).map((n) => ({
      ...n,
      level: 'warning' as const,
      message: `${n.message} It is not put inside.`,
    })),
  );
  const files: PieceFile[] = [];
  const inside: { stored: StoredFile; pieces: FilesPiece[] }[] = [];
  // The scene first: in a USDZ the first file is the scene.
  const order = [closure.files.get(from)!, ...[...closure.files.values()].filter((f) => f.from !== from)];
  for (const file of order) {
    const to = placement.files.get(file.from)!.to;
    if (form === '.usdz' && !inUsdz.test(to))
      notes.push({
        level: 'warning',
        code: 'not-in-usdz',
        message: `${to} is of a kind that a USDZ package should not hold; strict programs refuse it.`,
        path: file.from,
      });
    const content = await contentAt(source, file, to, (r) =>
      placedTarget(source.root, file.from, r, closure, placement),
    );
    notes.push(...content.notes);
    const n = files.push({ path: file.from, state: file.state, outside: true }) - 1;
    const pieces = (
      content.pieces ?? (file.state.size > 0 ? [{ copy: [0, file.state.size] as const }] : [])
    ).map((p): FilesPiece => ('latin1' in p ? p : { file: n, copy: p.copy }));
    const crc = await crc32Of(streamed(source, file.from, pieces));
    inside.push({ stored: { name: to, size: content.size, crc }, pieces });
  }
  if (form === '.zae') {
    const root = inside[0]!.stored.name.split('/').map(encodeURIComponent).join('/');
    const manifest = utf8(`<?xml version="1.0" encoding="utf-8"?>\n<dae_root>./${root}</dae_root>\n`);
    inside.unshift({
      stored: { name: 'manifest.xml', size: manifest.length, crc: crc32(manifest) },
      pieces: [{ latin1: latin1(manifest) }],
    });
  }
  const zip = storedZip(
    inside.map((i) => i.stored),
    form === '.usdz' ? 64 : 1,
  );
  if (!zip)
    throw new AppError('unsupported', 'It would be larger than 4 GB: a package of this kind cannot be.');
  const pieces = inside.flatMap(({ pieces: own }, n) => [{ latin1: zip.before[n]! }, ...own]);
  return { files, pieces: [...pieces, { latin1: zip.end }] };
}

/** The bytes that pieces of one file make. */
async function* streamed(
  { outside }: Source,
  from: string,
  pieces: readonly FilesPiece[],
): AsyncIterable<Uint8Array> {
  for (const p of pieces)
    if ('latin1' in p) yield bytesOfText(p.latin1);
    else yield* outside.stream(from, p.copy);
}
