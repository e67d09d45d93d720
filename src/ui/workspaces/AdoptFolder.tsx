'use client';
// Adopts a folder that exists: what is in it, which of its folders serve as homes, whether what lies about is filed. Then the plan.

import { adoptFolder, recogniseFolder } from '@/wire/routes/shelf';
import { openWorkspace } from '@/wire/routes/workspaces';
import { useQuery } from '@tanstack/react-query';
import { FolderCheck } from '../kit/icons';
import type { Recognised } from '@/core/plans/planAdopt';
import { bytes, count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, FormChoice, FormFolder, FormText, Submit, useKeptForm } from '../kit/form';
import { Columns, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { layoutOptions, PlaceAdvice } from '../kit/places';
import { useRested } from '../kit/rested';
import { useJob, usePlanOf, useServerState } from '../kit/work';
import { HoldsWorkspaces, HomesOf, ItsFolders, LiesAbout } from './RecognisedFolder';

interface Typed {
  path: string;
  /** As it is called; '': as its folder is. */
  name: string;
  layout: string;
  /** Chosen by hand. */
  homes: Record<string, string>;
  tidy: boolean;
  /** Meant though workspaces lie in it. */
  around: boolean;
  [more: string]: unknown;
}
const requestOf = (v: Typed) => ({
  ...v,
  name: v.name || (v.path.split('/').pop() ?? ''),
  layout: { id: v.layout },
});

/** Looks through the folder once what is typed is a whole path, and the typing rests. */
function useRecognised(path: string, layout: string) {
  const run = useJob();
  const rested = useRested(path);
  const isWhole = rested.startsWith('/') || /^[A-Za-z]:/.test(rested);
  const { data, error } = useQuery({
    queryKey: ['recognise', rested, layout],
    enabled: isWhole,
    staleTime: 30_000,
    queryFn: () => run(recogniseFolder, {}, { path: rested, layout: { id: layout } }),
  });
  const isOf = isWhole && rested === path;
  return { what: isOf ? data : undefined, problem: isOf && error ? shapeOf(error) : null };
}

/** The workspace that a folder is, or lies in, may be opened instead. */
function OpenInstead({ problem }: { problem: ErrorShape | null }) {
  const go = useGo();
  const { attempt, problem: own } = useAttempt();
  const [root] = problem?.code === 'inside-workspace' || problem?.code === 'exists' ? problem.details : [];
  if (root === undefined) return null;
  return (
    <>
      <Row>
        <Button
          onPress={() =>
            void attempt(async () => go(`/overview?w=${(await call(openWorkspace, {}, { path: root })).id}`))
          }
        >
          Open the workspace {root.split('/').pop()}
        </Button>
      </Row>
      <ErrorNotice error={own} />
    </>
  );
}

function WhatIsInIt({
  path,
  what,
  isRefused,
}: {
  path: string;
  what: Recognised | undefined;
  isRefused: boolean;
}) {
  if (isRefused) return <Soft>Nothing was looked at.</Soft>;
  if (path === '') return <Soft>Choose a folder: its files are counted by kind, nothing is changed.</Soft>;
  if (!what) return <Soft>Looking through it …</Soft>;
  return (
    <div>
      <strong>
        {count(what.files, 'file')}, {bytes(what.bytes)}
      </strong>{' '}
      <Soft>in {count(what.folders.length - 1, 'folder')}</Soft>
    </div>
  );
}

export function AdoptFolder({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const planOf = usePlanOf();
  const { attempt, problem } = useAttempt();
  const form = useKeptForm<Typed>('adopt', asking(adoptFolder.input, requestOf), {
    path: '',
    name: '',
    layout: 'game-environment',
    homes: {},
    tidy: false,
    around: false,
  });
  const { path, homes } = form.values;
  const layout = state?.layouts.find((l) => l.id === form.values.layout);
  const { what, problem: refused } = useRecognised(path, form.values.layout);
  const setHomes = (to: Record<string, string>) => form.setValue('homes', to, { shouldValidate: true });
  return (
    <Form
      form={form}
      label="Adopt a folder"
      onSubmit={(v) =>
        attempt(() => planOf(adoptFolder, {}, adoptFolder.input.parse(requestOf(v)), { done: '/' }))
      }
    >
      <Page
        title="Adopt a folder"
        answer="A folder that is there already becomes a workspace: its own folders serve as homes where they fit, and every reference is kept."
        actions={
          <>
            <Button onPress={onClose}>Back</Button>
            <Submit unless={!what || (what.nested.length > 0 && !form.values.around)}>
              <FolderCheck size={16} /> Plan it…
            </Submit>
          </>
        }
      >
        <ErrorNotice error={problem ?? refused} />
        <OpenInstead problem={problem ?? refused} />
        {what && <HoldsWorkspaces path={path} nested={what.nested} />}
        <Columns $right="minmax(0, 1.25fr)">
          <Stack $gap={4}>
            <Sheet>
              <Stack>
                <FormFolder
                  name="path"
                  label="The folder"
                  title="Which folder shall be adopted?"
                  onTyped={() => {
                    setHomes({});
                    form.setValue('around', false);
                  }}
                />
                <FormText name="name" label="Name" placeholder={path.split('/').pop()} />
                <FormChoice
                  name="layout"
                  label="Layout for what is wanting"
                  options={layoutOptions(state?.layouts ?? [])}
                  onTyped={() => setHomes({})}
                />
                {what && <PlaceAdvice path={path} />}
              </Stack>
            </Sheet>
            {what && <LiesAbout what={what} />}
          </Stack>
          <Sheet>
            <Stack>
              <h2>What is in it</h2>
              <WhatIsInIt path={path} what={what} isRefused={refused !== null} />
              {what && layout && (
                <>
                  <HomesOf what={what} layout={layout} homes={homes} onChange={setHomes} />
                  <ItsFolders what={what} />
                </>
              )}
            </Stack>
          </Sheet>
        </Columns>
      </Page>
    </Form>
  );
}
