// What scenes need, as the page works with it: all of it, what is left of it with some ticks taken out, and its groups.

import type { LeftOut, Need, NeededFile } from '@/core/collect/closure';
import { neededIn } from '@/core/collect/reach';
import { nameOf } from '@/core/files/treePath';
import type { NeededWire } from '@/wire/collect';

export type Needed = Pick<
  NeededFile,
  'from' | 'kind' | 'below' | 'lies' | 'owner' | 'neededBy' | 'set' | 'chosen' | 'state'
>;

export interface Needs {
  files: ReadonlyMap<string, Needed>;
  sets: ReadonlyMap<string, readonly string[]>;
  left: readonly LeftOut[];
  root: string;
}

/** What came over the wire, its numbers by names again. */
export function needsIn(wire: NeededWire): Needs {
  const at = (n: number) => wire.files[n]!.from;
  const needs = (by: readonly number[], written = ''): Need[] =>
    by.map((n) => ({ scene: at(n), at: '', written }));
  return {
    root: wire.root,
    files: new Map(
      wire.files.map((f) => [
        f.from,
        {
          ...f,
          state: { size: f.size, modified: 0, digest: null },
          owner: f.owner === null ? null : at(f.owner),
          neededBy: needs(f.by),
        },
      ]),
    ),
    sets: new Map(wire.sets.map(([path, members]) => [path, members.map(at)])),
    left: wire.left.map((l) => ({ ...l, neededBy: needs(l.by, l.written) })),
  };
}

export type Grouping = 'kind' | 'place' | 'scene';

/** A line of what is needed: a file, or a whole set. */
export interface Line {
  /** What it comes from; of a set its path with marks. */
  key: string;
  files: number;
  size: number;
  /** Of these, what comes along. */
  kept: { files: number; size: number };
  kind: NeededFile['kind'];
  library: string | null;
  /** in: it comes along; out: its tick was taken out; apart: only what is left out needs it. */
  is: 'in' | 'out' | 'apart';
  /** Names of what needs it, where it is out or apart. */
  neededBy: string[];
}

export interface Group {
  id: string;
  name: string;
  lines: Line[];
  /** Bytes and files that come along. */
  files: number;
  size: number;
}

/** Lines of everything, whatever is ticked. */
export function linesOf(all: Needs, kept: Pick<Needs, 'files'>, unticked: ReadonlySet<string>): Line[] {
  const lines = new Map<string, Line>();
  for (const f of all.files.values()) {
    const key = f.set ?? f.from;
    const isIn = kept.files.has(f.from);
    const is = isIn ? 'in' : unticked.has(key) ? 'out' : 'apart';
    const line = lines.get(key);
    if (line) {
      line.files++;
      line.size += f.state.size;
      if (isIn) {
        line.is = 'in';
        line.kept.files++;
        line.kept.size += f.state.size;
      }
    } else
      lines.set(key, {
        key,
        files: 1,
        size: f.state.size,
        kept: isIn ? { files: 1, size: f.state.size } : { files: 0, size: 0 },
        kind: f.kind,
        library: f.lies.in === 'library' ? f.lies.name : null,
        is,
        neededBy: [
          ...new Set(
            f.neededBy.filter((n) => is === 'apart' || kept.files.has(n.scene)).map((n) => nameOf(n.scene)),
          ),
        ],
      });
  }
  return [...lines.values()];
}

const kindNames: Partial<Record<NeededFile['kind'], string>> = {
  scene: 'Scenes',
  model: 'Models',
  texture: 'Textures',
  material: 'Materials',
  cache: 'Caches and geometry',
  audio: 'Sound',
  video: 'Film',
  font: 'Fonts',
};

/** For each line the scene that was chosen and brings it along; null: several do. */
function broughtBy(all: Needs): ReadonlyMap<string, string | null> {
  const needs = neededIn(all.files.values());
  const by = new Map<string, string | null>();
  for (const scene of all.files.values()) {
    if (!scene.chosen) continue;
    const seen = new Set([scene.from]);
    for (const from of seen) {
      const key = all.files.get(from)!.set ?? from;
      const known = by.get(key);
      by.set(key, known === undefined || known === scene.from ? scene.from : null);
      for (const next of needs.get(from) ?? []) seen.add(next.from);
    }
  }
  return by;
}

/** Lines in groups, each in the order of its paths. */
export function groupsOf(all: Needs, lines: readonly Line[], by: Grouping): Group[] {
  const groups = new Map<string, Group>();
  const scenes = by === 'scene' ? broughtBy(all) : null;
  const groupOf = (line: Line): [id: string, name: string] => {
    if (by === 'kind') {
      const name = kindNames[line.kind] ?? 'Other files';
      return [name, name];
    }
    if (scenes) {
      const scene = scenes.get(line.key) ?? null;
      return scene === null ? ['~several', 'Several scenes'] : [scene, nameOf(scene)];
    }
    if (line.library !== null) return [`~library ${line.library}`, `Library “${line.library}”`];
    return line.key.startsWith(`${all.root}/`) ? ['', 'In the workspace'] : ['~outside', 'Outside, anywhere'];
  };
  for (const line of lines) {
    const [id, name] = groupOf(line);
    const group = groups.get(id) ?? { id, name, lines: [], files: 0, size: 0 };
    group.lines.push(line);
    group.files += line.kept.files;
    group.size += line.kept.size;
    groups.set(id, group);
  }
  const order = Object.values(kindNames);
  const rank = (g: Group) =>
    by === 'kind' ? (order.indexOf(g.name) + order.length + 1) % (order.length + 1) : 0;
  const sorted = [...groups.values()].sort((a, b) => rank(a) - rank(b) || (a.id < b.id ? -1 : 1));
  for (const g of sorted) g.lines.sort((a, b) => (a.key < b.key ? -1 : 1));
  return sorted;
}
