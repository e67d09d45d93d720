// Names that both scenes have, and the ways out; alike for all formats.

/** A new name with a counter; the target's instead; in the place of the target's; or it does not come along. */
export const nodeClashWays = ['rename', 'target', 'replace', 'skip'] as const;
export type NodeClashWay = (typeof nodeClashWays)[number];

export interface NodeClash {
  /** Tells the thing that comes along. */
  key: string;
  /** What it is, in a word: 'node', 'material'. */
  kind: string;
  name: string;
  /** Whether the target's says the same, as far as it counts. */
  isEqual: boolean;
  way: NodeClashWay;
  /** What it is called where it gets a new name. */
  renamed: string;
  /** Ways that are open. */
  ways: readonly NodeClashWay[];
}

/** `all`: the way for every clash. Absent: what is equal is used, all else gets a new name. `ways`: of single ones, by key. */
export interface ClashChoice {
  all?: NodeClashWay | undefined;
  ways?: ReadonlyMap<string, NodeClashWay> | undefined;
}

/** The way out of one clash. What is to be the target's for all is so only where it is equal: else it gets a new name. */
export function wayOf(
  choice: ClashChoice,
  {
    key,
    isEqual,
    usual,
    ways,
  }: { key: string; isEqual: boolean; usual: NodeClashWay; ways: readonly NodeClashWay[] },
): NodeClashWay {
  const one = choice.ways?.get(key);
  if (one && ways.includes(one)) return one;
  const { all } = choice;
  if (all === undefined) return usual;
  if (all === 'target' && !isEqual) return 'rename';
  return ways.includes(all) ? all : 'rename';
}

/** 'lamp' → 'lamp_2', 'lamp_3' … until it is free. */
export function countedName(name: string, isTaken: (name: string) => boolean): string {
  for (let n = 2; ; n++) if (!isTaken(`${name}_${n}`)) return `${name}_${n}`;
}
