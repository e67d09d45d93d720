'use client';
// What a workspace knows of places outside: shared libraries by name, and the path heads that mean the same folder on different machines.

import { LibraryBig, MapPin, Plus, X } from 'lucide-react';
import { useState } from 'react';
import { elsewhereOf } from '@/core/references/elsewhere';
import type { ErrorShape } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import {
  Area,
  Button,
  ErrorNotice,
  Grow,
  IconButton,
  MainButton,
  Mono,
  Row,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { FolderField } from '../kit/fields';
import { Page } from '../kit/Page';
import { usePlan } from '../kit/work';

export function OutsideTab({ s, bar }: { s: SettingsView; bar: React.ReactNode }) {
  const [libraries, setLibraries] = useState(s.libraries.map(({ name, path }) => ({ name, path })));
  const [places, setPlaces] = useState(s.places.map(({ name, heads }) => ({ name, heads })));
  const [tried, setTried] = useState('');
  const elsewhere = elsewhereOf(tried.trim().replaceAll('\\', '/'), places);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const plan = usePlan();
  const same =
    JSON.stringify([libraries, places]) ===
    JSON.stringify([
      s.libraries.map(({ name, path }) => ({ name, path })),
      s.places.map(({ name, heads }) => ({ name, heads })),
    ]);
  const whole =
    libraries.every((l) => l.name && l.path) && places.every((p) => p.name && p.heads.some(Boolean));
  const setLibrary = (i: number, more: Partial<(typeof libraries)[number]>) =>
    setLibraries(libraries.map((l, n) => (n === i ? { ...l, ...more } : l)));
  const setPlace = (i: number, more: Partial<(typeof places)[number]>) =>
    setPlaces(places.map((p, n) => (n === i ? { ...p, ...more } : p)));
  return (
    <Page
      title="Settings"
      answer="Folders outside the root that scenes may point into, and what they are called on other machines."
      actions={
        <MainButton
          isDisabled={same || !whole}
          onPress={() => {
            setProblem(null);
            plan({
              kind: 'settings',
              change: {
                libraries,
                places: places.map((p) => ({ ...p, heads: p.heads.map((h) => h.trim()).filter(Boolean) })),
              },
            }).catch((cause: unknown) => setProblem(shapeOf(cause)));
          }}
        >
          Plan the change…
        </MainButton>
      }
    >
      {bar}
      {problem && <ErrorNotice error={problem} />}
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
                <TextField label="Name" value={l.name} onChange={(name) => setLibrary(i, { name })} />
              </div>
              <Grow>
                <FolderField
                  label={
                    s.libraries.find((x) => x.path === l.path)?.there === false
                      ? 'Folder (not connected)'
                      : 'Folder'
                  }
                  title="Which folder is the library?"
                  value={l.path}
                  onChange={(path) => setLibrary(i, { path })}
                />
              </Grow>
              <IconButton
                aria-label={`Take library ${l.name} out`}
                onPress={() => setLibraries(libraries.filter((_, n) => n !== i))}
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
            One a line.
          </Soft>
          {places.map((p, i) => (
            <Row key={i} style={{ alignItems: 'flex-start' }}>
              <div style={{ width: 180 }}>
                <TextField label="Name" value={p.name} onChange={(name) => setPlace(i, { name })} />
              </div>
              <Grow>
                <strong style={{ fontSize: 13.5 }}>Heads</strong>
                <Area
                  aria-label={`Heads of ${p.name}`}
                  style={{ minHeight: 64 }}
                  value={p.heads.join('\n')}
                  onChange={(e) => setPlace(i, { heads: e.target.value.split('\n') })}
                  placeholder={'E:/\n/Volumes/Blue stick'}
                />
              </Grow>
              <IconButton
                aria-label={`Take place ${p.name} out`}
                onPress={() => setPlaces(places.filter((_, n) => n !== i))}
              >
                <X size={15} />
              </IconButton>
            </Row>
          ))}
          <Row>
            <Button onPress={() => setPlaces([...places, { name: '', heads: [''] }])}>
              <Plus size={15} /> Add a place
            </Button>
          </Row>
          <TextField
            label="See a path as the other machines have it"
            mono
            value={tried}
            onChange={setTried}
            placeholder="E:/skies/storm_sky.png"
          />
          {tried.trim() !== '' &&
            (elsewhere.length === 0 ? (
              <Soft>It lies under none of these heads.</Soft>
            ) : (
              elsewhere.map((e) => (
                <div key={e.place}>
                  <Soft>{e.place}</Soft>
                  {e.others.map((o) => (
                    <div key={o.head}>
                      <Mono>{o.path}</Mono>
                    </div>
                  ))}
                </div>
              ))
            ))}
        </Stack>
      </Sheet>
    </Page>
  );
}
