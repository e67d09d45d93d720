// Elements of a MaterialX document, with what they stand on, into another: the plan.

import { planPieces, putFiles, type FilesPiece, type Note } from '../changes/plan';
import { absoluteTarget } from '../collect/closure';
import { AppError } from '../errors';
import { nameOf } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { countedName, nodeClashWays, wayOf, type NodeClash } from '../nodes/clashes';
import { mtlxNeeds, readMtlx, type MtlxElement, type MtlxText } from '../nodes/mtlxNodes';
import { bytesOfText, latin1, utf8 } from '../text/bytes';
import { count } from '../text/figures';
import { applyPieces, piecesOf, type Edit } from '../text/edits';
import { clashNotes, sceneState, type Both, type CarryNodesRequest, type NodesCarried } from './carryNodes';
import { FilesAlong } from './filesAlong';
import { notReadBack, sceneFrom } from './sceneFrom';

/** A MaterialX document, taken apart. Throws AppError for what cannot be. */
export function mtlxOf(bytes: Uint8Array, path: string): MtlxText {
  const found = readMtlx(bytes);
  if (!found)
    throw new AppError('unsupported', `${nameOf(path)} is no MaterialX document that can be taken apart.`);
  return found;
}

export async function carryMtlx(both: Both, request: CarryNodesRequest): Promise<NodesCarried> {
  if (request.under !== null)
    throw new AppError(
      'bad-request',
      'In MaterialX only whole elements are carried, to the top of the document.',
    );
  const before = await sceneState(both, request.into);
  const { source, target } = both;
  const { scene } = await sceneFrom(source, request.from);
  const bytes = await source.outside.read(request.from);
  const from = mtlxOf(bytes, request.from);
  const intoBytes = await target.tree.read(request.into);
  const into = mtlxOf(intoBytes, request.into);
  if (into.end === null) throw new AppError('unsupported', `The end of ${request.into} cannot be told.`);
  const notes: Note[] = [];
  const all = mtlxNeeds(from, request.nodes);
  if (all.size === 0) throw new AppError('bad-request', 'Nothing was chosen that is in the document.');
  const clashes = clashesOf(
    [...all.values()].map((n) => n.element),
    bytes,
    into,
    intoBytes,
    request,
  );
  const ways = new Map(clashes.map((c) => [c.key, c]));
  const stops = new Set(clashes.flatMap((c) => (c.way === 'target' || c.way === 'skip' ? [c.key] : [])));
  const needs = [...mtlxNeeds(from, request.nodes, stops).values()];
  const comes = needs.filter((n) => !stops.has(n.element.name)).map((n) => n.element);
  const along = new FilesAlong(both, request.into);
  const references = (scene.references ?? []).flatMap((r) => {
    const isMine = r.span && comes.some((e) => r.span![0] >= e.span[0] && r.span![1] <= e.span[1]);
    return isMine ? [{ r, at: absoluteTarget(source.root, scene.from, r) }] : [];
  });
  const placed = await along.bring(
    references.flatMap(({ r, at }) => (at === null ? [] : [{ target: at, members: r.members ?? null }])),
  );
  const format = formatOfName('x.mtlx')!;
  const edits: Edit[] = references.flatMap(({ r, at }) => {
    const to = at === null ? null : placed(at);
    if (to === null)
      notes.push({
        level: 'warning',
        code: 'missing',
        message: `${r.written} is missing: it stays as it is written.`,
      });
    // A prefix of the document stays there: the whole path is written.
    const { prefix: _, ...bare } = r;
    const inside = r.prefix !== undefined && r.quoting?.endsWith('own');
    const said = to === null ? null : format.encode(along.written(to, 'native'), inside ? r : bare);
    if (to !== null && !said)
      notes.push({
        level: 'warning',
        code: 'cannot-say',
        message: `${r.written} stays as it is written: its own prefix does not lead to where it lies then.`,
      });
    return said ? [{ span: r.span!, bytes: said }] : [];
  });
  const texts = comes.map((e) => textOf(e, bytes, edits, from, into, ways));
  const targetEdits: Edit[] = [];
  const added: string[] = [];
  for (const [i, e] of comes.entries()) {
    const clash = ways.get(e.name);
    const other = clash?.way === 'replace' ? into.elements.find((o) => o.name === e.name) : undefined;
    if (other) targetEdits.push({ span: other.span, bytes: bytesOfText(texts[i]!) });
    else added.push(texts[i]!);
  }
  if (added.length > 0) targetEdits.push(insertion(latin1(intoBytes), into, added));
  const pieces = planPieces(piecesOf(targetEdits, intoBytes.length));
  const now = readMtlx(applyPieces(intoBytes, piecesOf(targetEdits, intoBytes.length)));
  if (!now || now.elements.length !== into.elements.length + added.length) throw notReadBack(request.into);
  notes.unshift(
    { level: 'info', code: 'comes', message: `What comes along: ${count(comes.length, 'element')}.` },
    ...clashNotes(
      clashes.filter((c) => needs.some((n) => n.element.name === c.key)),
      request.into,
    ),
    ...along.notes,
  );
  const made: FilesPiece[] = pieces.map((p) => ('latin1' in p ? p : { file: 0, copy: p.copy }));
  return {
    plan: {
      kind: 'carry-nodes',
      title: `Carry “${request.nodes[0]}”${request.nodes.length > 1 ? ` and ${count(request.nodes.length - 1, 'other')}` : ''} of ${nameOf(request.from)} into ${nameOf(request.into)}`,
      steps:
        targetEdits.length === 0
          ? []
          : [...along.steps, putFiles(request.into, [{ path: request.into, state: before }], made, before)],
      notes,
      paths: [],
      readiness: null,
    },
    things: [...all.values()].map((n) => ({
      key: n.element.name,
      kind: n.element.kind,
      name: n.element.name,
      level: n.level,
      neededBy: n.neededBy,
      bytes: n.element.span[1] - n.element.span[0],
    })),
    clashes,
    converted: [],
  };
}

function clashesOf(
  comes: readonly MtlxElement[],
  bytes: Uint8Array,
  into: MtlxText,
  intoBytes: Uint8Array,
  request: CarryNodesRequest,
): NodeClash[] {
  const taken = new Set([...into.elements, ...comes].map((e) => e.name));
  const says = (b: Uint8Array, e: MtlxElement) => latin1(b.subarray(...e.span)).replace(/\s+/g, ' ');
  return comes.flatMap((e): NodeClash[] => {
    const other = into.elements.find((o) => o.name === e.name);
    if (!other) return [];
    const isEqual = says(bytes, e) === says(intoBytes, other);
    const renamed = countedName(e.name, (n) => taken.has(n));
    taken.add(renamed);
    const usual = isEqual ? 'target' : 'rename';
    const way = wayOf(request.clash, { key: e.name, isEqual, usual, ways: nodeClashWays });
    return [{ key: e.name, kind: e.kind, name: e.name, isEqual, way, renamed, ways: nodeClashWays }];
  });
}

/** An element in its own words, its name, the names it points to and files as they are in the target. */
function textOf(
  e: MtlxElement,
  bytes: Uint8Array,
  files: readonly Edit[],
  from: MtlxText,
  into: MtlxText,
  ways: ReadonlyMap<string, NodeClash>,
): string {
  const edits: Edit[] = files.filter((f) => f.span[0] >= e.span[0] && f.span[1] <= e.span[1]);
  const nameNow = (name: string) => (ways.get(name)?.way === 'rename' ? ways.get(name)!.renamed : name);
  if (nameNow(e.name) !== e.name) edits.push({ span: e.nameAt, bytes: utf8(nameNow(e.name)) });
  for (const { name, span } of e.names)
    if (nameNow(name) !== name) edits.push({ span, bytes: utf8(nameNow(name)) });
  // What the document says for all in it is said by the element where the other document says otherwise.
  const space = from.root.get('colorspace');
  const said = [
    ...(space !== into.root.get('colorspace') && !e.attributes.has('colorspace') && space !== undefined
      ? [` colorspace="${space}"`]
      : []),
    ...((into.root.get('fileprefix') ?? '') !== '' && !e.attributes.has('fileprefix')
      ? [' fileprefix=""']
      : []),
  ];
  if (said.length > 0) edits.push({ span: [e.tagEnd, e.tagEnd], bytes: utf8(said.join('')) });
  const grown = edits.reduce((sum, x) => sum + x.bytes.length - (x.span[1] - x.span[0]), 0);
  const whole = latin1(applyPieces(bytes, piecesOf(edits, bytes.length)));
  return whole.slice(e.span[0], e.span[1] + grown);
}

/** Before the end of the document, in its way of setting elements apart. */
function insertion(text: string, into: MtlxText, added: readonly string[]): Edit {
  const end = into.end!;
  const newline = text.includes('\r\n') ? '\r\n' : '\n';
  const first = into.elements[0];
  const indent = first ? /[ \t]*$/.exec(text.slice(0, first.span[0]))![0] : '  ';
  const before = /\n[ \t]*$/.exec(text.slice(0, end));
  const at = before ? before.index + 1 : end;
  const lines = added.map((t) => `${indent}${t}${newline}`).join('');
  return { span: [at, at], bytes: bytesOfText(before ? lines : newline + lines) };
}
