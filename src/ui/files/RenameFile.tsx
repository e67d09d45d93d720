'use client';
// A file under another name, in another place, or in the home of its kind; references follow.

import { extensionOf, stemOf } from '@/core/files/treePath';
import { parseNumbered } from '@/core/names/counters';
import { nameOfPattern } from '@/core/names/patterns';
import { planRequest } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Row, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan, useSettings } from '../kit/work';
import { today } from '../workspaces/PatternField';
import { wrongPath } from './RenameFolder';

/** The path with its name by the workspace's pattern: of outputs where it lies in a home for results, of scenes for scenes; null for other files. */
function namedByPattern(path: string, kind: string, home: string | null, s: SettingsView): string | null {
  const isOutput = home === 'render' || home === 'export';
  if (!isOutput && kind !== 'scene') return null;
  const cut = path.lastIndexOf('/') + 1;
  const extension = extensionOf(path) === '' ? '' : path.slice(path.length - extensionOf(path).length);
  const numbered = parseNumbered(path.slice(cut));
  const title = (numbered?.stem ?? stemOf(path)).replace(/^\d{4}-?\d{2}(-?\d{2})?[ _-]*/, '');
  const name = nameOfPattern(isOutput ? s.names.output : s.names.scene, {
    date: today(),
    title,
    scene: title,
    person: s.names.person,
    category: s.category ?? '',
    ...(numbered ? { version: numbered.number, number: numbered.number } : {}),
  });
  return path.slice(0, cut) + name + extension;
}

export function RenameFile({ path, kind, home }: { path: string; kind: string; home: string | null }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const { data: settings } = useSettings();
  const request = (v: { to: string }) => ({ kind: 'move' as const, moves: [{ path, to: v.to }] });
  const form = useKeptForm('file to', asking(planRequest, request), { to: path });
  const byPattern = settings ? namedByPattern(path, kind, home, settings) : null;
  const { to } = form.values;
  return (
    <Form form={form} label="Rename or move" onSubmit={(v) => attempt(() => plan(request(v)))}>
      <Stack $gap={2}>
        <h2>Rename or move</h2>
        <FormText name="to" label="Path from the root" mono check={wrongPath} />
        <Row $wrap>
          {byPattern && byPattern !== path && (
            <Button onPress={() => form.setValue('to', byPattern, { shouldValidate: true })}>
              Name by the pattern
            </Button>
          )}
          <Submit unless={to === path || wrongPath(to) !== undefined}>Plan it…</Submit>
          {kind !== 'other' && home !== kind && (
            <Button onPress={() => void attempt(() => plan({ kind: 'tidy', only: [path] }))}>
              File it with the other {kind} files…
            </Button>
          )}
        </Row>
        <ErrorNotice error={problem} />
      </Stack>
    </Form>
  );
}
