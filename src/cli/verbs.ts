// The verbs of the command line: what each is called, takes and is for. What it does is loaded once it is asked for: a call loads what it needs and
// nothing else.

import { knownMachines } from '@/core/places/machine';
import type { ParseArgsConfig } from 'node:util';
import type { Call, Verb } from './call';

export interface VerbHead {
  use: string;
  about: string;
  example: string;
  flags: NonNullable<ParseArgsConfig['options']>;
  /** How many plain words it takes, least and most. */
  words: readonly [number, number];
  /** Words of a call that name what it writes to; none: it only looks. What a plan changes lies in the workspace around the first of them. */
  writes: (call: Call) => readonly (string | undefined)[];
  /** On a server for several it is for those who manage. */
  manages?: true;
  /** It goes on until it is stopped. */
  stays?: true;
  load(): Promise<Verb>;
}

const nothing = () => [];
/** Its words, or a flag's value. */
const itsWords = ({ words }: Call) => words;
const first = ({ words }: Call) => words.slice(0, 1);
const flag = (name: string) => (call: Call) => {
  const value = call.flags[name];
  return typeof value === 'string' ? [value] : [];
};
/** Only once a plan is applied. */
const applied = (writes: VerbHead['writes']) => (call: Call) => (call.yes ? writes(call) : []);
const firstAndTo = (call: Call) => [...first(call), ...flag('to')(call)];

export const verbs: Record<string, VerbHead> = {
  new: {
    use: 'new PARENT NAME --layout L [--without FOLDER…]',
    about: 'creates a workspace; L is a layout by id or a text file with one folder per line',
    example: 'satchel new ~/work "2026-11 Harbour Lantern" --layout game-environment --yes',
    flags: { layout: { type: 'string' }, without: { type: 'string', multiple: true } },
    words: [2, 2],
    writes: applied(first),
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
    writes: applied(first),
    load: async () => (await import('./plans')).planVerbs.adopt!,
  },
  rename: {
    use: 'rename PATH NEW [--root DIR]',
    about:
      'renames or moves a file or folder, every reference kept; NEW is a name, or a path inside the root',
    example: 'satchel rename textures/hull.png hull_base.png --yes',
    flags: { root: { type: 'string' } },
    words: [2, 2],
    writes: applied(first),
    load: async () => (await import('./plans')).planVerbs.rename!,
  },
  bring: {
    use: 'bring FILE… --into DIR',
    about: 'brings outside files in, with what they need, each to the home of its kind',
    example: 'satchel bring ~/Downloads/boat/boat.gltf --into ~/work/harbour --yes',
    flags: { into: { type: 'string' } },
    words: [1, Infinity],
    writes: applied(flag('into')),
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
    writes: applied(itsWords),
    load: async () => (await import('./plans')).planVerbs.repath!,
  },
  relink: {
    use: 'relink DIR [--search DIR…]',
    about:
      'finds what is missing, inside the root and in the folders given, and points to it where that is sure',
    example: 'satchel relink ~/work/harbour --search ~/Downloads --yes',
    flags: { search: { type: 'string', multiple: true } },
    words: [1, 1],
    writes: applied(first),
    load: async () => (await import('./plans')).planVerbs.relink!,
  },
  save: {
    use: 'save SCENE… [--note TEXT] | save DIR --changed [--note TEXT]',
    about:
      'saves the next version of scenes in one step; --changed: of all that changed since their last version',
    example: 'satchel save scenes/boat_v007.gltf scenes/pier_v002.gltf --note "sail mended" --yes',
    flags: { note: { type: 'string' }, changed: { type: 'boolean' } },
    words: [1, Infinity],
    writes: applied(itsWords),
    load: async () => (await import('./versions')).versionVerbs.save!,
  },
  habit: {
    use: 'habit DIR numbered|folder [--pattern PATTERN]',
    about:
      'changes how versions are kept, and moves what is there: numbered files side by side, or one current file and a folder of versions',
    example: 'satchel habit ~/work/harbour folder --pattern "versions/{scene}_v{number:3}" --yes',
    flags: { pattern: { type: 'string' } },
    words: [2, 2],
    writes: applied(first),
    load: async () => (await import('./versions')).versionVerbs.habit!,
  },
  compact: {
    use: 'compact VERSION… [--back]',
    about:
      'keeps old versions in the store instead of as files, byte for byte; --back makes them files again',
    example: 'satchel compact scenes/boat_v001.gltf scenes/boat_v002.gltf --yes',
    flags: { back: { type: 'boolean' } },
    words: [1, Infinity],
    writes: applied(itsWords),
    load: async () => (await import('./versions')).versionVerbs.compact!,
  },
  restore: {
    use: 'restore SCENE N [--note TEXT]',
    about: 'brings version N back as a new version; the present one stays',
    example: 'satchel restore scenes/harbour_v007.gltf 3 --yes',
    flags: { note: { type: 'string' } },
    words: [2, 2],
    writes: applied(first),
    load: async () => (await import('./versions')).versionVerbs.restore!,
  },
  convert: {
    use: 'convert FILE --to FILE2 [--as ascii|little|big] [--follow]',
    about:
      'a scene in another form of its format, beside it: glTF ↔ GLB, PLY in text and binary, DAE ↔ ZAE, USD ↔ USDZ, USD crate to text, X3D in XML and classic; --follow points references to the new file',
    example: 'satchel convert scenes/boat.glb --to scenes/boat.gltf --yes',
    flags: { to: { type: 'string' }, as: { type: 'string' }, follow: { type: 'boolean' } },
    words: [1, 1],
    writes: applied(firstAndTo),
    load: async () => (await import('./versions')).versionVerbs.convert!,
  },
  collect: {
    use: 'collect SCENE…|DIR|LIST.txt --to EMPTYDIR [--layout by-kind|keep-N|mirror|FILE.json] [--exclude DIR…] [--used-only] [--report-only]',
    about:
      'everything that scenes need, copied into an empty folder with paths that lead there, and a report (HTML, JSON, CSV); the sources stay as they are',
    example: 'satchel collect scenes/harbour_v007.gltf --to ~/handover/harbour --yes',
    flags: {
      to: { type: 'string' },
      layout: { type: 'string' },
      exclude: { type: 'string', multiple: true },
      'used-only': { type: 'boolean' },
      'report-only': { type: 'boolean' },
    },
    words: [1, Infinity],
    writes: (call) => (call.yes || call.flags['report-only'] ? flag('to')(call) : []),
    load: async () => (await import('./collect')).collectVerbs.collect!,
  },
  carry: {
    use: 'carry ASSET… --from DIR --to DIR [--flat] [--without FILE…] [--clash both|replace|target]',
    about:
      'files and folders of one workspace, or of any folder, carried over into another with what they need; what is there already is used, paths are valid there, the sources stay as they are',
    example: 'satchel carry models/lantern.glb --from ../old-pier --to . --yes',
    flags: {
      from: { type: 'string' },
      to: { type: 'string' },
      flat: { type: 'boolean' },
      without: { type: 'string', multiple: true },
      clash: { type: 'string' },
    },
    words: [1, Infinity],
    writes: applied(flag('to')),
    load: async () => (await import('./carry')).carryVerbs.carry!,
  },
  'carry-nodes': {
    use: 'carry-nodes SCENE NODE… --into SCENE2 [--under NODE] [--clash rename|target|replace|skip] [--place world|parent] [--pictures as-there|files|inside] [--buffer own|append]',
    about:
      'part of a scene into another of its format, with all it stands on; NODE is a name, a path a/b, or a glob. Without --clash what is equal is used and all else gets a new name',
    example: 'satchel carry-nodes scenes/pier.gltf "lamp*" --into scenes/harbour.gltf --under quay --yes',
    flags: {
      into: { type: 'string' },
      under: { type: 'string' },
      clash: { type: 'string' },
      place: { type: 'string' },
      pictures: { type: 'string' },
      buffer: { type: 'string' },
    },
    words: [2, Infinity],
    writes: applied(flag('into')),
    load: async () => (await import('./carryNodes')).carryNodesVerbs['carry-nodes']!,
  },
  compare: {
    use: 'compare A B',
    about:
      'settings of two workspaces or two scenes side by side, differences first; of scenes and their versions also what differs in them: nodes, meshes, materials, textures, animations, references',
    example: 'satchel compare ~/work/harbour ~/work/fish-market',
    flags: {},
    words: [2, 2],
    writes: nothing,
    load: async () => (await import('./compare')).compareVerbs.compare!,
  },
  embed: {
    use: 'embed SCENE --to FILE',
    about:
      'a scene with all it needs as one file: glTF as .glb, USD as .usdz, COLLADA as .zae, OBJ with its materials as .zip; what cannot lie inside is named',
    example: 'satchel embed scenes/boat.gltf --to ~/handover/boat.glb --yes',
    flags: { to: { type: 'string' } },
    words: [1, 1],
    writes: applied(flag('to')),
    load: async () => (await import('./oneFile')).oneFileVerbs.embed!,
  },
  extract: {
    use: 'extract FILE --into DIR',
    about:
      'one file (.glb, .gltf, .usdz, .zae, .zip) taken apart into the homes of a workspace, pictures by the names they had',
    example: 'satchel extract ~/Downloads/boat.glb --into ~/work/harbour --yes',
    flags: { into: { type: 'string' } },
    words: [1, 1],
    writes: applied(flag('into')),
    load: async () => (await import('./oneFile')).oneFileVerbs.extract!,
  },
  outputs: {
    use: 'outputs DIR',
    about:
      'whose every output is: scene, version and camera, and how sure that is; how the next one is to be called',
    example: 'satchel outputs ~/work/harbour',
    flags: {},
    words: [1, 1],
    writes: nothing,
    load: async () => (await import('./outputs')).outputVerbs.outputs!,
  },
  clip: {
    use: 'clip PATTERN --to FILE [--fps N] [--side PIXELS] [--first N] [--last N] [--holes hold|mark] [--label]',
    about:
      'frames as a moving picture, .webp or .gif; holes are held (as usual) or marked; --label writes scene, version, camera and frame into it',
    example: 'satchel clip "renders/lamp/lamp.####.png" --to lamp.webp --fps 12',
    flags: {
      to: { type: 'string' },
      fps: { type: 'string' },
      side: { type: 'string' },
      first: { type: 'string' },
      last: { type: 'string' },
      holes: { type: 'string' },
      label: { type: 'boolean' },
    },
    words: [1, 1],
    writes: flag('to'),
    load: async () => (await import('./outputs')).outputVerbs.clip!,
  },
  complete: {
    use: 'complete DIR [--list passes.json] [--from PATTERN]',
    about:
      'which passes and frames are missing, empty, cut off, of another size or depth, or older than their scene; --from shows the list that a complete folder gives',
    example:
      'satchel complete ~/work/harbour --from "renders/{scene}/{pass}.{frame:4}.exr" --list passes.json',
    flags: { list: { type: 'string' }, from: { type: 'string' } },
    words: [1, 1],
    writes: (call) => (call.flags.from === undefined ? [] : [...first(call), ...flag('list')(call)]),
    load: async () => (await import('./outputs')).outputVerbs.complete!,
  },
  checkpoint: {
    use: 'checkpoint DIR [NAME] [--only PATH…]',
    about: 'keeps the state of a workspace, or of some files and folders of it, to go back to',
    example: 'satchel checkpoint ~/work/harbour "before the rig"',
    flags: { only: { type: 'string', multiple: true } },
    words: [1, 2],
    writes: first,
    load: async () => (await import('./versions')).versionVerbs.checkpoint!,
  },
  checkpoints: {
    use: 'checkpoints DIR',
    about: 'the states there are to go back to, and what changed since each',
    example: 'satchel checkpoints ~/work/harbour',
    flags: {},
    words: [1, 1],
    writes: nothing,
    load: async () => (await import('./versions')).versionVerbs.checkpoints!,
  },
  back: {
    use: 'back DIR ID',
    about: 'goes back to a checkpoint: what is gone comes back, what is new goes to the bin',
    example: 'satchel back ~/work/harbour 20261126-184500-3fa9c2 --yes',
    flags: {},
    words: [2, 2],
    writes: applied(first),
    load: async () => (await import('./versions')).versionVerbs.back!,
  },
  net: {
    use: 'net DIR [--once | --every MIN] [--keep N]',
    about:
      'the net of automatic saves: shows what it holds; --once keeps every scene that changed, --every goes on doing so until it is stopped',
    example: 'satchel net ~/work/harbour --every 5 --keep 20',
    flags: { once: { type: 'boolean' }, every: { type: 'string' }, keep: { type: 'string' } },
    words: [1, 1],
    writes: (call) => (call.flags.once || call.flags.every !== undefined ? first(call) : []),
    load: async () => (await import('./versions')).versionVerbs.net!,
  },
  store: {
    use: 'store DIR [--sweep]',
    about: 'what the store holds, and for whom; --sweep clears what nobody needs',
    example: 'satchel store ~/work/harbour --sweep --yes',
    flags: { sweep: { type: 'boolean' } },
    words: [1, 1],
    writes: applied(first),
    load: async () => (await import('./versions')).versionVerbs.store!,
  },
  'put-back': {
    use: 'put-back DIR [ID…] [--leave]',
    about:
      'puts back what was begun and not finished, whoever began it; --leave closes the entry and touches no file',
    example: 'satchel put-back ~/work/harbour --yes',
    flags: { leave: { type: 'boolean' } },
    words: [1, Infinity],
    writes: applied(first),
    load: async () => (await import('./plans')).planVerbs['put-back']!,
  },
  undo: {
    use: 'undo DIR ID',
    about: 'undoes a ledger entry',
    example: 'satchel undo ~/work/harbour 20261123-184500-123ab12 --yes',
    flags: {},
    words: [2, 2],
    writes: applied(first),
    load: async () => (await import('./plans')).planVerbs.undo!,
  },
  refs: {
    use: 'refs PATH… [--root DIR] [--follow]',
    about: 'references of scenes, of a folder’s scenes, or with --follow the whole chain',
    example: 'satchel refs scenes/harbour.gltf --follow --json',
    flags: { root: { type: 'string' }, follow: { type: 'boolean' } },
    words: [1, Infinity],
    writes: nothing,
    load: async () => (await import('./looks')).lookVerbs.refs!,
  },
  versions: {
    use: 'versions SCENE',
    about: 'versions of a scene, with size, age and note',
    example: 'satchel versions scenes/harbour_v007.gltf',
    flags: {},
    words: [1, 1],
    writes: nothing,
    load: async () => (await import('./versions')).versionVerbs.versions!,
  },
  ledger: {
    use: 'ledger DIR',
    about: 'what was done to a workspace, newest first',
    example: 'satchel ledger ~/work/harbour',
    flags: {},
    words: [1, 1],
    writes: nothing,
    load: async () => (await import('./looks')).lookVerbs.ledger!,
  },
  pack: {
    use: 'pack DIR --to FILE.zip|DIR [--without CLASS…] [--with-history] [--with-libraries] [--volume BYTES]',
    about:
      'packs a workspace as a bag (RFC 8493), hidden files included; CLASS: outputs, caches (those that can be made again), versions, unused, intake. What was deleted, the ledger and the store stay here unless --with-history; --with-libraries brings along what is used of libraries and of other places, with paths written for there in the bag’s copies; --volume makes several bags of one set',
    example: 'satchel pack ~/work/harbour --to /media/stick/harbour.zip --without outputs --without versions',
    flags: {
      to: { type: 'string' },
      without: { type: 'string', multiple: true },
      'with-history': { type: 'boolean' },
      'with-libraries': { type: 'boolean' },
      volume: { type: 'string' },
    },
    words: [1, 1],
    writes: flag('to'),
    load: async () => (await import('./bags')).bagVerbs.pack!,
  },
  verify: {
    use: 'verify BAG',
    about: 'checks a bag: complete, and every byte as it was packed',
    example: 'satchel verify harbour.zip',
    flags: {},
    words: [1, 1],
    writes: nothing,
    load: async () => (await import('./bags')).bagVerbs.verify!,
  },
  unpack: {
    use: 'unpack BAG --to DIR',
    about: 'unpacks a bag into a new or empty folder, verifying every byte',
    example: 'satchel unpack harbour.zip --to ~/work/harbour',
    flags: { to: { type: 'string' } },
    words: [1, 1],
    writes: flag('to'),
    load: async () => (await import('./bags')).bagVerbs.unpack!,
  },
  rehearse: {
    use: 'rehearse DIR|BAG [--as PLACE|FILE.json|all] [--at ROOT] [--drive LETTER]',
    about: `would it open there; PLACE is one of the workspace’s places that say what they are like, or ${knownMachines.map((p) => p.id).join(', ')}; FILE.json describes places (docs/places.schema.json)`,
    example: 'satchel rehearse harbour.zip --as windows --drive E',
    flags: { as: { type: 'string' }, at: { type: 'string' }, drive: { type: 'string' } },
    words: [1, 1],
    writes: nothing,
    load: async () => (await import('./bags')).bagVerbs.rehearse!,
  },
  backup: {
    use: 'backup DIR --to FOLDER [--as snapshots|mirror] [--read-all]',
    about:
      'a dated snapshot of a workspace into a folder of backups, on any drive or share: only what changed is read and written, several workspaces share what is equal. --as mirror keeps a plain copy instead; --read-all trusts no size and time',
    example: 'satchel backup ~/work/harbour --to /media/barn/backups',
    flags: { to: { type: 'string' }, as: { type: 'string' }, 'read-all': { type: 'boolean' } },
    words: [1, 1],
    writes: flag('to'),
    load: async () => (await import('./backups')).backupVerbs.backup!,
  },
  snapshots: {
    use: 'snapshots FOLDER [--keep RULE | --clear ID… [--give-up]]',
    about:
      'the snapshots in a folder of backups, and when every byte is to be proven again. --keep 2d,14d,8w,24m clears by rule: all of 2 days stay, then one a day for 14 days, one a week for 8 weeks, one a month for 24 months. The only copy of archived work is cleared only by --clear with --give-up',
    example: 'satchel snapshots /media/barn/backups --keep 2d,14d,8w,24m --yes',
    flags: {
      keep: { type: 'string' },
      clear: { type: 'string', multiple: true },
      'give-up': { type: 'boolean' },
    },
    words: [1, 1],
    writes: applied(first),
    manages: true,
    load: async () => (await import('./backups')).backupVerbs.snapshots!,
  },
  'give-back': {
    use: 'give-back FOLDER ID [PATH…] --to DIR',
    about:
      'what a snapshot holds, whole or file by file, into a new or empty folder, every byte checked; ID may be its beginning, or latest',
    example: 'satchel give-back /media/barn/backups 20261127-184500 scenes/boat.gltf --to ~/back',
    flags: { to: { type: 'string' } },
    words: [2, Infinity],
    writes: flag('to'),
    load: async () => (await import('./backups')).backupVerbs['give-back']!,
  },
  prove: {
    use: 'prove FOLDER|BAG|DIR [--heal [--from DIR…]] [--minutes N] [--anew]',
    about:
      'reads every byte and holds it against its checksum: of backups (goes on where it was left), of a bag, of what a workspace keeps. --heal puts right what is spoilt from where it still lies right',
    example: 'satchel prove /media/barn/backups --heal --from ~/work/harbour',
    flags: {
      heal: { type: 'boolean' },
      from: { type: 'string', multiple: true },
      minutes: { type: 'string' },
      anew: { type: 'boolean' },
    },
    words: [1, 1],
    writes: first,
    load: async () => (await import('./backups')).backupVerbs.prove!,
  },
  archive: {
    use: 'archive DIR --to FOLDER',
    about:
      'moves finished work off into a folder of backups: removed here only once every byte was read back there; a stub that says where it is stays',
    example: 'satchel archive ~/work/harbour --to /media/barn/backups --yes',
    flags: { to: { type: 'string' } },
    words: [1, 1],
    writes: applied(firstAndTo),
    manages: true,
    load: async () => (await import('./backups')).backupVerbs.archive!,
  },
  'bring-back': {
    use: 'bring-back DIR [--from FOLDER]',
    about:
      'restores archived work in the folder where its placeholder is. --from names its backup folder, where that is not at its old place any more',
    example: 'satchel bring-back ~/work/harbour',
    flags: { from: { type: 'string' } },
    words: [1, 1],
    writes: first,
    load: async () => (await import('./backups')).backupVerbs['bring-back']!,
  },
  worker: {
    use: 'worker [--place HEAD…] [--name NAME] [--at-once N] [--data FOLDER]',
    about:
      'does work of a studio’s server on this machine until it is stopped (docs/studio.md): of the allowed folders that are there, or only of those below --place. SATCHEL_DATABASE_URL names the database',
    example: 'SATCHEL_DATABASE_URL=postgres://satchel@db/satchel satchel worker --place /mnt/show',
    flags: {
      place: { type: 'string', multiple: true },
      name: { type: 'string' },
      'at-once': { type: 'string' },
      data: { type: 'string' },
    },
    words: [0, 0],
    writes: nothing,
    stays: true,
    load: async () => (await import('./worker')).worker,
  },
  'hand-in': {
    use: 'hand-in DIR --list FILE.json [--to BAG] [--anyway] | hand-in FOLDER --list FILE.json --each [--csv FILE]',
    about:
      'checks a workspace, a folder, a bag or a ZIP against what was asked (docs/hand-in.schema.json, or a BagIt profile), and with --to packs it with the result in the bag; --each checks every delivery in a folder',
    example: 'satchel hand-in ~/work/harbour --list week6.json --to ~/out/harbour.zip',
    flags: {
      list: { type: 'string' },
      to: { type: 'string' },
      anyway: { type: 'boolean' },
      each: { type: 'boolean' },
      csv: { type: 'string' },
    },
    words: [1, 1],
    writes: (call) => [...flag('to')(call), ...flag('csv')(call)],
    load: async () => (await import('./arrive')).arriveVerbs['hand-in']!,
  },
  arrive: {
    use: 'arrive BAG|DIR --to DIR [--map FROM=TO…] [--both ours|theirs|beside] [--same-work]',
    about:
      'what came (a bag, a ZIP, a folder): verified, put into its folder, path heads of the other machine read as they are here (--map, remembered), references repaired, the first scene named. Where the same workspace lies there already: what is new, changed there, here, or on both sides; --same-work confirms that a delivery from a folder unknown so far is the same work and no separate copy',
    example: 'satchel arrive /media/stick/harbour.zip --to ~/work/harbour --map E:/=/media/stick --yes',
    flags: {
      to: { type: 'string' },
      map: { type: 'string', multiple: true },
      both: { type: 'string' },
      'same-work': { type: 'boolean' },
    },
    words: [1, 1],
    writes: flag('to'),
    load: async () => (await import('./arrive')).arriveVerbs.arrive!,
  },
};
