'use client';
// A place of one's own: what a machine or a drive is like, kept with the workspace, shared as a file. What of it can be seen from here is filled in.

import { Download, FolderOpen, Gauge, Trash2 } from '../kit/icons';
import { FileTrigger } from 'react-aria-components';
import { fileSystemIds, fileSystemNamed, fileSystems, type FileSystemId } from '@/core/names/fileSystems';
import {
  systemNames,
  systems,
  type KnownPlace,
  type MachineDescription,
  type System,
} from '@/core/places/machine';
import { bytes } from '@/core/text/figures';
import { readPlaces, writePlaces } from '@/wire/places';
import { probePlace } from '@/wire/routes/settings';
import type { SettingsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { download } from '../kit/download';
import { Choose, TextArea, TextField } from '../kit/fields';
import { Grow, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useJob, usePlan } from '../kit/work';
import { useTyped } from '../kit/kept';

const none = 'as is usual';
interface Draft {
  name: string;
  system: System;
  fileSystem: FileSystemId | typeof none;
  root: string;
  heads: string;
  ignoresCase: 'usual' | 'yes' | 'no';
  longestPath: string;
  /** In GB. */
  free: string;
  /** In MB a second. */
  speed: string;
  smallFiles: string;
}
const empty: Draft = {
  name: '',
  system: 'windows',
  fileSystem: none,
  root: '',
  heads: '',
  ignoresCase: 'usual',
  longestPath: '',
  free: '',
  speed: '',
  smallFiles: '',
};

function draftOf({ name, heads, machine: m }: KnownPlace): Draft {
  const number = (n: number | undefined, by = 1) =>
    n === undefined ? '' : String(Math.round((n / by) * 100) / 100);
  return {
    name,
    heads: heads.join('\n'),
    system: m?.system ?? 'windows',
    fileSystem: m?.fileSystem ?? none,
    root: m?.root ?? '',
    ignoresCase: m?.ignoresCase === undefined ? 'usual' : m.ignoresCase ? 'yes' : 'no',
    longestPath: number(m?.longestPath),
    free: number(m?.free, 1e9),
    speed: number(m?.speed?.write, 1e6),
    smallFiles: m?.speed?.smallFiles ? number(m.speed.smallFiles) : '',
  };
}

/** A positive number typed, with a comma or a point; undefined: nothing of the kind. */
function typed(text: string): number | undefined {
  const n = Number(text.trim().replace(',', '.'));
  return text.trim() !== '' && Number.isFinite(n) && n > 0 ? n : undefined;
}

function placeOf(d: Draft, mounts: MachineDescription['mounts']): KnownPlace {
  const write = typed(d.speed);
  const longestPath = typed(d.longestPath);
  return {
    name: d.name.trim(),
    heads: d.heads
      .split('\n')
      .map((h) => h.trim())
      .filter(Boolean),
    machine: {
      system: d.system,
      ...(d.fileSystem === none ? {} : { fileSystem: d.fileSystem }),
      ...(d.root.trim() === '' ? {} : { root: d.root.trim() }),
      ...(d.ignoresCase === 'usual' ? {} : { ignoresCase: d.ignoresCase === 'yes' }),
      ...(longestPath === undefined ? {} : { longestPath: Math.round(longestPath) }),
      ...(typed(d.free) === undefined ? {} : { free: Math.round(typed(d.free)! * 1e9) }),
      ...(write === undefined
        ? {}
        : { speed: { write: write * 1e6, smallFiles: typed(d.smallFiles) ?? null } }),
      ...(mounts ? { mounts } : {}),
    },
  };
}

export function DescribePlace({ settings, onClose }: { settings: SettingsView; onClose: () => void }) {
  const plan = usePlan();
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const known = settings.places;
  const [which, setWhich] = useTyped(
    'described place',
    known.find((p) => p.machine)?.name ?? known[0]?.name ?? '',
  );
  const chosen = known.find((p) => p.name === which);
  const begin = chosen ? draftOf(chosen) : empty;
  // Each place's description waits by itself.
  const [draft, setDraft] = useTyped(`description of ${which}`, begin);
  const isTyped = JSON.stringify(draft) !== JSON.stringify(begin);
  const set = (part: Partial<Draft>) => setDraft({ ...draft, ...part });
  const here = known.find((p) => p.name === which)?.here[0];
  const bare = (p: KnownPlace) => ({ name: p.name, heads: [...p.heads], machine: p.machine });
  const all = (place: KnownPlace) => [
    ...known.filter((p) => p.name !== which && p.name !== place.name).map(bare),
    bare(place),
  ];
  const keep = (places: ReturnType<typeof all>) => plan({ kind: 'settings', change: { places } });
  const measure = async () => {
    const view = await run(probePlace, {}, { path: here! });
    const fileSystem = fileSystemNamed(view.signs.fileSystem);
    set({
      ...(fileSystem ? { fileSystem } : {}),
      ...(view.signs.free === null ? {} : { free: String(Math.round(view.signs.free / 1e7) / 100) }),
      ...(view.signs.speed
        ? {
            speed: String(Math.round(view.signs.speed.write / 1e5) / 10),
            smallFiles: String(Math.round(view.signs.speed.smallFiles)),
          }
        : {}),
    });
  };
  const take = async (file: File) => {
    const places = readPlaces(await file.text(), file.name);
    const names = new Set(places.map((p) => p.name));
    await keep([...known.filter((p) => !names.has(p.name)).map(bare), ...places.map(bare)]);
  };
  return (
    <Dialog title="Describe a place" width={720} onClose={onClose}>
      <Stack>
        <Soft>
          A machine, a drive or a share as the rehearsal knows it. It is kept with the workspace and goes
          along with it.
        </Soft>
        <Row $gap={3} style={{ alignItems: 'flex-end' }}>
          <Choose
            label="Which"
            value={which}
            onChange={setWhich}
            options={[...known.map((p) => [p.name, p.name] as const), ['', 'A new one']]}
          />
          <Grow />
          <FileTrigger
            acceptedFileTypes={['application/json', '.json']}
            onSelect={(files) => files?.[0] && void attempt(() => take(files[0]!))}
          >
            <Button>
              <FolderOpen size={15} /> From a file…
            </Button>
          </FileTrigger>
          <Button
            isDisabled={known.length === 0}
            onPress={() => download('places.json', 'application/json', writePlaces(known.map(bare)))}
          >
            <Download size={15} /> All as a file
          </Button>
        </Row>
        <Row $gap={3}>
          <TextField label="Name" value={draft.name} onChange={(name) => set({ name })} />
          <Choose
            label="System"
            value={draft.system}
            onChange={(system) => set({ system })}
            options={systems.map((s) => [s, systemNames[s]] as const)}
          />
          <Choose
            label="Formatted as"
            value={draft.fileSystem}
            onChange={(fileSystem) => set({ fileSystem })}
            options={[[none, none] as const, ...fileSystemIds.map((f) => [f, fileSystems[f].name] as const)]}
          />
        </Row>
        <TextField
          label="Workspaces lie in"
          mono
          value={draft.root}
          onChange={(root) => set({ root })}
          placeholder={draft.system === 'windows' ? 'D:\\work' : '/Volumes/Work'}
          description="Absent: below the first head of its system."
        />
        <TextArea
          label="Its letters, mounts or shares, one a line"
          height={64}
          value={draft.heads}
          onChange={(heads) => set({ heads })}
          placeholder={'E:/\n/Volumes/Blue stick'}
        />
        <Row $gap={3} $wrap style={{ alignItems: 'flex-start' }}>
          <Choose
            label="Letter case"
            value={draft.ignoresCase}
            onChange={(ignoresCase) => set({ ignoresCase })}
            options={[
              ['usual', none],
              ['yes', 'does not count'],
              ['no', 'counts'],
            ]}
          />
          <TextField
            label="Longest path"
            value={draft.longestPath}
            onChange={(longestPath) => set({ longestPath })}
            placeholder={none}
          />
          <TextField
            label="Free, GB"
            value={draft.free}
            onChange={(free) => set({ free })}
            placeholder="not known"
          />
          <TextField
            label="Writes, MB/s"
            value={draft.speed}
            onChange={(speed) => set({ speed })}
            placeholder="not known"
          />
          <TextField
            label="Small files a second"
            value={draft.smallFiles}
            onChange={(smallFiles) => set({ smallFiles })}
            placeholder="not known"
          />
        </Row>
        <ErrorNotice error={problem} />
        <Row>
          {here && (
            <Button isPending={busy === 'measure'} onPress={() => void attempt(measure, 'measure')}>
              <Gauge size={15} /> {busy === 'measure' ? 'Measuring …' : 'Measure it, it is here'}
            </Button>
          )}
          {known.some((p) => p.name === which) && (
            <Button
              onPress={() =>
                void attempt(() => keep(known.filter((p) => p.name !== which).map(bare)), 'remove')
              }
            >
              <Trash2 size={15} /> Take it out…
            </Button>
          )}
          {isTyped && <Button onPress={() => setDraft(undefined)}>As it was</Button>}
          <Grow />
          {typed(draft.free) !== undefined && <Soft>{bytes(typed(draft.free)! * 1e9)} free</Soft>}
          <MainButton
            isDisabled={draft.name.trim() === ''}
            isPending={busy === 'keep'}
            onPress={() =>
              void attempt(() => {
                const before = known.find((p) => p.name === which)?.machine?.mounts;
                return keep(all(placeOf(draft, before)));
              }, 'keep')
            }
          >
            Plan the change…
          </MainButton>
        </Row>
      </Stack>
    </Dialog>
  );
}
