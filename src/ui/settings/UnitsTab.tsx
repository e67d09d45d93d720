'use client';
// Units and grid: the working unit and how lengths are shown, the grid; and every scene's own unit, up axis and size beside it.

import { measureScenesRoute } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { Ruler } from '../kit/icons';
import { useState } from 'react';
import { count, figure } from '@/core/text/figures';
import { lengthText, unitName, type WorkspaceUnits } from '@/core/units/units';
import { planRequest } from '@/wire/jobs';
import type { SceneMeasure, SettingsView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, Submit, useKeptForm } from '../kit/form';
import { Columns, Sheet, Soft, Stack } from '../kit/layout';
import { useUnsaved } from '../kit/leaving';
import { Empty, ErrorNotice } from '../kit/notices';
import { ViewHead } from '../kit/Page';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { GridPicture } from './GridPicture';
import { MeasuredScenes } from './MeasuredScenes';
import { UnitFields } from './UnitFields';
import { Yardstick } from './Yardstick';

function answerOf(scenes: readonly SceneMeasure[] | undefined, unit: WorkspaceUnits['unit']) {
  if (!scenes) return 'The scenes are being measured.';
  const said = (...codes: string[]) =>
    scenes.filter((m) => m.findings.some((f) => f.level === 'warning' && codes.includes(f.code))).length;
  const warned = said('size', 'twin');
  const misnamed = said('unit-name');
  const differ = scenes.filter((m) => m.findings.some((f) => f.code === 'unit-differs')).length;
  if (warned > 0)
    return (
      <strong>
        {count(warned, 'scene')} {warned === 1 ? 'is' : 'are'} of a size that a wrong unit would explain.
      </strong>
    );
  if (misnamed > 0)
    return (
      <strong>
        {count(misnamed, 'scene')} {misnamed === 1 ? 'names its' : 'name their'} unit otherwise than its
        number says.
      </strong>
    );
  if (differ > 0)
    return `${count(differ, 'scene')} of ${figure(scenes.length)} ${differ === 1 ? 'declares' : 'declare'} another unit than ${unitName(unit)}.`;
  return scenes.length === 0
    ? 'No scene yet. What is set here holds for those to come.'
    : `All ${count(scenes.length, 'scene')} agree with ${unitName(unit)}.`;
}

export function UnitsTab({ s }: { s: SettingsView }) {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const [chosen, setChosen] = useState<string | null>(null);
  const request = (v: { units: WorkspaceUnits }) => ({ kind: 'settings' as const, change: v });
  const form = useKeptForm('units', asking(planRequest, request), { units: s.units });
  useUnsaved(form.isChanged, 'Units or grid were changed; no plan of it was applied.', form.takeBack);
  const u = form.values.units;
  const measured = useQuery({
    queryKey: ['measure', id, s.units],
    staleTime: 60_000,
    queryFn: () => run(measureScenesRoute, { id }),
  });
  const scenes = measured.data ?? [];
  const lengthOf = (v: number) => lengthText(v, u.unit, u.display);
  const isSaved = !form.isChanged && !s.usualUnits;
  return (
    <Form form={form} label="Units and grid" onSubmit={(v) => attempt(() => plan(request(v)))}>
      <ViewHead
        answer={answerOf(measured.data, s.units.unit)}
        actions={
          <>
            <Button isDisabled={!form.isChanged} onPress={form.takeBack}>
              As it was
            </Button>
            <Submit unless={isSaved}>
              <Ruler size={16} /> Plan the change…
            </Submit>
          </>
        }
      />
      <ErrorNotice error={problem} />
      <Columns $right="minmax(0, 1.25fr)">
        <Stack $gap={4}>
          <UnitFields u={u} onChange={(units) => form.setValue('units', units, { shouldValidate: true })} />
          <Yardstick side={lengthOf(u.grid.spacing)} isSaved={isSaved} />
        </Stack>
        <Sheet aria-label="The grid, seen from above">
          <GridPicture units={u} scenes={scenes} chosen={chosen} />
        </Sheet>
      </Columns>
      <Sheet aria-label="Scenes">
        <h2>Scenes</h2>
        {measured.error ? (
          <ErrorNotice error={shapeOf(measured.error)} />
        ) : !measured.data ? (
          <Soft>Measuring …</Soft>
        ) : scenes.length === 0 ? (
          <Empty>Scenes show here with the unit they declare.</Empty>
        ) : (
          <MeasuredScenes
            scenes={scenes}
            unit={u.unit}
            lengthOf={lengthOf}
            chosen={chosen}
            onChoose={setChosen}
          />
        )}
      </Sheet>
    </Form>
  );
}
