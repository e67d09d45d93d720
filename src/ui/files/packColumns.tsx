'use client';
// The columns of a pack: a picture of each file, its name, its kind, what is to be said of it.

import { Box, Copy, File, Image as ImageIcon } from '../kit/icons';
import styled from 'styled-components';
import type { z } from 'zod';
import { mayHavePicture } from '@/core/formats/kinds';
import { bytes, count, exactBytes } from '@/core/text/figures';
import type { findAlike } from '@/wire/routes/intake';
import type { PackFileView } from '@/wire/views';
import { query } from '../kit/api';
import type { GridColumn } from '../kit/grid/columns';
import { Mono, Soft } from '../kit/layout';
import { Thumb } from '../kit/Thumb';
import { color } from '../theme/theme';

type Alike = z.output<NonNullable<typeof findAlike.result>>[number];

export interface PackContext {
  workspace: string;
  /** What the workspace has already that is like a file of the pack, by its path. */
  likes: ReadonlyMap<string, Alike>;
  /** Paths that scenes outside the pack use. */
  used: ReadonlySet<string>;
}

/** A picture of the file where there is one, else the sign of its kind. */
function Small({ src, kind }: { src: string | null; kind: string }) {
  const Icon = kind === 'scene' || kind === 'model' ? Box : kind === 'texture' ? ImageIcon : File;
  return <Thumb side={36} src={src} sign={<Icon size={17} />} />;
}

const Said = styled.span`
  font-size: 13px;
  .amber {
    color: ${color.amber};
  }
  .green {
    color: ${color.greenText};
  }
`;
const lastOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);

export const packColumns: readonly GridColumn<PackFileView, PackContext>[] = [
  {
    id: 'picture',
    label: 'Picture',
    width: 50,
    cell: (f, { workspace }) => (
      <Small
        src={
          f.kind === 'texture' && mayHavePicture(f.path)
            ? `/api/workspaces/${workspace}/picture${query({ path: f.path })}`
            : null
        }
        kind={f.kind}
      />
    ),
  },
  {
    id: 'name',
    label: 'Name',
    width: null,
    cell: (f) => (
      <Mono title={f.path}>
        <strong>{lastOf(f.path)}</strong>
      </Mono>
    ),
  },
  { id: 'kind', label: 'Kind', width: 96, cell: (f) => <Soft>{f.kind}</Soft> },
  {
    id: 'said',
    label: 'To be said',
    width: 230,
    cell: (f, { likes, used }) => {
      const like = likes.get(f.path);
      return (
        <Said>
          {used.has(f.path) && <span className="green">in use </span>}
          {f.references > 0 && count(f.references, 'reference')}
          {f.missing > 0 && <span className="amber">, {f.missing} missing</span>}
          {like && (
            <span className="amber" title={`${like.how} as ${like.like}`}>
              {' '}
              <Copy size={12} aria-hidden /> {like.how} as {lastOf(like.like)}
            </span>
          )}
        </Said>
      );
    },
  },
  {
    id: 'size',
    label: 'Size',
    width: 92,
    align: 'right',
    cell: (f) => <span title={exactBytes(f.size)}>{bytes(f.size)}</span>,
  },
];
