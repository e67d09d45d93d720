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

/** The map of all references, with what is `opened` (ids of nodes) drawn in full. */
export function mapOf(rows: readonly SheetRow[], opened: ReadonlySet<string>): DependencyMap {
  const byScene = new Map<string, SheetRow[]>();
  for (const r of rows) {
    const held = byScene.get(r.scene);
    if (held) held.push(r);
    else byScene.set(r.scene, [r]);
  }
  const isScene = (r: SheetRow) =>
    r.target !== null && (r.kind === 'scene' || r.kind === 'material' || byScene.has(r.target));
  const counted = new Map([...byScene].map(([scene, own]) => [scene, lost(own)]));
  const attention = (scene: string) => counted.get(scene) ?? 0;
  const scenes = new Set<string>(byScene.keys());
  for (const r of rows) if (isScene(r)) scenes.add(r.target!);
  const depth = depths(scenes, byScene, isScene);

  // Which node each scene is drawn as.
  const asked = [...scenes].sort((a, b) => attention(b) - attention(a) || (a < b ? -1 : 1));
  const nodeOfScene = new Map<string, string>();
  const nodes = new Map<string, MapNode>();
  const alone = new Set(
    scenes.size <= mostScenes + 4 ? asked : asked.filter((s) => attention(s) > 0).slice(0, mostScenes),
  );
  const openedOf = new Map<string, number>();
  for (const s of asked) {
    const group = `scenes:${depth.get(s) === 0 ? '' : '>'}${folderOf(s)}`;
    const n = openedOf.get(group) ?? 0;
    const isOpened = opened.has(group) && !alone.has(s) && n < mostOpened;
    if (isOpened) openedOf.set(group, n + 1);
    const id = alone.has(s) || isOpened ? `scene:${s}` : group;
    nodeOfScene.set(s, id);
    const own = byScene.get(s) ?? [];
    const held = nodes.get(id);
    if (held) {
      held.files++;
      held.references += own.length;
      held.attention += attention(s);
      held.column = Math.max(held.column, depth.get(s)!);
    } else if (id === group)
      nodes.set(id, {
        id,
        kind: 'scenes',
        label: folderOf(s) || 'the root',
        within: '',
        column: depth.get(s)!,
        files: 1,
        references: own.length,
        attention: attention(s),
        state: null,
        opens: 'folded',
        query: `scene:${quoted(`${folderOf(s)}/`)}`,
      });
    else
      nodes.set(id, {
        id,
        kind: 'scene',
        label: nameOf(s),
        within: folderOf(s),
        column: depth.get(s)!,
        files: 1,
        references: own.length,
        attention: attention(s),
        state: null,
        opens: isOpened ? 'open' : null,
        query: `scene:${quoted(s)}`,
      });
  }

  // What is no scene, by folder and state.
  const leaves = new Map<string, { state: string; folder: string; rows: SheetRow[]; files: Set<string> }>();
  for (const r of rows) {
    if (isScene(r)) continue;
    const folder = r.state === 'remote' ? r.written.split('/').slice(0, 3).join('/') : folderMeant(r);
    const id = `folder:${r.state}:${folder}`;
    const held = leaves.get(id) ?? { state: r.state, folder, rows: [], files: new Set<string>() };
    held.rows.push(r);
    held.files.add(r.target ?? r.written);
    leaves.set(id, held);
  }
  const sorted = [...leaves].sort(
    (a, b) =>
      lost(b[1].rows) - lost(a[1].rows) || b[1].rows.length - a[1].rows.length || (a[0] < b[0] ? -1 : 1),
  );
  const last = Math.max(0, ...depth.values()) + 1;
  const nodeOfLeaf = new Map<SheetRow, string>();
  const shown = opened.has('rest') ? mostFolders + mostOpened : mostFolders;
  for (const [i, [id, l]] of sorted.entries()) {
    if (i >= shown) {
      const rest = nodes.get('rest') ?? {
        id: 'rest',
        kind: 'rest' as const,
        label: 'other folders',
        within: '',
        column: last,
        files: 0,
        references: 0,
        attention: 0,
        state: null,
        opens: opened.has('rest') ? ('open' as const) : ('folded' as const),
        query: '',
      };
      nodes.set('rest', {
        ...rest,
        files: rest.files + l.files.size,
        references: rest.references + l.rows.length,
        attention: rest.attention + lost(l.rows),
      });
      for (const r of l.rows) nodeOfLeaf.set(r, 'rest');
      continue;
    }
    const base = { column: last, state: l.state };
    const query = `state:${l.state} in:${quoted(l.folder || '/')}`;
    const isOpened = opened.has(id) && l.files.size <= mostOpened;
    if (isOpened)
      for (const r of l.rows) {
        const file = `file:${l.state}:${r.target ?? r.written}`;
        const held = nodes.get(file);
        if (held)
          nodes.set(file, {
            ...held,
            references: held.references + 1,
            attention: held.attention + (r.ready ? 0 : 1),
          });
        else
          nodes.set(file, {
            ...base,
            id: file,
            kind: 'file',
            label: nameOf((r.target ?? r.written).replaceAll('\\', '/')),
            within: l.folder,
            files: 1,
            references: 1,
            attention: r.ready ? 0 : 1,
            opens: 'open',
            query: quoted(nameOf((r.target ?? r.written).replaceAll('\\', '/'))),
          });
        nodeOfLeaf.set(r, file);
      }
    else {
      nodes.set(id, {
        ...base,
        id,
        kind: 'folder',
        label:
          l.files.size === 1
            ? nameOf([...l.files][0]!.replaceAll('\\', '/'))
            : l.folder || 'beside the scene',
        within: l.files.size === 1 ? l.folder : '',
        files: l.files.size,
        references: l.rows.length,
        attention: lost(l.rows),
        opens: l.files.size > 1 && l.files.size <= mostOpened ? 'folded' : null,
        query: l.state === 'remote' ? 'state:remote' : query,
      });
      for (const r of l.rows) nodeOfLeaf.set(r, id);
    }
  }

  const links = new Map<string, MapLink>();
  for (const r of rows) {
    const from = nodeOfScene.get(r.scene)!;
    const to = isScene(r) ? nodeOfScene.get(r.target!)! : nodeOfLeaf.get(r)!;
    // Drawn from left to right only: what leads back, or stays within what is drawn as one, has no line.
    if (nodes.get(from)!.column >= nodes.get(to)!.column) continue;
    const key = `${from}\n${to}`;
    const held = links.get(key);
    links.set(key, {
      from,
      to,
      references: (held?.references ?? 0) + 1,
      attention: (held?.attention ?? 0) + (r.ready ? 0 : 1),
    });
  }
  const files = new Set(rows.flatMap((r) => (isScene(r) || r.target === null ? [] : [r.target])));
  return {
    nodes: [...nodes.values()].sort(
      (a, b) =>
        a.column - b.column ||
        together(a) - together(b) ||
        b.attention - a.attention ||
        b.references - a.references,
    ),
    links: [...links.values()],
    scenes: scenes.size,
    files: files.size,
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
