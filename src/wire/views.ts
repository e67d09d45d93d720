// What the server answers, as the browser reads it.

import type { z } from 'zod';
import type { Advice, PlaceSigns } from '@/core/layouts/advice';
import type { FormatId } from '@/core/formats/format';
import type { Elsewhere } from '@/core/references/elsewhere';
import type { SheetGroup } from '@/core/references/sheet';
import type { SceneUnits } from '@/core/units/sceneUnits';
import type { UnitFinding } from '@/core/units/suspicion';
import type { WorkspaceUnits } from '@/core/units/units';
import type { LaterPlan } from '@/core/changes/depends';
import type { LedgerEntry, OpenEntry } from '@/core/changes/summary';
import type { Note, PathChange, PlanKind } from '@/core/changes/plan';
import type { Failure } from '@/core/bags/rehearse';
import type { IndexRow, planRequest, ScanFound } from './jobs';

export interface WorkspaceView {
  id: string;
  /** What it is filed under, and since when work on it has ended (ISO); null: nothing, still going on. */
  category: string | null;
  archived: string | null;
  name: string;
  root: string;
  opened: number;
  there: boolean;
}

/** A layout to choose. `text`: its plain text; `own`: the user's, which may be changed. */
export interface LayoutView {
  id: string;
  name: string;
  about: string;
  folders: string[];
  homes: Record<string, string>;
  text: string;
  own: boolean;
}

export interface StateView {
  version: string;
  system: string;
  home: string;
  dataFolder: string;
  demo: string | null;
  /** Folders the user allowed; `tooWide`: what speaks against allowing one whole. */
  allowed: { path: string; there: boolean; tooWide: string | null }[];
  suggestions: string[];
  workspaces: WorkspaceView[];
  layouts: LayoutView[];
  machines: { id: string; name: string; root: string; system: string }[];
  /** What the user has to know of how the server started. */
  notices: string[];
}

export interface OverviewView {
  workspace: WorkspaceView;
  layout: string;
  created: string;
  scanned: number | null;
  references: number;
  ready: number;
  scenes: number;
  odd: number;
  /** Sequences and sets of tiles with holes. */
  gapped: number;
  /** How many open where the libraries they name are, too. */
  withLibraries: number;
  byState: Record<string, number>;
  problems: { scene: string; code: string; message: string }[];
  attention: ReferenceView[];
  ledger: LedgerEntry[];
  /** What was begun and is not finished, by another installation or where it could not be put back; or cannot be read. */
  open: OpenEntry[];
  /** As the last scan found it; null before the first. */
  found: ScanFound | null;
  /** Bytes free on the workspace's drive. */
  free: number;
}

/** A line of the ledger in full. At most 200 files and paths are named. */
export interface LedgerLine extends Omit<LedgerEntry, 'touched'> {
  /** Plans that came later, still hold, and have touched the same files: to be undone first, the latest first. */
  later: LaterPlan[];
  touched: string[];
  changes: PathChange[];
}

export type ReferenceView = Omit<IndexRow, 'format'>;

export interface GroupsView {
  scanned: number | null;
  total: number;
  groups: SheetGroup[];
  /** The first rows. */
  first: ReferenceView[];
  byState: Record<string, number>;
  odd: number;
  /** Sequences and sets of tiles with holes. */
  gapped: number;
  references: number;
  ready: number;
}

/** A scene as it is shown in space: all references of it and of the files it leads to. */
export interface PreviewView {
  scene: string;
  /** Null: no scene file by its name. */
  format: FormatId | null;
  /** Bytes. */
  size: number;
  /** The scene, and the files inside the root that it leads to. */
  files: string[];
  references: ReferenceView[];
  units: SceneUnits;
  /** The workspace's unit and grid. */
  grid: WorkspaceUnits;
}

/** Where a path leads by one base, absolute; null where it leads out of the drive. */
export interface Base {
  resolves: string | null;
  there: boolean;
}

export interface ReferenceDetail {
  reference: ReferenceView;
  /** Absolute path of the target as this system writes it; null when missing. */
  fullTarget: string | null;
  /** What a relative path means by each base; null for a path that is measured from none. `there`: something lies there. */
  bases: { scene: Base; root: Base; disagree: boolean } | null;
  /** Files above it, from the top to the scene it stands in. */
  chain: string[];
  /** What its target leads to in turn, where that is a scene: at most 12 of them, and how many there are. */
  below: { of: number; references: Pick<ReferenceView, 'scene' | 'at' | 'written' | 'state'>[] };
  /** Where it lies on other machines, with how the path would be written in this scene. */
  elsewhere: (Omit<Elsewhere, 'others'> & { others: { head: string; path: string; written: string }[] })[];
  /** Name of the library it lies in. */
  library: string | null;
  /** Plans that touched the scene or the file, the latest first. */
  history: { id: string; time: string; title: string; state: LedgerEntry['state'] }[];
  users: { scene: string; at: string }[];
  neighbours: string[];
  preview: boolean;
  /** What the file holds, in words; null where nothing is known. */
  facts: string | null;
  /** A sentence where name and content are of different kinds. */
  disagrees: string | null;
  advice: string;
}

export interface FileDetail extends Pick<ReferenceDetail, 'preview' | 'facts' | 'disagrees' | 'users'> {
  path: string;
  /** Absolute, as this system writes it. */
  fullPath: string;
  size: number;
  modified: number;
  kind: string;
  home: string | null;
  unused: boolean;
}

export interface UnusedView {
  total: { files: number; bytes: number };
  files: FileView[];
}

export interface FileView {
  name: string;
  path: string;
  kind: 'file' | 'folder';
  fileKind: string;
  home: string | null;
  size: number | null;
  modified: number | null;
  /** References that lead to it, as of the last reading; null for folders, and where it was not read yet. */
  uses: number | null;
  /** True where a scene would be expected to need it, and none does. */
  unused: boolean;
}

export interface VersionsView {
  scene: string;
  next: string;
  versions: { number: number | null; path: string; size: number; modified: number; note: string }[];
  total: number;
}

export interface PlanView {
  id: string;
  /** Null: a plan above the workspaces. */
  workspace: string | null;
  root: string;
  kind: PlanKind;
  title: string;
  undoes: string | null;
  copies: { from: string; to: string; size: number }[];
  writes: { path: string; size: number; replaces: boolean }[];
  folders: string[];
  removes: string[];
  moves: { from: string; to: string }[];
  paths: PathChange[];
  notes: Note[];
  readiness: { before: number; after: number; of: number } | null;
  grows: number;
  free: number;
}

export interface FolderView {
  path: string;
  parent: string | null;
  root: string | null;
  entries: {
    name: string;
    path: string;
    kind: 'file' | 'folder';
    size: number | null;
    isWorkspace: boolean;
  }[];
}

export interface CreatePreview {
  root: string;
  folders: { path: string; kinds: string[] }[];
  problem: string | null;
  details: string[];
}

export interface RehearsalView {
  place: { id: string; name: string; root: string };
  sentence: string;
  references: number;
  open: number;
  files: number;
  failures: Failure[];
}

/** The settings of one workspace, as its marker says them. */
export interface SettingsView {
  name: string;
  root: string;
  created: string;
  layout: { id: string; text: string | null };
  folders: string[];
  homes: Record<string, string>;
  category: string | null;
  archived: string | null;
  units: WorkspaceUnits;
  /** True where it says nothing of units yet. */
  usualUnits: boolean;
  names: { scene: string; output: string; person: string };
  libraries: { name: string; path: string; there: boolean }[];
  /** `here`: those heads that are folders on this machine, which may be looked in. */
  places: { name: string; heads: string[]; here: string[] }[];
}

/** A scene with its unit and size. */
export interface SceneMeasure {
  path: string;
  format: FormatId;
  /** Metres in one unit; null: the format knows none. */
  metres: number | null;
  upAxis: string | null;
  by: SceneUnits['by'];
  /** Along its axes, in its own unit; null: not measured. */
  size: [number, number, number] | null;
  /** Its lowest and highest corner, in metres. */
  box: { min: [number, number, number]; max: [number, number, number] } | null;
  /** Metres along the longest side. */
  longest: number | null;
  findings: UnitFinding[];
}

/** One pack of the holding area, or a file lying in it. */
export interface PackView {
  path: string;
  name: string;
  kind: 'file' | 'folder';
  files: number;
  bytes: number;
  scenes: number;
  textures: number;
  /** Files of it that scenes outside use. */
  used: number;
}

export interface PackFileView {
  path: string;
  kind: string;
  size: number;
  /** References that lead to it, and those that stand in it. */
  uses: number;
  references: number;
  missing: number;
}

export interface PlaceView {
  folder: string;
  signs: PlaceSigns;
  advice: Advice[];
}

export type PlanRequestInput = z.input<typeof planRequest>;
