'use client';
// One reference in full: what it is, the chain it hangs on, who else uses the file, what to do.

import { readReference } from '@/wire/routes/references';
import { useQuery } from '@tanstack/react-query';
import { Box, Briefcase } from '../kit/icons';
import Link from '../kit/Link';
import styled from 'styled-components';
import { bytes, count } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { call, query, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { MainButton, PlainButton } from '../kit/buttons';
import { Drawer, FullPath, Preview } from '../kit/Drawer';
import { Row, Soft } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { ErrorNotice, Notice } from '../kit/notices';
import { usePlan, useStepHref } from '../kit/work';
import { color, font, space } from '../theme/theme';
import { Around } from './Around';
import { Candidates } from './Candidates';
import { Alternatives, Chain } from './Chain';
import { ChooseFile } from './ChooseFile';
import { OfLibrary, OtherMachines, TwoBases } from './WhereElse';

const Stripes = styled.div`
  height: 118px;
  border-radius: 8px;
  background: repeating-linear-gradient(135deg, ${color.stripe} 0 20px, ${color.stripeInk} 20px 40px);
  display: flex;
  align-items: flex-end;
  padding: ${space(2)};
  span {
    background: ${color.stripeInk};
    color: #fffdf8;
    font: 700 13px ${font.mono};
    padding: 2px 8px;
    border-radius: 4px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const unmended = new Set(['missing', 'offline', 'remote', 'library']);

/** The one step that makes it travel, where there is one. */
function Mend({ r, onMend }: { r: ReferenceView; onMend: () => void }) {
  if (unmended.has(r.state) || (r.state === 'travels' && r.oddities.length === 0)) return null;
  return (
    <Row>
      <MainButton onPress={onMend}>
        <Briefcase size={15} />{' '}
        {r.kind === 'scene' && r.state === 'outside'
          ? 'Bring it home…'
          : r.state === 'case'
            ? 'Match the letters…'
            : 'Make it travel…'}
      </MainButton>
    </Row>
  );
}

export function ReferenceDrawer({
  workspace,
  of,
  onClose,
  onMend,
  onSee,
}: {
  workspace: string;
  of: { scene: string; at: string };
  onClose: () => void;
  onMend: () => void;
  onSee?: ((scene: string) => void) | undefined;
}) {
  const { data, error } = useQuery({
    queryKey: ['reference', workspace, of],
    queryFn: () => call(readReference, { id: workspace }, of),
  });
  const r = data?.reference;
  // A set that is there, but not whole.
  const lacks = r?.inside === true && r.gaps.length > 0;
  const { attempt, problem } = useAttempt();
  const plan = usePlan();
  const href = useStepHref();
  const write = (written: string) =>
    void attempt(() =>
      plan({ kind: 'repath', only: null, change: { how: 'exact', paths: [{ ...of, written }] } }),
    );
  const name = (r?.target ?? r?.written ?? of.at).split(/[\\/]/).pop() ?? '';
  return (
    <Drawer title={name} label="The reference in full" onClose={onClose}>
      <ErrorNotice error={problem} />
      {error && <ErrorNotice error={shapeOf(error)} />}
      {r && data && (
        <>
          {r.target === null ? (
            <Stripes role="img" aria-label="Not found">
              <span>{name}</span>
            </Stripes>
          ) : (
            data.preview && (
              <Preview
                key={`${of.scene} ${of.at}`}
                name={name}
                src={`/api/workspaces/${workspace}/preview${query(of)}`}
              />
            )
          )}
          <Row>
            <StateMark state={r.state} odd={r.oddities.length > 0} />
            <Soft>
              {r.kind}
              {r.targets > 1 && ` · ${count(r.targets, 'file')}`}
              {r.size !== null && ` · ${bytes(r.size)}`}
            </Soft>
          </Row>
          {data.facts && <div>{data.facts}</div>}
          {data.disagrees && (
            <Notice tone="amber" title={data.disagrees}>
              Programs that go by the name may refuse it.
            </Notice>
          )}
          <p>{data.advice}</p>
          <Mend r={r} onMend={onMend} />
          {(r.state === 'missing' || lacks) && (
            <Candidates workspace={workspace} of={of} lacks={lacks ? r.gaps[0]! : null} />
          )}
          {(r.state === 'offline' || r.state === 'remote') && <ChooseFile workspace={workspace} of={of} />}
          <Chain data={data} />
          <Alternatives written={data.alternatives} />
          <div>
            <Row>
              <h2 style={{ flex: 1 }}>Where it is used</h2>
              {onSee && (
                <PlainButton onPress={() => onSee(of.scene)}>
                  <Box size={15} /> See it on the model
                </PlainButton>
              )}
            </Row>
            {r.uses.slice(0, 8).map((u) => (
              <div key={u}>{u}</div>
            ))}
            <Soft style={{ fontSize: 13 }}>{r.at}</Soft>
          </div>
          {data.fullTarget && (
            <div>
              <h2>What it resolves to</h2>
              <FullPath path={data.fullTarget} />
              {r.inside && r.target !== null && r.targets === 1 && (
                <Link
                  href={href('/files', {
                    folder: r.target.slice(0, Math.max(0, r.target.lastIndexOf('/'))),
                    file: r.target,
                  })}
                >
                  Open its folder
                </Link>
              )}
            </div>
          )}
          {data.bases && <TwoBases bases={data.bases} />}
          {data.elsewhere.length > 0 && <OtherMachines data={data} onWrite={write} />}
          {data.library !== null && (
            <OfLibrary
              data={data}
              onWrite={(change) => void attempt(() => plan({ kind: 'repath', only: [of], change }))}
            />
          )}
          <Around data={data} />
        </>
      )}
    </Drawer>
  );
}
