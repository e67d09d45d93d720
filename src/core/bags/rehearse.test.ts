// Rehearsals: what would break on another place, said before anything is sent. Windows' limits after Microsoft, "Naming Files, Paths,
// and Namespaces" (260 characters with the terminator; reserved names); FAT32's after Microsoft, "FAT32 File System Specification"
// (sizes in 32 bits).

import { describe, expect, test } from '@jest/globals';
import { MemoryTree } from '../files/memoryTree';
import { checkFile, knownMachines, machineOf, shown } from './machine';
import { rehearse } from './rehearse';

const gltf = (...uris: string[]) => JSON.stringify({ images: uris.map((uri) => ({ uri })) });
const on = (files: Record<string, string>, id: string, root?: string) =>
  rehearse(new MemoryTree(files), machineOf(id, root), 'Boat', { libraries: [] });

describe('places', () => {
  test.each([
    ['windows', 'a/CON.png', 'reserved-name'],
    ['windows', 'a/b?.png', 'bad-character'],
    ['windows', 'a./b.png', 'trailing'],
    ['windows', `${'x'.repeat(250)}.png`, 'path-too-long'],
    ['windows-long-paths', `${'x/'.repeat(200)}y.png`, null],
    ['linux', 'a/CON?.png', null],
    ['macos', 'a/b.png', null],
  ])('%s, %s', (id, path, code) => {
    const found = checkFile(machineOf(id), path, 10);
    if (code === null) expect(found).toBeNull();
    else expect(found!.message.length).toBeGreaterThan(20);
  });
  test('a path of exactly the longest length may lie there, one character more may not', () => {
    const place = { ...machineOf('windows'), root: 'D:/w' };
    const longest = 'x'.repeat(260 - 'D:/w/'.length - 1);
    expect(checkFile(place, longest, 0)).toBeNull();
    expect(checkFile(place, `${longest}x`, 0)!.code).toBe('path-too-long');
  });
  test('a stick holds files of one byte less than 4 GiB', () => {
    expect(checkFile(machineOf('fat32-stick'), 'a.exr', 2 ** 32 - 1)).toBeNull();
    expect(checkFile(machineOf('fat32-stick'), 'a.exr', 2 ** 32)!.code).toBe('file-too-large');
  });
  test('by id, with another root or drive letter', () => {
    expect(machineOf(undefined).id).toBe('windows');
    expect(machineOf('windows', undefined, 'e:\\').root).toBe('E:/work/<name>');
    expect(machineOf('linux', undefined, 'E').root).toBe(knownMachines.find((p) => p.id === 'linux')!.root);
    expect(shown(machineOf('windows', 'F:\\jobs\\Boat\\'))).toBe('F:\\jobs\\Boat');
    expect(() => machineOf('moon')).toThrow('moon');
  });
});

describe('rehearsing', () => {
  test('what travels opens everywhere, and a sentence says so', async () => {
    for (const { id } of knownMachines) {
      const r = await on({ 's/a.gltf': gltf('../t/x.png'), 't/x.png': 'x' }, id);
      expect([r.references, r.open, r.failures]).toEqual([1, 1, []]);
      expect(r.sentence).toMatch(/^All 1 references would open on /);
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
});
