'use client';
// A hand-in list, made by a form: the usual points. What a list says beside them is kept as it is.

import type { HandInListWire } from '@/wire/handIn';
import { unitIds, unitName, type UnitId } from '@/core/units/units';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Choose, TextArea, TextField, Tick } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Grow, Row, Soft, Stack } from '../kit/layout';
import { useTyped } from '../kit/kept';

interface Draft {
  name: string;
  from: string;
  required: string;
  scenes: string;
  formats: string;
  widest: string;
  powersOfTwo: boolean;
  complete: boolean;
  relative: boolean;
  unit: UnitId | '';
  upAxis: 'Y' | 'Z' | '';
  largest: string;
  all: string;
  as: 'zip' | 'folder' | '';
  named: string;
}

const textureFiles = 'textures/**';
const sceneFiles = 'scenes/*';

function draftOf(l: HandInListWire | null): Draft {
  const gb = (n: number | undefined) => (n === undefined ? '' : String(n / 1e9));
  const pictures = l?.pictures?.find((p) => p.of === textureFiles);
  return {
    name: l?.name ?? '',
    from: l?.from ?? '',
    required: l?.require?.map((r) => r.path).join('\n') ?? sceneFiles,
    scenes: l?.names?.find((n) => n.of === sceneFiles)?.like ?? '',
    formats: l?.formats?.find((f) => f.of === textureFiles)?.allow.join(', ') ?? '',
    widest: pictures?.most === undefined ? '' : String(pictures.most),
    powersOfTwo: pictures?.powersOfTwo ?? false,
    complete: l?.references?.complete ?? true,
    relative: l?.references?.relative ?? true,
    unit: l?.units?.unit ?? '',
    upAxis: l?.units?.upAxis ?? '',
    largest: gb(l?.size?.file),
    all: gb(l?.size?.all),
    as: l?.form?.as ?? '',
    named: l?.form?.named ?? '',
  };
}

const number = (text: string) => {
  const n = Number(text.replace(',', '.'));
  return text.trim() !== '' && Number.isFinite(n) && n > 0 ? n : undefined;
};
const given = <T extends object>(part: T): T | undefined =>
  Object.values(part).some((v) => v !== undefined && v !== '' && v !== false) ? part : undefined;

/** The list a form says; what of `before` the form does not show stays. */
function listOf(d: Draft, before: HandInListWire | null): HandInListWire {
  const others = <T extends { of: string }>(all: readonly T[] | undefined, of: string) =>
    all?.filter((x) => x.of !== of) ?? [];
  const known = new Map(before?.require?.map((r) => [r.path, r]));
  const most = number(d.widest);
  const picture =
    most !== undefined || d.powersOfTwo
      ? [{ of: textureFiles, ...(most ? { most } : {}), ...(d.powersOfTwo ? { powersOfTwo: true } : {}) }]
      : [];
  const allow = d.formats
    .split(/[\s,;]+/)
    .map((f) => f.replace(/^\./, ''))
    .filter(Boolean);
  const [file, all] = [number(d.largest), number(d.all)];
  return {
    ...before,
    format: 1,
    name: d.name.trim(),
    ...(d.from.trim() ? { from: d.from.trim() } : {}),
    require: d.required
      .split('\n')
      .map((r) => r.trim())
      .filter(Boolean)
      .map((path) => known.get(path) ?? { path }),
    names: [
      ...others(before?.names, sceneFiles),
      ...(d.scenes.trim() ? [{ of: sceneFiles, like: d.scenes.trim() }] : []),
    ],
    formats: [
      ...others(before?.formats, textureFiles),
      ...(allow.length > 0 ? [{ of: textureFiles, allow }] : []),
    ],
    pictures: [...others(before?.pictures, textureFiles), ...picture],
    references: { complete: d.complete, relative: d.relative },
    units: given({ ...(d.unit ? { unit: d.unit } : {}), ...(d.upAxis ? { upAxis: d.upAxis } : {}) }),
    size: given({
      ...(file ? { file: Math.round(file * 1e9) } : {}),
      ...(all ? { all: Math.round(all * 1e9) } : {}),
    }),
    form: given({
      ...(before?.form?.profile ? { profile: before.form.profile } : {}),
      ...(d.as ? { as: d.as } : {}),
      ...(d.named.trim() ? { named: d.named.trim() } : {}),
    }),
  };
}

export function HandInForm({
  list,
  onDone,
  onClose,
}: {
  list: HandInListWire | null;
  onDone: (list: HandInListWire) => void;
  onClose: () => void;
}) {
  const begin = draftOf(list);
  const [d, setDraft] = useTyped(`hand-in list ${list?.name ?? ''}`, begin);
  const isTyped = JSON.stringify(d) !== JSON.stringify(begin);
  const set = (part: Partial<Draft>) => setDraft({ ...d, ...part });
  const done = () => {
    if (d.name.trim() === '') return;
    onDone(listOf(d, list));
    setDraft(undefined);
  };
  return (
    <Dialog title="What is to be handed in" width={760} onClose={onClose}>
      <EnterForm onEnter={done}>
        <Stack>
          <Row $gap={3}>
            <TextField
              label="What"
              value={d.name}
              onChange={(name) => set({ name })}
              placeholder="Environment, week 6"
            />
            <TextField label="Who asks" value={d.from} onChange={(from) => set({ from })} />
          </Row>
          <TextArea
            label="Has to be there, a pattern a line"
            height={70}
            value={d.required}
            onChange={(required) => set({ required })}
            description="scenes/*.gltf, renders, ** across folders"
          />
          <Row $gap={3} style={{ alignItems: 'flex-start' }}>
            <TextField
              label="Scenes are named"
              mono
              value={d.scenes}
              onChange={(scenes) => set({ scenes })}
              placeholder="shot_v###"
              description="# one digit, * anything"
            />
            <TextField
              label="Textures as"
              value={d.formats}
              onChange={(formats) => set({ formats })}
              placeholder="png, exr"
            />
            <TextField
              label="At most so wide"
              value={d.widest}
              onChange={(widest) => set({ widest })}
              placeholder="4096"
            />
          </Row>
          <Row $gap={4} $wrap>
            <Tick checked={d.complete} onChange={(complete) => set({ complete })}>
              nothing missing
            </Tick>
            <Tick checked={d.relative} onChange={(relative) => set({ relative })}>
              every path relative
            </Tick>
            <Tick checked={d.powersOfTwo} onChange={(powersOfTwo) => set({ powersOfTwo })}>
              texture sides are powers of two
            </Tick>
          </Row>
          <Row $gap={3} style={{ alignItems: 'flex-end' }}>
            <Choose
              label="Unit"
              value={d.unit}
              onChange={(unit) => set({ unit })}
              options={[['', 'any'] as const, ...unitIds.map((u) => [u, unitName(u)] as const)]}
            />
            <Choose
              label="Up"
              value={d.upAxis}
              onChange={(upAxis) => set({ upAxis })}
              options={[
                ['', 'any'],
                ['Y', 'Y'],
                ['Z', 'Z'],
              ]}
            />
            <TextField label="Largest file, GB" value={d.largest} onChange={(largest) => set({ largest })} />
            <TextField label="All together, GB" value={d.all} onChange={(all) => set({ all })} />
          </Row>
          <Row $gap={3} style={{ alignItems: 'flex-end' }}>
            <Choose
              label="Handed in as"
              value={d.as}
              onChange={(as) => set({ as })}
              options={[
                ['', 'either'],
                ['zip', 'one ZIP'],
                ['folder', 'a folder'],
              ]}
            />
            <TextField
              label="Called"
              mono
              value={d.named}
              onChange={(named) => set({ named })}
              placeholder="week6_*"
            />
          </Row>
          <Row>
            <Soft>
              Frames, passes and rules for bags stand in the file (docs/hand-in.schema.json) and are kept.
            </Soft>
            <Grow />
            {isTyped && <Button onPress={() => setDraft(undefined)}>As it was</Button>}
            <MainButton type="submit" isDisabled={d.name.trim() === ''}>
              Check against it
            </MainButton>
          </Row>
        </Stack>
      </EnterForm>
    </Dialog>
  );
}
