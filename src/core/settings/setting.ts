// Settings of two workspaces, or two scenes, side by side: what each says, differences first, and which of them the other can take over.

export const settingGroups = [
  'measure',
  'grid',
  'time',
  'homes',
  'names',
  'places',
  'layers',
  'environment',
  'background',
  'lights',
  'cameras',
  'colour',
  'required',
] as const;
export type SettingGroup = (typeof settingGroups)[number];

/** One setting as a workspace or a scene says it. */
export interface Setting {
  /** Tells it from all others: the same in both where it is the same setting. */
  key: string;
  group: SettingGroup;
  name: string;
  /** As people read it. */
  value: string;
  /** The same in a measure that does not depend on the unit it is said in; absent: the value counts. */
  same?: string;
}

export interface SettingRow {
  key: string;
  group: SettingGroup;
  name: string;
  /** What each says; null: nothing. */
  a: string | null;
  b: string | null;
  differs: boolean;
  /** Who can take it over from the other. */
  takes: ('a' | 'b')[];
}

/** Both side by side: differences first, each in the order of the groups. `canTake`: whether a side can take a setting over, which the other has. */
export function sideBySide(
  a: readonly Setting[],
  b: readonly Setting[],
  canTake: (key: string, into: 'a' | 'b') => boolean,
): SettingRow[] {
  const [byA, byB] = [a, b].map((all) => new Map(all.map((s) => [s.key, s]))) as [
    Map<string, Setting>,
    Map<string, Setting>,
  ];
  const keys = [...new Set([...byA.keys(), ...byB.keys()])];
  const rows = keys.map((key): SettingRow => {
    const [x, y] = [byA.get(key), byB.get(key)];
    const { group, name } = (x ?? y)!;
    const differs = (x?.same ?? x?.value) !== (y?.same ?? y?.value);
    const takes = (['a', 'b'] as const).filter(
      (into) => differs && (into === 'a' ? y : x) !== undefined && canTake(key, into),
    );
    return { key, group, name, a: x?.value ?? null, b: y?.value ?? null, differs, takes };
  });
  const order = (row: SettingRow) =>
    (row.differs ? 0 : settingGroups.length) + settingGroups.indexOf(row.group);
  return rows
    .map((row, n) => ({ row, n }))
    .sort((x, y) => order(x.row) - order(y.row) || x.n - y.n)
    .map(({ row }) => row);
}
