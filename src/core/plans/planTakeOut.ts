// What many scenes carry inside them, out of them and beside them: once, for all of them.

import {
  foldersFor,
  planPieces,
  type FileState,
  type Note,
  type Plan,
  type Source,
  type Step,
} from '../changes/plan';
import type { Refusal } from '../documents/gltfText';
import { made, type Making } from '../convert/made';
import { takeDataPicture, takeGeometry, takePicture, type TakenOut } from '../convert/takeOut';
import { takePrim } from '../convert/takePrim';
import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import { extensionOf, folderOf, join, nameOf, relativePath, type TreePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { leafOf } from '../formats/leaves';
import { homeOf } from '../layouts/homes';
import { foldName, freeName, makeLegal } from '../names/portable';
import { spell } from '../references/written';
import { partsOf, type Part } from '../repeats/parts';
import { bytes as bytesText, count } from '../text/figures';
import { applyPieces, sizeOfPieces, type Piece } from '../text/edits';
import { filesOf } from '../references/scan';
import { SceneSet } from './sceneSet';
import { foldedNamesIn, stateOf, type Workspace } from './workspace';

export interface TakeOutRequest {
  /** Scenes that carry it. */
  scenes: readonly TreePath[];
  /** Id of the bytes that are to be taken out. */
  digest: string;
}

const extensions: Record<string, string> = {
  PNG: '.png',
  JPEG: '.jpg',
  WebP: '.webp',
  'KTX 2': '.ktx2',
  DDS: '.dds',
  GIF: '.gif',
};

/** What a part becomes: the scene without it, and its file. */
interface Apart {
  scene: readonly Piece[];
  file: { pieces: readonly Piece[] } | { making: Making };
}

/** How the part of a scene is taken out; `at`: the file it goes to. */
type Take = (at: TreePath) => Apart | Refusal;

/** The plan that puts a part into a file of its own, and makes the scenes name it. */
export async function planTakeOut(workspace: Workspace, { scenes, digest }: TakeOutRequest): Promise<Plan> {
  const { tree } = workspace;
  const steps: Step[] = [];
  const notes: Note[] = [];
  let file: { path: TreePath; name: string; digest: Digest } | null = null;
  let saved = 0;
  const unable = (path: TreePath, message: string) =>
    notes.push({ level: 'warning', code: 'stays', message: `${path}: ${message}`, path });
  const layered = scenes.some((p) => formatOfName(p)?.id === 'usda') ? await sublayersOf(workspace) : null;
  for (const path of scenes) {
    const state = await stateOf(tree, path);
    const format = formatOfName(path)?.id;
    if (!state) {
      unable(path, 'It is not there any more.');
      continue;
    }
    if (format !== 'glb' && format !== 'gltf' && format !== 'usda') {
      unable(path, 'From this format nothing is taken out.');
      continue;
    }
    if (layered?.has(path)) {
      unable(
        path,
        `${layered.get(path)!} has it as a sublayer: what is taken out would count for less there. It stays inside.`,
      );
      continue;
    }
    const bytes = await tree.read(path);
    const part = (await partsOf(format, bytes)).find((p) => digestOf(workspace, p) === digest);
    if (!part) {
      unable(path, 'It is not in there any more, or not the same.');
      continue;
    }
    const take = takeOf(format, path, bytes, part);
    // What it becomes does not hang on where it goes, but for how the scene names it.
    const first = 'refused' in take ? take : take(file?.path ?? folderOf(path));
    const content = 'refused' in first ? first : await contentOf(bytes, first);
    if ('refused' in content) {
      unable(path, `${content.refused} It stays inside.`);
      continue;
    }
    const id = digestOf(workspace, { bytes: [content] });
    if (file && file.digest !== id) {
      unable(
        path,
        'There it is measured by other units or frames a second, and would be another file. It stays inside.',
      );
      continue;
    }
    const isNew = file === null;
    file ??= { ...(await placeFor(workspace, path, part, id)), digest: id };
    const apart = isNew ? ((take as Take)(file.path) as Apart) : (first as Apart);
    const put = (at: TreePath, before: FileState | null, size: number, from: Source): Step => ({
      do: 'put',
      path: at,
      before,
      size,
      modified: null,
      from,
    });
    if (isNew && (await tree.kind(file.path)) === null)
      steps.unshift(
        ...(await missingFolders(tree, file.path)),
        put(
          file.path,
          null,
          content.length,
          'making' in apart.file
            ? { from: 'made', path, state, making: apart.file.making, digest: id }
            : { from: 'tree', path, state, pieces: planPieces(apart.file.pieces) },
        ),
      );
    const size = sizeOfPieces(apart.scene);
    saved += state.size - size;
    steps.push(put(path, state, size, { from: 'tree', path, state, pieces: planPieces(apart.scene) }));
  }
  const changed = steps.filter((s) => s.do === 'put' && s.before !== null).length;
  if (file)
    notes.unshift({
      level: 'info',
      code: 'lighter',
      message: `${count(changed, 'scene')} ${changed === 1 ? 'becomes' : 'become'} ${bytesText(saved)} lighter, and from then on ${changed === 1 ? 'needs' : 'need'} ${file.path}.`,
    });
  if (file && extensionOf(file.path) === '.bin')
    notes.push({
      level: 'info',
      code: 'geometry-beside',
      message:
        'Not every program opens a GLB whose geometry lies beside it: open one before the next save. It can be undone.',
    });
  return {
    kind: 'take-out',
    title: file ? `Take “${file.name}” out of ${count(changed, 'scene')}` : 'Take nothing out',
    steps,
    notes,
    paths: [],
    readiness: null,
  };
}

function takeOf(
  format: 'glb' | 'gltf' | 'usda',
  scene: TreePath,
  bytes: Uint8Array,
  part: Part,
): Take | Refusal {
  const uri = (at: TreePath) => spell(relativePath(folderOf(scene), at), 'uri', '');
  const pieces = (taken: TakenOut | Refusal): Apart | Refusal =>
    'refused' in taken ? taken : { scene: taken.scene, file: { pieces: taken.file } };
  if (part.prim)
    return (at) => {
      const name = nameOf(at);
      return pieces(
        takePrim(
          bytes,
          part.prim!.span,
          part.prim!.path,
          name.includes('@') ? `@@@./${name}@@@` : `@./${name}@`,
        ),
      );
    };
  if (format === 'glb' && part.image !== undefined)
    return (at) => pieces(takePicture(bytes, part.image!, uri(at)));
  if (format === 'glb') return (at) => pieces(takeGeometry(bytes, part.views!, uri(at)));
  if (part.image === undefined || part.views?.length)
    return { refused: 'From a glTF in text only pictures are taken out; write the scene as GLB first.' };
  return (at) => {
    const taken = takeDataPicture(bytes, part.image!, uri(at));
    return 'refused' in taken
      ? taken
      : { scene: taken.scene, file: { making: { form: 'base64', span: taken.base64 } } };
  };
}

/** The bytes of the file that a part becomes. */
async function contentOf(bytes: Uint8Array, { file }: Apart): Promise<Uint8Array | Refusal> {
  return 'pieces' in file
    ? applyPieces(bytes, file.pieces)
    : made(file.making, bytes.subarray(...(file.making.span ?? [0, bytes.length])));
}

/** Scenes that others have as a sublayer, each with one of those. */
async function sublayersOf(workspace: Workspace): Promise<Map<string, TreePath>> {
  const found = new Map<string, TreePath>();
  for await (const scene of (await SceneSet.of(workspace)).each())
    for (const r of scene.references)
      if (/^subLayers\b/.test(r.at)) for (const file of filesOf(r)) found.set(file, scene.path);
  return found;
}

async function missingFolders(tree: Workspace['tree'], path: TreePath): Promise<Step[]> {
  const missing: Step[] = [];
  for (const step of foldersFor(path, () => false))
    if ((await tree.kind(step.path)) === null) missing.push(step);
  return missing;
}

/** The id of a part's bytes. */
export function digestOf({ tree }: Pick<Workspace, 'tree'>, part: Pick<Part, 'bytes'>): Digest {
  const hash = tree.startHash();
  for (const bytes of part.bytes) hash.update(bytes);
  return hash.digest();
}

/** Where it is to lie: a picture with the textures, geometry beside its scene; the same file where that is there already. */
async function placeFor(
  { tree, file }: Workspace,
  scene: TreePath,
  part: Part,
  digest: string,
): Promise<{ path: TreePath; name: string }> {
  const isPicture = part.image !== undefined;
  const home = file.homes.texture;
  const folder = isPicture
    ? ((home === undefined ? folderOf(scene) : homeOf('texture', file.homes)) as TreePath)
    : folderOf(scene);
  const format = isPicture ? leafOf(part.bytes[0]!)?.format : undefined;
  const extension = isPicture ? (extensions[format ?? ''] ?? '') : part.prim ? '.usda' : '.bin';
  if (isPicture && extension === '')
    throw new AppError(
      'unsupported',
      `What “${part.name}” is cannot be told: it is no picture of a known kind.`,
    );
  const bare = part.name.replace(/\.(?:png|jpe?g|webp|ktx2|dds|gif)$/i, '');
  const name = makeLegal(`${bare}${extension}`);
  const there = join(folder, name);
  // The same file can be named again.
  if (
    (isPicture || part.prim) &&
    (await tree.kind(there)) === 'file' &&
    (await tree.digest(there)) === digest
  )
    return { path: there, name: nameOf(there) };
  const names = await foldedNamesIn(tree, folder);
  return {
    path: join(
      folder,
      freeName(name, (n) => names.has(foldName(n))),
    ),
    name,
  };
}
