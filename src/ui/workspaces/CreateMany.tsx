'use client';
// Creates several workspaces, all alike, from a list: a class, a set of shots. Every name is checked before anything is made.

import { createMany, previewMany } from '@/wire/routes/shelf';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { CheckCircle2, FolderTree, XCircle } from 'lucide-react';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { checkPattern, nameOfPattern } from '@/core/names/patterns';
import { count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import {
  Area,
  Button,
  ErrorNotice,
  MainButton,
  Mono,
  Notice,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { FolderField, LayoutField, PlaceAdvice } from '../kit/fields';
import { Page } from '../kit/Page';
import { usePlanOf, useServerState } from '../kit/work';
import { color, space } from '../theme/theme';
import { today } from './PatternField';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: ${space(4)};
  align-items: start;
`;
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

export function CreateMany({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const demoPlace = state?.demo ? `${state.demo}/bench/work` : undefined;
  const [typed, setParent] = useState<string | null>(null);
  const parent = typed ?? demoPlace ?? state?.allowed[0]?.path ?? '';
  const [pattern, setPattern] = useState('{year}-{month} {title} {person}');
  const [title, setTitle] = useState('');
  const [category, setCategory] = useState('');
  const [list, setList] = useState('');
  const [layout, setLayout] = useState('game-environment');
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const planOf = usePlanOf();
  const [date] = useState(today);
  const wrongPattern = checkPattern(pattern);
  const people = useMemo(
    () =>
      list
        .split(/\r?\n/)
        .map((l) => l.trim())
        .filter(Boolean),
    [list],
  );
  // A list without a title is a list of titles.
  const names = useMemo(
    () =>
      people.map((p, i) =>
        nameOfPattern(pattern, { date, title: title || p, person: title ? p : '', category, number: i + 1 }),
      ),
    [people, pattern, title, category, date],
  );
  const request = { parent, names, layout: { id: layout }, category: category || undefined };
  const { data: preview } = useQuery({
    queryKey: ['many', request],
    enabled: parent !== '' && names.length > 0,
    placeholderData: keepPreviousData,
    queryFn: () => call(previewMany, {}, request),
  });
  const rows = names.length > 0 ? (preview?.rows ?? []) : [];
  const wrong = rows.filter((r) => r.wrong !== null).length;
  const ready = rows.length > 0 && wrong === 0 && !preview?.problem && wrongPattern.length === 0;
  return (
    <Page
      title="Create several"
      answer="One line for each: a class, a set of shots. All get the same layout, in one plan that can be undone as one."
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <MainButton
            isDisabled={!ready}
            onPress={() => {
              setProblem(null);
              planOf(createMany, {}, request, '/').catch((cause: unknown) => setProblem(shapeOf(cause)));
            }}
          >
            <FolderTree size={16} /> Plan {names.length > 0 ? count(names.length, 'workspace') : 'them'}…
          </MainButton>
        </>
      }
    >
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Sheet>
          <Stack>
            <FolderField
              label="Where: the folder that will hold them"
              title="Where shall the workspaces lie?"
              value={parent}
              onChange={setParent}
            />
            <PlaceAdvice path={parent} quiet />
            <TextField
              label="Title, the same for all"
              value={title}
              onChange={setTitle}
              placeholder="Harbour course"
              description="Left empty, each line of the list is a title."
            />
            <div>
              <strong style={{ fontSize: 13.5 }}>{title ? 'One person a line' : 'One title a line'}</strong>
              <Area
                aria-label="The list"
                value={list}
                onChange={(e) => setList(e.target.value)}
                placeholder={title ? 'Ada\nBen\nChidi' : 'Lighthouse\nQuay\nFishing boat'}
              />
            </div>
            <TextField
              label="Pattern of the names"
              mono
              value={pattern}
              onChange={setPattern}
              error={wrongPattern[0]}
              description="{year} {month} {day} {title} {person} {category} {number:2}"
            />
            <TextField label="Category" value={category} onChange={setCategory} placeholder="teaching" />
            <LayoutField layouts={state?.layouts ?? []} value={layout} onChange={setLayout} />
          </Stack>
        </Sheet>
        <Sheet>
          <Stack>
            <h2>What will be made</h2>
            {preview?.problem && <Notice tone="brick" title={preview.problem} />}
            {rows.length === 0 ? (
              <Soft>The names show here as you type the list.</Soft>
            ) : (
              <>
                <div>
                  <strong>{count(rows.length, 'workspace')}</strong>{' '}
                  <Soft>
                    with {count(preview?.folders ?? 0, 'folder')} each{wrong > 0 && `; ${wrong} cannot be`}
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
      </Columns>
    </Page>
  );
}
