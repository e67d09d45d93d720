'use client';
// Creates a workspace: where, its name, a layout; the full path and every folder are shown before anything is made.

import { createWorkspaceRoute, previewCreate } from '@/wire/routes/workspaces';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderTree } from '../kit/icons';
import { usualPatterns } from '@/core/names/patterns';
import type { CreatePreview, StateView } from '@/wire/views';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, Submit, useKeptForm, type KeptForm } from '../kit/form';
import { Columns, Mono, Sheet, Soft, Stack } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { ErrorNotice, Notice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useServerState } from '../kit/work';
import { FolderTicks } from './FolderTicks';
import { LayoutChoice, ownLayout } from './LayoutChoice';
import { PlaceAndName } from './PlaceAndName';

interface Typed {
  parent: string;
  name: string;
  title: string;
  person: string;
  category: string;
  number: string;
  pattern: string;
  layout: string;
  own: string;
  without: string[];
  [more: string]: string | string[];
}
/** What is typed to create a workspace. */
export type CreateForm = KeptForm<Typed>;

const requestOf = (v: Typed) => ({
  parent: v.parent,
  name: v.name,
  layout: v.layout === ownLayout ? { text: v.own } : { id: v.layout },
  without: v.without,
});

/** The folders of the chosen layout: of a text, as the server read them. */
function foldersOf(v: Typed, state: StateView | undefined, preview: CreatePreview | undefined) {
  if (v.layout === ownLayout) return preview?.folders ?? [];
  const layout = state?.layouts.find((l) => l.id === v.layout);
  return (layout?.folders ?? []).map((path) => ({
    path,
    kinds: Object.entries(layout!.homes).flatMap(([kind, home]) => (home === path ? [kind] : [])),
  }));
}

export function CreateWorkspace({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const { attempt, problem } = useAttempt();
  const go = useGo();
  const client = useQueryClient();
  const form = useKeptForm<Typed>('create', asking(createWorkspaceRoute.input, requestOf), {
    parent: state?.demo ? `${state.demo}/bench/work` : (state?.allowed[0]?.path ?? ''),
    name: '',
    title: '',
    person: '',
    category: '',
    number: '',
    pattern: usualPatterns.workspace,
    layout: 'game-environment',
    own: '',
    without: [],
  });
  const v = form.values;
  const request = requestOf(v);
  const { data: preview, isPlaceholderData: isOfBefore } = useQuery({
    queryKey: ['create', request],
    enabled: v.parent !== '' && v.name !== '',
    placeholderData: keepPreviousData,
    queryFn: () => call(previewCreate, {}, request),
  });
  const create = (typed: Typed) =>
    attempt(async () => {
      const made = await call(createWorkspaceRoute, {}, requestOf(typed));
      form.takeBack();
      await client.invalidateQueries();
      go(`/overview?w=${made.id}`);
    });
  const set = (more: Partial<Typed>) => {
    for (const [k, value] of Object.entries(more)) form.setValue(k, value!, { shouldValidate: true });
  };
  return (
    <Form form={form} label="Create a workspace" onSubmit={create}>
      <Page
        title="Create a workspace"
        answer="Before the first scene is saved, so that every file has a home and every path can be relative."
        actions={
          <>
            <Button onPress={onClose}>Back</Button>
            {/* The server looks again: who types and presses Enter at once need not wait for the preview. */}
            <Submit unless={v.name === '' || (!isOfBefore && preview?.problem != null)}>
              <FolderTree size={16} /> Create it
            </Submit>
          </>
        }
      >
        <ErrorNotice error={problem} />
        <Columns>
          <Stack $gap={4}>
            <PlaceAndName form={form} />
            <LayoutChoice
              layouts={state?.layouts ?? []}
              chosen={v.layout}
              own={v.own}
              onChoose={(layout) => set({ layout, without: [] })}
              onOwn={(own) => set({ own })}
            />
          </Stack>
          <Sheet>
            <Stack>
              <h2>What will be made</h2>
              <Root preview={preview} typed={v} />
              <FolderTicks
                folders={foldersOf(v, state, preview)}
                without={v.without}
                onChange={(without) => set({ without })}
              />
              <Soft>
                Also a hidden folder <code>.satchel</code>, which makes the root recognisable and holds the
                ledger. Copy the folder, and all of it travels.
              </Soft>
            </Stack>
          </Sheet>
        </Columns>
      </Page>
    </Form>
  );
}

/** The full path of the root; or why it cannot be. */
function Root({ preview, typed }: { preview: CreatePreview | undefined; typed: Typed }) {
  if (preview?.problem && typed.name !== '')
    return (
      <Notice tone="brick" title={preview.problem}>
        {preview.details.length > 1 && (
          <ul>
            {preview.details.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
        )}
      </Notice>
    );
  return (
    <div>
      <Soft>The root:</Soft>
      <br />
      <Mono data-testid="full-path">
        <strong>{preview?.root || `${typed.parent}/${typed.name || '…'}`}</strong>
      </Mono>
    </div>
  );
}
