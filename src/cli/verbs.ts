// The verbs of the command line: what each is called, takes and is for. What it does is loaded once it is asked for: a call loads what it needs and
// nothing else.

import { knownMachines } from '@/core/bags/machine';
import type { ParseArgsConfig } from 'node:util';
import type { Verb } from './call';

export interface VerbHead {
  use: string;
  about: string;
  example: string;
  flags: NonNullable<ParseArgsConfig['options']>;
  /** How many plain words it takes, least and most. */
  words: readonly [number, number];
  load(): Promise<Verb>;
}

export const verbs: Record<string, VerbHead> = {
  new: {
    use: 'new PARENT NAME --layout L [--without FOLDER…]',
    about: 'creates a workspace; L is a layout by id or a text file with one folder per line',
    example: 'satchel new ~/work "2026-11 Harbour Lantern" --layout game-environment --yes',
    flags: { layout: { type: 'string' }, without: { type: 'string', multiple: true } },
    words: [2, 2],
    load: async () => (await import('./plans')).planVerbs.new!,
  },
  adopt: {
    use: 'adopt DIR [--layout L] [--name NAME] [--without FOLDER…] [--tidy]',
    about:
      'takes over a folder that exists; its own folders serve as homes where they fit, --tidy files what lies about',
    example: 'satchel adopt ~/old/pier --layout game-environment --tidy --yes',
    flags: {
      layout: { type: 'string' },
      name: { type: 'string' },
      without: { type: 'string', multiple: true },
      tidy: { type: 'boolean' },
    },
    words: [1, 1],
    load: async () => (await import('./plans')).planVerbs.adopt!,
  },
  rename: {
    use: 'rename PATH NEW [--root DIR]',
    about:
      'renames or moves a file or folder, every reference kept; NEW is a name, or a path inside the root',
    example: 'satchel rename textures/hull.png hull_base.png --yes',
    flags: { root: { type: 'string' } },
    words: [2, 2],
    load: async () => (await import('./plans')).planVerbs.rename!,
  },
  bring: {
    use: 'bring FILE… --into DIR',
    about: 'brings outside files in, with what they need, each to the home of its kind',
    example: 'satchel bring ~/Downloads/boat/boat.gltf --into ~/work/harbour --yes',
    flags: { into: { type: 'string' } },
    words: [1, Infinity],
    load: async () => (await import('./plans')).planVerbs.bring!,
  },
  repath: {
    use: 'repath PATH… (--map FILE.json | --from HEAD --to HEAD | --relative | --absolute) [--match GLOB] [--root DIR]',
    about: 'rewrites written paths',
    example: 'satchel repath scenes --from "D:/old project" --to .. --yes',
    flags: {
      map: { type: 'string' },
      from: { type: 'string' },
      to: { type: 'string' },
      relative: { type: 'boolean' },
      absolute: { type: 'boolean' },
      match: { type: 'string' },
      root: { type: 'string' },
    },
    words: [1, Infinity],
    load: async () => (await import('./plans')).planVerbs.repath!,
  },
  relink: {
    use: 'relink DIR [--search DIR…]',
    about:
      'finds what is missing, inside the root and in the folders given, and points to it where that is sure',
    example: 'satchel relink ~/work/harbour --search ~/Downloads --yes',
    flags: { search: { type: 'string', multiple: true } },
    words: [1, 1],
    load: async () => (await import('./plans')).planVerbs.relink!,
  },
  save: {
    use: 'save SCENE [--note TEXT]',
    about: 'saves the next version of a scene, in the padding its name already uses',
    example: 'satchel save scenes/harbour_v007.gltf --note "sea level lowered" --yes',
    flags: { note: { type: 'string' } },
    words: [1, 1],
    load: async () => (await import('./plans')).planVerbs.save!,
  },
  restore: {
    use: 'restore SCENE N [--note TEXT]',
    about: 'brings version N back as a new version; the present one stays',
    example: 'satchel restore scenes/harbour_v007.gltf 3 --yes',
    flags: { note: { type: 'string' } },
    words: [2, 2],
    load: async () => (await import('./plans')).planVerbs.restore!,
  },
  'put-back': {
    use: 'put-back DIR [ID…] [--leave]',
    about:
      'puts back what was begun and not finished, whoever began it; --leave closes the entry and touches no file',
    example: 'satchel put-back ~/work/harbour --yes',
    flags: { leave: { type: 'boolean' } },
    words: [1, Infinity],
    load: async () => (await import('./plans')).planVerbs['put-back']!,
  },
  undo: {
    use: 'undo DIR ID',
    about: 'undoes a ledger entry',
    example: 'satchel undo ~/work/harbour 20261123-184500-123ab12 --yes',
    flags: {},
    words: [2, 2],
    load: async () => (await import('./plans')).planVerbs.undo!,
  },
  refs: {
    use: 'refs PATH… [--root DIR] [--follow]',
    about: 'references of scenes, of a folder’s scenes, or with --follow the whole chain',
    example: 'satchel refs scenes/harbour.gltf --follow --json',
    flags: { root: { type: 'string' }, follow: { type: 'boolean' } },
    words: [1, Infinity],
    load: async () => (await import('./looks')).lookVerbs.refs!,
  },
  versions: {
    use: 'versions SCENE',
    about: 'versions of a scene, with size, age and note',
    example: 'satchel versions scenes/harbour_v007.gltf',
    flags: {},
    words: [1, 1],
    load: async () => (await import('./looks')).lookVerbs.versions!,
  },
  ledger: {
    use: 'ledger DIR',
    about: 'what was done to a workspace, newest first',
    example: 'satchel ledger ~/work/harbour',
    flags: {},
    words: [1, 1],
    load: async () => (await import('./looks')).lookVerbs.ledger!,
  },
  pack: {
    use: 'pack DIR --to FILE.zip|DIR',
    about: 'packs a workspace as a bag (RFC 8493), hidden files included',
    example: 'satchel pack ~/work/harbour --to /media/stick/harbour.zip',
    flags: { to: { type: 'string' } },
    words: [1, 1],
    load: async () => (await import('./looks')).lookVerbs.pack!,
  },
  verify: {
    use: 'verify BAG',
    about: 'checks a bag: complete, and every byte as it was packed',
    example: 'satchel verify harbour.zip',
    flags: {},
    words: [1, 1],
    load: async () => (await import('./looks')).lookVerbs.verify!,
  },
  unpack: {
    use: 'unpack BAG --to DIR',
    about: 'unpacks a bag into a new or empty folder, verifying every byte',
    example: 'satchel unpack harbour.zip --to ~/work/harbour',
    flags: { to: { type: 'string' } },
    words: [1, 1],
    load: async () => (await import('./looks')).lookVerbs.unpack!,
  },
  rehearse: {
    use: 'rehearse DIR|BAG [--as PLACE] [--at ROOT] [--drive LETTER]',
    about: `would it open there; PLACE is one of ${knownMachines.map((p) => p.id).join(', ')}`,
    example: 'satchel rehearse harbour.zip --as windows --drive E',
    flags: { as: { type: 'string' }, at: { type: 'string' }, drive: { type: 'string' } },
    words: [1, 1],
    load: async () => (await import('./looks')).lookVerbs.rehearse!,
  },
};
