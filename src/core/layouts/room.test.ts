// Rooms add up to the byte, whatever stands together.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { roomOf, uses, type Room, type RoomFile } from './room';

const homes = { texture: 'textures', render: 'renders', scene: 'scenes' };
const file = (path: string, size: number, more: Partial<RoomFile> = {}): RoomFile => ({
  path,
  kind: 'texture',
  size,
  uses: 0,
  unused: false,
  ...more,
});

test('by home and by use', () => {
  const files = [
    file('textures/a.png', 50, { uses: 2 }),
    file('textures/b/c.png', 30, { unused: true }),
    file('renders/1.png', 200),
    file('scenes/s.gltf', 5, { kind: 'scene' }),
    file('notes.txt', 1, { kind: 'other' }),
    file('.satchel/bin/x/old.png', 7),
  ];
  expect(roomOf(files, homes, 'home').map((r) => [r.name, r.bytes, r.files])).toEqual([
    ['renders', 200, 1],
    ['textures', 80, 2],
    ['bin and records', 7, 1],
    ['scenes', 5, 1],
    ['outside the homes', 1, 1],
  ]);
  expect(roomOf(files, homes, 'use').map((r) => [r.name, r.bytes])).toEqual([
    ['results', 200],
    ['used by a scene', 50],
    ['used by nothing', 30],
    ['bin and records', 7],
    ['scenes', 5],
    ['everything else', 1],
  ]);
  expect(
    roomOf(files, homes, 'home')[1]!.children.map((c) => [c.path, c.children.map((f) => f.path)]),
  ).toEqual([
    ['textures', ['textures/a.png']],
    ['textures/b', ['textures/b/c.png']],
  ]);
});

test('nothing is lost in what stands together', () => {
  const files = fc
    .array(
      fc.record({
        folder: fc.integer({ min: 0, max: 90 }),
        size: fc.nat(1e6),
        uses: fc.nat(2),
        unused: fc.boolean(),
      }),
      { maxLength: 400 },
    )
    .map((list) =>
      list.map((f, i) =>
        file(`${f.folder % 3 === 0 ? 'textures/' : ''}f${f.folder}/x${i}.png`, f.size, {
          uses: f.uses,
          unused: f.unused,
        }),
      ),
    );
  const all = (r: Room): boolean =>
    r.children.length === 0 ||
    (r.bytes === r.children.reduce((s, c) => s + c.bytes, 0) &&
      r.files === r.children.reduce((s, c) => s + c.files, 0) &&
      r.children.every(all));
  fc.assert(
    fc.property(files, fc.constantFrom('home' as const, 'use' as const), (list, by) => {
      const rooms = roomOf(list, homes, by);
      expect(rooms.reduce((s, r) => s + r.bytes, 0)).toBe(list.reduce((s, f) => s + f.size, 0));
      expect(rooms.reduce((s, r) => s + r.files, 0)).toBe(list.length);
      expect(rooms.every(all)).toBe(true);
      if (by === 'use') expect(rooms.every((r) => (uses as readonly string[]).includes(r.name))).toBe(true);
    }),
  );
});
