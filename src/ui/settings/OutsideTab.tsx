'use client';
// What a workspace knows of places outside: shared libraries by name, and the path heads that mean the same folder on different machines.

import { LibraryBig, MapPin, Plus, X } from '../kit/icons';
import type { MachineDescription } from '@/core/places/machine';
import { elsewhereOf } from '@/core/references/elsewhere';
import { planRequest } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button, IconButton } from '../kit/buttons';
import { TextField } from '../kit/fields';
import { asking, Form, FormArea, FormFolder, FormText, Submit, useKeptForm } from '../kit/form';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useUnsaved } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { ViewHead } from '../kit/Page';
import { usePlan } from '../kit/work';
import { useTyped } from '../kit/kept';

interface Outside {
  libraries: { name: string; path: string }[];
  /** Heads one a line, as they are typed. */
  places: { name: string; heads: string; machine?: MachineDescription | undefined }[];
  [more: string]: unknown;
}

const headsOf = (typed: string) =>
  typed
    .split('\n')
    .map((h) => h.trim())
    .filter(Boolean);

const without = <T,>(list: readonly T[], at: number) => list.filter((_, n) => n !== at);

/** What a path is called on the other machines of its place. */
function Elsewhere({ places }: { places: Outside['places'] }) {
  const [tried, setTried] = useTyped('tried path', '');
  const found = elsewhereOf(
    tried.trim().replaceAll('\\', '/'),
    places.map((p) => ({ name: p.name, heads: headsOf(p.heads) })),
  );
  return (
    <>
      <TextField
        label="See a path as the other machines have it"
        mono
        value={tried}
        onChange={setTried}
        placeholder="E:/skies/storm_sky.png"
      />
      {tried.trim() !== '' && found.length === 0 && <Soft>It lies under none of these heads.</Soft>}
      {found.map((e) => (
        <div key={e.place}>
          <Soft>{e.place}</Soft>
          {e.others.map((o) => (
            <div key={o.head}>
              <Mono>{o.path}</Mono>
            </div>
          ))}
        </div>
      ))}
    </>
  );
}

export function OutsideTab({ s }: { s: SettingsView }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = ({ libraries, places }: Outside) => ({
    kind: 'settings' as const,
    change: { libraries, places: places.map((p) => ({ ...p, heads: headsOf(p.heads) })) },
  });
  const form = useKeptForm<Outside>('outside', asking(planRequest, request), {
    libraries: s.libraries.map(({ name, path }) => ({ name, path })),
    places: s.places.map(({ name, heads, machine }) => ({ name, heads: heads.join('\n'), machine })),
  });
  useUnsaved(form.isChanged, 'Libraries or places were changed; no plan of it was applied.', form.takeBack);
  const { libraries, places } = form.values;
  const setLibraries = (to: Outside['libraries']) => form.setValue('libraries', to, { shouldValidate: true });
  const setPlaces = (to: Outside['places']) => form.setValue('places', to, { shouldValidate: true });
  const isAway = (path: string) => s.libraries.find((x) => x.path === path)?.there === false;
  return (
    <Form form={form} label="Libraries and places" onSubmit={(v) => attempt(() => plan(request(v)))}>
      <ViewHead
        answer="Folders outside the root that scenes may point into, and what they are called on other machines."
        actions={
          <>
            {form.isChanged && <Button onPress={form.takeBack}>As it was</Button>}
            <Submit
              unless={!form.isChanged || places.some((p) => headsOf(p.heads).length === 0 && !p.machine)}
            >
              Plan the change…
            </Submit>
          </>
        }
      />
      <ErrorNotice error={problem} />
      <Sheet aria-label="Libraries">
        <Stack>
          <Row>
            <LibraryBig size={16} aria-hidden />
            <h2>Libraries</h2>
          </Row>
          <Soft>
            A shared folder known by a name. What lies in it counts as ready, and is left where it is when the
            workspace travels.
          </Soft>
          {libraries.map((l, i) => (
            <Row key={i} style={{ alignItems: 'flex-end' }}>
              <div style={{ width: 180 }}>
                <FormText name={`libraries.${i}.name`} label="Name" />
              </div>
              <Grow>
                <FormFolder
                  name={`libraries.${i}.path`}
                  label={isAway(l.path) ? 'Folder (not connected)' : 'Folder'}
                  title="Which folder is the library?"
                />
              </Grow>
              <IconButton
                aria-label={`Take library ${l.name} out`}
                onPress={() => setLibraries(without(libraries, i))}
              >
                <X size={15} />
              </IconButton>
            </Row>
          ))}
          <Row>
            <Button onPress={() => setLibraries([...libraries, { name: '', path: '' }])}>
              <Plus size={15} /> Add a library
            </Button>
          </Row>
        </Stack>
      </Sheet>
      <Sheet aria-label="Places">
        <Stack>
          <Row>
            <MapPin size={16} aria-hidden />
            <h2>Places</h2>
          </Row>
          <Soft>
            A drive or share by the path heads it has on each machine: a letter here, a mounted volume there.
            One a line. What the machine or drive is like is described under Travel.
          </Soft>
          {places.map((p, i) => (
            <Row key={i} style={{ alignItems: 'flex-start' }}>
              <div style={{ width: 180 }}>
                <FormText name={`places.${i}.name`} label="Name" />
              </div>
              <FormArea
                name={`places.${i}.heads`}
                label={`Heads of ${p.name}`}
                height={64}
                placeholder={'E:/\n/Volumes/Blue stick'}
              />
              <IconButton
                aria-label={`Take place ${p.name} out`}
                onPress={() => setPlaces(without(places, i))}
              >
                <X size={15} />
              </IconButton>
            </Row>
          ))}
          <Row>
            <Button onPress={() => setPlaces([...places, { name: '', heads: '' }])}>
              <Plus size={15} /> Add a place
            </Button>
          </Row>
          <Elsewhere places={places} />
        </Stack>
      </Sheet>
    </Form>
  );
}
