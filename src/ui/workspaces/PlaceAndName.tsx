'use client';
// Where a new workspace lies and what it is called; the name may be composed by a pattern.

import { useState } from 'react';
import { folderOf, nameOf } from '@/core/files/treePath';
import { checkPattern, nameOfPattern, nextNumber, tokens, tokensIn, type Token } from '@/core/names/patterns';
import { FormFolder, FormText } from '../kit/form';
import { Row, Sheet, Stack } from '../kit/layout';
import { PlaceAdvice } from '../kit/places';
import { useServerState } from '../kit/work';
import { FormPattern, Legality, today } from './PatternField';
import type { CreateForm } from './CreateWorkspace';

// What stands for something in the name of a workspace: all but what only scenes and outputs have.
const ofScenes: readonly Token[] = ['scene', 'camera', 'version'];
const ofWorkspace = tokens.filter((t) => !ofScenes.includes(t));

export function PlaceAndName({ form }: { form: CreateForm }) {
  const [date] = useState(today);
  const { data: state } = useServerState();
  const { parent, name, title, person, category, pattern } = form.values;
  const used = tokensIn(pattern);
  const beside = (state?.workspaces ?? []).flatMap((w) =>
    folderOf(w.root) === parent ? [nameOf(w.root)] : [],
  );
  const next = nextNumber(pattern, beside);
  const numberOf = (typed: string) => (/^\d{1,9}$/.test(typed.trim()) ? Number(typed) : next);
  const number = numberOf(form.values.number);
  /** The name by the pattern, as soon as there is a title to put into it. */
  const compose = (more: Partial<Record<'title' | 'person' | 'category' | 'number' | 'pattern', string>>) => {
    const v = { title, person, category, pattern, number: form.values.number, ...more };
    const asks = tokensIn(v.pattern);
    if ((asks.has('title') && v.title === '') || checkPattern(v.pattern).length > 0) return;
    if ([...asks].some((t) => !ofWorkspace.includes(t))) return;
    const values = { date, title: v.title, person: v.person, category: v.category };
    const n = more.pattern === undefined ? numberOf(v.number) : nextNumber(v.pattern, beside);
    form.setValue('name', nameOfPattern(v.pattern, { ...values, number: n }), { shouldValidate: true });
  };
  return (
    <Sheet>
      <Stack>
        <FormFolder
          name="parent"
          label="Where: the folder that will hold it"
          title="Where shall the workspace lie?"
        />
        <PlaceAdvice path={parent} quiet />
        <FormText
          name="name"
          label="Name"
          autoFocus
          placeholder="2026-11 Harbour Lantern"
          description="A date in front (year-month) sorts by itself."
        />
        {name !== '' && <Legality name={name} />}
        <details>
          <summary>Compose the name by a pattern</summary>
          <Stack style={{ marginTop: 10 }}>
            <Row style={{ alignItems: 'flex-end' }}>
              <FormText name="title" label="Title" onTyped={(t) => compose({ title: t })} />
              <FormText name="person" label="Person" onTyped={(p) => compose({ person: p })} />
              {used.has('category') && (
                <FormText name="category" label="Category" onTyped={(c) => compose({ category: c })} />
              )}
              {used.has('number') && (
                <FormText
                  name="number"
                  label="Number"
                  placeholder={String(next)}
                  check={(n) => (/^\d{0,9}$/.test(n.trim()) ? undefined : 'A whole number.')}
                  onTyped={(n) => compose({ number: n })}
                />
              )}
            </Row>
            <FormPattern
              name="pattern"
              label="Pattern"
              onTyped={(p) => compose({ pattern: p })}
              of={ofWorkspace}
              values={{ date, title: title || 'Harbour Lantern', person, category, number }}
            />
          </Stack>
        </details>
      </Stack>
    </Sheet>
  );
}
