// A scene in another form of its format: glTF in JSON ↔ GLB, PLY in text and in binary, COLLADA and USD as a package and apart, USD crate in text, X3D in XML and in its classic form. The file stays; a new one comes beside it, and references follow where that is wanted.

import {
  planPieces,
  putFiles,
  type FilesPiece,
  type Note,
  type PathChange,
  type Plan,
  type Step,
} from '../changes/plan';
import { glbOf, gltfOf } from '../convert/glb';
import type { Refusal } from '../documents/gltfText';
import { made, type Making } from '../convert/made';
import { readPlyHead } from '../convert/ply';
import { AppError } from '../errors';
import { extensionOf, folderOf, join, joinInside, nameOf, stemOf, type TreePath } from '../files/treePath';
import { latin1 } from '../text/bytes';
import { filesOf } from '../references/scan';
import { spell, understand } from '../references/written';
import { sizeOfPieces } from '../text/edits';
import { writtenRelative } from './rewrite';
import { fromPackage, toPackage } from './packages';
import { SceneSet } from './sceneSet';
import { foldedNamesIn, stateOf, type Workspace } from './workspace';
import { foldName, freeName } from '../names/portable';

export interface ConvertRequest {
  path: TreePath;
  to: TreePath;
  /** Whether references to the file shall lead to the new one. */
  follow: boolean;
  /** Of a PLY: the form that is wanted. */
  as?: 'ascii' | 'little' | 'big' | undefined;
}

/** The plan that writes a scene in the form that `to` tells by its extension. */
export async function planConvert(workspace: Workspace, request: ConvertRequest): Promise<Plan> {
  const { path, to } = request;
  if (folderOf(path) !== folderOf(to))
    throw new AppError('bad-request', `${to} has to lie beside ${path}: the paths in it stay as they are.`);
  const notes: Note[] = [];
  if ((await workspace.tree.kind(to)) !== null)
    notes.push({ level: 'blocker', code: 'in-the-way', message: `${to} is there already.`, path: to });
  const steps = await stepsOf(workspace, request, notes);
  const followed = request.follow ? await follow(workspace, request) : null;
  return {
    kind: 'convert',
    title: `Write ${nameOf(path)} as ${nameOf(to)}`,
    steps: [...steps, ...(followed?.steps ?? [])],
    notes: [...notes, ...(followed?.notes ?? [])],
    paths: followed?.paths ?? [],
    readiness: null,
    ...(followed ? { basis: followed.basis } : {}),
  };
}

const known =
  '.gltf ↔ .glb, .ply in each of its three forms, .dae ↔ .zae, .usda and .usdc ↔ .usdz, .usdc → .usda, .x3d ↔ .x3dv';

function stepsOf(workspace: Workspace, request: ConvertRequest, notes: Note[]): Promise<Step[]> {
  const { path, to } = request;
  const way = `${extensionOf(path)} ${extensionOf(to)}`;
  if (way === '.gltf .glb') return toBinary(workspace, request, notes);
  if (way === '.glb .gltf') return toText(workspace, request, notes);
  if (way === '.ply .ply') return otherPly(workspace, request);
  if (/^\.usdc? \.usda$/.test(way)) return otherForm(workspace, request, () => 'usd-text');
  if (way === '.x3d .x3dv') return toClassic(workspace, request, notes);
  if (way === '.x3dv .x3d') return otherForm(workspace, request, () => 'x3d-xml');
  if (/^\.dae \.zae$|^\.usd[ac]? \.usdz$/.test(way)) return toPackage(workspace, request, notes);
  if (way === '.zae .dae' || /^\.usdz \.usd[ac]?$/.test(way)) return fromPackage(workspace, request, notes);
  throw new AppError(
    'unsupported',
    `${nameOf(path)} cannot be written as ${extensionOf(to) || 'that'}: known are ${known}.`,
  );
}

const plyMakings = { ascii: 'ply-ascii', little: 'ply-little', big: 'ply-big' } as const;

/** A PLY in the form that is asked for; else text in little-endian binary, and binary in text. */
function otherPly(workspace: Workspace, request: ConvertRequest): Promise<Step[]> {
  return otherForm(workspace, request, (path, bytes) => {
    const head = readPlyHead(bytes);
    if (isRefusal(head)) refuse(path, head);
    return plyMakings[request.as ?? (head.form === 'ascii' ? 'little' : 'ascii')];
  });
}

/** X3D in its classic form, and what only XML has. */
async function toClassic(workspace: Workspace, request: ConvertRequest, notes: Note[]): Promise<Step[]> {
  const { classicOf } = await import('../convert/x3d/convert');
  return otherForm(workspace, request, (path, bytes) => {
    const classic = classicOf(bytes);
    const left = 'left' in classic ? classic.left : [];
    if (left.length > 0)
      notes.push({
        level: 'warning',
        code: 'not-taken',
        message: `Only XML has a place for ${left.length === 1 ? '' : `${left.length} attributes: `}${left.slice(0, 10).join(', ')}${left.length > 10 ? ' …' : ''}: not in the new file.`,
        path,
      });
    return 'x3d-classic';
  });
}

/** The step that writes what a rule makes of the file. */
async function otherForm(
  { tree }: Workspace,
  { path, to }: ConvertRequest,
  formOf: (path: TreePath, bytes: Uint8Array) => Making['form'],
): Promise<Step[]> {
  const state = await stateOf(tree, path);
  if (!state) throw new AppError('not-found', `${path} is not there.`);
  if (state.size > mostMade) throw new AppError('unsupported', `${path} is too large to be converted here.`);
  const bytes = await tree.read(path);
  const form = formOf(path, bytes);
  const content = await made({ form }, bytes);
  if (isRefusal(content)) refuse(path, content);
  const hash = tree.startHash();
  hash.update(content);
  return [
    {
      do: 'put',
      path: to,
      before: null,
      size: content.length,
      modified: null,
      from: { from: 'made', path, state, making: { form }, digest: hash.digest() },
    },
  ];
}

const mostMade = 512 * 1024 * 1024;

const isRefusal = (x: object): x is Refusal => 'refused' in x;

function refuse(path: string, { refused }: Refusal): never {
  throw new AppError('unsupported', `${path} cannot be converted. ${refused}`);
}

async function toBinary({ tree }: Workspace, { path, to }: ConvertRequest, notes: Note[]): Promise<Step[]> {
  const state = await stateOf(tree, path);
  if (!state) throw new AppError('not-found', `${path} is not there.`);
  const made = glbOf(await tree.read(path));
  if (isRefusal(made)) refuse(path, made);
  const files = [{ path, state }];
  const pieces: FilesPiece[] = [
    { latin1: latin1(made.head) },
    ...planPieces(made.json).map((p): FilesPiece => ('copy' in p ? { file: 0, copy: p.copy } : p)),
    { latin1: latin1(made.between) },
  ];
  if (made.from && 'uri' in made.from) {
    const at = bufferAt(path, made.from.uri);
    const buffer = at && (await stateOf(tree, at));
    if (!at || !buffer)
      throw new AppError(
        'not-found',
        `Its buffer ${made.from.uri} is not there; without it nothing is written.`,
      );
    if (buffer.size < made.byteLength)
      throw new AppError('unsupported', `Its buffer ${at} is shorter than the scene says.`);
    if (buffer.size > made.byteLength)
      notes.push({
        level: 'info',
        code: 'behind-the-end',
        message: `${buffer.size - made.byteLength} bytes behind the end of ${at} belong to nothing; they are left out.`,
        path: at,
      });
    files.push({ path: at, state: buffer });
    pieces.push({ file: 1, copy: [0, made.byteLength] });
  } else if (made.from) pieces.push({ latin1: latin1(made.from.bytes) });
  if (made.padding > 0) pieces.push({ latin1: '\0'.repeat(made.padding) });
  return [putFiles(to, files, pieces)];
}

function bufferAt(scene: TreePath, uri: string): TreePath | null {
  const understood = understand(uri, 'uri');
  return understood.form === 'relative' ? joinInside(folderOf(scene), understood.path) : null;
}

async function toText({ tree }: Workspace, { path, to }: ConvertRequest, notes: Note[]): Promise<Step[]> {
  const state = await stateOf(tree, path);
  if (!state) throw new AppError('not-found', `${path} is not there.`);
  const names = await foldedNamesIn(tree, folderOf(path));
  const name = freeName(`${stemOf(to)}.bin`, (n) => names.has(foldName(n)));
  const made = await gltfOf(state.size, (range) => tree.read(path, range), spell(name, 'uri', ''));
  if (isRefusal(made)) refuse(path, made);
  if (made.otherChunks > 0)
    notes.push({
      level: 'warning',
      code: 'other-chunks',
      message: `${made.otherChunks} bytes in chunks of other kinds have no place in the text form; they stay in ${nameOf(path)}.`,
      path,
    });
  const steps: Step[] = [];
  const put = (at: TreePath, size: number, pieces: ReturnType<typeof planPieces>): Step => ({
    do: 'put',
    path: at,
    before: null,
    size,
    modified: null,
    from: { from: 'tree', path, state, pieces },
  });
  if (made.buffer) {
    const at = join(folderOf(to), name);
    steps.push(put(at, made.buffer[1] - made.buffer[0], [{ copy: made.buffer }]));
  }
  steps.push(put(to, sizeOfPieces(made.json), planPieces(made.json)));
  return steps;
}

/** Points every reference to the file to the new one. */
async function follow(workspace: Workspace, { path, to }: ConvertRequest) {
  const scenes = await SceneSet.of(workspace);
  const steps: Step[] = [];
  const paths: PathChange[] = [];
  const notes: Note[] = [];
  for await (const scene of scenes.each()) {
    if (scene.path === path) continue;
    const wishes = scene.references
      .filter((r) => filesOf(r).includes(path))
      .map((reference) => ({
        reference,
        written: writtenRelative(scene.reading, scene.path, to, reference),
      }));
    if (wishes.length === 0) continue;
    const done = await scenes.rewriteStep(scene, wishes);
    if (done.step) steps.push(done.step);
    paths.push(...done.paths);
    notes.push(...done.notes);
  }
  notes.push(...scenes.notes('warning', 'If it names the file, it goes on naming the old one.'));
  return { steps, paths, notes, basis: scenes.basis() };
}
