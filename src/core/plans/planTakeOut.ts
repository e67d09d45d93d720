// What many scenes carry inside them, out of them and beside them: once, for all of them.

import { foldersFor, planPieces, type Note, type Plan, type Step } from '../changes/plan';
import { takeGeometry, takePicture, type TakenOut } from '../convert/takeOut';
import { AppError } from '../errors';
import { extensionOf, folderOf, join, nameOf, relativePath, type TreePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { leafOf } from '../formats/leaves';
import { homeOf } from '../layouts/homes';
import { foldName, freeName, makeLegal } from '../names/portable';
import { spell } from '../references/written';
import { partsOf, type Part } from '../repeats/parts';
import { bytes as bytesText, count } from '../text/figures';
import { sizeOfPieces } from '../text/edits';
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

/** The plan that puts a part into a file of its own, and makes the scenes name it. */
export async function planTakeOut(workspace: Workspace, { scenes, digest }: TakeOutRequest): Promise<Plan> {
  const { tree } = workspace;
  const steps: Step[] = [];
  const notes: Note[] = [];
  let file: { path: TreePath; name: string; size: number } | null = null;
  let saved = 0;
  const unable = (path: TreePath, message: string) =>
    notes.push({ level: 'warning', code: 'stays', message: `${path}: ${message}`, path });
  for (const path of scenes) {
    const state = await stateOf(tree, path);
    if (!state) {
      unable(path, 'It is not there any more.');
      continue;
    }
    if (formatOfName(path)?.id !== 'glb') {
      unable(path, 'Only what lies in the binary chunk of a GLB is taken out; write the scene as GLB first.');
      continue;
    }
    const bytes = await tree.read(path);
    const part = (await partsOf('glb', bytes)).find((p) => digestOf(workspace, p) === digest);
    if (!part) {
      unable(path, 'It is not in there any more, or not the same.');
      continue;
    }
    const isNew = file === null;
    file ??= { ...(await placeFor(workspace, path, part, digest)), size: part.size };
    const uri = spell(relativePath(folderOf(path), file.path), 'uri', '');
    const taken =
      part.image === undefined ? takeGeometry(bytes, part.views!, uri) : takePicture(bytes, part.image, uri);
    if ('refused' in taken) {
      if (isNew) file = null;
      unable(path, `${taken.refused} It stays inside.`);
      continue;
    }
    const put = (
      at: TreePath,
      before: Awaited<ReturnType<typeof stateOf>>,
      pieces: TakenOut['scene'],
    ): Step => ({
      do: 'put',
      path: at,
      before,
      size: sizeOfPieces(pieces),
      modified: null,
      from: { from: 'tree', path, state, pieces: planPieces(pieces) },
    });
    if (isNew && (await tree.kind(file.path)) === null)
      steps.unshift(...(await missingFolders(tree, file.path)), put(file.path, null, taken.file));
    const scene = put(path, state, taken.scene);
    saved += state.size - (scene.do === 'put' ? scene.size : 0);
    steps.push(scene);
  }
  const changed = steps.filter((s) => s.do === 'put' && s.before !== null).length;
  if (file)
    notes.unshift({
      level: 'info',
      code: 'lighter',
      message: `${count(changed, 'scene')} ${changed === 1 ? 'becomes' : 'become'} ${bytesText(saved)} lighter, and from then on ${changed === 1 ? 'needs' : 'need'} ${file.path}.`,
    });
  if (file && !extensionOf(file.path).match(/png|jpg|webp|ktx2|dds|gif/))
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

async function missingFolders(tree: Workspace['tree'], path: TreePath): Promise<Step[]> {
  const missing: Step[] = [];
  for (const step of foldersFor(path, () => false))
    if ((await tree.kind(step.path)) === null) missing.push(step);
  return missing;
}

/** The id of a part's bytes. */
export function digestOf({ tree }: Pick<Workspace, 'tree'>, part: Pick<Part, 'bytes'>): string {
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
  const extension = isPicture ? (extensions[format ?? ''] ?? '') : '.bin';
  if (isPicture && extension === '')
    throw new AppError(
      'unsupported',
      `What “${part.name}” is cannot be told: it is no picture of a known kind.`,
    );
  const bare = part.name.replace(/\.(?:png|jpe?g|webp|ktx2|dds|gif)$/i, '');
  const name = makeLegal(`${bare}${extension}`);
  const there = join(folder, name);
  // A picture's file holds its bytes alone, so the same one can be named again.
  if (isPicture && (await tree.kind(there)) === 'file' && (await tree.digest(there)) === digest)
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
