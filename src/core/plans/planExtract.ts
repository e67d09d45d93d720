// One file taken apart into the homes of a workspace: a GLB, or a glTF that carries its pictures in its text, and packages (USDZ, ZAE, ZIP).

import {
  foldersFor,
  planPieces,
  putFiles,
  type FilesPiece,
  type Note,
  type PieceFile,
  type Plan,
  type Step,
} from '../changes/plan';
import { closureOf, type Source } from '../collect/closure';
import { homesFor } from '../collect/rules';
import { apartGltf, insideOf as thingsInside, type Inside } from '../convert/apartGltf';
import { thingsIn } from '../documents/gltfPointers';
import { listIn, openGltf, parseObject, type GltfText } from '../documents/gltfText';
import { AppError } from '../errors';
import type { OutsideFiles } from '../files/fileTree';
import { extensionOf, join, nameOf, stemOf, type TreePath } from '../files/treePath';
import { leafOf } from '../formats/leaves';
import { homeOf, type FileKind } from '../layouts/homes';
import { foldName, freeName, legalName, makeLegal } from '../names/portable';
import { Lookup } from '../references/lookup';
import { spell, understand } from '../references/written';
import { outsideTree } from '../files/fileTree';
import { bytes as bytesText, count } from '../text/figures';
import { applyPieces, piecesOf } from '../text/edits';
import { utf8 } from '../text/bytes';
import { carry } from './carrying';
import { FilesBeside, type Both } from './carryNodes';
import {
  gltfFiles,
  lengthOf,
  outsideDoor,
  pictureTypes,
  piecesAt,
  type GltfFiles,
  type Lying,
} from './gltfFiles';
import { openPackage, type PackageFiles } from './packageFiles';
import { planCarry } from './planCarry';
import { foldedNamesIn, type Workspace } from './workspace';
import { notReadBack, placesOf, sceneFrom } from './sceneFrom';

export interface ExtractRequest {
  /** The file, absolute. */
  from: string;
  /** The folder for the scene; null: the home of scenes. Pictures and all else go to their homes. */
  into: TreePath | null;
}

/** Files that are taken apart, by their extensions. */
export const apartForms = ['.glb', '.gltf', '.usdz', '.zae', '.zip'] as const;

/** The plan. */
export async function planExtract(both: Both, request: ExtractRequest): Promise<Plan> {
  const extension = extensionOf(request.from);
  if (extension === '.glb' || extension === '.gltf') return extractGltf(both, request);
  if ((apartForms as readonly string[]).includes(extension)) return extractPackage(both, request);
  throw new AppError(
    'unsupported',
    `${nameOf(request.from)} is not taken apart: known are ${apartForms.join(', ')}.`,
  );
}

/** The home of a kind; in a folder without homes a folder of the kind's usual name. */
const homeIn = ({ file }: Workspace, kind: FileKind): TreePath =>
  homeOf(kind, homesFor(file.homes)) as TreePath;

const sizesNote = (before: number, made: readonly Step[]): Note => {
  const puts = made.filter((s) => s.do === 'put');
  const size = puts.reduce((sum, s) => sum + s.size, 0);
  return {
    level: 'info',
    code: 'sizes',
    message: `One file of ${bytesText(before)} becomes ${count(puts.length, 'file')} of ${bytesText(size)}.`,
  };
};

// ---- glTF

async function extractGltf({ source, target }: Both, { from, into }: ExtractRequest): Promise<Plan> {
  const { closure, scene } = await sceneFrom(source, from);
  const { outside } = source;
  const doc = await openGltf(scene.state.size, (range) => outside.read(from, range));
  if ('refused' in doc) throw new AppError('unsupported', `${nameOf(from)}: ${doc.refused}`);
  const places = placesOf(source, scene);
  const side = gltfFiles(doc, from, scene.state.size, outsideDoor(outside), places);
  const inside = thingsInside(doc.json);
  const notes: Note[] = [];
  if (inside.length === 0 && !doc.isBinary)
    throw new AppError('bad-request', `Nothing lies inside ${nameOf(from)} that could be taken out.`);
  const folder = into ?? homeIn(target, 'scene');
  const taken = await foldedNamesIn(target.tree, folder);
  const name = freeName(legalName(`${stemOf(from)}.gltf`), (n) => taken.has(foldName(n)));
  const path = join(folder, name);
  const beside = new FilesBeside(target, path);
  const uris: string[] = [];
  const byView = new Map<number, string>();
  for (const thing of inside) {
    const known = thing.view === null ? undefined : byView.get(thing.view);
    if (known !== undefined) {
      uris.push(known);
      continue;
    }
    const lying = await side.lying(thing.list, thing.index);
    if (!lying) throw new AppError('unsupported', `${nameOf(from)}: a part of it is not where it says.`);
    uris.push(beside.written(await fileFor(target, side, thing, lying, beside, notes, from), 'uri'));
    if (thing.view !== null) byView.set(thing.view, uris.at(-1)!);
  }
  // What lies beside it already is named from the new place, or comes along.
  const bufferName = doc.binary
    ? freeName(legalName(`${stemOf(name)}.bin`), (n) => taken.has(foldName(n)))
    : null;
  const apart = apartGltf(doc, inside, uris, bufferName === null ? null : spell(bufferName, 'uri', ''));
  const edits = [...apart.edits];
  for (const r of scene.references ?? []) {
    const at = places.get(r.at);
    // A path that is not measured from the scene leads there still; what may be a path or not is left as it is.
    if (at === undefined || !r.span || r.uncertain || understand(r.written, 'uri').form !== 'relative')
      continue;
    const to = await beside.file(at, r.kind === 'texture' ? homeIn(target, 'texture') : folder, notes);
    const bytes = utf8(JSON.stringify(beside.written(to, 'uri')).slice(1, -1));
    edits.push({ span: [r.span[0] - doc.textAt, r.span[1] - doc.textAt], bytes });
  }
  for (const s of apart.strange)
    notes.push({
      level: 'warning',
      code: 'stays',
      message: `${s} may count the parts of the buffer: the bytes of pictures stay in it as well.`,
      path: from,
    });
  for (const [a, b] of doc.others)
    notes.push({
      level: 'warning',
      code: 'other-chunks',
      message: `${b - a - 8} bytes in a chunk of another kind have no place in the text form; they stay in ${nameOf(from)}.`,
      path: from,
    });
  const json = piecesOf(edits, doc.text.length);
  const steps: Step[] = [...beside.steps];
  const own: PieceFile = { path: from, state: scene.state, outside: true };
  if (bufferName !== null && apart.length > 0) {
    const pieces = apart.stays.map(([a, b]): FilesPiece => ({
      file: 0,
      copy: [a + doc.binary![0], b + doc.binary![0]],
    }));
    await addFolders(target, join(folder, bufferName), steps);
    steps.push(putFiles(join(folder, bufferName), [own], pieces));
  }
  await addFolders(target, path, steps);
  const text = applyPieces(doc.text, json);
  checkApart(text, doc, from);
  const pieces = planPieces(json).map((p): FilesPiece =>
    'latin1' in p ? p : { file: 0, copy: [p.copy[0] + doc.textAt, p.copy[1] + doc.textAt] },
  );
  steps.push(putFiles(path, [own], pieces));
  return {
    kind: 'extract',
    title: `Take ${nameOf(from)} apart`,
    steps,
    notes: [sizesNote(scene.state.size, steps), ...notes, ...closure.notes],
    paths: [],
    readiness: null,
  };
}

async function addFolders({ tree }: Workspace, path: TreePath, steps: Step[]): Promise<void> {
  for (const step of foldersFor(path, (f) => steps.some((s) => s.do === 'make-folder' && s.path === f)))
    if ((await tree.kind(step.path)) === null) steps.push(step);
}

/** What is written reads back, and says as many things as before. */
function checkApart(text: Uint8Array, doc: GltfText, from: string): void {
  const now = parseObject(text) ?? {};
  for (const list of ['nodes', 'meshes', 'accessors', 'images', 'materials'] as const)
    if (thingsIn(now, list).length !== thingsIn(doc.json, list).length) throw notReadBack(from);
}

/** Where a thing's bytes go: a file with the name it had, else its own, else that of its material and use. */
async function fileFor(
  target: Workspace,
  side: GltfFiles,
  thing: Inside,
  lying: Lying,
  beside: FilesBeside,
  notes: Note[],
  from: string,
): Promise<string> {
  const { json } = side.doc;
  const type = pictureTypes[leafOf(await side.read(lying, [0, 64]))?.format ?? ''];
  const was = thing.was === null ? null : understand(thing.was, 'uri');
  const file = was && 'path' in was ? nameOf(was.path) : null;
  const said = thingsIn(json, thing.list)[thing.index]!.name;
  const bare =
    file ??
    (typeof said === 'string' && said !== '' ? said : calledByUse(json, thing)) ??
    `${stemOf(from)}_${thing.index}`;
  const extension = type?.[1] ?? (file === null ? '.bin' : extensionOf(file));
  const stem = bare.replace(/\.(?:png|jpe?g|webp|ktx2|dds|avif|gif|bmp|tga|wav|mp3|ies)$/i, '');
  const kept = file !== null && sameKind(extensionOf(file), extension) ? file : `${stem}${extension}`;
  const kind: FileKind =
    thing.list === 'images' ? 'texture' : /audio|clips/.test(thing.list) ? 'audio' : 'other';
  const files: PieceFile[] = [];
  const pieces = await piecesAt(side.door, lying, files);
  const content = async () => {
    const hash = target.tree.startHash();
    hash.update(await side.read(lying));
    return hash.digest();
  };
  return beside.pieces(
    homeIn(target, kind),
    makeLegal(kept),
    { files, pieces, size: lengthOf(lying) },
    content,
    notes,
  );
}

const sameKind = (a: string, b: string) => a === b || (/^\.jpe?g$/.test(a) && /^\.jpe?g$/.test(b));

const slotNames: Readonly<Record<string, string>> = {
  baseColorTexture: 'colour',
  metallicRoughnessTexture: 'metal_rough',
  normalTexture: 'normal',
  occlusionTexture: 'occlusion',
  emissiveTexture: 'emission',
};

/** 'brass_normal': the material a picture is on, and how; null: none uses it. */
function calledByUse(json: GltfText['json'], { list, index }: Inside): string | null {
  if (list !== 'images') return null;
  const textures = listIn(json, 'textures').flatMap((t, n) =>
    JSON.stringify(t).includes(`"source":${index}`) ? [n] : [],
  );
  for (const [n, material] of listIn(json, 'materials').entries()) {
    const found = slotOf(material, textures);
    if (found === null) continue;
    const name = typeof material.name === 'string' && material.name !== '' ? material.name : `material_${n}`;
    return `${name}_${slotNames[found] ?? found.replace(/Texture$/, '')}`;
  }
  return null;
}

function slotOf(value: unknown, textures: readonly number[]): string | null {
  if (typeof value !== 'object' || value === null) return null;
  for (const [key, inner] of Object.entries(value)) {
    const index: unknown = (inner as { index?: unknown } | null)?.index;
    if (/Texture$/.test(key) && typeof index === 'number' && textures.includes(index)) return key;
    const deeper = slotOf(inner, textures);
    if (deeper !== null) return deeper;
  }
  return null;
}

// ---- packages

async function extractPackage({ source, target }: Both, { from }: ExtractRequest): Promise<Plan> {
  const pack = await openPackage(source.outside, from, () => target.tree.startHash());
  const inner = sourceIn(pack);
  const closure = await closureOf(inner, { chosen: pack.files });
  const carrying = await carry(target, inner, closure, { flat: true, clash: 'both' });
  const plan = await planCarry(target, closure, carrying, nameOf(from));
  const steps = await Promise.all(plan.steps.map((s) => pack.step(s)));
  const size = (await source.outside.stat(from))?.size ?? 0;
  return {
    ...plan,
    kind: 'extract',
    title: `Take ${nameOf(from)} apart`,
    steps,
    notes: [sizesNote(size, steps), ...plan.notes],
  };
}

/** A package as a place where scenes are read. */
function sourceIn({ root, outside }: PackageFiles): Source {
  const seen: OutsideFiles = outside;
  return {
    root,
    outside: seen,
    setting: {
      root,
      lookup: new Lookup(outsideTree(seen, root), root),
      outside: seen,
      libraries: [],
      places: [],
    },
    homes: {},
  };
}
