'use client';
// Travel: what every machine would say, what travels and how it fits, what was asked for, backups, what arrived.

import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { Briefcase, MonitorCheck } from '../kit/icons';
import { useEffect, useMemo, useState } from 'react';
import { z } from 'zod';
import { travellingOf, usualChoice } from '@/core/bags/travelling';
import { count } from '@/core/text/figures';
import { nameOf } from '@/core/files/treePath';
import { handInList } from '@/wire/handIn';
import { lookAtTravelling, rehearseAt } from '@/wire/routes/bags';
import { readSettings } from '@/wire/routes/settings';
import { lookFromWire, travelChoice } from '@/wire/travel';
import type { OverviewView, RehearsalView, StateView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { Button, MainButton, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { useKeptForm } from '../kit/form';
import { useKept, useTyped } from '../kit/kept';
import { Columns, Grow, Mono, Row, Scroll, Sheet, Soft, Split, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { FolderField } from '../kit/places';
import { useAddress, useJob, useOverview, useServerState, useWorkspaceId } from '../kit/work';
import { Arrived, folderNameOf, type Arrival } from './Arrived';
import { AskedFor } from './AskedFor';
import { Backups } from './Backups';
import { BackupsDrawer } from './BackupsDrawer';
import { DescribePlace } from './DescribePlace';
import { drivesOf } from './drives';
import { outcomeOf } from './outcome';
import { PackDialog } from './PackDialog';
import { PlaceDrawer } from './PlaceDrawer';
import { WhatTravels } from './WhatTravels';
import { Where } from './Where';

export function TravelPage() {
  const id = useWorkspaceId();
  const { data: state } = useServerState();
  const { data: overview } = useOverview();
  if (!state || (id !== null && !overview)) return <Page title="Travel" answer="Reading …" />;
  return overview ? (
    <Travel key={overview.workspace.id} state={state} overview={overview} />
  ) : (
    <OnlyArriving state={state} />
  );
}

const usualFolder = (state: StateView, bench: string) =>
  state.demo ? `${state.demo}/${bench}` : (state.allowed[0]?.path ?? '');

const arrivalSchema = z.custom<Arrival>((v) => {
  const a = v as Arrival;
  return a.path.trim() !== '' && a.folder.trim() !== '' && a.name.trim() !== '';
});
/** The form of an arrival; what was dropped on the window stands in the address until it is taken up. */
function useArrival(state: StateView) {
  const form = useKeptForm<Arrival>('arrival', arrivalSchema, {
    path: '',
    folder: usualFolder(state, 'field-laptop'),
    name: '',
  });
  const [address, setAddress] = useAddress();
  const dropped = address.get('arrived');
  const { setValue } = form;
  useEffect(() => {
    if (dropped === null) return;
    setValue('path', dropped, { shouldValidate: true });
    setValue('name', folderNameOf(dropped), { shouldValidate: true });
    setAddress({ arrived: undefined });
  }, [dropped, setValue, setAddress]);
  return form;
}

function OnlyArriving({ state }: { state: StateView }) {
  const form = useArrival(state);
  return (
    <Page title="Travel" answer="What arrived is taken in here. To pack a bag, open a workspace first.">
      <div style={{ maxWidth: 720 }}>
        <Arrived form={form} />
      </div>
    </Page>
  );
}

/** The sentence over everything: on how many of one's own places it opens, and what is worst. */
function answerOf(rehearsals: readonly RehearsalView[] | undefined, of: string | null) {
  if (!rehearsals) return 'Rehearsing what the other machines would say …';
  const own = rehearsals.filter((r) => r.place.own);
  const asked = own.length > 0 ? own : rehearsals;
  const outcomes = asked.map((r) => ({ r, o: outcomeOf(r) }));
  const fine = outcomes.filter(({ o }) => o.tone === 'green').length;
  const bad = outcomes.filter(({ o }) => o.tone !== 'green');
  return (
    <>
      {of === null ? '' : `${of}: `}Opens complete on{' '}
      <strong>
        {fine} of {count(asked.length, 'place')}
      </strong>
      .
      {bad.slice(0, 2).map(({ r, o }) => (
        <span key={r.place.id}>
          {' '}
          On <strong>{r.place.name}</strong>: {o.says}.
        </span>
      ))}
    </>
  );
}

function Travel({ state, overview }: { state: StateView; overview: OverviewView }) {
  const { workspace } = overview;
  const { id } = workspace;
  const run = useJob();
  const client = useQueryClient();
  const [address, setAddress] = useAddress();
  const [open, setOpen] = useState<'pack' | 'describe' | 'other' | null>(null);
  const [choice, setChoice] = useKept(
    'what travels',
    travelChoice,
    usualChoice as z.output<typeof travelChoice>,
  );
  const [list, setList] = useKept('hand-in list', handInList.nullable(), null);
  const [drive, setDrive] = useKept('drive', z.string(), '');
  const arrival = useArrival(state);
  const other = address.get('of');
  const target = other ?? workspace.root;
  const rehearsed = useQuery({
    queryKey: ['rehearsal', id, target],
    staleTime: 60_000,
    placeholderData: keepPreviousData,
    queryFn: () => run(rehearseAt, {}, { path: target, workspace: id }),
  });
  const looked = useQuery({
    queryKey: ['travel look', id],
    staleTime: 60_000,
    placeholderData: keepPreviousData,
    queryFn: async () => lookFromWire(await run(lookAtTravelling, {}, { workspace: id })),
  });
  const { data: settings } = useQuery({
    queryKey: ['settings', id],
    queryFn: () => call(readSettings, { id }),
  });
  const look = looked.data;
  const travelling = useMemo(() => (look ? travellingOf(look, choice) : null), [look, choice]);
  const rehearsals = rehearsed.data ?? [];
  const drives = drivesOf(rehearsals);
  const chosen = address.get('place');
  const backups = address.get('backups');
  const rehearsal = rehearsals.find((r) => r.place.id === chosen);
  const error = rehearsed.error ?? looked.error;
  const again = () => {
    void client.invalidateQueries({ queryKey: ['rehearsal', id, target] });
    void client.invalidateQueries({ queryKey: ['travel look', id] });
  };
  return (
    <Split>
      <Scroll>
        <Page
          title="Travel"
          answer={answerOf(rehearsed.data, other === null ? null : nameOf(other))}
          actions={
            <>
              <Button isPending={rehearsed.isFetching} onPress={again}>
                <MonitorCheck size={16} /> {rehearsed.isFetching ? 'Rehearsing …' : 'Rehearse again'}
              </Button>
              <MainButton isDisabled={travelling === null} onPress={() => setOpen('pack')}>
                <Briefcase size={16} /> Pack the bag…
              </MainButton>
            </>
          }
        >
          <ErrorNotice error={error ? shapeOf(error) : null} />
          <Columns $right="minmax(0, 0.75fr)" $one={rehearsal !== undefined || backups !== null}>
            <Stack $gap={4}>
              {other !== null && (
                <Sheet>
                  <Row>
                    <Grow>
                      Rehearsed is <Mono>{other}</Mono>
                    </Grow>
                    <PlainButton onPress={() => setAddress({ of: undefined, place: undefined })}>
                      Back to {workspace.name}
                    </PlainButton>
                  </Row>
                </Sheet>
              )}
              <Where
                rehearsals={rehearsals}
                chosen={chosen}
                onChoose={(place) => setAddress({ place: place ?? undefined, backups: undefined })}
                onDescribe={() => setOpen('describe')}
                onOther={() => setOpen('other')}
              />
              {look && travelling ? (
                <WhatTravels
                  look={look}
                  choice={choice}
                  travelling={travelling}
                  onChoose={(next) => setChoice(next as z.output<typeof travelChoice>)}
                  drives={drives}
                  drive={
                    drives.some((d) => d.id === drive) || drive === 'own' ? drive : (drives[0]?.id ?? 'own')
                  }
                  onDrive={setDrive}
                  asZip
                  settings={settings}
                />
              ) : (
                <Sheet>
                  <Soft>Looking what travels …</Soft>
                </Sheet>
              )}
            </Stack>
            <Stack $gap={4}>
              <AskedFor
                root={workspace.root}
                list={list}
                onList={(next) => setList(next as z.output<typeof handInList> | null)}
              />
              <Backups
                id={id}
                usual={state.demo ? `${state.demo}/barn/backups` : ''}
                onOpen={(folder) => setAddress({ backups: folder, place: undefined })}
              />
              <Arrived form={arrival} />
            </Stack>
          </Columns>
        </Page>
      </Scroll>
      {rehearsal && (
        <PlaceDrawer
          rehearsal={rehearsal}
          isWorkspace={other === null}
          onClose={() => setAddress({ place: undefined })}
        />
      )}
      {backups !== null && (
        <BackupsDrawer
          key={backups}
          folder={backups}
          workspace={workspace}
          onClose={() => setAddress({ backups: undefined })}
        />
      )}
      {open === 'pack' && travelling && (
        <PackDialog
          workspace={workspace}
          choice={choice}
          travelling={travelling}
          handIn={list}
          folder={usualFolder(state, 'bench')}
          onPacked={(bag) => {
            arrival.setValue('path', bag, { shouldValidate: true });
            arrival.setValue('name', folderNameOf(bag), { shouldValidate: true });
          }}
          onClose={() => setOpen(null)}
        />
      )}
      {open === 'describe' && settings && <DescribePlace settings={settings} onClose={() => setOpen(null)} />}
      {open === 'other' && (
        <OtherDialog
          onChoose={(path) => {
            setAddress({ of: path, place: undefined });
            setOpen(null);
          }}
          onClose={() => setOpen(null)}
        />
      )}
    </Split>
  );
}

function OtherDialog({ onChoose, onClose }: { onChoose: (path: string) => void; onClose: () => void }) {
  const [path, setPath] = useTyped('rehearsed path', '');
  return (
    <Dialog title="Rehearse something else" onClose={onClose}>
      <Soft>A bag, or a folder that was collected or copied: what every machine would say of it.</Soft>
      <FolderField
        label="The bag or folder"
        title="What shall be rehearsed?"
        pick="bag"
        value={path}
        onChange={setPath}
      />
      <Row>
        <Grow />
        <MainButton isDisabled={path.trim() === ''} onPress={() => onChoose(path.trim())}>
          Rehearse it
        </MainButton>
      </Row>
    </Dialog>
  );
}
