// What machines and drives take, and names made such that they do. Limits after the sources that stand in names/fileSystems.ts.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { checkFile, Fitting, lengthOn } from './fits';
import { inWords, knownMachines, machineFrom, machineOf, movedTo, shown, type Machine } from './machine';
import { newPathsFor } from './newPaths';

describe('places', () => {
  test.each([
    ['windows', 'a/CON.png', 'name'],
    ['windows', 'a/b?.png', 'name'],
    ['windows', 'a./b.png', 'name'],
    ['windows', `${'x'.repeat(250)}.png`, 'path-too-long'],
    ['windows-long-paths', `${'x/'.repeat(200)}y.png`, null],
    ['linux', 'a/CON?.png', null],
    ['macos', 'a/b.png', null],
  ])('%s, %s', (id, path, code) => {
    const found = checkFile(machineOf(id), path, 10);
    if (code === null) expect(found).toBeNull();
    else {
      expect(found!.code).toBe(code);
      expect(found!.message.length).toBeGreaterThan(20);
    }
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
    expect(movedTo(machineOf('windows'), undefined, 'e:\\').root).toBe('E:/work/<name>');
    expect(movedTo(machineOf('linux'), undefined, 'E').root).toBe(
      knownMachines.find((p) => p.id === 'linux')!.root,
    );
    expect(shown(movedTo(machineOf('windows'), 'F:\\jobs\\Boat\\'))).toBe('F:\\jobs\\Boat');
    expect(() => machineOf('moon')).toThrow('moon');
  });
});

const drive = (fileSystem: Machine['fileSystem'], system: Machine['system'] = 'linux') =>
  machineFrom({ id: 'x', name: 'X' }, { system, fileSystem });

describe('what a drive is formatted as', () => {
  test('a path of POSIX systems is measured in bytes', () => {
    const m = { ...machineOf('macos'), root: '/w' };
    expect(lengthOn(m, 'ä')).toBe('/w/'.length + 2 + 1);
    expect(checkFile(m, `${'ä'.repeat(100)}/`.repeat(6) + 'x', 0)!.code).toBe('path-too-long');
  });
  test.each([
    ['exfat', 2 ** 32, null],
    ['fat32', 2 ** 32, 'file-too-large'],
    ['ntfs', 2 ** 44, 'file-too-large'],
    ['ext4', 2 ** 44 + 1, 'file-too-large'],
    ['apfs', 2 ** 44 + 1, null],
  ] as const)('%s holds a file of %i bytes: %s', (fileSystem, size, code) => {
    expect(checkFile(drive(fileSystem), 'a.exr', size)?.code ?? null).toBe(code);
  });
  test('a stick plugged into Linux refuses what its format refuses', () => {
    expect(checkFile(drive('exfat'), 'a:b.png', 1)!.code).toBe('name');
    expect(checkFile(drive('ext4'), 'a:b.png', 1)).toBeNull();
  });
  test('FAT32 fills a folder: 65,536 entries, of which a long name takes several', () => {
    const fit = new Fitting(drive('fat32'));
    let n = 0;
    while (fit.add(`f/sea_surface.${String(n).padStart(5, '0')}.ply`, 1) === null) n++;
    // 24 letters: two entries of 13 and the short name's.
    expect(n).toBe(Math.floor((65_536 - 3) / 3));
    expect(fit.add('g/x.ply', 1)).toBeNull();
  });
  test('what is not said is as usual for the system', () => {
    expect(drive('exfat', 'macos').ignoresCase).toBe(true);
    expect(machineFrom({ id: 'p', name: 'P', heads: ['E:/', '/mnt/p'] }, { system: 'linux' })).toMatchObject({
      root: '/mnt/p/<name>',
      fileSystem: 'ext4',
      longestPath: 4096,
      mounts: ['/mnt/p'],
    });
    expect(inWords(machineOf('fat32-stick'))).toBe('Windows, FAT32, E:\\');
  });
});

describe('new paths', () => {
  const part = fc.oneof(
    fc.constantFrom(
      'tex',
      'Tex',
      'aux',
      'sea.0001.ply',
      'Sea.0001.ply',
      'a?b.png',
      'A_b.png',
      'end. ',
      'very long '.repeat(9),
    ),
    fc
      .string({ minLength: 1, maxLength: 30 })
      .map((s) => s.replace(/[/\0]/g, '_'))
      .filter((s) => s !== '.' && s !== '..'),
  );
  const tree = fc
    .uniqueArray(
      fc.array(part, { minLength: 1, maxLength: 5 }).map((p) => p.join('/')),
      { maxLength: 25 },
    )
    .map((all) => all.filter((p) => !all.some((q) => q.startsWith(`${p}/`))).sort());

  test('fit, stay apart, and are the least change', () => {
    fc.assert(
      fc.property(tree, fc.constantFrom(...knownMachines), (paths, known) => {
        const machine = { ...known, root: known.root.replace('<name>', 'Boat') };
        const { files, unresolved } = newPathsFor(paths, { machine, names: true, lengths: true });
        const fit = new Fitting(machine);
        const after = paths.map((p) => files.get(p) ?? p);
        expect(new Set(after).size).toBe(paths.length);
        for (const [i, p] of after.entries())
          if (!unresolved.includes(paths[i]!)) expect([p, fit.add(p, 1)]).toEqual([p, null]);
        // What fits already, all of it, stays.
        const before = new Fitting(machine);
        if (paths.every((p) => before.add(p, 1) === null)) expect(files.size).toBe(0);
        // Done twice is done once.
        if (unresolved.length === 0)
          expect(newPathsFor([...after].sort(), { machine, names: true, lengths: true }).files.size).toBe(0);
      }),
      { numRuns: 300 },
    );
  });

  test('frames are cut alike, and keep their numbers', () => {
    const name = 'a very long name of a simulated surface of the sea in the harbour';
    const frames = [1, 9, 10, 123].map((n) => `caches/${name}.${n}.ply`);
    const machine = { ...machineOf('windows'), root: 'D:/w', longestPath: 60 };
    const { files } = newPathsFor(frames, { machine, names: true, lengths: true });
    const stems = new Set([...files.values()].map((p) => p.replace(/\.\d+\.ply$/, '')));
    expect(stems.size).toBe(1);
    expect([...files.values()].map((p) => /\.(\d+)\.ply$/.exec(p)![1])).toEqual(['1', '9', '10', '123']);
  });
});
