import { describe, expect, test } from '@jest/globals';
import type { Digest } from '../files/digest';
import type { FileStat } from '../files/fileTree';
import { isStillAsRead, sameTime, seemsUnchanged } from '../files/times';
import { treePath } from '../files/treePath';
import { compareWithState, isFolderState, keptFile, statOfKept, type KeptFile } from './folderState';

const digest = 'a'.repeat(64) as Digest;
const other = 'b'.repeat(64) as Digest;
const stat = (path: string, size = 3, modified = 1000, changed?: number): FileStat => ({
  path: treePath(path),
  size,
  modified,
  ...(changed === undefined ? {} : { changed }),
});

describe('a folder compared with a state', () => {
  const state = (...files: KeptFile[]) => ({ files, unread: ['locked'] });
  const compare = async (files: KeptFile[], now: FileStat[], content: Digest = digest) => {
    const asked: string[] = [];
    const { changed, gone, fresh, same } = await compareWithState(state(...files), now, (path) => {
      asked.push(path);
      return Promise.resolve(content);
    });
    return {
      changed: changed.map((f) => f[0]),
      gone: gone.map((f) => f[0]),
      fresh: fresh.map((f) => f.path),
      same,
      asked,
    };
  };

  test('tells changed, gone and new files; a file below a folder that could not be read is not new', async () => {
    const files = ['same', 'touched', 'changed', 'gone'].map((p) => keptFile(stat(p), digest));
    const now = [stat('same'), stat('touched', 3, 9e9), stat('changed', 4), stat('new'), stat('locked/a')];
    expect(await compare(files, now)).toEqual({
      changed: ['changed'],
      gone: ['gone'],
      fresh: ['new'],
      same: 2,
      asked: ['touched'],
    });
  });

  test('finds another file of the same size and time in the place of the first', async () => {
    const files = [keptFile(stat('a', 3, 1000, 5000), digest)];
    expect(await compare(files, [stat('a', 3, 1000, 5000)])).toMatchObject({ same: 1, asked: [] });
    expect(await compare(files, [stat('a', 3, 1000, 6000)], other)).toMatchObject({
      changed: ['a'],
      asked: ['a'],
    });
    expect(await compare(files, [stat('a', 3, 1000, 6000)])).toMatchObject({ same: 1, asked: ['a'] });
  });
});

test('an entry gives back the stat it was made of; one without the unsettable time, as version 0.1.0 wrote it, is read', () => {
  const full = { ...stat('a', 3, 1000.25, 2000.5), mode: 0o644 };
  expect(statOfKept(keptFile(full, digest))).toEqual(full);
  expect(statOfKept([treePath('a'), 3, 1000, -1, digest])).toEqual(stat('a'));
});

test('a state with one wrong entry is none', () => {
  const right = {
    files: [keptFile(stat('a'), digest)],
    links: [['l', 'a']],
    folders: ['f'],
    unread: ['u'],
    packs: [[1, 20]],
  };
  expect(isFolderState(right)).toBe(true);
  const wrong = [
    { files: [['a', 3, 1000, -1]] },
    { files: [['../a', 3, 1000, -1, digest]] },
    { files: [['a', 3, 1000, -1, 'zz']] },
    { files: [['a', 3, null, -1, digest]] },
    { files: [['a', 3, 1000, -1, digest, 'now']] },
    { links: [['l']] },
    { folders: [''] },
    { unread: [1] },
    { packs: [[1]] },
  ];
  for (const change of wrong)
    expect([change, isFolderState({ ...right, ...change })]).toEqual([change, false]);
});

describe('times', () => {
  // Sources of the grains: core/files/times.ts.
  test('two readings of one time on coarse clocks are the same', () => {
    expect(sameTime(1_000_000.4, 1_000_000.9)).toBe(true);
    expect(sameTime(1_000_000, 1_001_999)).toBe(true); // FAT
    expect(sameTime(1_001_234.5, 1_001_230)).toBe(true); // exFAT
    expect(sameTime(1_001_234.5, 1_001_236.5)).toBe(false);
  });

  test('the time that programs cannot set decides where both have it', () => {
    expect(seemsUnchanged(stat('a', 3, 1000, 7), stat('a', 3, 1000, 7))).toBe(true);
    expect(seemsUnchanged(stat('a', 3, 1000, 8), stat('a', 3, 1000, 7))).toBe(false);
    expect(seemsUnchanged(stat('a', 3, 1000, 8), stat('a', 3, 1000))).toBe(true);
  });

  test('content read within a tick of the last write is not trusted', () => {
    const at = 1_764_000_000_000;
    const is = (modified: number, changed: number | undefined, then = changed) =>
      isStillAsRead(stat('a', 3, modified, changed), stat('a', 3, modified, then), at);
    expect(is(at - 10_000, at - 100.5)).toBe(true);
    expect(is(at - 10_000, at - 10.5)).toBe(false);
    expect(is(at - 1000, undefined)).toBe(false);
    // Whole seconds: a coarse clock.
    expect(is(at - 10_000, at - 1000)).toBe(false);
    // Recorded by version 0.1.0, without that time: put in its place after it was read, or before.
    expect(is(at - 10_000, at + 5000.5, undefined)).toBe(false);
    expect(is(at - 10_000, at - 5000.5, undefined)).toBe(true);
  });
});
