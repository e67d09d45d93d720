'use client';
// Files that are there twice: each group with the one that stays, which can be chosen; merged as one plan.

import { findDuplicates } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { CopyMinus } from '../kit/icons';
import styled from 'styled-components';
import { z } from 'zod';
import { mayHavePicture } from '@/core/formats/kinds';
import type { Duplicates } from '@/core/plans/planMerge';
import { bytes, count } from '@/core/text/figures';
import { query, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { useKept } from '../kit/kept';
import { MainButton } from '../kit/buttons';
import { Radios, Tick } from '../kit/fields';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { Path } from '../kit/Path';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { Some } from '../kit/some';
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
  .copy {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 150px;
    gap: ${space(2)};
    align-items: center;
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
  // Which of each group stays, where it is not the first; and the groups that are left as they are.
  const [keep, setKeep] = useKept('stays', z.record(z.string(), z.string()), {});
  const [out, setOut] = useKept('not merged', z.array(z.string()), []);
  const without = new Set(out);
  const { attempt, problem } = useAttempt();
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
  const merge = () =>
    void attempt(() =>
      plan({
        kind: 'merge',
        groups: chosen.map((g) => {
          const first = keep[keyOf(g)] ?? keyOf(g);
          return [first, ...g.files.map((f) => f.path).filter((p) => p !== first)];
        }),
      }),
    );
  return (
    <Sheet>
      <Stack>
        <ErrorNotice error={problem} />
        <Row>
          <Grow>
            <Soft>
              The marked one stays; every path to the others will lead to it, and they go to the bin.
            </Soft>
          </Grow>
          <MainButton isDisabled={chosen.length === 0} onPress={merge}>
            <CopyMinus size={15} /> Merge {count(chosen.length, 'group')}, {bytes(spare)}…
          </MainButton>
        </Row>
        <Groups aria-label="Files that are there twice">
          <Some isList of={data} more="more group" atOnce={shownAtMost}>
            {(g) => {
              const stays = keep[keyOf(g)] ?? keyOf(g);
              const isOut = without.has(keyOf(g));
              return (
                <li key={keyOf(g)}>
                  <Tick
                    label={`Merge the group of ${keyOf(g)}`}
                    checked={!isOut}
                    onChange={(on) => setOut(on ? out.filter((k) => k !== keyOf(g)) : [...out, keyOf(g)])}
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
                  <Radios
                    label={`Which stays of ${keyOf(g)}`}
                    disabled={isOut}
                    value={stays}
                    onChange={(path) => setKeep({ ...keep, [keyOf(g)]: path })}
                    options={g.files.map((f) => ({
                      id: f.path,
                      content: (
                        <span className="copy">
                          <span className={f.path === stays || isOut ? 'stays' : 'goes'}>
                            <Path path={f.path} />
                          </span>
                          <Soft>{f.uses > 0 ? count(f.uses, 'reference') : 'used by nothing'}</Soft>
                        </span>
                      ),
                    }))}
                  />
                  <Soft style={{ whiteSpace: 'nowrap' }}>
                    {g.files.length} × {bytes(g.size)}
                  </Soft>
                </li>
              );
            }}
          </Some>
        </Groups>
      </Stack>
    </Sheet>
  );
}
