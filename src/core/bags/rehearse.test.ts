// Rehearsals: what would break on another place, said before anything is sent. Windows' limits after Microsoft, "Naming Files, Paths,
// and Namespaces" (260 characters with the terminator; reserved names); FAT32's after Microsoft, "FAT32 File System Specification"
// (sizes in 32 bits).

import { describe, expect, test } from '@jest/globals';
import { MemoryTree } from '../files/memoryTree';
import { knownMachines, machineOf, machinesOf, movedTo, type KnownPlace } from '../places/machine';
import { rehearse } from './rehearse';

const gltf = (...uris: string[]) => JSON.stringify({ images: uris.map((uri) => ({ uri })) });
const on = async (
  files: Record<string, string>,
  id: string,
  root?: string,
  places: readonly KnownPlace[] = [],
) =>
  (
    await rehearse(new MemoryTree(files), [movedTo(machineOf(id, places), root)], {
      name: 'Boat',
      libraries: [],
    })
  )[0]!;

describe('rehearsing', () => {
  test('what travels opens everywhere, and a sentence says so', async () => {
    for (const { id } of knownMachines) {
      const r = await on({ 's/a.gltf': gltf('../t/x.png'), 't/x.png': 'x' }, id);
      expect([r.references, r.open, r.failures]).toEqual([1, 1, []]);
      expect(r.sentence).toMatch(/^Its one reference would open on /);
    }
  });
  test('letter case breaks where it counts, and only there', async () => {
    const files = { 'a.gltf': gltf('T/x.png'), 't/x.png': 'x' };
    expect((await on(files, 'linux')).failures.map((f) => f.code)).toEqual(['case']);
    expect((await on(files, 'windows')).failures).toEqual([]);
  });
  test('two names that differ only in case are one too many where case does not count', async () => {
    const files = { 'a.gltf': gltf('x.png', 'X.png'), 'x.png': '1', 'X.png': '2' };
    expect((await on(files, 'linux')).failures).toEqual([]);
    const r = await on(files, 'macos');
    expect(r.failures[0]).toMatchObject({ kind: 'file', code: 'case-collision' });
    expect(r.sentence).toContain('1 file needs attention');
  });
  test('a name the system refuses takes its references along', async () => {
    const r = await on({ 'a.gltf': gltf('aux.png', 'b.png'), 'aux.png': 'x', 'b.png': 'x' }, 'windows');
    expect(r.failures.map((f) => [f.kind, f.path])).toEqual([
      ['file', 'aux.png'],
      ['reference', 'a.gltf'],
    ]);
    expect(r.failures[1]!.message).toContain('Its target could not lie there');
    expect([r.open, r.references]).toEqual([1, 2]);
  });
  test('a scene that cannot lie there opens nothing', async () => {
    expect(
      (await on({ 'con.gltf': gltf('b.png'), 'b.png': 'x' }, 'windows')).failures.map((f) => f.code),
    ).toEqual(expect.arrayContaining(['scene-refused']));
  });
  test('absolute paths open only at the same root again', async () => {
    const files = { 'a.gltf': gltf('/home/artist/work/Boat/x.png', 'file:///C:/y.png'), 'x.png': 'x' };
    expect((await on(files, 'linux')).failures.map((f) => f.written)).toEqual(['file:///C:/y.png']);
    expect((await on(files, 'linux', '/elsewhere')).failures).toHaveLength(2);
  });
  test('backslashes are at home on Windows', async () => {
    const files = { 'a.gltf': gltf('t\\\\x.png'.replace('\\\\', '\\')), 't/x.png': 'x' };
    expect((await on(files, 'windows')).failures).toEqual([]);
    expect((await on(files, 'linux')).failures).toHaveLength(1);
  });
  test('damaged scenes and web addresses are named', async () => {
    const r = await on({ 'a.gltf': '{"images":[', 'b.gltf': gltf('https://example.org/x.png') }, 'linux');
    expect(r.failures.map((f) => f.code)).toEqual(['truncated', 'remote']);
  });

  test('what would mend it is told with it', async () => {
    const files = {
      'a.gltf': gltf('T/x.png', '../y.png', 'aux.png', 'gone.png'),
      't/x.png': 'x',
      'aux.png': 'x',
    };
    const repairs = async (id: string) =>
      Object.fromEntries((await on(files, id)).failures.map((f) => [f.written ?? f.path, f.repair]));
    expect(await repairs('linux')).toEqual({
      'T/x.png': 'relative',
      '../y.png': 'relative',
      'gone.png': 'relink',
    });
    expect(await repairs('windows')).toMatchObject({ 'aux.png': 'rename', 'gone.png': 'relink' });
  });

  test('a drive that is connected there carries what lies on it, and that is said', async () => {
    const places: KnownPlace[] = [
      { name: 'Field laptop', heads: ['/Volumes/Work'], machine: { system: 'macos' } },
      { name: 'Bench', heads: ['D:/work'], machine: { system: 'windows' } },
      { name: 'Blue stick', heads: ['E:/', '/Volumes/Blue stick'] },
    ];
    const files = { 'a.gltf': gltf('/Volumes/Blue%20stick/sky.png', 'E:/sky.png') };
    const mac = await on(files, 'Field laptop', undefined, places);
    expect(mac.place.root).toBe('/Volumes/Work/Boat');
    expect([mac.open, mac.leansOn]).toEqual([1, [{ head: '/Volumes/Blue stick', references: 1 }]]);
    expect(mac.sentence).toContain('1 reference leans on /Volumes/Blue stick being connected there.');
    const windows = await on(files, 'place:Bench', undefined, places);
    expect(windows.failures.map((f) => f.written)).toEqual(['/Volumes/Blue%20stick/sky.png']);
  });

  test('a library is named, where it is not connected there', async () => {
    const [r] = await rehearse(
      new MemoryTree({ 'a.gltf': gltf('/kits/harbour/iron.png') }),
      [machineOf('linux')],
      { name: 'Boat', libraries: [{ name: 'harbour kit', path: '/kits/harbour' }] },
    );
    expect(r!.failures[0]).toMatchObject({ code: 'library' });
    expect(r!.failures[0]!.message).toContain('harbour kit');
  });

  test('too little room is said before anything', async () => {
    const places: KnownPlace[] = [{ name: 'Stick', heads: [], machine: { system: 'windows', free: 10 } }];
    const r = await on({ 'a.gltf': gltf('b.png'), 'b.png': 'x' }, 'Stick', undefined, places);
    expect(r.failures[0]).toMatchObject({ code: 'no-room', path: '' });
  });

  test('all machines at once say what each says alone', async () => {
    const files = { 'a.gltf': gltf('T/x.png', 'aux.png'), 't/x.png': 'x', 'aux.png': '1', 'AUX.PNG': '2' };
    const all = await rehearse(new MemoryTree(files), knownMachines, { name: 'Boat', libraries: [] });
    for (const [i, { id }] of knownMachines.entries()) expect(all[i]).toEqual(await on(files, id));
    expect(machinesOf([])).toEqual([]);
  });
});
