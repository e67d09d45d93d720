// The dependency map of a workspace, small enough to be read: scenes at the left, what they lead to at the right. What needs a hand stands by itself
// and first; what is well is drawn together by folder until it is opened. So it is as readable with 2,000 scenes as with 20.

import { folderOf, nameOf } from '../files/treePath';
import { folderMeant, type SheetRow } from './sheet';

export interface MapNode {
  id: string;
  /** A scene or material file, several of them in one folder, what lies in one folder in one state, one file, or all that is not drawn. */
  kind: 'scene' | 'scenes' | 'folder' | 'file' | 'rest';
  label: string;
  /** Folder it lies in, or '' */
  within: string;
  /** 0 at the left. */
  column: number;
  /** Files it stands for. */
  files: number;
  /** References that begin or end here, and how many of them would not open elsewhere. */
  references: number;
  attention: number;
  /** State of what it holds, where it is one. */
  state: string | null;
  /** Can be opened to show what it stands for, or is open and can be folded. */
  opens: 'open' | 'folded' | null;
  /** Search that shows its references in the table. */
  query: string;
}

export interface MapLink {
  from: string;
  to: string;
  references: number;
  attention: number;
}

export interface DependencyMap {
  nodes: MapNode[];
  links: MapLink[];
  /** Scenes and files in all. */
  scenes: number;
  files: number;
}

const mostScenes = 18;
const mostFolders = 20;
const mostOpened = 40;
// Columns beyond would be too narrow to read; it also bounds the walk.
const deepest = 8;

const quoted = (text: string) => (/\s/.test(text) ? `"${text}"` : text);

const lost = (rows: readonly SheetRow[]) => rows.reduce((n, r) => n + (r.ready ? 0 : 1), 0);

/** The scenes of a workspace's references, and how they lead to one another. */
class SceneRows {
  private readonly byScene = new Map<string, SheetRow[]>();
  readonly scenes: ReadonlySet<string>;
  /** Column of each scene. */
  readonly depth: ReadonlyMap<string, number>;
  private readonly counted: ReadonlyMap<string, number>;

  constructor(readonly rows: readonly SheetRow[]) {
    for (const r of rows) {
      const held = this.byScene.get(r.scene);
      if (held) held.push(r);
      else this.byScene.set(r.scene, [r]);
    }
    this.counted = new Map([...this.byScene].map(([scene, own]) => [scene, lost(own)]));
    const scenes = new Set<string>(this.byScene.keys());
    for (const r of rows) if (this.isScene(r)) scenes.add(r.target!);
    this.scenes = scenes;
    this.depth = depths(scenes, this.byScene, (r) => this.isScene(r));
  }

  /** Whether a reference leads to a scene or material file. */
  isScene(r: SheetRow): boolean {
    return r.target !== null && (r.kind === 'scene' || r.kind === 'material' || this.byScene.has(r.target));
  }

  attention(scene: string): number {
    return this.counted.get(scene) ?? 0;
  }

  of(scene: string): readonly SheetRow[] {
    return this.byScene.get(scene) ?? [];
  }
}

/** The map of all references, with what is `opened` (ids of nodes) drawn in full. */
export function mapOf(rows: readonly SheetRow[], opened: ReadonlySet<string>): DependencyMap {
  const scenes = new SceneRows(rows);
  const nodes = new Map<string, MapNode>();
  const nodeOfScene = drawScenes(scenes, opened, nodes);
  const nodeOfLeaf = drawLeaves(scenes, opened, nodes);
  const links = new Map<string, MapLink>();
  for (const r of rows) {
    const from = nodeOfScene.get(r.scene)!;
    const to = scenes.isScene(r) ? nodeOfScene.get(r.target!)! : nodeOfLeaf.get(r)!;
    // Drawn from left to right only: what leads back, or stays within what is drawn as one, has no line.
    if (nodes.get(from)!.column >= nodes.get(to)!.column) continue;
    const key = `${from}\0${to}`;
    const held = links.get(key);
    links.set(key, {
      from,
      to,
      references: (held?.references ?? 0) + 1,
      attention: (held?.attention ?? 0) + (r.ready ? 0 : 1),
    });
  }
  const files = new Set(rows.flatMap((r) => (scenes.isScene(r) || r.target === null ? [] : [r.target])));
  return {
    nodes: [...nodes.values()].sort(
      (a, b) =>
        a.column - b.column ||
        together(a) - together(b) ||
        b.attention - a.attention ||
        b.references - a.references,
    ),
    links: [...links.values()],
    scenes: scenes.scenes.size,
    files: files.size,
  };
}

/** Draws scenes: what needs a hand by itself, the rest by folder. Tells which node each scene is drawn as. */
function drawScenes(
  all: SceneRows,
  opened: ReadonlySet<string>,
  nodes: Map<string, MapNode>,
): Map<string, string> {
  const nodeOf = new Map<string, string>();
  const asked = [...all.scenes].sort((a, b) => all.attention(b) - all.attention(a) || (a < b ? -1 : 1));
  const alone = new Set(
    asked.length <= mostScenes + 4 ? asked : asked.filter((s) => all.attention(s) > 0).slice(0, mostScenes),
  );
  const openedOf = new Map<string, number>();
  for (const scene of asked) {
    const group = `scenes:${all.depth.get(scene) === 0 ? '' : '>'}${folderOf(scene)}`;
    const n = openedOf.get(group) ?? 0;
    const isOpened = opened.has(group) && !alone.has(scene) && n < mostOpened;
    if (isOpened) openedOf.set(group, n + 1);
    const isAlone = alone.has(scene) || isOpened;
    const id = isAlone ? `scene:${scene}` : group;
    nodeOf.set(scene, id);
    const held = nodes.get(id);
    if (held) {
      held.files++;
      held.references += all.of(scene).length;
      held.attention += all.attention(scene);
      held.column = Math.max(held.column, all.depth.get(scene)!);
    } else nodes.set(id, sceneNode(all, scene, id, isAlone, isOpened));
  }
  return nodeOf;
}

function sceneNode(all: SceneRows, scene: string, id: string, isAlone: boolean, isOpened: boolean): MapNode {
  const folder = folderOf(scene);
  const facts = {
    id,
    column: all.depth.get(scene)!,
    files: 1,
    references: all.of(scene).length,
    attention: all.attention(scene),
    state: null,
  };
  return isAlone
    ? {
        ...facts,
        kind: 'scene',
        label: nameOf(scene),
        within: folder,
        opens: isOpened ? 'open' : null,
        query: `scene:${quoted(scene)}`,
      }
    : {
        ...facts,
        kind: 'scenes',
        label: folder || 'the root',
        within: '',
        opens: 'folded',
        query: `scene:${quoted(`${folder}/`)}`,
      };
}

/** References of one state to what is no scene in one folder. */
interface Leaves {
  id: string;
  state: string;
  folder: string;
  rows: SheetRow[];
  files: Set<string>;
}

/** What is no scene, by folder and state; what needs a hand first. */
function leavesOf(all: SceneRows): Leaves[] {
  const found = new Map<string, Leaves>();
  for (const r of all.rows) {
    if (all.isScene(r)) continue;
    const folder = r.state === 'remote' ? r.written.split('/').slice(0, 3).join('/') : folderMeant(r);
    const id = `folder:${r.state}:${folder}`;
    const held = found.get(id) ?? { id, state: r.state, folder, rows: [], files: new Set<string>() };
    held.rows.push(r);
    held.files.add(r.target ?? r.written);
    found.set(id, held);
  }
  return [...found.values()].sort(
    (a, b) => lost(b.rows) - lost(a.rows) || b.rows.length - a.rows.length || (a.id < b.id ? -1 : 1),
  );
}

/** Draws what is no scene, in the last column. Tells which node each reference leads to. */
function drawLeaves(
  all: SceneRows,
  opened: ReadonlySet<string>,
  nodes: Map<string, MapNode>,
): Map<SheetRow, string> {
  const nodeOf = new Map<SheetRow, string>();
  const column = Math.max(0, ...all.depth.values()) + 1;
  const shown = opened.has('rest') ? mostFolders + mostOpened : mostFolders;
  for (const [i, leaves] of leavesOf(all).entries()) {
    const isOpened = opened.has(leaves.id) && leaves.files.size <= mostOpened;
    if (i >= shown) addToRest(leaves, column, opened.has('rest'), nodes);
    else if (isOpened) for (const r of leaves.rows) addFile(r, leaves, column, nodes);
    else nodes.set(leaves.id, folderNode(leaves, column));
    for (const r of leaves.rows) nodeOf.set(r, i >= shown ? 'rest' : isOpened ? fileId(r) : leaves.id);
  }
  return nodeOf;
}

function addToRest(leaves: Leaves, column: number, isOpen: boolean, nodes: Map<string, MapNode>): void {
  const rest = nodes.get('rest');
  nodes.set('rest', {
    id: 'rest',
    kind: 'rest',
    label: 'other folders',
    within: '',
    column,
    state: null,
    opens: isOpen ? 'open' : 'folded',
    query: '',
    files: (rest?.files ?? 0) + leaves.files.size,
    references: (rest?.references ?? 0) + leaves.rows.length,
    attention: (rest?.attention ?? 0) + lost(leaves.rows),
  });
}

const fileId = (r: SheetRow) => `file:${r.state}:${r.target ?? r.written}`;

function addFile(r: SheetRow, { folder, state }: Leaves, column: number, nodes: Map<string, MapNode>): void {
  const id = fileId(r);
  const held = nodes.get(id);
  const label = nameOf((r.target ?? r.written).replaceAll('\\', '/'));
  nodes.set(id, {
    id,
    kind: 'file',
    label,
    within: folder,
    column,
    state,
    files: 1,
    references: (held?.references ?? 0) + 1,
    attention: (held?.attention ?? 0) + (r.ready ? 0 : 1),
    opens: 'open',
    query: quoted(label),
  });
}

function folderNode({ id, state, folder, rows, files }: Leaves, column: number): MapNode {
  const isOne = files.size === 1;
  return {
    id,
    kind: 'folder',
    label: isOne ? nameOf([...files][0]!.replaceAll('\\', '/')) : folder || 'beside the scene',
    within: isOne ? folder : '',
    column,
    state,
    files: files.size,
    references: rows.length,
    attention: lost(rows),
    opens: !isOne && files.size <= mostOpened ? 'folded' : null,
    query: state === 'remote' ? 'state:remote' : `state:${state} in:${quoted(folder || '/')}`,
  };
}

/** What is drawn together stands after what is drawn by itself. */
const together = (n: MapNode) => (n.kind === 'scenes' || n.kind === 'rest' ? 1 : 0);

/** How far each scene lies from those that nothing leads to; within a ring, where it is met first. */
function depths(
  scenes: ReadonlySet<string>,
  byScene: ReadonlyMap<string, SheetRow[]>,
  isScene: (r: SheetRow) => boolean,
): Map<string, number> {
  const next = (s: string) => [
    ...new Set((byScene.get(s) ?? []).filter((r) => isScene(r) && r.target !== s).map((r) => r.target!)),
  ];
  const led = new Set([...scenes].flatMap(next));
  const depth = new Map<string, number>();
  const walk = (start: string) => {
    // By hand, since chains may be longer than the call stack.
    const stack: { scene: string; at: number; rest: string[] }[] = [{ scene: start, at: 0, rest: [start] }];
    const path = new Set<string>();
    while (stack.length > 0) {
      const top = stack.at(-1)!;
      const s = top.rest.pop();
      if (s === undefined) {
        stack.pop();
        path.delete(top.scene);
        continue;
      }
      if (path.has(s) || (depth.get(s) ?? -1) >= top.at) continue;
      depth.set(s, top.at);
      path.add(s);
      stack.push({ scene: s, at: Math.min(deepest, top.at + 1), rest: next(s) });
    }
  };
  for (const s of scenes) if (!led.has(s)) walk(s);
  for (const s of scenes) if (!depth.has(s)) walk(s);
  return depth;
}
