'use client';
// A review clip of a row of frames: made on this machine, looked at here, saved where the browser saves files.

import { Clapperboard, Download } from '../kit/icons';
import { useEffect, useRef, useState } from 'react';
import { ProgressBar } from 'react-aria-components';
import styled from 'styled-components';
import { z } from 'zod';
import { nameOf, stemOf } from '@/core/files/treePath';
import { plainName } from '@/core/names/counters';
import { clipFrames, clipLabel, holesText, mostFrames } from '@/core/outputs/clip';
import { bytes, count, figure, framesText } from '@/core/text/figures';
import type { OutputsView } from '@/wire/views';
import { query } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Drawer } from '../kit/Drawer';
import { Form, FormChoice, FormText, FormTick, Submit, useKeptForm } from '../kit/form';
import { Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useWorkspaceId } from '../kit/work';
import { makeClip, type MadeClip } from '../clip/makeClip';
import { color, radius, space } from '../theme/theme';

export type OutputSet = OutputsView['sets'][number];
export type FrameSet = OutputSet & { frames: number[] };

/** The path of one frame of a row. */
function framePath(set: OutputSet, frame: number): string {
  return set.path.replace(/#+(?=[^#/]*$)/, (marks) => {
    const digits = String(Math.abs(frame)).padStart(marks.length, '0');
    return frame < 0 ? `-${digits}` : digits;
  });
}

const whole = z.string().regex(/^\s*-?\d{1,7}\s*$/, 'A whole number.');
const settings = z
  .object({
    fps: z.string().refine((v) => Number(v) >= 0.1 && Number(v) <= 120, 'From 0.1 to 120 a second.'),
    first: whole,
    last: whole,
    side: z.enum(['640', '1280', '1920', '3840']),
    holes: z.enum(['hold', 'mark']),
    label: z.boolean(),
  })
  .refine((v) => Number(v.last) >= Number(v.first), { path: ['last'], message: 'Before the first one.' })
  .refine((v) => Number(v.last) - Number(v.first) < mostFrames, {
    path: ['last'],
    message: `At most ${figure(mostFrames)} frames.`,
  });
type Settings = z.infer<typeof settings>;

/** What is wrong with one field, in words. */
const wrongIn = (field: keyof Settings, values: Settings) =>
  settings.safeParse(values).error?.issues.find((i) => i.path[0] === field)?.message;

const Video = styled.video`
  width: 100%;
  border-radius: ${radius.small};
  background: #000;
`;
const Bar = styled.div`
  height: 8px;
  border-radius: 4px;
  background: ${color.line};
  overflow: hidden;
  div {
    height: 100%;
    background: ${color.saddle};
  }
`;
const Two = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(110px, 1fr));
  gap: ${space(3)};
`;

export function ClipDrawer({ set, onClose }: { set: FrameSet; onClose: () => void }) {
  const { origin } = set;
  const named = {
    scene: origin
      ? stemOf(plainName(nameOf(origin.scene)))
      : stemOf(nameOf(set.path)).replace(/[._ -]*#+$/, ''),
    version: origin?.number ?? null,
    camera: origin?.camera ?? null,
  };
  const form = useKeptForm<Settings>(`clip ${set.path}`, settings, {
    fps: '24',
    first: String(set.frames[0]),
    last: String(set.frames.at(-1)),
    side: '1280',
    holes: 'hold',
    label: true,
  });
  const { values } = form;
  const frames = settings.safeParse(values).success
    ? clipFrames(set.frames, Number(values.first), Number(values.last), values.holes)
    : [];
  const { made, making, problem, make, cancel } = useMaking(set, named, values);
  const holes = holesText(frames);
  return (
    <Drawer title={`A clip of ${nameOf(set.path)}`} label="Review clip" onClose={onClose}>
      <Stack $gap={4}>
        <Form form={form} label="The clip" onSubmit={() => make(frames)}>
          <Stack $gap={3}>
            <Two>
              <FormText name="fps" label="Frames a second" check={() => wrongIn('fps', values)} />
              <FormText name="first" label="First frame" check={() => wrongIn('first', values)} />
              <FormText name="last" label="Last frame" check={() => wrongIn('last', values)} />
            </Two>
            <FormChoice
              name="side"
              label="Longest side"
              options={[
                ['640', '640 pixels'],
                ['1280', '1,280 pixels'],
                ['1920', '1,920 pixels'],
                ['3840', '3,840 pixels'],
              ]}
            />
            <FormChoice
              name="holes"
              label="Where a frame is missing"
              options={[
                ['hold', 'hold the one before'],
                ['mark', 'mark it in the clip'],
              ]}
            />
            <FormTick name="label">
              Write “{clipLabel(named, Number(values.first) || 0)}” into the picture
            </FormTick>
            <Soft>
              {count(frames.length, 'frame')}
              {Number(values.fps) > 0 && `, ${(frames.length / Number(values.fps)).toFixed(1)} s`}
              {holes !== null && `. ${holes}`}. EXR and HDR go through the neutral tone mapper; what is clear
              lies on black.
            </Soft>
            {making === null ? (
              <Row>
                <Submit unless={frames.length === 0}>
                  <Clapperboard size={16} /> {made ? 'Make it again' : 'Make the clip'}
                </Submit>
              </Row>
            ) : (
              <ProgressBar aria-label="Making the clip" value={(making / frames.length) * 100}>
                {({ percentage }) => (
                  <Stack $gap={2}>
                    <Bar>
                      <div style={{ width: `${percentage ?? 0}%` }} />
                    </Bar>
                    <Row style={{ justifyContent: 'space-between' }}>
                      <Soft>
                        frame {making} of {frames.length}
                      </Soft>
                      <Button onPress={cancel}>Cancel</Button>
                    </Row>
                  </Stack>
                )}
              </ProgressBar>
            )}
            <ErrorNotice error={problem} />
          </Stack>
        </Form>
        {made && <Made clip={made} name={nameFor(set, named)} />}
      </Stack>
    </Drawer>
  );
}

function nameFor(
  set: OutputSet,
  of: { scene: string; version: number | null; camera: string | null },
): string {
  const stem = stemOf(nameOf(set.path)).replace(/[._ -]*#+$/, '');
  return stem === '' ? of.scene : stem;
}

/** The clip that is being made, and the last one that was. */
function useMaking(set: FrameSet, named: Parameters<typeof clipLabel>[0], { fps, side, label }: Settings) {
  const id = useWorkspaceId();
  const [made, setMade] = useState<MadeClip | null>(null);
  const [making, setMaking] = useState<number | null>(null);
  const { attempt, problem } = useAttempt();
  const running = useRef<AbortController | null>(null);
  useEffect(() => () => running.current?.abort(), []);
  const make = (frames: ReturnType<typeof clipFrames>) =>
    attempt(async () => {
      const control = new AbortController();
      running.current = control;
      setMaking(0);
      try {
        const labels = label ? frames.map((f) => clipLabel(named, f.frame)) : null;
        const clip = await makeClip(
          { fps: Number(fps), side: Number(side), frames, labels },
          (frame) =>
            `/api/workspaces/${id}/frame${query({ path: framePath(set, frame), side: Number(side) })}`,
          { signal: control.signal, onDrawn: setMaking },
        );
        if (clip) setMade(clip);
      } finally {
        setMaking(null);
      }
    });
  return { made, making, problem, make, cancel: () => running.current?.abort() };
}

function Made({ clip, name }: { clip: MadeClip; name: string }) {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    const made = URL.createObjectURL(clip.blob);
    // eslint-disable-next-line react-hooks/set-state-in-effect -- an address that has to be given back
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [clip]);
  if (url === null) return null;
  const file = `${name}.${clip.kind}`;
  return (
    <Stack $gap={2}>
      <Video src={url} controls loop aria-label="The clip" />
      <Soft>
        {file} · {clip.codec}, {clip.width} × {clip.height}, {bytes(clip.blob.size)}
        {clip.unread.length > 0 && `; not readable, and marked: ${framesText(clip.unread)}`}
      </Soft>
      <Row>
        <MainButton
          onPress={() => {
            const a = document.createElement('a');
            a.href = url;
            a.download = file;
            a.click();
          }}
        >
          <Download size={16} /> Save the clip
        </MainButton>
      </Row>
    </Stack>
  );
}
