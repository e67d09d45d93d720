'use client';
// Where a missing file could be: candidates with the reason, the likeliest first; one is taken, or with it all that moved the same way.

import { suggestCandidates } from '@/wire/routes/references';
import { readSettings } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { FileSearch, FolderSearch, ShieldCheck } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { mayHavePicture } from '@/core/formats/kinds';
import { bytes, count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import { call, query, shapeOf } from '../kit/api';
import { Button, Chip, ErrorNotice, MainButton, PlainButton, Row, Soft, Stack } from '../kit/controls';
import { FolderChooser } from '../kit/FolderChooser';
import { useJob, usePlan, useServerState } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';

const Choice = styled.label`
  display: grid;
  grid-template-columns: 20px 64px minmax(0, 1fr);
  gap: ${space(2)};
  align-items: center;
  padding: ${space(2)};
  border: 1px solid ${color.line};
  border-radius: ${radius.small};
  cursor: pointer;
  &:has(input:checked) {
    border-color: ${color.greenText};
    background: ${color.greenTint};
  }
  &:has(input:focus-visible) {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
  .thumb {
    width: 64px;
    height: 64px;
    border-radius: 4px;
    background: ${color.raised};
    border: 1px solid ${color.line};
    overflow: hidden;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
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
const Picture = styled.img``;

function Thumb({ src }: { src: string | null }) {
  const [broken, setBroken] = useState(false);
  return (
    <span className="thumb" aria-hidden>
      {src !== null && !broken && <Picture alt="" src={src} onError={() => setBroken(true)} />}
    </span>
  );
}

/** Any file, chosen by hand. */
export function ChooseFile({ workspace, of }: { workspace: string; of: { scene: string; at: string } }) {
  const { data: state } = useServerState();
  const root = state?.workspaces.find((w) => w.id === workspace)?.root;
  const plan = usePlan();
  const [isOpen, setOpen] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const choose = (path: string) => {
    setOpen(false);
    setProblem(null);
    plan({
      kind: 'relink',
      choices: [
        { ...of, to: root !== undefined && path.startsWith(`${root}/`) ? path.slice(root.length + 1) : path },
      ],
    }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  return (
    <>
      <PlainButton onPress={() => setOpen(true)}>
        <FileSearch size={15} /> Choose a file yourself…
      </PlainButton>
      {problem && <ErrorNotice error={problem} />}
      {isOpen && (
        <FolderChooser
          title="Which file shall it be?"
          pick="files"
          start={root}
          action="Point it there"
          onClose={() => setOpen(false)}
          onChoose={([path]) => choose(path!)}
        />
      )}
    </>
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
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const { data, error, isFetching } = useQuery({
    queryKey: ['suggest', workspace, of, search],
    staleTime: 30_000,
    queryFn: () => run(suggestCandidates, { id: workspace }, { ...of, search }),
  });
  const { data: settings } = useQuery({
    queryKey: ['settings', workspace],
    staleTime: 60_000,
    queryFn: () => call(readSettings, { id: workspace }),
  });
  // Libraries are looked in anyway.
  const lookable = (settings?.places ?? []).flatMap((p) => p.here.map((path) => ({ name: p.name, path })));
  const candidates = data?.candidates ?? [];
  const one = candidates.find((c) => c.path === chosen) ?? candidates[0];
  const take = (sameWay: boolean) => {
    setProblem(null);
    plan({ kind: 'relink', choices: [{ ...of, to: one!.path }], sameWay }).catch((cause: unknown) =>
      setProblem(shapeOf(cause)),
    );
  };
  return (
    <Stack $gap={2} role="group" aria-label="Where it could be">
      <h2>{lacks === null ? 'Where it could be' : `Where ${lacks} could be`}</h2>
      {error && <ErrorNotice error={shapeOf(error)} />}
      {problem && <ErrorNotice error={problem} />}
      {!data && !error && <Soft>Looking …</Soft>}
      {data && candidates.length === 0 && (
        <Soft>
          {lacks === null ? 'Nothing like it' : 'No file of the set with that number'} lies in the workspace
          or its libraries
          {search.length > 0 ? `, nor in ${search.join(', ')}` : ''}. Look in another folder.
        </Soft>
      )}
      {candidates.map((c) => (
        <Choice key={c.path}>
          <input
            type="radio"
            name="candidate"
            checked={one === c}
            onChange={() => setChosen(c.path)}
            aria-label={c.path}
          />
          <Thumb
            src={
              c.inside && mayHavePicture(c.path)
                ? `/api/workspaces/${workspace}/picture${query({ path: c.path })}`
                : null
            }
          />
          <span style={{ minWidth: 0 }}>
            <div className="where">
              {c.path.slice(0, c.path.lastIndexOf('/') + 1)}
              <wbr />
              <strong>{c.path.slice(c.path.lastIndexOf('/') + 1)}</strong>
            </div>
            <div className="why">
              {c.isSure && <ShieldCheck size={13} aria-label="sure" color={color.greenText} />} {c.why}
              {c.size !== null && ` · ${bytes(c.size)}`}
            </div>
          </span>
        </Choice>
      ))}
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
              type="button"
              aria-pressed={search.includes(l.path)}
              onClick={() =>
                setSearch(search.includes(l.path) ? search.filter((s) => s !== l.path) : [...search, l.path])
              }
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
