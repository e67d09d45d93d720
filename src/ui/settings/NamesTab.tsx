'use client';
// Names: what the workspace is called and filed under, and the patterns by which its scenes and outputs are named.

import { useState } from 'react';
import { checkPattern } from '@/core/names/patterns';
import { planRequest } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { useUnsaved } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { ViewHead } from '../kit/Page';
import { usePlan } from '../kit/work';
import { FormPattern, today } from '../workspaces/PatternField';

export function NamesTab({ s }: { s: SettingsView }) {
  const [date] = useState(today);
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const initial = { name: s.name, category: s.category ?? '', ...s.names };
  const request = (v: typeof initial) => ({
    kind: 'settings' as const,
    change: {
      ...(v.name !== s.name ? { name: v.name } : {}),
      ...(v.category !== (s.category ?? '') ? { category: v.category || null } : {}),
      ...(v.scene !== s.names.scene || v.output !== s.names.output || v.person !== s.names.person
        ? { names: { scene: v.scene, output: v.output, person: v.person } }
        : {}),
    },
  });
  const form = useKeptForm('names', asking(planRequest, request), initial);
  useUnsaved(form.isChanged, 'Names were changed here; no plan of it was applied.', form.takeBack);
  const { name, category, scene, output, person } = form.values;
  const wrong = name.trim() === '' || checkPattern(scene).length > 0 || checkPattern(output).length > 0;
  const values = {
    date,
    title: 'quay',
    person,
    category,
    scene: 'quay_v004',
    camera: 'lamp',
    number: 8,
    version: 4,
  };
  return (
    <Form form={form} label="Names" onSubmit={(v) => attempt(() => plan(request(v)))}>
      <ViewHead
        answer="Names that sort by themselves and are legal on every system. What is noted here lies in the workspace and travels with it."
        actions={
          <>
            <Button isDisabled={!form.isChanged} onPress={form.takeBack}>
              As it was
            </Button>
            <Submit unless={wrong || !form.isChanged}>Plan the change…</Submit>
          </>
        }
      />
      <ErrorNotice error={problem} />
      <Sheet>
        <Stack>
          <h2>The workspace</h2>
          <Row style={{ alignItems: 'flex-start' }}>
            <FormText
              name="name"
              label="Name shown"
              check={(v) => (v.trim() === '' ? 'It needs a name.' : undefined)}
            />
            <FormText name="category" label="Category" placeholder="client, teaching, own" />
            <FormText name="person" label="Person in names" placeholder="ada" />
          </Row>
          <Soft>
            The folder keeps its own name; it is renamed under Workspaces, where paths from other workspaces
            follow.
          </Soft>
        </Stack>
      </Sheet>
      <Sheet>
        <Stack>
          <h2>Scenes</h2>
          <FormPattern name="scene" label="Pattern of scene names" values={values} extension=".gltf" />
        </Stack>
      </Sheet>
      <Sheet>
        <Stack>
          <h2>Outputs</h2>
          <FormPattern name="output" label="Pattern of output names" values={values} extension=".png" />
        </Stack>
      </Sheet>
    </Form>
  );
}
