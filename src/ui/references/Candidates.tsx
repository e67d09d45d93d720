'use client';
// Where a missing file could be: candidates with the reason, the likeliest first; one is taken, or with it all that moved the same way.

import { suggestCandidates } from '@/wire/routes/references';
import { useQuery } from '@tanstack/react-query';
import { FolderSearch, ShieldCheck } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import type { z } from 'zod';
import { mayHavePicture } from '@/core/formats/kinds';
import { bytes, count } from '@/core/text/figures';
import { query, shapeOf } from '../kit/api';
import { Button, Chip, MainButton, PlainButton } from '../kit/buttons';
import { Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAttempt } from '../kit/attempt';
import { Radios } from '../kit/fields';
import { FolderChooser } from '../kit/FolderChooser';
import { Thumb } from '../kit/Thumb';
import { useJob, usePlan, useSettings } from '../kit/work';
import { color, font, space } from '../theme/theme';
import { ChooseFile } from './ChooseFile';

const Choice = styled.span`
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr);
  gap: ${space(2)};
  align-items: center;
  .where {
    font: 400 13px/1.3 ${font.mono};
    color: ${color.soft};
    overflow-wrap: anywhere;
    strong {
      color: ${color.ink};
    }
  }
  .why {
    font-size: 13px;
    line-height: 1.3;
    color: ${color.soft};
  }
`;
type Found = z.output<NonNullable<typeof suggestCandidates.result>>['candidates'][number];

/** Where it lies, and why it could be the one. */
function Candidate({ c, workspace }: { c: Found; workspace: string }) {
  const cut = c.path.lastIndexOf('/') + 1;
  const isSeen = c.inside && mayHavePicture(c.path);
  return (
    <Choice>
      <Thumb src={isSeen ? `/api/workspaces/${workspace}/picture${query({ path: c.path })}` : null} />
      <span style={{ minWidth: 0 }}>
        <div className="where">
          {c.path.slice(0, cut)}
          <wbr />
          <strong>{c.path.slice(cut)}</strong>
        </div>
        <div className="why">
          {c.isSure && <ShieldCheck size={13} aria-label="sure" color={color.greenText} />} {c.why}
          {c.size !== null && ` · ${bytes(c.size)}`}
        </div>
      </span>
    </Choice>
  );
}

/** `lacks`: the first number that a set which is there lacks; null: nothing is there. */
export function Candidates({
  workspace,
  of,
  lacks,
}: {
  workspace: string;
  of: { scene: string; at: string };
  lacks: number | null;
}) {
  const run = useJob();
  const plan = usePlan();
  const [search, setSearch] = useState<string[]>([]);
  const [chosen, setChosen] = useState<string | null>(null);
  const [chooser, setChooser] = useState(false);
  const { attempt, problem } = useAttempt();
  const { data, error, isFetching } = useQuery({
    queryKey: ['suggest', workspace, of, search],
    staleTime: 30_000,
    queryFn: () => run(suggestCandidates, { id: workspace }, { ...of, search }),
  });
  const { data: settings } = useSettings({ staleTime: 60_000 });
  // Libraries are looked in anyway.
  const lookable = (settings?.places ?? []).flatMap((p) => p.here.map((path) => ({ name: p.name, path })));
  const candidates = data?.candidates ?? [];
  const one = candidates.find((c) => c.path === chosen) ?? candidates[0];
  const take = (sameWay: boolean) =>
    void attempt(() => plan({ kind: 'relink', choices: [{ ...of, to: one!.path }], sameWay }));
  return (
    <Stack $gap={2} role="group" aria-label="Where it could be">
      <h2>{lacks === null ? 'Where it could be' : `Where ${lacks} could be`}</h2>
      {error && <ErrorNotice error={shapeOf(error)} />}
      <ErrorNotice error={problem} />
      {!data && !error && <Soft>Looking …</Soft>}
      {data && candidates.length === 0 && (
        <Soft>
          {lacks === null ? 'Nothing like it' : 'No file of the set with that number'} lies in the workspace
          or its libraries
          {search.length > 0 ? `, nor in ${search.join(', ')}` : ''}. Look in another folder.
        </Soft>
      )}
      {one && (
        <Radios
          framed
          label="Candidates"
          value={one.path}
          onChange={setChosen}
          options={candidates.map((c) => ({
            id: c.path,
            name: c.path,
            content: <Candidate c={c} workspace={workspace} />,
          }))}
        />
      )}
      {one && (
        <Row $wrap>
          <MainButton onPress={() => take(false)}>
            {lacks === null ? 'Point it there…' : 'Copy it to the set…'}
          </MainButton>
          {one.sameWay > 0 && (
            <Button onPress={() => take(true)}>
              …and {count(one.sameWay, 'other')} that moved the same way
            </Button>
          )}
        </Row>
      )}
      {lookable.length > 0 && (
        <Row $wrap>
          {lookable.map((l) => (
            <Chip
              key={l.path}
              isSelected={search.includes(l.path)}
              onChange={(on) => setSearch(on ? [...search, l.path] : search.filter((s) => s !== l.path))}
            >
              also in {l.name}
            </Chip>
          ))}
        </Row>
      )}
      <Row $wrap>
        <PlainButton isDisabled={isFetching} onPress={() => setChooser(true)}>
          <FolderSearch size={15} /> Look in another folder…
        </PlainButton>
        <ChooseFile workspace={workspace} of={of} />
      </Row>
      {chooser && (
        <FolderChooser
          title="Look in which folder, and all below it?"
          pick="folder"
          action="Look there"
          onClose={() => setChooser(false)}
          onChoose={([path]) => {
            setChooser(false);
            setSearch([...search, path!]);
          }}
        />
      )}
    </Stack>
  );
}
