'use client';
// Homes: which kind of file lives where. A home that changes takes its files along, and every path to them.

import { FolderTree } from '../kit/icons';
import styled from 'styled-components';
import { fileKinds, homeOf, type FileKind, type Homes } from '@/core/layouts/homes';
import { count } from '@/core/text/figures';
import { planRequest } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { aboutKind } from '../kit/aboutKind';
import { Button, LinkButton } from '../kit/buttons';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useUnsaved } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { ViewHead } from '../kit/Page';
import { usePlan, useStepHref } from '../kit/work';
import { color, space } from '../theme/theme';

const outputs: ReadonlySet<FileKind> = new Set(['render', 'export', 'backup']);
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  td,
  th {
    text-align: left;
    padding: 4px ${space(3)} 4px 0;
    border-bottom: 1px solid ${color.line};
    vertical-align: middle;
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
  td:nth-child(2) {
    width: 42%;
  }
  label {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
`;

type Wanted = Record<FileKind, string>;

/** A row for each kind: what it is, where it lives, where it goes else. */
function KindTable({
  title,
  kinds,
  s,
  wanted,
}: {
  title: string;
  kinds: readonly FileKind[];
  s: SettingsView;
  wanted: Wanted;
}) {
  return (
    <Sheet aria-label={title}>
      <h2>{title}</h2>
      <Table>
        <thead>
          <tr>
            <th>Kind</th>
            <th>Lives in</th>
            <th>Else</th>
          </tr>
        </thead>
        <tbody>
          {kinds.map((k) => {
            const fallback = homeOf(k, s.homes as Homes);
            return (
              <tr key={k}>
                <td>
                  <strong>{k}</strong>
                  <br />
                  <Soft style={{ fontSize: 13 }}>{aboutKind[k]}</Soft>
                </td>
                <td>
                  <FormText name={k} label={`Home of ${k} files`} mono placeholder={fallback} />
                </td>
                <td>
                  {s.homes[k] === undefined && !wanted[k] && (
                    <Soft>none of its own: {fallback || 'the root'}</Soft>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
    </Sheet>
  );
}

export function HomesTab({ s }: { s: SettingsView }) {
  const plan = usePlan();
  const href = useStepHref();
  const { attempt, problem } = useAttempt();
  const changed = (v: Wanted) => fileKinds.filter((k) => v[k].trim() !== (s.homes[k] ?? ''));
  const request = (v: Wanted) => ({
    kind: 'homes' as const,
    changes: Object.fromEntries(changed(v).map((k) => [k, v[k].trim() || null])),
  });
  const form = useKeptForm<Wanted>(
    'homes',
    asking(planRequest, request),
    Object.fromEntries(fileKinds.map((k) => [k, s.homes[k] ?? ''])) as Wanted,
  );
  useUnsaved(form.isChanged, 'Homes were changed here; no plan of it was applied.', form.takeBack);
  const changes = changed(form.values).length;
  return (
    <Form form={form} label="Homes" onSubmit={(v) => attempt(() => plan(request(v)))}>
      <ViewHead
        answer="Where each kind of file lives. Change a home, and its files move there with every path to them."
        actions={
          <>
            {changes > 0 && <Button onPress={form.takeBack}>As it was</Button>}
            <Submit unless={changes === 0}>
              Plan {changes > 0 ? count(changes, 'new home') : 'the change'}…
            </Submit>
          </>
        }
      />
      <ErrorNotice error={problem} />
      <KindTable
        title="Goes into the work"
        kinds={fileKinds.filter((k) => !outputs.has(k))}
        s={s}
        wanted={form.values}
      />
      <KindTable
        title="Comes out of it"
        kinds={fileKinds.filter((k) => outputs.has(k))}
        s={s}
        wanted={form.values}
      />
      <Sheet>
        <Stack $gap={2}>
          <h2>The layout</h2>
          <Row $wrap>
            <FolderTree size={16} aria-hidden />
            <span>
              {s.layout.id || 'none'}: {count(s.folders.length, 'folder')}
            </span>
            <LinkButton href={href('/layouts')}>Layouts…</LinkButton>
          </Row>
          <Soft>
            <Mono>{s.folders.join('   ')}</Mono>
          </Soft>
        </Stack>
      </Sheet>
    </Form>
  );
}
