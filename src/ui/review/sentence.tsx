// What a plan does, in one sentence.

import { Fragment, type ReactNode } from 'react';
import { bytes, count, figure } from '@/core/text/figures';
import type { PlanView } from '@/wire/views';

/** What will happen, in one sentence. */
export function sentenceOf(p: PlanView): ReactNode {
  if (p.kind === 'bundle' || p.kind === 'apart') return bundleSentence(p);
  const size = p.copies.reduce((s, c) => s + c.size, 0);
  const scenes = new Set(p.paths.map((c) => c.scene)).size;
  const parts: ReactNode[] = [];
  if (p.kind === 'undo') {
    if (p.removes.length > 0)
      parts.push(
        <>
          takes <strong>{count(p.removes.length, 'file or folder', 'files and folders')}</strong> out again
        </>,
      );
    if (p.writes.length + p.copies.length > 0)
      parts.push(
        <>
          brings <strong>{count(p.writes.length + p.copies.length, 'file')}</strong> back to the same bytes as
          before
        </>,
      );
  } else {
    if (p.moves.length > 0)
      parts.push(
        <>
          moves <strong>{count(p.moves.length, 'file or folder', 'files and folders')}</strong>
        </>,
      );
    if (p.removes.length > 0 && p.moves.length === 0)
      parts.push(
        <>
          takes <strong>{count(p.removes.length, 'file or folder', 'files and folders')}</strong> out
        </>,
      );
    if (p.copies.length > 0)
      parts.push(
        <>
          copies{' '}
          <strong>
            {count(p.copies.length, 'file')} ({bytes(size)})
          </strong>
          {p.kind === 'bring' || p.kind === 'travel' ? ' into their homes' : ''}
        </>,
      );
    if (p.paths.length > 0)
      parts.push(
        <>
          changes{' '}
          <strong>
            {count(p.paths.length, 'path')} in {count(scenes, 'scene file')}
          </strong>
        </>,
      );
    const changed = p.writes.filter((w) => w.replaces).length;
    const made = p.writes.length - changed;
    const folders = p.copies.length === 0 ? p.folders.length : 0;
    if (p.paths.length === 0 && p.moves.length === 0 && changed > 0)
      parts.push(
        <>
          changes <strong>{count(changed, 'file')}</strong>
        </>,
      );
    if (p.paths.length === 0 && p.moves.length === 0 && made + folders > 0)
      parts.push(
        <>
          makes{' '}
          <strong>
            {folders > 0 ? count(made + folders, 'file or folder', 'files and folders') : count(made, 'file')}
          </strong>
        </>,
      );
  }
  if (parts.length === 0) return 'There is nothing to do.';
  return (
    <>
      It{' '}
      {parts.map((part, i) => (
        <Fragment key={i}>
          {i > 0 && ' and '}
          {part}
        </Fragment>
      ))}
      . {p.paths.length > 0 && 'Nothing else in the scenes changes, to the byte. '}
      {p.copies.length > 0 && 'Sources stay where they are.'}
    </>
  );
}

function bundleSentence(p: PlanView): ReactNode {
  const made = p.copies.length + p.writes.length;
  if (made + p.moves.length === 0) return 'There is nothing to do.';
  return p.kind === 'bundle' ? (
    <>
      It makes <strong>{count(made, 'file')}</strong> out of <strong>{figure(p.moves.length)}</strong>, which
      go to the bin.
    </>
  ) : (
    <>
      It puts <strong>{count(made, 'file')}</strong> back into their places, to the byte and the time; the
      bundle goes to the bin.
    </>
  );
}
