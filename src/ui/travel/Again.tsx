'use client';
// A second arrival: what is new there, what was changed there, here, or on both sides, chosen file by file; then a plan.

import { useState } from 'react';
import type { AgainChoice, AgainState } from '@/core/plans/planArriveAgain';
import { ago, bytes, count } from '@/core/text/figures';
import type { z } from 'zod';
import { makePlan } from '@/wire/routes/plans';
import type { arriveAgain } from '@/wire/routes/travel';
import { useAttempt } from '../kit/attempt';
import { MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Choose, Tick } from '../kit/fields';
import { Grow, Row, Soft } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { Path } from '../kit/Path';
import { SmallTable } from '../kit/SmallTable';
import { useGo } from '../kit/leaving';
import { useJob } from '../kit/work';

type Compared = z.output<NonNullable<typeof arriveAgain.result>>;
type Choice = AgainChoice | 'leave';

const says: Record<AgainState, string> = {
  new: 'new there',
  same: 'the same',
  theirs: 'changed there',
  ours: 'changed here',
  both: 'changed on both sides',
  gone: 'taken away there',
  added: 'only here',
};
const rank: Record<AgainState, number> = { both: 0, theirs: 1, new: 2, ours: 3, gone: 4, added: 5, same: 6 };
const usual = (is: AgainState): Choice => (is === 'new' || is === 'theirs' ? 'take' : 'leave');
const options: readonly (readonly [Choice, string])[] = [
  ['leave', 'leave ours'],
  ['take', 'take theirs'],
  ['beside', 'theirs beside ours'],
];
const shownAtMost = 300;

export function Again({ compared, onClose }: { compared: Compared; onClose: () => void }) {
  const run = useJob();
  const go = useGo();
  const { attempt, problem, busy } = useAttempt();
  const files = compared.files.filter((f) => f.is !== 'same').sort((a, b) => rank[a.is] - rank[b.is]);
  const [chosen, setChosen] = useState<Record<string, Choice>>({});
  const choiceOf = (path: string, is: AgainState) => chosen[path] ?? usual(is);
  const choices = files.flatMap((f): [string, AgainChoice][] => {
    const c = f.there === null ? 'leave' : choiceOf(f.path, f.is);
    return c === 'leave' ? [] : [[f.path, c]];
  });
  const same = compared.files.length - files.length;
  const both = files.filter((f) => f.is === 'both').length;
  const [now] = useState(() => Date.now());
  const [sameWork, setSameWork] = useState(compared.isSameLine);
  const plan = () =>
    attempt(async () => {
      const { plan: made } = await run(
        makePlan,
        { id: compared.workspace },
        { kind: 'arrive', from: compared.from, choices, sameWork },
      );
      go(
        `/plan/${made}?w=${compared.workspace}&back=${encodeURIComponent(`/travel?w=${compared.workspace}`)}`,
      );
    });
  return (
    <Dialog title="It arrives a second time" width={920} onClose={onClose}>
      <div data-testid="again">
        <strong>{count(same, 'file')}</strong> {same === 1 ? 'is' : 'are'} the same
        {files.length > 0 && `, ${files.length} ${files.length === 1 ? 'is' : 'are'} not`}
        {both > 0 && (
          <>
            ; <strong>{both} changed on both sides</strong>
          </>
        )}
        .
      </div>
      {!compared.isSameLine && (
        <Notice tone="amber" title="Same work, or a separate copy?">
          This workspace and the folder that the delivery came from have not exchanged files before. If
          somebody does separate work in a copy, receive the delivery in a new folder instead.
          <Tick checked={sameWork} onChange={setSameWork}>
            Both are the same work
          </Tick>
        </Notice>
      )}
      <div style={{ maxHeight: '52vh', overflow: 'auto' }}>
        <SmallTable aria-label="Files that differ">
          <thead>
            <tr>
              <th>File</th>
              <th>How it stands</th>
              <th>Here</th>
              <th>There</th>
              <th>Do</th>
            </tr>
          </thead>
          <tbody>
            {files.slice(0, shownAtMost).map((f) => (
              <tr key={f.path}>
                <td>
                  <Path path={f.path} />
                </td>
                <td style={{ whiteSpace: 'nowrap' }}>{says[f.is]}</td>
                <td className="number">
                  {f.here ? `${bytes(f.here.size)} · ${ago(f.here.modified, now)}` : ''}
                </td>
                <td className="number">
                  {f.there ? `${bytes(f.there.size)} · ${ago(f.there.modified, now)}` : ''}
                </td>
                <td>
                  {f.there !== null && (
                    <Choose
                      label={`What becomes of ${f.path}`}
                      hidden
                      value={choiceOf(f.path, f.is)}
                      onChange={(c: Choice) => setChosen({ ...chosen, [f.path]: c })}
                      options={f.here ? options : options.filter(([id]) => id !== 'beside')}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </SmallTable>
      </div>
      {compared.left.length > 0 && (
        <Soft>
          {count(compared.left.length, 'file')} could not be copied: {compared.left[0]!.path}:{' '}
          {compared.left[0]!.why}
          {compared.left.length > 1 && `, and ${compared.left.length - 1} more`}.
        </Soft>
      )}
      {files.length > shownAtMost && <Soft>and {files.length - shownAtMost} more, by the usual choice</Soft>}
      <ErrorNotice error={problem} />
      <Row>
        <Soft>What is new or was changed only there is taken; all else is left unless you say so.</Soft>
        <Grow />
        <MainButton
          isDisabled={choices.length === 0 || !sameWork}
          isPending={busy !== null}
          onPress={() => void plan()}
        >
          Plan {count(choices.length, 'file')}…
        </MainButton>
      </Row>
    </Dialog>
  );
}
