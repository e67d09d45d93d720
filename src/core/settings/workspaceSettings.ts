// What a workspace says of itself, as settings, and what it says once some of another's are taken over.

import type { FileKind, Homes } from '../layouts/homes';
import { fileKinds } from '../layouts/homes';
import type { WorkspaceFile } from '../layouts/workspace';
import { convert, lengthText, metresIn, unitName, usualUnits, type UnitId } from '../units/units';
import type { Setting } from './setting';

/** A length as it is said, and in the unit of the other side where that is another. */
function both(value: number, unit: UnitId, other: UnitId): Pick<Setting, 'value' | 'same'> {
  const said = lengthText(value, unit, { form: 'decimal', digits: 6 });
  const there = lengthText(convert(value, unit, other), other, { form: 'decimal', digits: 6 });
  return {
    value: unit === other ? said : `${said} (${there})`,
    same: String(Number((value * metresIn(unit)).toPrecision(12))),
  };
}

type Said = Pick<
  WorkspaceFile,
  'homes' | 'libraries' | 'places' | 'units' | 'names' | 'versions' | 'net' | 'search'
>;

/** All of them. `other`: the unit of the workspace beside it. */
export function workspaceSettings(file: Said, other: UnitId): Setting[] {
  const units = file.units ?? usualUnits;
  const { unit, grid, display } = units;
  const found: Setting[] = [
    { key: 'unit', group: 'measure', name: 'Unit', value: unitName(unit) },
    { key: 'up', group: 'measure', name: 'Up axis', value: units.upAxis },
    {
      key: 'display',
      group: 'measure',
      name: 'Lengths are shown',
      value:
        display.form === 'decimal' ? `with ${display.digits} decimals` : `in 1/${display.parts} of an inch`,
    },
    { key: 'spacing', group: 'grid', name: 'A line every', ...both(grid.spacing, unit, other) },
    { key: 'heavy', group: 'grid', name: 'A heavy line every', value: `${grid.heavyEvery} lines` },
    { key: 'extent', group: 'grid', name: 'To each side', ...both(grid.extent, unit, other) },
  ];
  for (const kind of fileKinds) {
    const home = file.homes[kind];
    if (home !== undefined)
      found.push({
        key: `home ${kind}`,
        group: 'homes',
        name: `Home of ${kind} files`,
        value: home === '' ? 'the root' : home,
      });
  }
  const name = (key: 'scene' | 'output' | 'person', called: string) => {
    const said = file.names?.[key];
    if (said) found.push({ key: `name ${key}`, group: 'names', name: called, value: said });
  };
  name('scene', 'Names of scenes');
  name('output', 'Names of outputs');
  const habit = file.versions;
  found.push({
    key: 'versions',
    group: 'names',
    name: 'Versions',
    value: habit?.habit === 'folder' ? `in a folder: ${habit.pattern ?? ''}` : 'numbered files',
  });
  found.push({
    key: 'net',
    group: 'names',
    name: 'The net keeps a scene',
    value: file.net ? `every ${file.net.every} minutes, ${file.net.keep} states` : 'never',
  });
  for (const l of file.libraries)
    found.push({ key: `library ${l.name}`, group: 'places', name: `Library ${l.name}`, value: l.path });
  for (const p of file.places)
    found.push({
      key: `place ${p.name}`,
      group: 'places',
      name: `Place ${p.name}`,
      value: p.heads.join(', '),
    });
  if (file.search?.length)
    found.push({ key: 'search', group: 'places', name: 'Search path', value: file.search.join(', ') });
  return found;
}

/** How versions are kept is changed where versions are, with all that lies there. */
export const canTakeOver = (key: string): boolean => key !== 'versions';

/** What a workspace says once it has taken settings over, and the homes that became others. */
export function takenOver(
  into: WorkspaceFile,
  from: WorkspaceFile,
  keys: ReadonlySet<string>,
): { file: WorkspaceFile; homes: Partial<Record<FileKind, string>> } {
  const mine = into.units ?? usualUnits;
  const theirs = from.units ?? usualUnits;
  const unit = keys.has('unit') ? theirs.unit : mine.unit;
  const length = (key: string, part: 'spacing' | 'extent') =>
    Number(
      (keys.has(key)
        ? convert(theirs.grid[part], theirs.unit, unit)
        : convert(mine.grid[part], mine.unit, unit)
      ).toPrecision(12),
    );
  const spacing = length('spacing', 'spacing');
  const file: WorkspaceFile = {
    ...into,
    units: {
      unit,
      display: keys.has('display') ? theirs.display : mine.display,
      upAxis: keys.has('up') ? theirs.upAxis : mine.upAxis,
      grid: {
        spacing,
        heavyEvery: keys.has('heavy') ? theirs.grid.heavyEvery : mine.grid.heavyEvery,
        // One of the two alone may not fit the other: a grid reaches its first line at least.
        extent: Math.max(spacing, length('extent', 'extent')),
      },
    },
  };
  if (into.units === undefined && JSON.stringify(file.units) === JSON.stringify(mine)) delete file.units;
  const names = { ...into.names };
  for (const key of ['scene', 'output'] as const) if (keys.has(`name ${key}`)) names[key] = from.names?.[key];
  if (Object.keys(names).length > 0) file.names = names;
  if (keys.has('net')) {
    if (from.net) file.net = from.net;
    else delete file.net;
  }
  if (keys.has('search')) file.search = from.search;
  file.libraries = merged(into.libraries, from.libraries, 'library', keys);
  file.places = merged(into.places, from.places, 'place', keys);
  const homes: Homes = {};
  for (const kind of fileKinds)
    if (keys.has(`home ${kind}`) && from.homes[kind] !== undefined && from.homes[kind] !== into.homes[kind])
      homes[kind] = from.homes[kind];
  return { file, homes };
}

/** A list with those of another's that are ticked, in the place of those of the same name. */
function merged<T extends { name: string }>(
  into: readonly T[],
  from: readonly T[],
  word: string,
  keys: ReadonlySet<string>,
): T[] {
  const taken = from.filter((x) => keys.has(`${word} ${x.name}`));
  const kept = into.map((x) => taken.find((t) => t.name === x.name) ?? x);
  return [...kept, ...taken.filter((t) => !into.some((x) => x.name === t.name))];
}
