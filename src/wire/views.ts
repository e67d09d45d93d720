// What the server answers, as schemas: the server answers by them, the browser reads by them, and the published description of the interface
// (docs/openapi.json) is made from them. Sizes in bytes, times in ms since 1970 UTC unless told; a text called `time` is ISO 8601.

import { whoView } from './routes/people';
import { differenceView } from './nodes';
import { z } from 'zod';
import { planKinds } from '@/core/changes/plan';
import { fileSystemIds } from '@/core/names/fileSystems';
import { systems } from '@/core/places/machine';

import type { Failure } from '@/core/bags/rehearse';
import type { FormatId } from '@/core/formats/format';
import type { Advice, PlaceSigns } from '@/core/layouts/advice';
import type { Room } from '@/core/layouts/room';
import type { DependencyMap } from '@/core/references/map';
import type { SheetGroup } from '@/core/references/sheet';
import type { SceneUnits } from '@/core/units/sceneUnits';
import type { UnitFinding } from '@/core/units/suspicion';
import type { LedgerEntry as CoreLedgerEntry, OpenEntry } from '@/core/changes/summary';
import { indexRow, scanFound, type planRequest } from './jobs';
import { noteSchema, pathChange } from './plan';
import { machineDescription } from './places';
import { netSettings, unitsSchema } from './workspace';

const text = z.string();
const number = z.number();
const maybe = text.nullable();
const count = z.record(text, number);
const formatId = z.custom<FormatId>((v) => typeof v === 'string').meta({ type: 'string' });
const isKind = z.enum(['file', 'folder']);

/** `category`, `archived`: what it is filed under, and since when work on it has ended (ISO); null: nothing, still going on. */
export const workspaceView = z.object({
  id: text,
  category: maybe,
  archived: maybe,
  name: text,
  root: text,
  opened: number,
  there: z.boolean(),
  /** When it was backed up last, in ms; null: never from here. */
  backedUp: number.nullable(),
  /** What was found when it was read last; null: it was not read yet. `files` and `bytes`: the workspace's own records not counted. */
  seen: scanFound
    .pick({ references: true, ready: true, files: true, bytes: true, lastVersion: true })
    .extend({ scanned: number.nullable() })
    .nullable(),
});
export type WorkspaceView = z.infer<typeof workspaceView>;

/** A layout to choose. `text`: its plain text; `own`: the user's, which may be changed. */
export const layoutView = z.object({
  id: text,
  name: text,
  about: text,
  folders: z.array(text),
  homes: z.record(text, text),
  text,
  own: z.boolean(),
});
export type LayoutView = z.infer<typeof layoutView>;

/** A machine or a drive, as it is shown: `words`: what it is; `own`: described by the user, as part of a place. */
export const machineView = z.object({
  id: text,
  name: text,
  root: text,
  system: z.enum(systems),
  fileSystem: z.enum(fileSystemIds),
  words: text,
  own: z.boolean(),
  free: number.nullable(),
  speed: z.object({ write: number, smallFiles: number.nullable() }).nullable(),
});
export type MachineView = z.infer<typeof machineView>;

/** `allowed`: folders the user allowed, and what speaks against allowing one whole; `notices`: what the user has to know of how the server started. */
export const stateView = z.object({
  /** Who is signed in; null on one's own machine, where nobody has to say. */
  me: whoView.nullable(),
  version: text,
  system: text,
  home: text,
  dataFolder: text,
  demo: maybe,
  allowed: z.array(z.object({ path: text, there: z.boolean(), tooWide: maybe })),
  suggestions: z.array(text),
  workspaces: z.array(workspaceView),
  layouts: z.array(layoutView),
  machines: z.array(machineView),
  notices: z.array(text),
});
export type StateView = z.infer<typeof stateView>;

export const ledgerEntry = z.object({
  id: text,
  time: text,
  kind: z.enum(planKinds),
  title: text,
  state: z.enum(['applied', 'undone', 'put back', 'unfinished', 'damaged', 'newer']),
  undoes: maybe,
  files: number,
  paths: number,
  left: z.array(text),
  // What an older version kept of a ledger does not say it.
  by: maybe.default(null).describe('Who did it, where several work there.'),
  touched: z.array(text).readonly(),
}) satisfies z.ZodType<CoreLedgerEntry>;
export type LedgerEntry = z.infer<typeof ledgerEntry>;

const openEntry = z.object({
  id: text,
  title: maybe,
  time: maybe,
  why: z.enum(['unfinished', 'damaged', 'newer']),
}) satisfies z.ZodType<OpenEntry>;

export const referenceView = indexRow.omit({ format: true });
export type ReferenceView = z.infer<typeof referenceView>;
/** A row of the table: the file's format as well. */
const sheetRow = indexRow;

/**
 * `gapped`: sequences and sets of tiles with holes; `withLibraries`: how many open where the libraries they name are, too; `open`: what was begun and is
 * not finished, or cannot be read; `found`: as the last scan found it, null before the first; `free`: on the workspace's drive.
 */
export const overviewView = z.object({
  workspace: workspaceView,
  layout: text,
  created: text,
  scanned: number.nullable(),
  references: number,
  ready: number,
  scenes: number,
  odd: number,
  gapped: number,
  withLibraries: number,
  byState: count,
  problems: z.array(z.object({ scene: text, code: text, message: text })),
  attention: z.array(referenceView),
  ledger: z.array(ledgerEntry),
  open: z.array(openEntry),
  found: scanFound.nullable(),
  free: number,
  /** Why scenes should not be opened where it lies, and where else the same workspace lies. */
  misplaced: maybe,
  copies: z.array(text),
  /** The root of the workspace it lies in, where it lies in one. */
  inside: maybe,
  /** In the demo's workspace, of each kind of trouble one reference, and how many there are; null elsewhere. */
  troubles: z.array(z.object({ trouble: text, n: number, scene: text, at: text, written: text })).nullable(),
});
export type OverviewView = z.infer<typeof overviewView>;

/** A line of the ledger in full. At most 200 files and paths are named. `later`: plans that have touched the same files and are to be undone first. */
export const ledgerLine = ledgerEntry.omit({ touched: true }).extend({
  later: z.array(z.object({ id: text, title: text })),
  touched: z.array(text),
  changes: z.array(pathChange),
});
export type LedgerLine = z.infer<typeof ledgerLine>;

export const groupsView = z.object({
  scanned: number.nullable(),
  total: number,
  groups: z.array(
    z.object({ key: text, rows: number, attention: number, format: text }) satisfies z.ZodType<SheetGroup>,
  ),
  first: z.array(sheetRow),
  byState: count,
  odd: number,
  gapped: number,
  references: number,
  ready: number,
});
export type GroupsView = z.infer<typeof groupsView>;

export const sheetRows = z.array(sheetRow);
export const keysView = z.array(z.object({ scene: text, at: text }));
/** Where written paths would lead. */
export const triedView = z.array(z.object({ state: text, target: maybe }));

const sceneUnits = z.object({
  metres: number.nullable(),
  upAxis: z.enum(['X', 'Y', 'Z']).nullable(),
  by: z.enum(['definition', 'file', 'default', 'nobody']),
  misnamed: text.optional(),
}) satisfies z.ZodType<SceneUnits>;

/** A scene as it is shown in space: all references of it and of the files inside the root that it leads to. `format` null: no scene file by its name. */
export const previewView = z.object({
  scene: text,
  format: formatId.nullable(),
  size: number,
  files: z.array(text),
  references: z.array(sheetRow),
  units: sceneUnits,
  grid: unitsSchema,
});
export type PreviewView = z.infer<typeof previewView>;

/** Where a path leads by one base, absolute; null where it leads out of the drive. */
const base = z.object({ resolves: maybe, there: z.boolean() });
export type Base = z.infer<typeof base>;

export const referenceDetail = z.object({
  reference: referenceView,
  fullTarget: maybe.describe('Absolute path of the target as this system writes it; null when missing.'),
  bases: z
    .object({ scene: base, root: base, disagree: z.boolean() })
    .nullable()
    .describe('What a relative path means by each base; null for a path that is measured from none.'),
  alternatives: z
    .array(text)
    .describe('Addresses beside it in its list that are not needed, as it is found: as they are written.'),
  chain: z.array(text).describe('Files above it, from the top to the scene it stands in.'),
  below: z
    .object({
      of: number,
      references: z.array(z.object({ scene: text, at: text, written: text, state: text })),
    })
    .describe(
      'What its target leads to in turn, where that is a scene: at most 12 of them, and how many there are.',
    ),
  elsewhere: z
    .array(
      z.object({
        place: text,
        head: text,
        others: z.array(z.object({ head: text, path: text, written: text })),
      }),
    )
    .describe('Where it lies on other machines, with how the path would be written in this scene.'),
  library: maybe.describe('Name of the library it lies in.'),
  history: z
    .array(z.object({ id: text, time: text, title: text, state: ledgerEntry.shape.state }))
    .describe('Plans that touched the scene or the file, the latest first.'),
  users: z.array(z.object({ scene: text, at: text })),
  neighbours: z.array(text),
  preview: z.boolean(),
  facts: maybe.describe('What the file holds, in words; null where nothing is known.'),
  disagrees: maybe.describe('A sentence where name and content are of different kinds.'),
  advice: text,
});
export type ReferenceDetail = z.infer<typeof referenceDetail>;

export const fileDetail = referenceDetail
  .pick({ preview: true, facts: true, disagrees: true, users: true })
  .extend({
    path: text,
    fullPath: text.describe('Absolute, as this system writes it.'),
    size: number,
    modified: number,
    kind: text,
    home: maybe,
    unused: z.boolean(),
  });
export type FileDetail = z.infer<typeof fileDetail>;

export const fileView = z.object({
  name: text,
  path: text,
  kind: isKind,
  fileKind: text,
  home: maybe,
  files: number
    .nullable()
    .describe(
      'Files in a folder and below, as they were read last; null for files, and where none was read yet.',
    ),
  size: number.nullable().describe('In bytes; of a folder that of all files below.'),
  modified: number.nullable().describe('In ms; of a folder when the latest file below changed.'),
  uses: number
    .nullable()
    .describe('References that lead to it; null for folders, and where it was not read yet.'),
  unused: z.boolean().describe('True where a scene would be expected to need it, and none does.'),
});
export type FileView = z.infer<typeof fileView>;

export const unusedView = z.object({
  total: z.object({ files: number, bytes: number }),
  files: z.array(fileView),
});
export type UnusedView = z.infer<typeof unusedView>;

export const versionsView = z.object({
  /** The file that is worked on. */
  scene: text,
  habit: z.enum(['numbered', 'folder']),
  pattern: text,
  /** Null: it is not there. */
  present: z.object({ size: number, modified: number }).nullable(),
  /** Whether it changed since its last version. */
  changed: z.boolean(),
  next: text,
  versions: z.array(
    z.object({
      number: number.nullable(),
      path: text,
      size: number,
      modified: number,
      note: text,
      /** When it was saved here, ms; null: nobody noted. */
      saved: number.nullable(),
      by: maybe.describe('Who saved it, where several work there.'),
      /** It lies in the store and no more on the disk. */
      compact: z.boolean(),
    }),
  ),
  /** Bytes of all that lie on the disk. */
  total: number,
});

/** The net of a scene's series. Times in ms, sizes in bytes. */
export const netView = z.object({
  /** Null: it is off. */
  settings: netSettings.nullable(),
  /** States that are kept, the newest first. */
  states: z.array(z.object({ at: number, scene: text, size: number, broken: maybe, files: number })),
  /** Stretches in which it could not look, or could not keep. */
  holes: z.array(z.object({ from: number, to: number, why: text, message: text })),
  /** How far back the newest so many reach; null where nothing is kept. */
  back: number.nullable(),
  /** When it looked last; null: never. */
  looked: number.nullable(),
  /** Automatic saves of other programs. */
  others: z.array(
    z.object({ path: text, size: number, modified: number, share: number, named: z.boolean() }),
  ),
});
export type NetView = z.infer<typeof netView>;

const side = z.object({ path: text, size: number, modified: number, references: number, ready: number });
/** Two states of a scene side by side. Sizes in bytes, times in ms. */
export const compareView = z.object({
  sides: z.tuple([side, side]),
  /** False: its format is not looked into; then references, units and bytes are all that is told. */
  looked: z.boolean(),
  differences: z.array(differenceView),
  /** Bytes of the second that stand in the first, too. */
  shared: number,
});
export type CompareView = z.infer<typeof compareView>;

/** Time as ISO 8601 in UTC, bytes of all its files. */
export const checkpointView = z.object({
  id: text,
  name: text,
  time: text,
  scope: z.array(text),
  by: maybe,
  files: number,
  bytes: number,
});
export type CheckpointView = z.infer<typeof checkpointView>;
const counted = z.object({ count: number, paths: z.array(text) });
/** What changed since a checkpoint; the first two hundred paths of each. */
export const sinceView = z.object({ changed: counted, gone: counted, fresh: counted, same: number });

const frameList = z.array(number).optional();
/** Outputs that are expected, by scene, camera and pass: frames in trouble. */
export const completeView = z.object({
  expected: number,
  whole: number,
  unchecked: number,
  rows: z.array(
    z.object({
      scene: text,
      camera: text,
      pass: text,
      frames: z.object({ first: number, last: number, step: number }),
      expected: number,
      troubles: z.object({
        missing: frameList,
        empty: frameList,
        truncated: frameList,
        size: frameList,
        depth: frameList,
        older: frameList,
        unreadable: frameList,
      }),
      unchecked: z.array(number),
      width: number.nullable(),
      height: number.nullable(),
      bits: number.nullable(),
    }),
  ),
});
export type CompleteView = z.infer<typeof completeView>;

/** What versions cost, in bytes. `copies`: what they would take as copies; `changed`: what of the last save was new; `older`: versions before the present one, and about what they would take kept compact; `grew`: all there was at a time (ms). */
export const costView = z.object({
  onDisk: number,
  inStore: number,
  copies: number,
  store: number,
  scenes: z.array(
    z.object({
      scene: text,
      states: number,
      onDisk: number,
      inStore: number,
      copies: number,
      save: number,
      changed: number.nullable(),
      older: z.object({ now: number, compact: number }).nullable(),
    }),
  ),
  grew: z.array(z.object({ at: number, copies: number, taken: number })),
  /** `each`: bytes of it in each file; `spare`: all but one of them; `present`: those of its files that are worked on. */
  repeats: z.array(
    z.object({
      kind: z.enum(['picture', 'geometry', 'thing']),
      name: text,
      apart: z.boolean(),
      digest: text,
      each: number,
      spare: number,
      files: z.array(text),
      present: z.array(text),
    }),
  ),
});
export type CostView = z.infer<typeof costView>;

/** Whose an output is. `sure`: told by a name that follows the pattern; likely: by likeness; a guess: by time. */
const originView = z.object({
  scene: text,
  version: maybe,
  number: number.nullable(),
  camera: maybe,
  sure: z.enum(['sure', 'likely', 'guess']),
  why: text,
  changedSince: z.boolean(),
});
/** Outputs with their scenes, versions and cameras; frames of a row are one. Sizes in bytes, times in ms; `next`: what the next output is to be called. */
export const outputsView = z.object({
  folders: z.array(text),
  sets: z.array(
    z.object({
      path: text,
      frames: z.array(number).nullable(),
      files: number,
      size: number,
      from: number,
      to: number,
      sample: text,
      origin: originView.nullable(),
    }),
  ),
  scenes: z.array(
    z.object({
      scene: text,
      cameras: z.array(text).nullable(),
      next: z.object({ folder: text, names: z.array(z.object({ camera: text, name: text })) }),
    }),
  ),
});
export type OutputsView = z.infer<typeof outputsView>;

export const seriesView = z.object({
  scene: text,
  versions: number,
  last: number.nullable(),
  modified: number,
});
export type SeriesView = z.infer<typeof seriesView>;
export type VersionsView = z.infer<typeof versionsView>;

const size = { size: number };
/** `workspace` null: a plan above the workspaces. */
export const planView = z.object({
  id: text,
  workspace: maybe,
  root: text,
  kind: z.enum(planKinds),
  title: text,
  undoes: maybe,
  copies: z.array(z.object({ from: text, to: text, ...size })),
  writes: z.array(z.object({ path: text, ...size, replaces: z.boolean() })),
  folders: z.array(text),
  removes: z.array(text),
  moves: z.array(z.object({ from: text, to: text })),
  paths: z.array(pathChange),
  notes: z.array(noteSchema),
  readiness: z.object({ before: number, after: number, of: number }).nullable(),
  grows: number,
  free: number,
});
export type PlanView = z.infer<typeof planView>;

export const folderView = z.object({
  path: text,
  parent: maybe,
  root: maybe,
  entries: z.array(
    z.object({ name: text, path: text, kind: isKind, size: number.nullable(), isWorkspace: z.boolean() }),
  ),
});
export type FolderView = z.infer<typeof folderView>;

/** Folders that could be allowed: of one folder the names of those in it. `starts`: where to begin, the home and drives. */
export const foldersToAllow = z.object({
  path: text,
  parent: maybe,
  starts: z.array(text),
  folders: z.array(z.object({ name: text, path: text, isAllowed: z.boolean() })),
});
export type FoldersToAllow = z.infer<typeof foldersToAllow>;

export const createPreview = z.object({
  root: text,
  folders: z.array(z.object({ path: text, kinds: z.array(text) })),
  problem: maybe,
  details: z.array(text),
});
export type CreatePreview = z.infer<typeof createPreview>;

/** What several names would make; `wrong`: what is wrong with one. */
export const createManyPreview = z.object({
  problem: maybe,
  folders: number,
  rows: z.array(z.object({ name: text, root: text, wrong: maybe })),
});

export const rehearsalView = z.object({
  place: machineView,
  sentence: text,
  references: number,
  open: number,
  files: number,
  bytes: number,
  failures: z.array(
    z.object({
      kind: z.enum(['file', 'reference']),
      code: text,
      path: text,
      at: maybe,
      written: maybe,
      message: text,
      repair: z.enum(['rename', 'shorten', 'relative', 'relink']).nullable(),
    }),
  ) satisfies z.ZodType<Failure[]>,
  leansOn: z.array(z.object({ head: text, references: number })),
});
export type RehearsalView = z.infer<typeof rehearsalView>;

/** The settings of one workspace, as its marker says them. `usualUnits`: it says nothing of units yet. */
export const settingsView = z.object({
  name: text,
  root: text,
  created: text,
  layout: z.object({ id: text, text: maybe }),
  folders: z.array(text),
  homes: z.record(text, text),
  category: maybe,
  archived: maybe,
  units: unitsSchema,
  usualUnits: z.boolean(),
  names: z.object({ scene: text, output: text, person: text }),
  remade: z.array(text).nullable(),
  libraries: z.array(z.object({ name: text, path: text, there: z.boolean() })),
  places: z.array(
    z.object({
      name: text,
      heads: z.array(text),
      machine: machineDescription.optional(),
      here: z.array(text).describe('Those heads that are folders on this machine, which may be looked in.'),
    }),
  ),
});
export type SettingsView = z.infer<typeof settingsView>;

const point = z.tuple([number, number, number]);
/** A scene with its unit and size. `size`: along its axes, in its own unit; `box`, `longest`: in metres; null: not measured. */
export const sceneMeasure = z.object({
  path: text,
  format: formatId,
  metres: number.nullable(),
  upAxis: maybe,
  by: sceneUnits.shape.by,
  size: point.nullable(),
  box: z.object({ min: point, max: point }).nullable(),
  longest: number.nullable(),
  findings: z.array(
    z.object({
      code: z.enum(['unit-differs', 'unit-name', 'no-unit', 'up-differs', 'size', 'twin']),
      level: z.enum(['warning', 'info']),
      message: text,
    }) satisfies z.ZodType<UnitFinding>,
  ),
});
export type SceneMeasure = z.infer<typeof sceneMeasure>;

/** One pack of the holding area, or a file lying in it. `used`: files of it that scenes outside use. */
export const packView = z.object({
  path: text,
  name: text,
  kind: isKind,
  files: number,
  bytes: number,
  scenes: number,
  textures: number,
  used: number,
});
export type PackView = z.infer<typeof packView>;
export const packsView = z.object({ home: text, packs: z.array(packView) });

/** `uses`: references that lead to it; `references`, `missing`: those that stand in it. */
export const packFileView = z.object({
  path: text,
  kind: text,
  size: number,
  uses: number,
  references: number,
  missing: number,
});
export type PackFileView = z.infer<typeof packFileView>;
export const packFilesView = z.object({ files: z.array(packFileView), used: z.array(text) });

export const placeView = z.object({
  folder: text,
  signs: z.object({
    drive: z.enum(['local', 'removable', 'network', 'memory', 'unknown']),
    fileSystem: maybe,
    mount: maybe,
    isReadOnly: z.boolean(),
    mayRead: z.boolean(),
    mayWrite: z.boolean(),
    synced: z.object({ folder: text, mark: text }).nullable(),
    free: number.nullable(),
    total: number.nullable(),
    speed: z.object({ write: number, read: number, smallFiles: number }).nullable(),
  }) satisfies z.ZodType<PlaceSigns>,
  advice: z.array(
    z.object({
      level: z.enum(['warning', 'info', 'good']),
      code: text,
      message: text,
    }) satisfies z.ZodType<Advice>,
  ),
});
export type PlaceView = z.infer<typeof placeView>;

export const roomView: z.ZodType<Room, Room> = z
  .lazy(() =>
    z.object({ name: text, path: maybe, bytes: number, files: number, children: z.array(roomView) }),
  )
  .meta({ id: 'Room' });

export const mapView = z.object({
  nodes: z.array(
    z.object({
      id: text,
      kind: z.enum(['scene', 'scenes', 'folder', 'file', 'rest']),
      label: text,
      within: text,
      column: number,
      files: number,
      references: number,
      attention: number,
      state: maybe,
      opens: z.enum(['open', 'folded']).nullable(),
      query: text,
    }),
  ),
  links: z.array(z.object({ from: text, to: text, references: number, attention: number })),
  scenes: number,
  files: number,
}) satisfies z.ZodType<DependencyMap>;

/** What was done above single workspaces. */
export const shelfView = z.array(ledgerEntry.extend({ container: text }));

/** What was found of an unfinished entry, and what became of it. */
export const settledView = z.object({
  done: z.array(
    z.object({
      id: text,
      title: text,
      how: z.enum(['put-back', 'done', 'stuck', 'foreign', 'damaged', 'newer']),
      left: z.array(text),
      stuck: z.array(z.object({ path: text, why: text })),
    }),
  ),
});

export type PlanRequestInput = z.input<typeof planRequest>;
