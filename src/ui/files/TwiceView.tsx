'use client';
// Files that are there twice: each group with the one that stays, which can be chosen; merged as one plan.

import { findDuplicates } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { CopyMinus } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { mayHavePicture } from '@/core/formats/kinds';
import type { Duplicates } from '@/core/plans/planMerge';
import { bytes, count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import { query, shapeOf } from '../kit/api';
import { Empty, ErrorNotice, Grow, MainButton, Row, Sheet, Soft, Stack } from '../kit/controls';
import { Tick } from '../kit/fields';
import { Path } from '../kit/Path';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { color, space } from '../theme/theme';

const Groups = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  > li {
    display: grid;
    grid-template-columns: 28px 52px minmax(0, 1fr) auto;
    gap: ${space(3)};
    padding: ${space(3)} 0;
    border-bottom: 1px solid ${color.line};
    align-items: start;
  }
  > li:last-child {
    border-bottom: none;
  }
  img {
    width: 52px;
    height: 52px;
    object-fit: cover;
    border-radius: 6px;
    border: 1px solid ${color.line};
  }
  label {
    display: grid;
    grid-template-columns: 20px minmax(0, 1fr) 150px;
    gap: ${space(2)};
    align-items: center;
    min-height: 26px;
    cursor: pointer;
  }
  .goes {
    text-decoration: line-through;
    min-width: 0;
  }
  .stays {
    min-width: 0;
  }
`;

const Picture = styled.img``;

const shownAtMost = 200;

export function TwiceView() {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const [keep, setKeep] = useState<Record<string, string>>({});
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const { data, error } = useQuery({
    queryKey: ['twice', id],
    queryFn: () => run(findDuplicates, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Looking …</Soft>;
  if (data.length === 0) return <Empty>No picture, sound, film or font is there twice.</Empty>;
  const keyOf = (g: Duplicates) => g.files[0]!.path;
  const chosen = data.filter((g) => !without.has(keyOf(g)));
  const spare = chosen.reduce((s, g) => s + g.size * (g.files.length - 1), 0);
  const merge = () => {
    setProblem(null);
    plan({
      kind: 'merge',
      groups: chosen.map((g) => {
        const first = keep[keyOf(g)] ?? keyOf(g);
        return [first, ...g.files.map((f) => f.path).filter((p) => p !== first)];
      }),
    }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  return (
    <Sheet>
      <Stack>
        {problem && <ErrorNotice error={problem} />}
        <Row>
          <Grow>
            <Soft>
              The marked one stays; every path to the others will lead to it, and they go to the bin.{' '}
              {data.length > shownAtMost && `The ${shownAtMost} largest are listed.`}
            </Soft>
          </Grow>
          <MainButton isDisabled={chosen.length === 0} onPress={merge}>
            <CopyMinus size={15} /> Merge {count(chosen.length, 'group')}, {bytes(spare)}…
          </MainButton>
        </Row>
        <Groups aria-label="Files that are there twice">
          {data.slice(0, shownAtMost).map((g) => {
            const stays = keep[keyOf(g)] ?? keyOf(g);
            const isOut = without.has(keyOf(g));
            return (
              <li key={keyOf(g)}>
                <Tick
                  label={`Merge the group of ${keyOf(g)}`}
                  checked={!isOut}
                  onChange={(on) => {
                    const next = new Set(without);
                    if (on) next.delete(keyOf(g));
                    else next.add(keyOf(g));
                    setWithout(next);
                  }}
                />
                {mayHavePicture(keyOf(g)) ? (
                  <Picture
                    alt=""
                    loading="lazy"
                    src={`/api/workspaces/${id}/picture${query({ path: keyOf(g) })}`}
                  />
                ) : (
                  <span />
                )}
                <div role="radiogroup" aria-label={`Which stays of ${keyOf(g)}`}>
                  {g.files.map((f) => (
                    <label key={f.path}>
                      <input
                        type="radio"
                        name={keyOf(g)}
                        checked={f.path === stays}
                        disabled={isOut}
                        onChange={() => setKeep({ ...keep, [keyOf(g)]: f.path })}
                      />
                      <span className={f.path === stays || isOut ? 'stays' : 'goes'}>
                        <Path path={f.path} />
                      </span>
                      <Soft>{f.uses > 0 ? count(f.uses, 'reference') : 'used by nothing'}</Soft>
                    </label>
                  ))}
                </div>
                <Soft style={{ whiteSpace: 'nowrap' }}>
                  {g.files.length} × {bytes(g.size)}
                </Soft>
              </li>
            );
          })}
        </Groups>
      </Stack>
    </Sheet>
  );
}
