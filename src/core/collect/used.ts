// Which frames and tiles of what is needed nothing shows: outside the frames that scenes say, or where no texture coordinate lies. What is not known for
// certain counts as used.

import { nameOf } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { sequencePattern } from '../names/sequences';
import { absoluteTarget, type Closure, type NeededFile, type Source } from './closure';
import { framesIn, framesOfClip, type FrameRange } from './frameRanges';
import { neededIn } from './reach';
import { tilesIn } from './uvTiles';

/** What of a set nothing shows. `set`: its path with marks. */
export interface NotUsed {
  set: string;
  /** Absolute paths of its members. */
  files: string[];
  size: number;
  /** 'frames 60 to 132 are shown', 'no texture coordinate lies in them'. */
  why: string;
}

/** A sequence of which no scene says what it shows. */
export interface AsksFrames {
  set: string;
  first: number;
  last: number;
}

export interface Used {
  notUsed: NotUsed[];
  asks: AsksFrames[];
}

/** Larger files are not read for it. */
const mostRead = 256 * 1024 * 1024;

/** Looks into every scene. `frames`: what somebody said of sequences, by their path with marks; '' is for all of which nothing is known. */
export async function usedOf(
  source: Source,
  closure: Closure,
  frames: ReadonlyMap<string, FrameRange> = new Map(),
  signal?: { throwIfAborted(): void },
): Promise<Used> {
  const found: Used = { notUsed: [], asks: [] };
  const looking = new Looking(source, closure);
  for (const [set, members] of closure.sets) {
    signal?.throwIfAborted();
    const pattern = sequencePattern(nameOf(set));
    const files = members.flatMap((m) => closure.files.get(m) ?? []);
    if (!pattern || files.length === 0) continue;
    const numbers = new Map(files.map((f) => [f, pattern.numberOf(nameOf(f.from))]));
    const leave = (isUsed: (number: number) => boolean, why: string) => {
      const out = files.filter((f) => !f.chosen && numbers.get(f) != null && !isUsed(numbers.get(f)!));
      // All of it unused is a sign that something was not understood.
      if (out.length === 0 || out.length === files.length) return;
      const size = out.reduce((sum, f) => sum + f.state.size, 0);
      found.notUsed.push({ set, files: out.map((f) => f.from), size, why });
    };
    if (pattern.of === 'tiles') {
      const tiles = await looking.tilesOf(files[0]!);
      if (tiles) leave((n) => tiles.has(n), 'no texture coordinate lies in them');
      continue;
    }
    const range = frames.get(set) ?? (await looking.framesOf(files[0]!)) ?? frames.get('') ?? null;
    if (range) leave((n) => n >= range[0] && n <= range[1], `frames ${range[0]} to ${range[1]} are shown`);
    else {
      const all = [...numbers.values()].filter((n): n is number => n !== null);
      found.asks.push({ set, first: Math.min(...all), last: Math.max(...all) });
    }
  }
  return found;
}

class Looking {
  private readonly tiles = new Map<string, Promise<ReadonlySet<number> | null>>();
  private readonly needs: ReadonlyMap<string, NeededFile[]>;

  constructor(
    private readonly source: Source,
    private readonly closure: Closure,
  ) {
    this.needs = neededIn(closure.files.values());
  }

  /** Tiles that any mesh reaches of the scenes that lead to a file; null: not known. */
  async tilesOf(file: NeededFile): Promise<ReadonlySet<number> | null> {
    const above = this.above(file);
    const around = new Set<NeededFile>();
    const waiting = above.filter((f) => f.neededBy.length === 0 || f.chosen);
    for (let f = waiting.pop(); f; f = waiting.pop()) {
      if (around.has(f)) continue;
      around.add(f);
      waiting.push(...(this.needs.get(f.from) ?? []));
    }
    const all = new Set<number>();
    for (const f of around) {
      if (!formatOfName(f.from)) continue;
      const tiles = await this.tilesIn(f);
      if (!tiles) return null;
      for (const n of tiles) all.add(n);
    }
    return all.size === 0 ? null : all;
  }

  private tilesIn(file: NeededFile): Promise<ReadonlySet<number> | null> {
    let tiles = this.tiles.get(file.from);
    if (!tiles) {
      tiles =
        file.state.size > mostRead
          ? Promise.resolve(null)
          : this.source.outside
              .read(file.from)
              .then((bytes) =>
                tilesIn(formatOfName(file.from)!.id, bytes, (uri) => this.bufferOf(file, uri)),
              );
      this.tiles.set(file.from, tiles);
    }
    return tiles;
  }

  private async bufferOf(scene: NeededFile, uri: string): Promise<Uint8Array | null> {
    const r = scene.references?.find((x) => x.kind === 'buffer' && x.written === uri);
    const target = r && absoluteTarget(this.source.root, scene.from, r);
    const file = target ? this.closure.files.get(target) : undefined;
    return file && file.state.size <= mostRead ? this.source.outside.read(file.from) : null;
  }

  /** The frames that are shown of a sequence by all that lead to it; null where one of them does not say. */
  async framesOf(file: NeededFile): Promise<FrameRange | null> {
    let all: FrameRange | null = null;
    const add = (range: FrameRange) => {
      all = all ? [Math.min(all[0], range[0]), Math.max(all[1], range[1])] : range;
    };
    /** Whether every way up from a scene says its frames. */
    const says = async (scene: NeededFile, seen: ReadonlySet<string>): Promise<boolean> => {
      const format = formatOfName(scene.from)?.id;
      if (!format || scene.state.size > mostRead || seen.has(scene.from)) return false;
      const bytes = await this.source.outside.read(scene.from);
      const range = framesIn(format, bytes);
      if (range === 'unknown') return false;
      if (range !== 'none') add(range);
      const parents = [...new Set(scene.neededBy.map((n) => n.scene))].flatMap(
        (p) => this.closure.files.get(p) ?? [],
      );
      if (parents.length === 0 || scene.chosen) {
        if (range === 'none') return false;
        if (parents.length === 0) return true;
      }
      const below = new Set([...seen, scene.from]);
      for (const parent of parents) if (!(await says(parent, below))) return false;
      return true;
    };
    for (const need of file.neededBy) {
      const scene = this.closure.files.get(need.scene);
      if (!scene) continue;
      if (formatOfName(scene.from)?.id === 'otio') {
        const range = framesOfClip(await this.source.outside.read(scene.from), need.at);
        if (!range) return null;
        add(range);
      } else if (!(await says(scene, new Set()))) return null;
    }
    return all;
  }

  /** A file, and every scene from which it is reached. */
  private above(file: NeededFile): NeededFile[] {
    const found = new Set<NeededFile>();
    const waiting = [file];
    for (let f = waiting.pop(); f; f = waiting.pop()) {
      if (found.has(f)) continue;
      found.add(f);
      for (const { scene } of f.neededBy) {
        const up = this.closure.files.get(scene);
        if (up) waiting.push(up);
      }
    }
    return [...found];
  }
}
