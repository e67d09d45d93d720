// Prims of a USD text into another: the plan.

import { planPieces, putFiles, type FilesPiece, type Note, type PieceFile } from '../changes/plan';
import { absoluteTarget, type NeededFile } from '../collect/closure';
import { blanked, primsOf, primPart, type UsdPrim } from '../documents/usdPrims';
import { AppError } from '../errors';
import { nameOf } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { countedName, nodeClashWays, wayOf, type NodeClash } from '../nodes/clashes';
import {
  layerNumber,
  usdAbove,
  usdNeeds,
  type UsdNeeds,
  type UsdRoot,
  type UsdText,
} from '../nodes/usdNeeds';
import { latin1, toLatin1, utf8 } from '../text/bytes';
import { count } from '../text/figures';
import { applyPieces, piecesOf, type Edit } from '../text/edits';
import { identity, inverse, isSameMatrix, times, scaling, turning, type Matrix } from '../units/matrix';
import { sceneUnits } from '../units/sceneUnits';
import { holding, insertedAt } from '../nodes/usdWriting';
import { clashNotes, sceneState, type Both, type CarryNodesRequest, type NodesCarried } from './carryNodes';
import { FilesAlong } from './filesAlong';
import { notReadBack, sceneFrom } from './sceneFrom';

/** A USD text, read; throws AppError for a crate or what cannot be taken apart. */
export function usdTextOf(bytes: Uint8Array, path: string): UsdText {
  if (latin1(bytes.subarray(0, 5)) !== '#usda')
    throw new AppError('unsupported', `${nameOf(path)} is no USD text. Write it as text first.`);
  const text = latin1(bytes);
  const bare = blanked(text);
  return { text, bare, prims: primsOf(text, bare) };
}

/** The plan, and what there is to see. */
export async function carryUsd(both: Both, request: CarryNodesRequest): Promise<NodesCarried> {
  const before = await sceneState(both, request.into);
  const { scene } = await sceneFrom(both.source, request.from);
  const source = usdTextOf(await both.source.outside.read(request.from), request.from);
  const targetBytes = await both.target.tree.read(request.into);
  const target = usdTextOf(targetBytes, request.into);
  const carrying = new UsdCarrying(both, request, source, target, scene);
  const { edits, notes, clashes, converted, all } = await carrying.work();
  const along = carrying.along;
  const file: PieceFile = { path: request.into, state: before };
  const made: FilesPiece[] = planPieces(piecesOf(edits, targetBytes.length)).map((p) =>
    'latin1' in p ? p : { file: 0, copy: p.copy },
  );
  readBack(
    applyPieces(targetBytes, piecesOf(edits, targetBytes.length)),
    target,
    carrying.newPaths(),
    request.into,
  );
  const isBlocked = notes.some((n) => n.level === 'blocker');
  const [first] = request.nodes;
  const name = `“${first!.split('/').at(-1)}”`;
  return {
    plan: {
      kind: 'carry-nodes',
      title: `Carry ${request.nodes.length === 1 ? name : `${name} and ${count(request.nodes.length - 1, 'other')}`} of ${nameOf(request.from)} into ${nameOf(request.into)}`,
      steps:
        isBlocked || edits.length === 0 ? [] : [...along.steps, putFiles(request.into, [file], made, before)],
      notes,
      paths: [],
      readiness: null,
    },
    things: [...all.roots.values()].map((r) => ({
      key: r.prim.path,
      kind: r.prim.type || r.prim.specifier,
      name: r.prim.path,
      level: r.level,
      neededBy: r.neededBy,
      bytes: r.prim.span[1] - r.prim.span[0],
    })),
    clashes,
    converted,
  };
}

/** What was there is there, and so is what came. */
function readBack(bytes: Uint8Array, before: UsdText, added: readonly string[], path: string): void {
  const now = new Set(primsOf(latin1(bytes)).map((p) => p.path));
  const isRight =
    before.prims.length <= now.size + before.prims.filter((p) => p.inVariant).length &&
    added.every((p) => now.has(p));
  if (!isRight) throw notReadBack(path);
}

class UsdCarrying {
  readonly along: FilesAlong;
  private readonly notes: Note[] = [];
  /** New paths of the roots, by old ones; null: it does not come along. */
  private readonly moved = new Map<string, string | null>();

  constructor(
    private readonly both: Both,
    private readonly request: CarryNodesRequest,
    private readonly source: UsdText,
    private readonly target: UsdText,
    private readonly scene: NeededFile,
  ) {
    this.along = new FilesAlong(both, request.into);
  }

  newPaths(): string[] {
    return [...this.moved.values()].filter((p) => p !== null);
  }

  async work() {
    const { request, source, notes } = this;
    const all = usdNeeds(source, request.nodes);
    if (all.roots.size === 0) throw new AppError('bad-request', 'Nothing was chosen that is in the scene.');
    const clashes = this.place(all);
    const stops = new Set(clashes.flatMap((c) => (c.way === 'target' || c.way === 'skip' ? [c.key] : [])));
    const needs = usdNeeds(source, request.nodes, stops);
    for (const path of [...this.moved.keys()]) if (!needs.roots.has(path)) this.moved.delete(path);
    const { matrices, converted } = this.matrices(needs);
    const assets = await this.assets(needs, stops);
    const edits = this.edits(needs, clashes, matrices, assets);
    const roots = [...needs.roots.values()].filter((r) => !stops.has(r.prim.path));
    const materials = roots.filter((r) => r.prim.type === 'Material').length;
    notes.unshift(
      {
        level: 'info',
        code: 'comes',
        message: `What comes along: ${count(roots.length - materials, 'prim')} with all below${materials > 0 ? `, ${count(materials, 'material')}` : ''}.`,
      },
      ...converted.map((message): Note => ({ level: 'info', code: 'converted', message })),
      ...clashNotes(
        clashes.filter((c) => needs.roots.has(c.key)),
        request.into,
      ),
      ...this.along.notes,
    );
    for (const { owner, to } of needs.left)
      notes.push({
        level: 'warning',
        code: 'left-out',
        message: `${owner} refers to ${to}, which stays in ${nameOf(request.from)}.`,
      });
    const [a, b] = [source, this.target].map((t) => layerNumber(t, 'timeCodesPerSecond') ?? 24) as [
      number,
      number,
    ];
    if (a !== b)
      notes.push({
        level: 'warning',
        code: 'other-rate',
        message: `${nameOf(request.from)} has ${a} time codes a second, ${nameOf(request.into)} ${b}: what moves will move ${b > a ? 'faster' : 'slower'} there.`,
      });
    return { edits, notes, clashes, converted, all };
  }

  /** Where each root will stand, and which names clash. */
  private place(needs: UsdNeeds): NodeClash[] {
    const there = new Map(this.target.prims.filter((p) => !p.inVariant).map((p) => [p.path, p]));
    const taken = new Set(there.keys());
    const clashes: NodeClash[] = [];
    for (const root of needs.roots.values()) {
      const { prim } = root;
      const holder = this.holderOf(root);
      const wanted = `${holder}/${prim.name}`;
      const other = there.get(wanted);
      if (!other) {
        const path = taken.has(wanted)
          ? `${holder}/${countedName(prim.name, (n) => taken.has(`${holder}/${n}`))}`
          : wanted;
        taken.add(path);
        this.moved.set(prim.path, path);
        continue;
      }
      const isEqual = this.says(this.source, prim) === this.says(this.target, other);
      const renamed = countedName(prim.name, (n) => taken.has(`${holder}/${n}`));
      const usual = isEqual && prim.type === 'Material' ? 'target' : 'rename';
      const way = wayOf(this.request.clash, { key: prim.path, isEqual, usual, ways: nodeClashWays });
      clashes.push({
        key: prim.path,
        kind: prim.type || 'prim',
        name: prim.name,
        isEqual,
        way,
        renamed,
        ways: nodeClashWays,
      });
      const to = way === 'rename' ? `${holder}/${renamed}` : way === 'skip' ? null : wanted;
      if (to !== null) taken.add(to);
      this.moved.set(prim.path, to);
    }
    return clashes;
  }

  /** What a prim says, blanks aside, with paths as they lead from it. */
  private says({ text }: UsdText, prim: UsdPrim): string {
    return text
      .slice(...prim.span)
      .replaceAll(`<${prim.path}`, '<')
      .replace(/\s+/g, ' ');
  }

  /** The path under which a root goes: what was chosen under the chosen prim; a material where the target has its own; a class at the top. */
  private holderOf({ prim, neededBy }: UsdRoot): string {
    const under = this.request.under ?? '';
    if (neededBy.length === 0) return under;
    if (prim.specifier === 'class') return '';
    const { prims } = this.target;
    const homes = prims.filter((p) => !p.inVariant && p.type === 'Material' && p.parent !== null);
    const parent = prim.parent === null ? '' : this.source.prims[prim.parent]!.name;
    const home = homes.find((p) => prims[p.parent!]!.name === parent) ?? homes[0];
    return prim.type === 'Material' && home ? prims[home.parent!]!.path : under;
  }

  /** What lies between a root and its new parent, so that it stands where it stood; null: nothing. */
  private matrices(needs: UsdNeeds): { matrices: Map<string, Matrix>; converted: string[] } {
    const { request, source, target, notes } = this;
    const [a, b] = [source, target].map((t) => sceneUnits('usda', utf8(t.text.slice(0, 64 * 1024)))!) as [
      NonNullable<ReturnType<typeof sceneUnits>>,
      NonNullable<ReturnType<typeof sceneUnits>>,
    ];
    const converted: string[] = [];
    let convert: Matrix = identity;
    if (a.upAxis !== b.upAxis) {
      convert = turning([1, 0, 0], a.upAxis === 'Z' ? -90 : 90);
      converted.push(
        `${nameOf(request.from)} has ${a.upAxis} up, ${nameOf(request.into)} ${b.upAxis}: what comes is turned by 90 degrees about X.`,
      );
    }
    const factor = (a.metres ?? 1) / (b.metres ?? 1);
    if (Math.abs(factor - 1) > 1e-12) {
      convert = times(scaling([factor, factor, factor]), convert);
      converted.push(
        `${nameOf(request.from)} counts in units of ${a.metres} m, ${nameOf(request.into)} of ${b.metres} m: what comes is scaled by ${Number(factor.toPrecision(9))}.`,
      );
    }
    const matrices = new Map<string, Matrix>();
    const under = request.under === null ? null : target.prims.findIndex((p) => p.path === request.under);
    const base = usdAbove(target, under);
    const back = inverse(base.matrix);
    if (!back) {
      notes.push({
        level: 'blocker',
        code: 'cannot-stand',
        message: `${request.under} is scaled to nothing: no place below it is the same in the world.`,
      });
      return { matrices, converted };
    }
    const first = [...needs.roots.values()].find((r) => r.neededBy.length === 0);
    for (const { prim, neededBy } of needs.roots.values()) {
      if (!standsSomewhere(prim) || (neededBy.length > 0 && prim.specifier === 'class')) continue;
      const above = usdAbove(source, prim.parent);
      for (const path of above.moved)
        notes.push({
          level: 'warning',
          code: 'moved-above',
          message: `${path} stands above what is carried and moves: that movement stays behind.`,
        });
      const own =
        request.place === 'world'
          ? times(times(back, convert), above.matrix)
          : times(
              convert,
              times(inverse(usdAbove(source, first!.prim.parent).matrix) ?? identity, above.matrix),
            );
      if (!isSameMatrix(own, identity)) matrices.set(prim.path, own);
    }
    if (request.place === 'world')
      for (const path of base.moved)
        notes.push({
          level: 'warning',
          code: 'moved-above',
          message: `${path} moves: what comes will move with it.`,
        });
    return { matrices, converted };
  }

  /** New texts of asset paths, by where they stand. */
  private async assets(needs: UsdNeeds, stops: ReadonlySet<string>): Promise<Edit[]> {
    const roots = [...needs.roots.values()].filter((r) => !stops.has(r.prim.path)).map((r) => r.prim.span);
    const mine = (this.scene.references ?? []).filter(
      (r) => r.span && roots.some(([from, to]) => r.span![0] >= from && r.span![1] <= to),
    );
    const format = formatOfName('x.usda')!;
    const placed = await this.along.bring(
      mine.flatMap((r) => {
        const at = absoluteTarget(this.both.source.root, this.scene.from, r);
        return at === null ? [] : [{ target: at, members: r.members ?? null }];
      }),
    );
    return mine.flatMap((r) => {
      const at = absoluteTarget(this.both.source.root, this.scene.from, r);
      const to = at === null ? null : placed(at);
      if (to === null) {
        if (r.state === 'missing' || r.state === 'offline')
          this.notes.push({
            level: 'warning',
            code: 'missing',
            message: `${r.written} is missing: it stays as it is written.`,
          });
        return [];
      }
      const bytes = format.encode(this.along.written(to, 'usd'), r);
      return bytes ? [{ span: r.span!, bytes }] : [];
    });
  }

  private edits(
    needs: UsdNeeds,
    clashes: readonly NodeClash[],
    matrices: ReadonlyMap<string, Matrix>,
    assets: readonly Edit[],
  ): Edit[] {
    const edits: Edit[] = [];
    const ends = new Map<string, string[]>();
    const ways = new Map(clashes.map((c) => [c.key, c.way]));
    for (const path of needs.roots.keys())
      if (matrices.has(path) || needs.inherited.has(path)) this.held.add(path);
    for (const root of needs.roots.values()) {
      const { prim } = root;
      const to = this.moved.get(prim.path) ?? null;
      const way = ways.get(prim.path);
      if (to === null || way === 'target' || way === 'skip') continue;
      const text = this.textOf(root, to, needs, matrices.get(prim.path) ?? null, assets);
      if (way === 'replace') {
        const old = this.target.prims.find((p) => p.path === to)!;
        edits.push({ span: old.span, bytes: toLatin1(text)! });
        continue;
      }
      const holder = to.slice(0, to.lastIndexOf('/'));
      ends.set(holder, [...(ends.get(holder) ?? []), text]);
    }
    for (const [holder, texts] of ends) edits.push(insertedAt(this.target, holder, texts));
    return edits;
  }

  /** A root in its own words, its name, paths and files as they are in the target. */
  private textOf(
    { prim }: UsdRoot,
    to: string,
    needs: UsdNeeds,
    matrix: Matrix | null,
    assets: readonly Edit[],
  ): string {
    const name = to.slice(to.lastIndexOf('/') + 1);
    const edits: Edit[] = assets.filter((e) => e.span[0] >= prim.span[0] && e.span[1] <= prim.span[1]);
    const inherited = needs.inherited.get(prim.path);
    const binding = inherited === undefined ? null : this.movedPath(inherited);
    const isHeld = this.held.has(prim.path);
    const inner = isHeld ? prim.name : name;
    if (inner !== prim.name) edits.push({ span: prim.nameAt, bytes: toLatin1(inner)! });
    for (const p of needs.paths) {
      if (p.span[0] < prim.span[0] || p.span[1] > prim.span[1]) continue;
      const written = this.source.text.slice(...p.span);
      // A way within what comes along stays a way.
      if (!written.startsWith('/') && isWithin(primPart(p.to), prim.path)) continue;
      const now = this.movedPath(p.to);
      if (now !== null && now !== written) edits.push({ span: p.span, bytes: toLatin1(now)! });
    }
    const whole = latin1(applyPieces(toLatin1(this.source.text)!, piecesOf(edits, this.source.text.length)));
    const grown = edits.reduce((sum, e) => sum + e.bytes.length - (e.span[1] - e.span[0]), 0);
    const text = whole.slice(prim.span[0], prim.span[1] + grown);
    return isHeld ? holding(name, matrix, binding, text) : text;
  }

  /** Where a path of the source leads in the target; null: what it leads to stays behind. */
  private movedPath(path: string): string | null {
    for (const [from, to] of this.moved) {
      if (!isWithin(primPart(path), from)) continue;
      if (to === null) return null;
      const held = this.heldAt(from, to);
      return held + path.slice(from.length);
    }
    return null;
  }

  /** A root that stands in a prim of its own place is one deeper. */
  private heldAt(from: string, to: string): string {
    return this.held.has(from) ? `${to}/${from.slice(from.lastIndexOf('/') + 1)}` : to;
  }

  /** Roots around which a prim is put. */
  private readonly held = new Set<string>();
}

const isWithin = (path: string, root: string) => path === root || path.startsWith(`${root}/`);

/** Kinds of prims that stand at no place. */
const standsSomewhere = (prim: UsdPrim) =>
  !/^(?:Material|Shader|NodeGraph|Scope|RenderSettings|RenderProduct|RenderVar)$/.test(prim.type);
