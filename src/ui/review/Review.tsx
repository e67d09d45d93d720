'use client';
// A plan as it is looked at: its sentence, what it changes, what it leaves, and the two ways on.

import { figure } from '@/core/text/figures';
import { AlertTriangle, ShieldCheck } from '../kit/icons';
import styled from 'styled-components';
import type { PlanView } from '@/wire/views';
import { Button, MainButton } from '../kit/buttons';
import { Tick } from '../kit/fields';
import { Columns, FootLine, Grow, Row, Soft, Stack } from '../kit/layout';
import { Notice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useRemembered } from '../kit/remembered';
import { space } from '../theme/theme';
import { ChangedPaths } from './ChangedPaths';
import { PlanFigures } from './PlanFigures';
import { sentenceOf } from './sentence';
import { CopiedFiles, TouchedFiles } from './TouchedFiles';

const Bar = styled(FootLine)`
  position: sticky;
  bottom: 0;
  padding: ${space(3)} ${space(4)};
  margin-top: auto;
`;

const notesAtMost = 40;
/** Plans that touch more files than this are offered a checkpoint. */
const few = 8;
/** Plans that are a way back themselves, or only add. */
const small: ReadonlySet<PlanView['kind']> = new Set(['undo', 'back', 'drop', 'save', 'create']);

function Notes({ notes }: { notes: PlanView['notes'] }) {
  return (
    <ul style={{ margin: '4px 0 0', paddingLeft: 18 }}>
      {notes.slice(0, notesAtMost).map((n, i) => (
        <li key={i} style={{ overflowWrap: 'anywhere' }}>
          {n.message}
        </li>
      ))}
      {notes.length > notesAtMost && <li>and {notes.length - notesAtMost} more</li>}
    </ul>
  );
}

export function Review({
  plan: p,
  problem,
  isApplying,
  isOver,
  onApply,
  onBack,
}: {
  plan: PlanView;
  problem: React.ReactNode;
  isApplying: boolean;
  /** It cannot be applied any more, only made anew. */
  isOver: boolean;
  /** `first`: a checkpoint is made before. */
  onApply: (first: boolean) => void;
  onBack: () => void;
}) {
  const touched = p.writes.length + p.folders.length + p.removes.length + p.moves.length;
  const noted = (level: PlanView['notes'][number]['level']) => p.notes.filter((n) => n.level === level);
  const isRisky = p.workspace !== null && !small.has(p.kind) && p.copies.length + touched > few;
  const [first, setFirst] = useRemembered('checkpoint-first');
  const [blocked, warned, told] = [noted('blocker'), noted('warning'), noted('info')];
  // What somebody else holds is changed all the same: it stands by itself, and first.
  const held = warned.filter((n) => n.code === 'held-scene');
  const left = warned.filter((n) => n.code !== 'held-scene');
  const files = (
    <>
      {p.copies.length > 0 && <CopiedFiles copies={p.copies} />}
      {touched > 0 && <TouchedFiles plan={p} />}
    </>
  );
  return (
    <Page title={p.title} kicker={<h2>Plan · not applied yet</h2>} answer={sentenceOf(p)}>
      {problem}
      {blocked.length > 0 && (
        <Notice tone="brick" title="This plan cannot be applied.">
          <Notes notes={blocked} />
        </Notice>
      )}
      <Columns style={{ flex: 1 }}>
        {p.paths.length > 0 ? <ChangedPaths plan={p} /> : <Stack $gap={4}>{files}</Stack>}
        <Stack $gap={4}>
          {p.paths.length > 0 && files}
          {held.length > 0 && (
            <Notice tone="amber" title="Somebody is at work on it">
              <Notes notes={held} />
            </Notice>
          )}
          {left.length > 0 && (
            <Notice
              tone="amber"
              title={
                p.kind === 'bundle' ? 'As long as it is one file' : `Left as it is: ${figure(left.length)}`
              }
            >
              <Notes notes={left} />
            </Notice>
          )}
          {told.length > 0 && (
            <Notice tone="slate" title="Good to know">
              <Notes notes={told} />
            </Notice>
          )}
          <PlanFigures plan={p} />
        </Stack>
      </Columns>
      <Bar>
        {blocked.length > 0 ? <AlertTriangle size={16} aria-hidden /> : <ShieldCheck size={16} aria-hidden />}
        <Grow>
          <Soft>Every file is checked before and after. Undo brings back the same bytes.</Soft>
        </Grow>
        <Row>
          {isRisky && (
            <Tick checked={first} onChange={setFirst}>
              Make a checkpoint first
            </Tick>
          )}
          <Button onPress={onBack}>Back, change nothing</Button>
          <MainButton
            autoFocus
            isDisabled={isOver || p.copies.length + touched === 0 || blocked.length > 0}
            isPending={isApplying}
            onPress={() => onApply(isRisky && first)}
          >
            {isApplying ? 'Applying …' : 'Apply the plan'}
          </MainButton>
        </Row>
      </Bar>
    </Page>
  );
}
