// What every writable tree must do. Disk and memory pass the same suite.

import { expect, test } from '@jest/globals';
import { AppError } from '../../errors';
import { digestOf } from '../digest';
import { once, type WritableFileTree } from '../fileTree';
import { treePath as p } from '../treePath';

const bytes = (s: string) => new TextEncoder().encode(s);
const text = (b: Uint8Array) => new TextDecoder().decode(b);

/** Runs the suite; `make` gives a fresh, empty tree. */
export function treeSuite(make: () => Promise<WritableFileTree>): void {
  const put = (tree: WritableFileTree, path: string, content: string, replace = false) =>
    tree.write(p(path), once(bytes(content)), { replace, tag: 't' });

  test('writes, reads, digests and lists in path order, hidden files too', async () => {
    const tree = await make();
    await tree.makeFolder(p('b'));
    expect(await put(tree, 'b/x', 'hello')).toMatchObject({ digest: digestOf(bytes('hello')), size: 5 });
    await put(tree, 'a', '');
    await put(tree, '.hidden', 'h');
    expect(text(await tree.read(p('b/x')))).toBe('hello');
    expect(text(await tree.read(p('b/x'), [1, 3]))).toBe('el');
    expect(text(await tree.read(p('b/x'), [3, 99]))).toBe('lo');
    expect(await tree.digest(p('b/x'))).toBe(digestOf(bytes('hello')));
    const listed: string[] = [];
    for await (const f of tree.list()) listed.push(`${f.path}:${f.size}`);
    expect(listed).toEqual(['.hidden:1', 'a:0', 'b/x:5']);
    expect(await tree.entries(p(''))).toEqual([
      { name: '.hidden', kind: 'file' },
      { name: 'a', kind: 'file' },
      { name: 'b', kind: 'folder' },
    ]);
    expect([
      await tree.kind(p('b')),
      await tree.kind(p('b/x')),
      await tree.kind(p('B/x')),
      await tree.kind(p('none')),
    ]).toEqual(['folder', 'file', null, null]);
    expect([await tree.entries(p('none')), await tree.stat(p('b')), await tree.digest(p('none'))]).toEqual([
      null,
      null,
      null,
    ]);
  });

  test('never writes over a file unasked; replaces when asked', async () => {
    const tree = await make();
    await put(tree, 'a', 'one');
    await expect(put(tree, 'a', 'two')).rejects.toBeInstanceOf(AppError);
    expect(text(await tree.read(p('a')))).toBe('one');
    await put(tree, 'a', 'two', true);
    expect(text(await tree.read(p('a')))).toBe('two');
  });

  test('a write that fails midway or before its commit leaves nothing, not even a temporary file', async () => {
    const tree = await make();
    await put(tree, 'a', 'one');
    async function* broken() {
      yield bytes('half');
      throw new Error('the source vanished');
    }
    await expect(tree.write(p('a'), broken(), { replace: true, tag: 't' })).rejects.toThrow('vanished');
    await expect(
      tree.write(p('b'), once(bytes('b')), {
        replace: false,
        tag: 't',
        beforeCommit: async () => {
          throw new Error('no');
        },
      }),
    ).rejects.toThrow('no');
    expect(text(await tree.read(p('a')))).toBe('one');
    expect((await tree.entries(p('')))!.map((e) => e.name)).toEqual(['a']);
  });

  test('keeps the time it is given', async () => {
    const tree = await make();
    await tree.write(p('a'), once(bytes('x')), { replace: false, tag: 't', modified: 1_600_000_000_000 });
    expect((await tree.stat(p('a')))!.modified).toBeCloseTo(1_600_000_000_000, 2);
  });

  test('moves, keeps, removes, appends; folders only when empty', async () => {
    const tree = await make();
    await put(tree, 'a', 'A');
    await put(tree, 'b', 'B');
    await expect(tree.move(p('a'), p('b'))).rejects.toBeInstanceOf(AppError);
    await tree.move(p('a'), p('c'));
    await tree.keep(p('c'), p('kept'), { tag: 't' });
    await tree.keep(p('b'), p('kept'), { tag: 't' });
    expect(text(await tree.read(p('kept')))).toBe('A');
    await tree.remove(p('c'));
    await tree.remove(p('c'));
    await tree.append(p('log'), bytes('1'));
    await tree.append(p('log'), bytes('2'));
    expect(text(await tree.read(p('log')))).toBe('12');
    await tree.makeFolder(p('f'));
    await put(tree, 'f/x', '');
    expect(await tree.removeFolder(p('f'))).toBe(false);
    await tree.remove(p('f/x'));
    expect(await tree.removeFolder(p('f'))).toBe(true);
    expect(await tree.removeFolder(p('f'))).toBe(false);
    await tree.makeFolder(p('g'));
    await tree.makeFolder(p('g/h'));
    await put(tree, 'g/h/x', 'X');
    await expect(tree.moveFolder(p('g'), p('b'))).rejects.toBeInstanceOf(AppError);
    await expect(tree.moveFolder(p('b'), p('z'))).rejects.toBeInstanceOf(AppError);
    await tree.moveFolder(p('g'), p('k'));
    expect([text(await tree.read(p('k/h/x'))), await tree.kind(p('g'))]).toEqual(['X', null]);
    await expect(tree.read(p('c'))).rejects.toMatchObject({ code: 'not-found' });
  });
}
