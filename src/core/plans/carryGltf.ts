// A part of a glTF into another, text or GLB: the plan. Only the JSON of both is read, and where names clash what they hold.

import {
  bytesOfText,
  putFiles,
  sizeOfWritten,
  planPieces,
  type FilesPiece,
  type Note,
  type PieceFile,
  type Step,
} from '../changes/plan';
import { holdingLists, thingsIn, type ListName } from '../documents/gltfPointers';
import { listIn, openGltf, parseObject, type GltfText } from '../documents/gltfText';
import { toBase64 } from '../documents/gltfFile';
import { withItems } from '../documents/jsonEdits';
import { placeOf, withMember } from '../documents/jsonPlaces';
import { AppError } from '../errors';
import { folderOf, nameOf, stemOf, type TreePath } from '../files/treePath';
import { leafOf } from '../formats/leaves';
import { makeLegal } from '../names/portable';
import { gltfClashes, calledAs, type GltfSide } from '../nodes/gltfClashes';
import { gltfMerge, type Carried, type Holding, type Merged } from '../nodes/gltfMerge';
import { gltfNeeds, keyOf, readBy, shownLists, wordOf, type GltfNeeds, type Stops } from '../nodes/gltfNeeds';
import { nameOrNumber, parentsOf } from '../nodes/gltfTree';
import type { Span } from '../problem';
import { filesOf } from '../references/scan';
import { concat } from '../text/bytes';
import { count } from '../text/figures';
import { applyPieces, piecesOf, type Edit } from '../text/edits';
import {
  clashNotes,
  FilesBeside,
  pictureFolder,
  sceneState,
  type Both,
  type CarryNodesRequest,
  type NeededThing,
  type NodesCarried,
} from './carryNodes';
import {
  bytesOfView,
  glbOfParts,
  gltfFiles,
  lengthOf,
  outsideDoor,
  pictureTypes,
  piecesAt,
  treeDoor,
  type Door,
  type GltfFiles,
  type Lying,
} from './gltfFiles';
import { SceneSet } from './sceneSet';
import { stateOf } from './workspace';
import { notReadBack, placesOf, sceneFrom } from './sceneFrom';

/** The plan, and what there is to see. */
export async function carryGltf(both: Both, request: CarryNodesRequest): Promise<NodesCarried> {
  return new GltfCarrying(both, request).run();
}

class GltfCarrying {
  private readonly notes: Note[] = [];
  private readonly beside: FilesBeside;
  private source!: GltfFiles;
  private target!: GltfFiles;
  private targetFiles: string[] = [];
  /** Of pictures and sounds that come along, in bytes. */
  private readonly sizes = new Map<string, number>();

  constructor(
    private readonly both: Both,
    private readonly request: CarryNodesRequest,
  ) {
    this.beside = new FilesBeside(both.target, request.into);
  }

  async run(): Promise<NodesCarried> {
    const { request, both, notes } = this;
    const before = await sceneState(both, request.into);
    this.source = await this.openSource();
    this.target = await this.openTarget();
    const chosen = request.nodes.map(Number);
    const { doc } = this.source;
    const all = gltfNeeds(doc.json, chosen);
    if (all.nodes.size === 0) throw new AppError('bad-request', 'Nothing was chosen that is in the scene.');
    const clashes = await gltfClashes(this.sideOf(this.source), this.sideOf(this.target), all, request.clash);
    const stops: Stops = new Map(
      clashes.flatMap((c) => (c.way === 'target' || c.way === 'skip' ? [[c.key, c.way] as const] : [])),
    );
    const needs = gltfNeeds(doc.json, chosen, stops);
    const kept = clashes.filter(
      (c) =>
        needs.things.has(c.key) || needs.nodes.has(Number(c.key.slice('nodes '.length))) || c.way === 'skip',
    );
    const buffer = await this.bufferOf();
    const blobs = await this.blobsOf(needs, stops);
    const merged = gltfMerge(doc, this.target.doc, {
      needs,
      clashes,
      under: request.under === null ? null : Number(request.under),
      place: request.place,
      holdings: new Map([...blobs].map(([key, b]) => [key, b.holding])),
      buffer,
    });
    if ('refused' in merged)
      notes.push({ level: 'blocker', code: 'cannot-stand', message: merged.refused, path: request.into });
    else await this.write(merged, buffer, blobs, before);
    notes.unshift(
      ...this.saidOf(needs, all),
      ...clashNotes(
        kept.filter((c) => !(c.list === 'images' && c.way === 'rename')),
        request.into,
      ),
    );
    if (!('refused' in merged))
      for (const { name, why } of merged.left)
        notes.push({ level: 'warning', code: 'left-out', message: `“${name}” does not come along: ${why}.` });
    const names = chosen.map((n) => nameOrNumber(listIn(doc.json, 'nodes')[n], n, 'node'));
    const what =
      names.length === 1 ? `“${names[0]}”` : `“${names[0]}” and ${count(names.length - 1, 'other')}`;
    return {
      plan: {
        kind: 'carry-nodes',
        title: `Carry ${what} of ${nameOf(request.from)} into ${nameOf(request.into)}`,
        steps: notes.some((n) => n.level === 'blocker') ? [] : this.steps,
        notes,
        paths: [],
        readiness: null,
      },
      things: this.thingsOf(all),
      clashes,
      converted: [],
    };
  }

  private readonly steps: Step[] = [];

  // ---- reading

  private async openSource(): Promise<GltfFiles> {
    const { source } = this.both;
    const { scene } = await sceneFrom(source, this.request.from);
    const read = (range: readonly [number, number]) => source.outside.read(scene.from, range);
    const doc = await openGltf(scene.state.size, read);
    if ('refused' in doc) throw new AppError('unsupported', `${nameOf(scene.from)}: ${doc.refused}`);
    const places = placesOf(source, scene);
    return gltfFiles(doc, scene.from, scene.state.size, outsideDoor(source.outside), places);
  }

  private async openTarget(): Promise<GltfFiles> {
    const { target } = this.both;
    const { into } = this.request;
    const scene = await (await SceneSet.of(target)).read(into);
    if (!scene) throw new AppError('unsupported', `${into} cannot be read.`);
    const read = (range: readonly [number, number]) => target.tree.read(into, range);
    const doc = await openGltf(scene.stat.size, read);
    if ('refused' in doc) throw new AppError('unsupported', `${nameOf(into)}: ${doc.refused}`);
    const inside = scene.references.flatMap((r) => filesOf(r).map((f) => [r, f] as const));
    this.targetFiles = inside.flatMap(([r, f]) => (r.kind === 'texture' ? [f] : []));
    const places = new Map(inside.map(([r, f]) => [r.at, f]));
    return gltfFiles(doc, into, scene.stat.size, treeDoor(target.tree), places);
  }

  /** What the search for clashes is told of a side. */
  private sideOf(side: GltfFiles): GltfSide {
    const { tree } = this.both.target;
    const { json } = side.doc;
    return {
      json,
      contentOf: async (list, index) => {
        const hash = tree.startHash();
        if (list === 'images') {
          const lying = await side.lying('images', index);
          if (!lying) return null;
          hash.update(await side.read(lying));
          return hash.digest();
        }
        const reads = readBy(json, thingsIn(json, 'accessors')[index]!);
        for (const { view, run } of reads ?? []) {
          const lying = await side.lying('bufferViews', view);
          if (!lying) return null;
          hash.update(await side.read(lying, run));
        }
        return reads && hash.digest();
      },
    };
  }

  // ---- what the target holds where

  private async bufferOf(): Promise<{
    index: number;
    length: number;
    isNew: boolean;
    way: 'chunk' | 'append' | 'file' | 'data';
  }> {
    const { doc } = this.target;
    const buffers = listIn(doc.json, 'buffers');
    if (doc.isBinary && (buffers.length === 0 || (doc.binary && buffers[0]!.uri === undefined)))
      return {
        index: 0,
        length: doc.binary ? doc.binary[1] - doc.binary[0] : 0,
        isNew: buffers.length === 0,
        way: 'chunk',
      };
    if (!doc.isBinary && buffers.length > 0 && buffers.every((b) => /^data:/i.test(String(b.uri))))
      return { index: buffers.length, length: 0, isNew: true, way: 'data' };
    if (!doc.isBinary && this.request.buffer === 'append') {
      const last = buffers.length - 1;
      const lying = last < 0 ? null : await this.target.lying('buffers', last);
      const isWhole = lying && !('bytes' in lying) && lying.length >= Number(buffers[last]!.byteLength);
      if (isWhole) return { index: last, length: lying.length, isNew: false, way: 'append' };
      this.notes.push({
        level: 'info',
        code: 'own-buffer',
        message: `${nameOf(this.request.into)} has no buffer of its own that could be made longer: what comes has a file of its own.`,
      });
    }
    return { index: buffers.length, length: 0, isNew: true, way: 'file' };
  }

  private get isInside(): boolean {
    const { pictures } = this.request;
    if (pictures !== 'as-there') return pictures === 'inside';
    const { json, isBinary } = this.target.doc;
    const images = listIn(json, 'images');
    const inside = images.filter((i) => i.bufferView !== undefined || /^data:/i.test(String(i.uri))).length;
    return images.length === 0 ? isBinary : inside * 2 > images.length;
  }

  /** Pictures, sounds and profiles that come along: as files that are there or are put, or as bytes for the buffer. */
  private async blobsOf(
    needs: GltfNeeds,
    stops: Stops,
  ): Promise<Map<string, { holding: Holding; lying: Lying | null }>> {
    const found = new Map<string, { holding: Holding; lying: Lying | null }>();
    const folder = pictureFolder(this.both.target, this.request.into, this.targetFiles);
    for (const [key, { list, index }] of needs.things) {
      if (!holdingLists.has(list) || stops.has(key)) continue;
      const thing = thingsIn(this.source.doc.json, list)[index]!;
      const lying = await this.source.lying(list, index);
      const name = calledAs(list, thing) ?? this.userOf(needs, key);
      if (!lying) {
        const written = typeof thing.uri === 'string' ? thing.uri : name;
        if (!/^https?:/i.test(written))
          this.notes.push({
            level: 'warning',
            code: 'missing',
            message: `${written} is missing: it stays as it is written.`,
          });
        continue;
      }
      this.sizes.set(key, lengthOf(lying));
      const type = pictureTypes[leafOf(await this.source.read(lying, [0, 64]))?.format ?? ''];
      if (this.isInside && (type || thing.mimeType !== undefined || list !== 'images')) {
        const length = lengthOf(lying);
        found.set(key, { holding: { length, mimeType: type?.[0] ?? null }, lying });
        continue;
      }
      const path = await this.fileOf(lying, name, type?.[1] ?? '', folder, typeof thing.uri === 'string');
      found.set(key, { holding: { uri: this.beside.written(path, 'uri') }, lying: null });
    }
    return found;
  }

  private async fileOf(
    lying: Lying,
    name: string,
    extension: string,
    folder: TreePath,
    isFile: boolean,
  ): Promise<string> {
    if (!('bytes' in lying) && isFile) return this.beside.file(lying.path, folder, this.notes);
    const bare = name.replace(/\.(?:png|jpe?g|webp|ktx2|dds|avif|wav|mp3|ies)$/i, '');
    const content = async () => {
      const hash = this.both.target.tree.startHash();
      hash.update(await this.source.read(lying));
      return hash.digest();
    };
    const files: PieceFile[] = [];
    const pieces = await piecesAt(this.doorOf(lying), lying, files);
    const size = lengthOf(lying);
    return this.beside.pieces(
      folder,
      makeLegal(`${bare}${extension}`),
      { files, pieces, size },
      content,
      this.notes,
    );
  }

  /** What a picture without a name is called after: the material it is on, and how. */
  private userOf(needs: GltfNeeds, key: string): string {
    const texture = needs.things.get(needs.things.get(key)?.neededBy[0] ?? '');
    const material = needs.things.get(texture?.neededBy[0] ?? '');
    const thing = needs.things.get(key);
    return material
      ? `${material.name}_${wordOf(thing!.list)}`
      : `${stemOf(this.request.from)}_${wordOf(thing!.list)}`;
  }

  // ---- writing

  private doorOf(lying: Lying): Door {
    const { source, target } = this.both;
    return 'bytes' in lying || lying.isOutside ? outsideDoor(source.outside) : treeDoor(target.tree);
  }

  private async write(
    merged: Merged,
    buffer: Awaited<ReturnType<GltfCarrying['bufferOf']>>,
    blobs: ReadonlyMap<string, { lying: Lying | null }>,
    before: NonNullable<Awaited<ReturnType<typeof sceneState>>>,
  ): Promise<void> {
    const { into } = this.request;
    // A GLB is made of itself and what comes; else what comes lies in a file of its own.
    const scene: PieceFile = { path: into, state: before };
    const files: PieceFile[] = buffer.way === 'chunk' ? [scene] : [];
    const bin = await this.binOf(merged.bytes, buffer.length, blobs, files);
    const edits = [...merged.edits];
    const added: string[] = [];
    const { doc } = this.target;
    if (merged.bytes.length > 0) {
      if (!buffer.isNew) {
        const object = placeOf(doc.text, ['buffers', buffer.index])!;
        const length = placeOf(doc.text, ['buffers', buffer.index, 'byteLength']);
        const bytes = Uint8Array.from(String(merged.length), (c) => c.charCodeAt(0));
        edits.push(
          length ? { span: length, bytes } : withMember(doc.text, object, 'byteLength', merged.length),
        );
      }
      const uri = await this.putBuffer(buffer.way, bin, files);
      if (buffer.isNew)
        added.push(JSON.stringify({ ...(uri === null ? {} : { uri }), byteLength: merged.length }));
    }
    if (merged.unpacked !== null) added.push(merged.unpacked);
    edits.push(...withItems(doc.text, [{ way: ['buffers'], texts: added }]));
    this.check(edits, merged);
    if (edits.length === 0) return;
    const pieces = this.sceneOf(edits, buffer.way === 'chunk' ? bin : []);
    const own = buffer.way === 'chunk' ? files : [scene];
    this.steps.push(...this.beside.steps, putFiles(into, own, pieces, before));
  }

  /** Puts the buffer where it is no chunk of the scene; returns how the scene names it, null where it does not have to. */
  private async putBuffer(
    way: 'chunk' | 'append' | 'file' | 'data',
    bin: FilesPiece[],
    files: PieceFile[],
  ): Promise<string | null> {
    const { into } = this.request;
    if (way === 'chunk') return null;
    if (way === 'data') return `data:application/octet-stream;base64,${await this.base64Of(bin, files)}`;
    const { target } = this.both;
    if (way === 'append') {
      const lying = (await this.target.lying(
        'buffers',
        listIn(this.target.doc.json, 'buffers').length - 1,
      )) as Lying & { path: string; size: number };
      const path = lying.path as TreePath;
      const state = (await stateOf(target.tree, path))!;
      const own: FilesPiece[] = [{ file: files.length, copy: [0, lying.size] }, ...bin];
      this.steps.push(putFiles(path, [...files, { path, state }], own, state));
      return null;
    }
    const first = this.request.nodes.map(Number)[0]!;
    const name = nameOrNumber(listIn(this.source.doc.json, 'nodes')[first], first, 'node');
    const path = await this.beside.pieces(
      folderOf(into),
      `${stemOf(into)}_${makeLegal(name)}.bin`,
      { files, pieces: bin, size: sizeOfWritten(bin) },
      null,
      this.notes,
    );
    return this.beside.written(path, 'uri');
  }

  private async base64Of(bin: readonly FilesPiece[], files: readonly PieceFile[]): Promise<string> {
    const { source, target } = this.both;
    const parts = bin.map((p) => {
      if ('latin1' in p) return bytesOfText(p.latin1);
      const { path, outside } = files[p.file]!;
      return outside ? source.outside.read(path, p.copy) : target.tree.read(path as TreePath, p.copy);
    });
    return toBase64(concat(await Promise.all(parts)));
  }

  /** What comes behind the bytes that the buffer has. */
  private async binOf(
    carried: readonly Carried[],
    from: number,
    blobs: ReadonlyMap<string, { lying: Lying | null }>,
    files: PieceFile[],
  ): Promise<FilesPiece[]> {
    const pieces: FilesPiece[] = [];
    let at = from;
    for (const { at: to, length, from: what } of carried) {
      if (to > at) pieces.push({ latin1: '\0'.repeat(to - at) });
      const lying =
        'blob' in what ? blobs.get(what.blob)!.lying : await this.source.lying('bufferViews', what.view);
      if (!lying)
        throw new AppError(
          'not-found',
          `${nameOf(this.request.from)}: a buffer that is needed is missing, or shorter than the scene says; nothing is carried.`,
        );
      pieces.push(...(await piecesAt(this.doorOf(lying), lying, files, 'blob' in what ? null : what.run)));
      at = to + length;
    }
    return pieces;
  }

  /** The target with edits, and with more in its buffer where that is a chunk of it. It is file 0. */
  private sceneOf(edits: readonly Edit[], bin: readonly FilesPiece[]): FilesPiece[] {
    const { text, textAt, isBinary, binary, others } = this.target.doc;
    const own = (span: Span): FilesPiece => ({ file: 0, copy: span });
    const json = planPieces(piecesOf(edits, text.length)).map((p) =>
      'latin1' in p ? p : own([p.copy[0] + textAt, p.copy[1] + textAt]),
    );
    if (isBinary) return glbOfParts(json, [...(binary ? [own(binary)] : []), ...bin], others.map(own));
    return textAt > 0 ? [own([0, textAt]), ...json] : json;
  }

  /** Reads back what is to be written: it is JSON, its lists grew by what came, and every new number points to something. */
  private check(edits: readonly Edit[], merged: Merged): void {
    const { doc } = this.target;
    const json = parseObject(applyPieces(doc.text, piecesOf(edits, doc.text.length)));
    const isRight =
      json !== null &&
      [...merged.added].every(
        ([list, n]) => thingsIn(json, list).length === thingsIn(doc.json, list).length + n,
      );
    if (!isRight) throw notReadBack(this.request.into);
  }

  // ---- what there is to see

  private thingsOf(needs: GltfNeeds): NeededThing[] {
    const { json } = this.source.doc;
    const nameOfKey = (key: string): string => {
      const [list, index] = key.split(' ') as [ListName, string];
      const thing = thingsIn(json, list)[Number(index)];
      // What has no name is called by its file; a texture by its picture.
      const picture = list === 'textures' && thing?.name === undefined ? thing?.source : undefined;
      if (typeof picture === 'number') return nameOfKey(keyOf('images', picture));
      return calledAs(list, thing) ?? nameOrNumber(thing, Number(index), wordOf(list));
    };
    const parents = parentsOf(listIn(json, 'nodes'));
    const nodes = [...needs.nodes].map(([n, how]): NeededThing => {
      const parent = parents.get(n);
      return {
        key: keyOf('nodes', n),
        kind: how === 'whole' ? 'node' : 'joint',
        name: nameOfKey(keyOf('nodes', n)),
        level: how === 'whole' ? 0 : 1,
        neededBy:
          how === 'whole' && parent !== undefined && needs.nodes.has(parent)
            ? [nameOfKey(keyOf('nodes', parent))]
            : [],
        bytes: 0,
      };
    });
    const bytes = bytesBy(json, needs);
    const things = [...needs.things]
      .filter(([, { list }]) => shownLists.has(list))
      .map(([key, t]): NeededThing => ({
        key,
        kind: wordOf(t.list),
        name: t.name,
        level: t.level,
        neededBy: t.neededBy.map(nameOfKey),
        bytes: this.sizes.get(key) ?? bytes.get(key) ?? 0,
      }));
    return [...nodes, ...things].sort((a, b) => a.level - b.level);
  }

  private saidOf(needs: GltfNeeds, all: GltfNeeds): Note[] {
    const said: Note[] = [];
    const counts = new Map<string, number>();
    for (const { list } of needs.things.values())
      if (shownLists.has(list)) counts.set(wordOf(list), (counts.get(wordOf(list)) ?? 0) + 1);
    const bare = [...needs.nodes.values()].filter((h) => h === 'bare').length;
    const parts = [
      count(needs.nodes.size - bare, 'node'),
      ...(bare > 0 ? [count(bare, 'joint')] : []),
      ...[...counts].map(([word, n]) =>
        word === 'mesh' ? `${n} ${n === 1 ? 'mesh' : 'meshes'}` : count(n, word),
      ),
    ];
    said.push({ level: 'info', code: 'comes', message: `What comes along: ${parts.join(', ')}.` });
    for (const { name, left } of needs.cutAnimations)
      said.push({
        level: 'info',
        code: 'cut-animation',
        message: `Of the animation “${name}” comes what moves these nodes; ${count(left, 'channel')} of others ${left === 1 ? 'stays' : 'stay'}.`,
      });
    for (const name of needs.movedAbove)
      said.push({
        level: 'warning',
        code: 'moved-above',
        message: `“${name}” stands above what is carried and is animated: that movement stays behind.`,
      });
    const strange = new Map<string, number>();
    for (const list of all.strange.values())
      for (const { name } of list) strange.set(name, (strange.get(name) ?? 0) + 1);
    const { json } = this.source.doc;
    for (const [name, n] of strange)
      said.push({
        level:
          Array.isArray(json.extensionsRequired) && json.extensionsRequired.includes(name)
            ? 'blocker'
            : 'warning',
        code: 'strange-extension',
        message: `${name} (${count(n, 'place')}) is not known here and holds numbers that may point to other things: it is left out.`,
      });
    return said;
  }
}

/** Bytes of buffers that shown things read themselves; of two that read the same each counts it. */
function bytesBy(json: GltfText['json'], needs: GltfNeeds): Map<string, number> {
  const found = new Map<string, number>();
  const add = (key: string, bytes: number) => found.set(key, (found.get(key) ?? 0) + bytes);
  const owners = (key: string, seen: Set<string>): string[] => {
    const thing = needs.things.get(key);
    if (!thing || seen.has(key)) return [];
    seen.add(key);
    return shownLists.has(thing.list) ? [key] : thing.neededBy.flatMap((k) => owners(k, seen));
  };
  for (const [key, { list, index }] of needs.things) {
    if (list === 'accessors')
      for (const { run } of readBy(json, thingsIn(json, 'accessors')[index]!) ?? [])
        for (const owner of owners(key, new Set())) if (Number.isFinite(run[1])) add(owner, run[1] - run[0]);
    if (list === 'bufferViews' && !needs.runs.has(index)) {
      const { length } = bytesOfView(thingsIn(json, 'bufferViews')[index]!);
      for (const owner of owners(key, new Set())) add(owner, length);
    }
  }
  return found;
}
