// The time line: what stands where, and what it leaves out for want of room.

import { describe, expect, test } from '@jest/globals';
import type { NetView, VersionsView } from '@/wire/views';
import { historyOf, keyOf } from './history';
import { endOf, hoursToShow, timeLine } from './timeLine';

const hour = 3_600_000;
const now = Date.parse('2026-11-26T16:00:00Z');
const version = (number: number, hoursAgo: number, note = '') => ({
  number,
  path: `scenes/boat_v00${number}.gltf`,
  size: 10,
  modified: now,
  note,
  saved: now - hoursAgo * hour,
  by: null,
  compact: false,
});
const versions = (...list: VersionsView['versions']): VersionsView => ({
  scene: 'scenes/boat_v009.gltf',
  habit: 'numbered',
  pattern: '',
  present: null,
  changed: false,
  next: '',
  versions: list,
  total: 0,
});
const net = (states: number[], holes: [number, number][] = []): NetView => ({
  settings: null,
  states: states.map((h) => ({
    at: now - h * hour,
    scene: 'scenes/boat_v009.gltf',
    size: 1,
    broken: null,
    files: 1,
  })),
  holes: holes.map(([from, to]) => ({
    from: now - from * hour,
    to: now - to * hour,
    why: 'closed',
    message: 'closed',
  })),
  back: states.length > 0 ? now - Math.max(...states) * hour : null,
  looked: null,
  others: [{ path: 'backups/boat.gltf.1', size: 1, modified: now - 0.4 * hour, share: 1, named: true }],
});

test('only what is within; labels where there is room, the newest first; a hole is cut at the edges', () => {
  const line = timeLine(
    versions(version(1, 5), version(2, 1.05), version(3, 1)),
    net([0.5, 3], [[4, 1.5]]),
    now,
    2,
    800,
  );
  expect(line.knots.map((k) => [k.name, k.hasLabel])).toEqual([
    ['v003', true],
    ['v002', false],
  ]);
  expect(line.rings).toHaveLength(1);
  expect(line.gaps).toEqual([{ from: now - 2 * hour, to: now - 1.5 * hour, message: 'closed' }]);
  expect(line.ticks.length).toBeGreaterThan(4);
  expect(line.ticks.length).toBeLessThanOrEqual(9);
});

describe('how much is shown', () => {
  test.each([
    [[0.5], 2],
    [[3.9], 4],
    [[30], 72],
    [[1000], 168],
    [[], 2],
  ])('states %j hours ago: %i hours', (states, hours) => expect(hoursToShow(net(states), now)).toBe(hours));
  test('where nothing happened for long, the line ends a little after what happened last', () => {
    expect(endOf(versions(version(1, 1)), net([]), now)).toBe(now);
    expect(endOf(versions(version(1, 50)), net([40]), now)).toBe(now - 40 * hour + hour / 4);
    expect(endOf(versions(), net([]), now)).toBe(now);
  });
});

test('everything there is to go back to, by time, each with a name of its own', () => {
  const all = historyOf(versions(version(2, 0.45), version(1, 3)), net([0.5, 2]));
  expect(all.map((e) => e.what)).toEqual(['other', 'version', 'kept', 'kept', 'version']);
  expect(new Set(all.map(keyOf)).size).toBe(5);
});
