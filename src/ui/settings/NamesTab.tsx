'use client';
// Names: what the workspace is called and filed under, and the patterns by which its scenes and outputs are named.

import { useState } from 'react';
import { checkPattern } from '@/core/names/patterns';
import type { ErrorShape } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { Button, ErrorNotice, MainButton, Row, Sheet, Soft, Stack, TextField } from '../kit/controls';
import { Page } from '../kit/Page';
import { usePlan } from '../kit/work';
import { PatternField, today } from '../workspaces/PatternField';

export function NamesTab({ s, bar }: { s: SettingsView; bar: React.ReactNode }) {
  const [name, setName] = useState(s.name);
  const [category, setCategory] = useState(s.category ?? '');
  const [scene, setScene] = useState(s.names.scene);
  const [output, setOutput] = useState(s.names.output);
  const [person, setPerson] = useState(s.names.person);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [date] = useState(today);
  const plan = usePlan();
  const change = {
    ...(name !== s.name ? { name } : {}),
    ...(category !== (s.category ?? '') ? { category: category || null } : {}),
    ...(scene !== s.names.scene || output !== s.names.output || person !== s.names.person
      ? { names: { scene, output, person } }
      : {}),
  };
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
    <Page
      title="Settings"
      answer="Names that sort by themselves and are legal on every system. What is noted here lies in the workspace and travels with it."
      actions={
        <>
          <Button
            isDisabled={Object.keys(change).length === 0}
            onPress={() => {
              setName(s.name);
              setCategory(s.category ?? '');
              setScene(s.names.scene);
              setOutput(s.names.output);
              setPerson(s.names.person);
            }}
          >
            As it was
          </Button>
          <MainButton
            isDisabled={wrong || Object.keys(change).length === 0}
            onPress={() => {
              setProblem(null);
              plan({ kind: 'settings', change }).catch((cause: unknown) => setProblem(shapeOf(cause)));
            }}
          >
            Plan the change…
          </MainButton>
        </>
      }
    >
      {bar}
      {problem && <ErrorNotice error={problem} />}
      <Sheet>
        <Stack>
          <h2>The workspace</h2>
          <Row style={{ alignItems: 'flex-start' }}>
            <TextField label="Name shown" value={name} onChange={setName} />
            <TextField
              label="Category"
              value={category}
              onChange={setCategory}
              placeholder="client, teaching, own"
            />
            <TextField label="Person in names" value={person} onChange={setPerson} placeholder="ada" />
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
          <PatternField
            label="Pattern of scene names"
            value={scene}
            onChange={setScene}
            values={values}
            extension=".gltf"
          />
        </Stack>
      </Sheet>
      <Sheet>
        <Stack>
          <h2>Outputs</h2>
          <PatternField
            label="Pattern of output names"
            value={output}
            onChange={setOutput}
            values={values}
            extension=".png"
          />
        </Stack>
      </Sheet>
    </Page>
  );
}
