'use client';
// What is in a folder that is to be adopted: which of its folders serve as homes, what lies about, all its folders.

import styled from 'styled-components';
import { fileKinds } from '@/core/layouts/homes';
import type { Recognised } from '@/core/plans/planAdopt';
import { count } from '@/core/text/figures';
import type { LayoutView } from '@/wire/views';
import { Choose } from '../kit/fields';
import { FormTick } from '../kit/form';
import { Grow, Mono, Sheet, Soft, Stack } from '../kit/layout';
import { Notice } from '../kit/notices';
import Link from '../kit/Link';
import { Some } from '../kit/some';
import { color, space } from '../theme/theme';

const Homes = styled.table`
  width: 100%;
  border-collapse: collapse;
  td,
  th {
    text-align: left;
    padding: 3px ${space(3)} 3px 0;
    border-bottom: 1px solid ${color.line};
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
`;
const Folders = styled.div`
  max-height: 300px;
  overflow: auto;
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) auto minmax(0, 1.4fr);
  gap: 2px ${space(4)};
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
  }
`;

/** A home for each kind that the layout has one for: a folder that is there, or one to be made. */
export function HomesOf({
  what,
  layout,
  homes,
  onChange,
}: {
  what: Recognised;
  layout: LayoutView;
  /** Chosen by hand, before what is recognised. */
  homes: Record<string, string>;
  onChange: (homes: Record<string, string>) => void;
}) {
  const wanted = fileKinds.filter((k) => layout.homes[k] !== undefined);
  const options = what.folders.map((f) => f.path).filter((p) => p !== '' && !p.startsWith('.'));
  return (
    <Homes>
      <thead>
        <tr>
          <th>Kind</th>
          <th>Will live in</th>
          <th>Folder</th>
        </tr>
      </thead>
      <tbody>
        {wanted.map((k) => {
          const at = homes[k] ?? what.homes[k] ?? layout.homes[k]!;
          const isThere = options.includes(at);
          return (
            <tr key={k}>
              <td>{k}</td>
              <td>
                <Choose
                  hidden
                  mono
                  label={`Home of ${k} files`}
                  value={at}
                  onChange={(to) => onChange({ ...homes, [k]: to })}
                  options={[...new Set([at, layout.homes[k]!, ...options])].map((p) => [p, p] as const)}
                />
              </td>
              <td>
                <Soft>{isThere ? 'is there' : 'will be made'}</Soft>
              </td>
            </tr>
          );
        })}
      </tbody>
    </Homes>
  );
}

/** What lies outside the home of its kind, and whether it is filed along with it. */
export function LiesAbout({ what }: { what: Recognised }) {
  return (
    <Sheet>
      <Stack $gap={2}>
        <h2>What lies about</h2>
        {what.loose === 0 ? (
          <div>Every file lies where its kind belongs.</div>
        ) : (
          <>
            <FormTick name="tidy">
              <strong>
                File {count(what.loose, 'file')} that {what.loose === 1 ? 'lies' : 'lie'} outside the home of{' '}
                {what.loose === 1 ? 'its' : 'their'} kind
              </strong>
              <br />
              <Soft>
                Paths in scenes are changed with them. Without this, all stays where it is, and can be filed
                later.
              </Soft>
            </FormTick>
          </>
        )}
      </Stack>
    </Sheet>
  );
}

/** A folder that holds workspaces is seldom meant to be one: they are opened instead, or it is said that it is meant so. */
export function HoldsWorkspaces({ path, nested }: { path: string; nested: readonly string[] }) {
  if (nested.length === 0) return null;
  const n = nested.length;
  return (
    <Notice
      tone="brick"
      title={`${n === 1 ? 'A workspace lies' : `${count(n, 'workspace')} lie`} in this folder: it holds workspaces, and is seldom meant to be one itself.`}
    >
      <Some of={nested} more="more" atOnce={8}>
        {(at) => (
          <div key={at}>
            <Mono>{at}</Mono>
          </div>
        )}
      </Some>
      <p>
        <Link href={`/?do=find&at=${encodeURIComponent(path)}`}>
          Look at {n === 1 ? 'it, and open it' : 'them, and open them'}
        </Link>{' '}
        Adopted all the same, the folder and {n === 1 ? 'the one' : 'each'} in it have a root of their own,
        and “save” means one or the other by chance.
      </p>
      <FormTick name="around">Adopt the folder around {n === 1 ? 'it' : 'them'} all the same</FormTick>
    </Notice>
  );
}

const shownAtMost = 200;

export function ItsFolders({ what }: { what: Recognised }) {
  return (
    <>
      <h2>Its folders</h2>
      <Folders>
        {what.folders
          .filter((f) => f.path !== '')
          .slice(0, shownAtMost)
          .map((f) => [
            <Grow key={`${f.path} n`}>
              <Mono>{f.path}</Mono>
            </Grow>,
            <span key={`${f.path} b`} className="number">
              {count(f.files, 'file')}
            </span>,
            <Soft key={`${f.path} k`}>
              {Object.entries(f.kinds)
                .sort((a, b) => b[1] - a[1])
                .slice(0, 3)
                .map(([k, n]) => `${n} ${k}`)
                .join(', ')}
            </Soft>,
          ])}
      </Folders>
    </>
  );
}
