// A part of a glTF into another, text or GLB: the plan. Only the JSON of both is read, and where names clash what they hold.

import {
  putFiles,
  sizeOfWritten,
  planPieces,
  type FilesPiece,
  type Note,
  type PieceFile,
  type Step,
} from '../changes/plan';
import { thingsIn } from '../documents/gltfPointers';
import { listIn, openGltf, parseObject } from '../documents/gltfText';
import { toBase64 } from '../documents/gltfFile';
import { withItems } from '../documents/jsonEdits';
import { placeOf, withMember } from '../documents/jsonPlaces';
import { AppError } from '../errors';
import { folderOf, nameOf, stemOf, type TreePath } from '../files/treePath';
import { makeLegal } from '../names/portable';
import { gltfClashes, type GltfSide } from '../nodes/gltfClashes';
import type { Carried } from '../nodes/gltfBytes';
import { gltfMerge, type Merged } from '../nodes/gltfMerge';
import { gltfNeeds, readBy, type Stops } from '../nodes/gltfNeeds';
import { nameOrNumber } from '../nodes/gltfTree';
import type { Span } from '../problem';
import { filesOf } from '../references/scan';
import { bytesOfText, concat } from '../text/bytes';
import { count } from '../text/figures';
import { applyPieces, piecesOf, type Edit } from '../text/edits';
import {
  clashNotes,
  FilesBeside,
  sceneState,
  type Both,
  type CarryNodesRequest,
  type NodesCarried,
} from './carryNodes';
import {
  glbOfParts,
  gltfFiles,
  outsideDoor,
  piecesAt,
  treeDoor,
  type Door,
  type GltfFiles,
  type Lying,
} from './gltfFiles';
import { GltfPictures } from './gltfPictures';
import { notesTold, thingsTold } from './gltfTold';
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
    const pictures = new GltfPictures(
      both.target,
      this.source,
      this.target,
      this.targetFiles,
      this.beside,
      notes,
      request,
    );
    const blobs = await pictures.of(needs, stops);
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
      ...notesTold(doc.json, needs, all),
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
      things: thingsTold(doc.json, all, pictures.sizes),
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
        const bytes = bytesOfText(String(merged.length));
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
}
