// Objects and groups of an OBJ, with their materials, into another: the plan.

import {
  planPieces,
  putBytes,
  putFiles,
  sizeOfWritten,
  type FilesPiece,
  type Note,
  type Step,
} from '../changes/plan';
import { absoluteTarget, type Closure, type NeededFile } from '../collect/closure';
import { AppError } from '../errors';
import { folderOf, join, nameOf, relativePath, stemOf, type TreePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { foldName, freeName } from '../names/portable';
import { countedName, wayOf, type NodeClash } from '../nodes/clashes';
import { freeForm, objCounts, objPart, readObj, type ObjPart, type ObjText } from '../nodes/objGroups';
import { filesOf } from '../references/scan';
import { spell } from '../references/written';
import { latin1, toLatin1 } from '../text/bytes';
import { count } from '../text/figures';
import { applyPieces, piecesOf, type Edit } from '../text/edits';
import {
  clashNotes,
  sceneState,
  type Both,
  type CarryNodesRequest,
  type NodesCarried,
  type NeededThing,
} from './carryNodes';
import { FilesAlong } from './filesAlong';
import { SceneSet } from './sceneSet';
import { foldedNamesIn, stateOf } from './workspace';
import { sceneFrom } from './sceneFrom';

/** A material in its library: from its newmtl to the next. */
interface Material {
  name: string;
  file: NeededFile | null;
  path: string;
  span: readonly [number, number];
  text: string;
}

export async function carryObj(both: Both, request: CarryNodesRequest): Promise<NodesCarried> {
  if (request.under !== null)
    throw new AppError('bad-request', 'In an OBJ nothing stands under anything else: carry it to the top.');
  const before = await sceneState(both, request.into);
  const { closure } = await sceneFrom(both.source, request.from);
  const source = readObj(latin1(await both.source.outside.read(request.from)));
  const targetBytes = await both.target.tree.read(request.into);
  return new ObjCarrying(both, request, closure, source, latin1(targetBytes), before).run();
}

class ObjCarrying {
  private readonly notes: Note[] = [];
  private readonly clashes: NodeClash[] = [];
  private readonly steps: Step[] = [];
  private readonly target: ObjText;

  constructor(
    private readonly both: Both,
    private readonly request: CarryNodesRequest,
    private readonly closure: Closure,
    private readonly source: ObjText,
    private readonly text: string,
    private readonly before: Awaited<ReturnType<typeof sceneState>>,
  ) {
    this.target = readObj(text);
  }

  async run(): Promise<NodesCarried> {
    const { request, source, notes } = this;
    if (source.lines.some((l) => freeForm.has(l.word)))
      notes.push({
        level: 'warning',
        code: 'left-out',
        message: `${nameOf(request.from)} holds free-form curves or surfaces: these are not carried.`,
      });
    const part = objPart(source, request.nodes, objCounts(this.target));
    if (part.parts.every((p) => p.lines.length === 0))
      throw new AppError('bad-request', 'Nothing was chosen that has geometry.');
    if (part.broken > 0)
      notes.push({
        level: 'warning',
        code: 'left-out',
        message: `${count(part.broken, 'face')} name vertices that are not in the file; they stay behind.`,
      });
    const names = this.groupNames(part);
    const mine = await this.materialsOf(part.materials);
    const { library, renamed } = await this.carryMaterials(mine);
    const end = this.text.includes('\r\n') ? '\r\n' : '\n';
    const said = [
      ...(library === null ? [] : [`mtllib ${library}`]),
      ...part.vertices,
      ...part.parts.flatMap(({ group, lines }) => {
        const name = names.get(group.id);
        return name === undefined || lines.length === 0
          ? []
          : [
              ...name,
              ...lines.map((l) => {
                const m = /^usemtl (.*)$/.exec(l);
                return m ? `usemtl ${renamed.get(m[1]!) ?? m[1]!}` : l;
              }),
            ];
      }),
    ];
    const added = `${/[\r\n]$/.test(this.text) || this.text === '' ? '' : end}${said.join(end)}${end}`;
    const pieces: FilesPiece[] = [{ file: 0, copy: [0, this.text.length] }, { latin1: added }];
    this.steps.push(
      putFiles(request.into, [{ path: request.into, state: this.before }], pieces, this.before),
    );
    const groups = part.parts.filter((p) => p.lines.length > 0);
    notes.unshift(
      {
        level: 'info',
        code: 'comes',
        message: `What comes along: ${count(groups.length, 'group')}, ${part.vertices.length} vertices and coordinates, ${count(mine.length, 'material')}.`,
      },
      ...clashNotes(this.clashes, request.into),
    );
    const first = source.groups.find((g) => g.id === request.nodes[0])!;
    return {
      plan: {
        kind: 'carry-nodes',
        title: `Carry “${first.name}”${request.nodes.length > 1 ? ` and ${count(request.nodes.length - 1, 'other')}` : ''} of ${nameOf(request.from)} into ${nameOf(request.into)}`,
        steps: notes.some((n) => n.level === 'blocker') ? [] : this.steps,
        notes,
        paths: [],
        readiness: null,
      },
      things: this.things(part, mine),
      clashes: this.clashes,
      converted: [],
    };
  }

  private things(part: ObjPart, mine: readonly Material[]): NeededThing[] {
    const groups = part.parts.map(({ group, lines }): NeededThing => ({
      key: group.id,
      kind: group.kind,
      name: group.path,
      level: 0,
      neededBy: [],
      bytes: lines.reduce((sum, l) => sum + l.length + 1, 0),
    }));
    const materials = mine.map((m): NeededThing => ({
      key: `material ${m.name}`,
      kind: 'material',
      name: m.name,
      level: 1,
      neededBy: part.parts.filter((p) => p.lines.includes(`usemtl ${m.name}`)).map((p) => p.group.name),
      bytes: m.text.length,
    }));
    return [...groups, ...materials];
  }

  /** The lines that begin each group. */
  private groupNames(part: ObjPart): Map<string, string[]> {
    const taken = new Set(this.target.groups.map((g) => g.name));
    const found = new Map<string, string[]>();
    const objects = new Map<string, string>();
    const name = (key: string, kind: string, own: string): string | null => {
      if (!taken.has(own)) return own;
      const renamed = countedName(own, (n) => taken.has(n));
      const ways = ['rename', 'skip'] as const;
      const way = wayOf(this.request.clash, { key, isEqual: false, usual: 'rename', ways });
      this.clashes.push({ key, kind, name: own, isEqual: false, way, renamed, ways });
      if (way === 'skip') return null;
      taken.add(renamed);
      return renamed;
    };
    for (const { group } of part.parts) {
      const parent = this.source.groups.find((g) => g.id === group.parent);
      if (parent && !objects.has(parent.id))
        objects.set(parent.id, name(parent.id, 'object', parent.name) ?? parent.name);
      if (group.kind === 'object') {
        const own = objects.get(group.id) ?? name(group.id, 'object', group.name);
        if (own === null) continue;
        objects.set(group.id, own);
        found.set(group.id, [`o ${own}`]);
      } else {
        const own = name(group.id, 'group', group.name);
        if (own !== null)
          found.set(group.id, [...(parent ? [`o ${objects.get(parent.id)!}`] : []), `g ${own}`]);
      }
    }
    return found;
  }

  private async materialsOf(names: readonly string[]): Promise<Material[]> {
    const found: Material[] = [];
    const { outside, root } = this.both.source;
    const scene = this.closure.files.get(this.request.from)!;
    const all = new Map<string, Material>();
    for (const r of scene.references ?? []) {
      const at = r.kind === 'material' ? absoluteTarget(root, scene.from, r) : null;
      const file = at === null ? undefined : this.closure.files.get(at);
      if (!file) continue;
      for (const m of materialsIn(latin1(await outside.read(file.from)), file.from, file))
        if (!all.has(m.name)) all.set(m.name, m);
    }
    for (const name of names) {
      const material = all.get(name);
      if (material) found.push(material);
      else
        this.notes.push({
          level: 'warning',
          code: 'missing',
          message: `The material “${name}” is in no library that is there: what uses it comes without.`,
        });
    }
    return found;
  }

  /** Puts materials into the target's library, or one of their own; returns what has to be named in the scene, and new names. */
  private async carryMaterials(
    mine: readonly Material[],
  ): Promise<{ library: string | null; renamed: Map<string, string> }> {
    const renamed = new Map<string, string>();
    if (mine.length === 0) return { library: null, renamed };
    const { target } = this.both;
    const { into } = this.request;
    const scene = await (await SceneSet.of(target)).read(into);
    const libraries = (scene?.references ?? []).flatMap((r) => (r.kind === 'material' ? filesOf(r) : []));
    const there = new Map<string, Material>();
    const texts = new Map<string, string>();
    for (const path of libraries) {
      texts.set(path, latin1(await target.tree.read(path as TreePath)));
      for (const m of materialsIn(texts.get(path)!, path, null)) if (!there.has(m.name)) there.set(m.name, m);
    }
    const own = libraries[0] as TreePath | undefined;
    const path = own ?? (await this.freeLibrary());
    const along = new FilesAlong(this.both, path);
    const added: string[] = [];
    const replaced: { path: string; edit: Edit }[] = [];
    const written = await this.textsFor(mine, along);
    for (const [i, m] of mine.entries()) {
      const text = written[i]!;
      const other = there.get(m.name);
      const way = other ? this.clashOf(m, text === other.text.trim(), there) : 'new';
      if (way === 'target') continue;
      if (way === 'replace')
        replaced.push({ path: other!.path, edit: { span: other!.span, bytes: toLatin1(`${text}\n\n`)! } });
      else {
        const name = way === 'rename' ? this.clashes.at(-1)!.renamed : m.name;
        if (name !== m.name) renamed.set(m.name, name);
        added.push(text.replace(/^newmtl[^\r\n]*/, `newmtl ${name}`));
      }
    }
    this.steps.push(...along.steps);
    this.notes.push(...along.notes);
    const changed = new Map<string, Edit[]>();
    for (const { path: at, edit } of replaced) changed.set(at, [...(changed.get(at) ?? []), edit]);
    if (added.length > 0 && own !== undefined) {
      const old = texts.get(own)!;
      const bytes = toLatin1(`${/[\r\n]$/.test(old) ? '' : '\n'}\n${added.join('\n\n')}\n`)!;
      changed.set(own, [...(changed.get(own) ?? []), { span: [old.length, old.length], bytes }]);
    } else if (added.length > 0) this.steps.push(putBytes(path, toLatin1(`${added.join('\n\n')}\n`)!));
    for (const [at, edits] of changed) {
      const state = (await stateOf(target.tree, at as TreePath))!;
      const pieces = planPieces(piecesOf(edits, texts.get(at)!.length));
      this.steps.push({
        do: 'put',
        path: at as TreePath,
        before: state,
        size: sizeOfWritten(pieces),
        modified: null,
        from: { from: 'tree', path: at as TreePath, state, pieces },
      });
    }
    const isNew = own === undefined && added.length > 0;
    return { library: isNew ? spell(relativePath(folderOf(into), path), 'native', '') : null, renamed };
  }

  private clashOf(m: Material, isEqual: boolean, there: ReadonlyMap<string, Material>) {
    const ways = ['rename', 'target', 'replace'] as const;
    const key = `material ${m.name}`;
    const way = wayOf(this.request.clash, { key, isEqual, usual: isEqual ? 'target' : 'rename', ways });
    const renamed = countedName(m.name, (n) => there.has(n));
    this.clashes.push({ key, kind: 'material', name: m.name, isEqual, way, renamed, ways });
    return way;
  }

  private async freeLibrary(): Promise<TreePath> {
    const { into } = this.request;
    const names = await foldedNamesIn(this.both.target.tree, folderOf(into));
    return join(
      folderOf(into),
      freeName(`${stemOf(into)}.mtl`, (n) => names.has(foldName(n))),
    );
  }

  /** Materials with their maps as they are named from the target's library. */
  private async textsFor(mine: readonly Material[], along: FilesAlong): Promise<string[]> {
    const format = formatOfName('x.mtl')!;
    const { root } = this.both.source;
    const maps = mine.map((m) =>
      (m.file!.references ?? []).flatMap((r) =>
        r.span && r.span[0] >= m.span[0] && r.span[1] <= m.span[1]
          ? [{ r, span: r.span, target: absoluteTarget(root, m.file!.from, r) }]
          : [],
      ),
    );
    const placed = await along.bring(
      maps
        .flat()
        .flatMap(({ r, target }) => (target === null ? [] : [{ target, members: r.members ?? null }])),
    );
    return mine.map((m, i) => {
      const edits = maps[i]!.flatMap(({ r, span, target }): Edit[] => {
        const to = target === null ? null : placed(target);
        if (to === null) {
          this.notes.push({
            level: 'warning',
            code: 'missing',
            message: `${r.written} is missing: it stays as it is written.`,
          });
          return [];
        }
        const bytes = format.encode(along.written(to, 'native'), r);
        return bytes ? [{ span: [span[0] - m.span[0], span[1] - m.span[0]], bytes }] : [];
      });
      return latin1(applyPieces(toLatin1(m.text)!, piecesOf(edits, m.text.length))).trim();
    });
  }
}

function materialsIn(text: string, path: string, file: NeededFile | null): Material[] {
  const starts = [...text.matchAll(/^[ \t]*newmtl[ \t]+([^\r\n]*?)[ \t]*$/gm)];
  return starts.map((m, i) => {
    const end = starts[i + 1]?.index ?? text.length;
    return { name: m[1]!, file, path, span: [m.index, end], text: text.slice(m.index, end) };
  });
}
