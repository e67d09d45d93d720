'use client';
// One file in full: what it holds, and who uses it.

import { readFileDetail } from '@/wire/routes/files';
import { readSettings } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { CheckCircle2, Unplug } from 'lucide-react';
import Link from 'next/link';
import { count, ago, bytes, exactBytes, exactTime } from '@/core/text/figures';
import { extensionOf, stemOf } from '@/core/files/treePath';
import { parseNumbered } from '@/core/names/counters';
import { nameOfPattern } from '@/core/names/patterns';
import { checkNewName } from '@/core/names/portable';
import type { ErrorShape } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { useState } from 'react';
import { call, query, shapeOf } from '../kit/api';
import { Button, ErrorNotice, Notice, Row, Soft, Stack, TextField } from '../kit/controls';
import { Drawer, FullPath, Preview } from '../kit/Drawer';
import { usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { today } from '../workspaces/PatternField';

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

/** A new name or place, or the home of its kind; references follow. */
function RenameFile({ path, kind, home }: { path: string; kind: string; home: string | null }) {
  const plan = usePlan();
  const [to, setTo] = useState(path);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const id = useWorkspaceId();
  const { data: settings } = useQuery({
    queryKey: ['settings', id],
    queryFn: () => call(readSettings, { id }),
  });
  const byPattern = settings ? namedByPattern(path, kind, home, settings) : null;
  const wrong = to.split('/').flatMap((part) => checkNewName(part))[0]?.message;
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  return (
    <Stack $gap={2}>
      <h2>Rename or move</h2>
      <TextField
        label="Path from the root"
        mono
        value={to}
        onChange={setTo}
        error={wrong}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && to !== path && !wrong)
            attempt(plan({ kind: 'move', moves: [{ path, to }] }));
        }}
      />
      <Row $wrap>
        {byPattern && byPattern !== path && (
          <Button onPress={() => setTo(byPattern)}>Name by the pattern</Button>
        )}
        <Button
          isDisabled={to === path || wrong !== undefined}
          onPress={() => attempt(plan({ kind: 'move', moves: [{ path, to }] }))}
        >
          Plan it…
        </Button>
        {kind !== 'other' && home !== kind && (
          <Button onPress={() => attempt(plan({ kind: 'tidy', only: [path] }))}>
            File it with the other {kind} files…
          </Button>
        )}
      </Row>
      {problem && <ErrorNotice error={problem} />}
    </Stack>
  );
}

export function FileDrawer({
  workspace,
  path,
  onClose,
}: {
  workspace: string;
  path: string;
  onClose: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ['file', workspace, path],
    queryFn: () => call(readFileDetail, { id: workspace }, { path }),
  });
  const [now] = useState(() => Date.now());
  const href = useStepHref();
  const name = path.split('/').pop() ?? path;
  return (
    <Drawer title={name} label="The file in full" onClose={onClose}>
      {error && <ErrorNotice error={shapeOf(error)} />}
      {data && (
        <>
          {data.preview && (
            <Preview key={path} name={name} src={`/api/workspaces/${workspace}/picture${query({ path })}`} />
          )}
          <div>{data.facts ?? 'What it holds is not known here.'}</div>
          {data.disagrees && (
            <Notice tone="amber" title={data.disagrees}>
              Programs that go by the name may refuse it.
            </Notice>
          )}
          <Soft>
            <span title={exactBytes(data.size)}>{bytes(data.size)}</span> ·{' '}
            <span title={exactTime(data.modified)}>changed {ago(data.modified, now)}</span>
          </Soft>
          <div>
            <h2>Who uses it</h2>
            {data.users.length === 0 ? (
              <Row>
                {data.unused ? (
                  <>
                    <Unplug size={15} aria-hidden /> No scene of this workspace uses it.
                  </>
                ) : (
                  <Soft>No scene leads to it, nor needs to.</Soft>
                )}
              </Row>
            ) : (
              <>
                <Row>
                  <CheckCircle2 size={15} aria-hidden /> {count(data.users.length, 'reference')}
                </Row>
                {data.users.slice(0, 12).map((u) => (
                  <div key={`${u.scene} ${u.at}`}>
                    <Link href={href('/references', { scene: u.scene, at: u.at })}>{u.scene}</Link>{' '}
                    <Soft>{u.at}</Soft>
                  </div>
                ))}
                {data.users.length > 12 && <Soft>and {count(data.users.length - 12, 'more place')}</Soft>}
              </>
            )}
          </div>
          <div>
            <h2>Where it lies</h2>
            <FullPath path={data.fullPath} />
            {data.home && <Soft>the home of {data.home} files</Soft>}
          </div>
          <RenameFile key={path} path={path} kind={data.kind} home={data.home} />
        </>
      )}
    </Drawer>
  );
}
