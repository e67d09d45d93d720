'use client';
// Creates several workspaces, all alike, from a list: a class, a set of shots. Every name is checked before anything is made.

import { createMany, previewMany } from '@/wire/routes/shelf';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { FolderTree } from '../kit/icons';
import { useState } from 'react';
import { checkPattern, nameOfPattern, type PatternValues } from '@/core/names/patterns';
import { count } from '@/core/text/figures';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, FormArea, FormChoice, FormFolder, FormText, Submit, useKeptForm } from '../kit/form';
import { Columns, Sheet, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { layoutOptions, PlaceAdvice } from '../kit/places';
import { usePlanOf, useServerState } from '../kit/work';
import { today } from './PatternField';
import { WillBeMade } from './WillBeMade';

interface Typed {
  parent: string;
  pattern: string;
  title: string;
  category: string;
  list: string;
  layout: string;
  [more: string]: string;
}

/** The names that a list makes: without a title, each line is one. */
function namesOf(v: Typed, date: PatternValues['date']): string[] {
  const lines = v.list
    .split(/\r?\n/)
    .map((l) => l.trim())
    .filter(Boolean);
  return lines.map((line, i) =>
    nameOfPattern(v.pattern, {
      date,
      title: v.title || line,
      person: v.title ? line : '',
      category: v.category,
      number: i + 1,
    }),
  );
}

export function CreateMany({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const planOf = usePlanOf();
  const { attempt, problem } = useAttempt();
  const [date] = useState(today);
  const requestOf = (v: Typed) => ({
    parent: v.parent,
    names: namesOf(v, date),
    layout: { id: v.layout },
    category: v.category || undefined,
  });
  const form = useKeptForm<Typed>('many', asking(createMany.input, requestOf), {
    parent: state?.demo ? `${state.demo}/bench/work` : (state?.allowed[0]?.path ?? ''),
    pattern: '{year}-{month} {title} {person}',
    title: '',
    category: '',
    list: '',
    layout: 'game-environment',
  });
  const { parent, pattern, title } = form.values;
  const wrongPattern = checkPattern(pattern);
  const request = requestOf(form.values);
  const { names } = request;
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
    <Form
      form={form}
      label="Create several"
      onSubmit={(v) => attempt(() => planOf(createMany, {}, requestOf(v), { done: '/' }))}
    >
      <Page
        title="Create several"
        answer="One line for each: a class, a set of shots. All get the same layout, in one plan that can be undone as one."
        actions={
          <>
            <Button onPress={onClose}>Back</Button>
            <Submit unless={!ready}>
              <FolderTree size={16} /> Plan {names.length > 0 ? count(names.length, 'workspace') : 'them'}…
            </Submit>
          </>
        }
      >
        <ErrorNotice error={problem} />
        <Columns $right="minmax(0, 1.2fr)">
          <Sheet>
            <Stack>
              <FormFolder
                name="parent"
                label="Where: the folder that will hold them"
                title="Where shall the workspaces lie?"
              />
              <PlaceAdvice path={parent} quiet />
              <FormText
                name="title"
                label="Title, the same for all"
                placeholder="Harbour course"
                description="Left empty, each line of the list is a title."
              />
              <FormArea
                name="list"
                label="The list"
                description={title ? 'One person a line.' : 'One title a line.'}
                placeholder={title ? 'Ada\nBen\nChidi' : 'Lighthouse\nQuay\nFishing boat'}
              />
              <FormText
                name="pattern"
                label="Pattern of the names"
                mono
                check={() => wrongPattern[0]}
                description="{year} {month} {day} {title} {person} {category} {number:2}"
              />
              <FormText name="category" label="Category" placeholder="teaching" />
              <FormChoice name="layout" label="Layout" options={layoutOptions(state?.layouts ?? [])} />
            </Stack>
          </Sheet>
          <WillBeMade rows={rows} wrong={wrong} folders={preview?.folders ?? 0} problem={preview?.problem} />
        </Columns>
      </Page>
    </Form>
  );
}
