'use client';
// The workspaces that a list would make, each with what is wrong with it.

import styled from 'styled-components';
import { CheckCircle2, XCircle } from '../kit/icons';
import { count } from '@/core/text/figures';
import { Mono, Sheet, Soft, Stack } from '../kit/layout';
import { Notice } from '../kit/notices';
import { color, space } from '../theme/theme';

const List = styled.ol`
  margin: 0;
  padding: 0;
  list-style: none;
  max-height: 60vh;
  overflow: auto;
  li {
    display: grid;
    grid-template-columns: 20px minmax(0, 1fr);
    gap: ${space(2)};
    padding: 4px 0;
    border-bottom: 1px solid ${color.line};
  }
  .wrong {
    color: ${color.brick};
  }
`;

export function WillBeMade({
  rows,
  wrong,
  folders,
  problem,
}: {
  rows: readonly { name: string; wrong: string | null }[];
  /** How many of them cannot be. */
  wrong: number;
  /** Folders in each. */
  folders: number;
  problem: string | null | undefined;
}) {
  return (
    <Sheet>
      <Stack>
        <h2>What will be made</h2>
        {problem && <Notice tone="brick" title={problem} />}
        {rows.length === 0 ? (
          <Soft>The names show here as you type the list.</Soft>
        ) : (
          <>
            <div>
              <strong>{count(rows.length, 'workspace')}</strong>{' '}
              <Soft>
                with {count(folders, 'folder')} each{wrong > 0 && `; ${wrong} cannot be`}
              </Soft>
            </div>
            <List>
              {rows.map((r, i) => (
                <li key={`${r.name} ${i}`}>
                  {r.wrong ? (
                    <XCircle size={16} className="wrong" aria-label="cannot be" />
                  ) : (
                    <CheckCircle2 size={16} color={color.greenText} aria-label="can be made" />
                  )}
                  <span>
                    <Mono>{r.name}</Mono>
                    {r.wrong && <div className="wrong">{r.wrong}</div>}
                  </span>
                </li>
              ))}
            </List>
          </>
        )}
      </Stack>
    </Sheet>
  );
}
