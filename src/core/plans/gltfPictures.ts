// Pictures, sounds and light profiles that come along with a part of a glTF: as files that are there or are put, or as bytes inside the scene.

import type { Note, PieceFile } from '../changes/plan';
import { holdingLists, thingsIn } from '../documents/gltfPointers';
import { listIn } from '../documents/gltfText';
import { stemOf, type TreePath } from '../files/treePath';
import { leafOf } from '../formats/leaves';
import { makeLegal } from '../names/portable';
import type { Holding } from '../nodes/gltfBytes';
import { calledAs } from '../nodes/gltfClashes';
import { wordOf, type GltfNeeds, type Stops } from '../nodes/gltfNeeds';
import { pictureFolder, type CarryNodesRequest, type FilesBeside } from './carryNodes';
import { lengthOf, pictureTypes, piecesAt, type GltfFiles, type Lying } from './gltfFiles';
import type { Workspace } from './workspace';

/** How one is held in the target, and where its bytes lie that go inside. */
export interface Blob {
  holding: Holding;
  lying: Lying | null;
}

export class GltfPictures {
  /** Of all that come along, by key, in bytes. */
  readonly sizes = new Map<string, number>();

  /** `from`: the scene they are taken from; `into`: the one they come into, which is `there`. `own`: pictures that it names, as tree paths. */
  constructor(
    private readonly target: Workspace,
    private readonly source: GltfFiles,
    private readonly there: GltfFiles,
    private readonly own: readonly string[],
    private readonly beside: FilesBeside,
    private readonly notes: Note[],
    { from, into, pictures }: CarryNodesRequest,
  ) {
    this.from = from;
    this.into = into;
    this.how = pictures;
  }

  private readonly from: string;
  private readonly into: TreePath;
  private readonly how: CarryNodesRequest['pictures'];

  private get isInside(): boolean {
    if (this.how !== 'as-there') return this.how === 'inside';
    const { json, isBinary } = this.there.doc;
    const images = listIn(json, 'images');
    const inside = images.filter((i) => i.bufferView !== undefined || /^data:/i.test(String(i.uri))).length;
    return images.length === 0 ? isBinary : inside * 2 > images.length;
  }

  /** Pictures, sounds and profiles that come along: as files that are there or are put, or as bytes for the buffer. */
  async of(needs: GltfNeeds, stops: Stops): Promise<Map<string, Blob>> {
    const found = new Map<string, Blob>();
    const folder = pictureFolder(this.target, this.into, this.own);
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
            message: `${written} is missing, or may not be read: it stays as it is written.`,
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
      const hash = this.target.tree.startHash();
      hash.update(await this.source.read(lying));
      return hash.digest();
    };
    const files: PieceFile[] = [];
    const pieces = await piecesAt(this.source.door, lying, files);
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
      : `${stemOf(this.from)}_${wordOf(thing!.list)}`;
  }
}
