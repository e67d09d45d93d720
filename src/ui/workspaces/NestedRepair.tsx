'use client';
// A workspace inside another has two roots. Three ways out, each by a plan that is looked at first.

import { makePlan } from '@/wire/routes/plans';
import { relocate } from '@/wire/routes/shelf';
import { openWorkspace } from '@/wire/routes/workspaces';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Row, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlanOf } from '../kit/work';

export interface Nested {
  name: string;
  root: string;
  /** The root it lies in. */
  inside: string;
}

/** The buttons of the repair. */
export function NestedRepair({ of }: { of: Nested }) {
  const planOf = usePlanOf();
  const { attempt, problem } = useAttempt();
  const { name, root, inside } = of;
  const repair = async (how: 'unmark' | 'merge') => {
    const outer = await call(openWorkspace, {}, { path: inside });
    await planOf(makePlan, { id: outer.id }, { kind: 'nested', inner: root.slice(inside.length + 1), how });
  };
  const moveOut = () => {
    const parent = inside.slice(0, inside.lastIndexOf('/'));
    return planOf(relocate, {}, { moves: [{ from: root, to: `${parent}/${root.split('/').pop()}` }] });
  };
  return (
    <>
      <Row $wrap>
        <Button
          aria-label={`Merge ${name} into the outer workspace`}
          onPress={() => void attempt(() => repair('merge'))}
        >
          Merge it…
        </Button>
        <Button aria-label={`Move ${name} out`} onPress={() => void attempt(moveOut)}>
          Move it out…
        </Button>
        <Button aria-label={`Unmark ${name}`} onPress={() => void attempt(() => repair('unmark'))}>
          Unmark it…
        </Button>
      </Row>
      <ErrorNotice error={problem} />
    </>
  );
}

/** What each of the three does. */
export function WhichRepair() {
  return (
    <>
      <div>
        <strong>Merge</strong> <Soft>files go to the homes of the outer workspace, paths follow.</Soft>
      </div>
      <div>
        <strong>Move out</strong>{' '}
        <Soft>it becomes a neighbour of the outer one; paths between them follow.</Soft>
      </div>
      <div>
        <strong>Unmark</strong> <Soft>it stays where it is, as a plain folder.</Soft>
      </div>
    </>
  );
}
