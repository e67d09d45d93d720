'use client';
// Where a new workspace lies and what it is called; the name may be composed by a pattern.

import { useState } from 'react';
import { checkPattern, nameOfPattern } from '@/core/names/patterns';
import { FormFolder, FormText } from '../kit/form';
import { Row, Sheet, Stack } from '../kit/layout';
import { PlaceAdvice } from '../kit/places';
import { FormPattern, Legality, today } from './PatternField';
import type { CreateForm } from './CreateWorkspace';

export function PlaceAndName({ form }: { form: CreateForm }) {
  const [date] = useState(today);
  const { parent, name, title, person, pattern } = form.values;
  /** The name by the pattern, as soon as there is a title to put into it. */
  const compose = (more: { title?: string; person?: string; pattern?: string }) => {
    const next = { title, person, pattern, ...more };
    if (next.title !== '' && checkPattern(next.pattern).length === 0)
      form.setValue('name', nameOfPattern(next.pattern, { date, title: next.title, person: next.person }), {
        shouldValidate: true,
      });
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
            </Row>
            <FormPattern
              name="pattern"
              label="Pattern"
              onTyped={(p) => compose({ pattern: p })}
              values={{ date, title: title || 'Harbour Lantern', person }}
            />
          </Stack>
        </details>
      </Stack>
    </Sheet>
  );
}
