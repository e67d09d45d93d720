// A hand-in list: what a teacher, a client or a lead asks for, as a file; and what was handed in, held against it point by point.

import type { BagItProfile } from '../bags/profile';
import { extensionOf, nameOf, stemOf } from '../files/treePath';
import { globTest } from '../names/globs';
import type { PassList } from '../outputs/passes';
import { bytes, count } from '../text/figures';
import { metresIn, unitName, unitOfMetres, type UnitId } from '../units/units';

/** Everything is optional: what a list does not say is not looked at. Paths are patterns: `scenes/*.gltf`, `**` across folders. */
export interface HandInList {
  format: 1;
  name: string;
  /** Who asks. */
  from?: string | undefined;
  require?:
    | readonly {
        path: string;
        least?: number | undefined;
        most?: number | undefined;
        say?: string | undefined;
      }[]
    | undefined;
  forbid?: readonly { path: string; say?: string | undefined }[] | undefined;
  /** `like`: '#' one digit, '*' anything, the rest letter for letter; of the name without its extension. */
  names?: readonly { of: string; like: string; say?: string | undefined }[] | undefined;
  formats?: readonly { of: string; allow: readonly string[]; say?: string | undefined }[] | undefined;
  /** Pixels of the longer and the shorter side. */
  pictures?:
    | readonly {
        of: string;
        most?: number | undefined;
        least?: number | undefined;
        powersOfTwo?: boolean | undefined;
        bits?: number | undefined;
        say?: string | undefined;
      }[]
    | undefined;
  passes?: PassList | undefined;
  units?: { unit?: UnitId | undefined; upAxis?: 'Y' | 'Z' | undefined } | undefined;
  references?: { complete?: boolean | undefined; relative?: boolean | undefined } | undefined;
  /** Bytes. */
  size?: { file?: number | undefined; all?: number | undefined } | undefined;
  form?:
    | {
        as?: 'zip' | 'folder' | undefined;
        /** Of the delivery's own name, as in `names`. */
        named?: string | undefined;
        profile?: BagItProfile | undefined;
      }
    | undefined;
}

/** What was handed in, as far as lists ask. */
export interface HandedIn {
  /** The name of the delivery: of the folder, or of the ZIP. */
  name: string;
  form: 'zip' | 'folder' | 'workspace';
  /** Folders too, by their path. */
  files: readonly { path: string; size: number }[];
  folders: readonly string[];
  references: readonly { scene: string; written: string; state: string; isReady: boolean; gaps: number }[];
  units: readonly { path: string; metres: number | null; upAxis: string | null; by: string }[];
  pictures: ReadonlyMap<string, { width: number | null; height: number | null; bits: number | null }>;
  /** What is wrong with expected frames, in words; null: the list names none. */
  frames: readonly { path: string | null; message: string }[] | null;
  /** What of the bag does not meet the profile; null: it is no bag. */
  profile: readonly { path?: string | undefined; message: string }[] | null;
}

/** What can be done about a point, where something can. */
export type HandInRepair = 'relative' | 'relink' | 'rename' | 'pack';

export interface Point {
  id: string;
  /** What was asked, as a sentence. */
  asked: string;
  ok: boolean;
  /** What is wrong, each with the file where there is one. */
  found: { path: string | null; message: string }[];
  repair: HandInRepair | null;
}

/** Whether a name is like a pattern of the list. */
export function isLike(pattern: string): (name: string) => boolean {
  const source = pattern
    .replace(/[.+^${}()|[\]\\?]/g, '\\$&')
    .replaceAll('#', '\\d')
    .replaceAll('*', '.*');
  const test = new RegExp(`^${source}$`);
  return (name) => test.test(name);
}

/** Which files a list wants to know the pixels of. */
export function picturesAsked(list: HandInList, files: readonly { path: string }[]): string[] {
  const tests = (list.pictures ?? []).map((p) => globTest(p.of));
  return files.filter((f) => tests.some((test) => test(f.path))).map((f) => f.path);
}

type Found = Point['found'];

/** Holds a delivery against a list. One point for each thing that was asked, in the order of the list. */
export function checkHandIn(list: HandInList, given: HandedIn): Point[] {
  const points: Point[] = [];
  const add = (id: string, asked: string, found: Found, repair: HandInRepair | null = null) =>
    points.push({ id, asked, ok: found.length === 0, found, repair: found.length > 0 ? repair : null });
  const files = (of: string) => {
    const test = globTest(of);
    return given.files.filter((f) => test(f.path));
  };
  (list.require ?? []).forEach((r, i) => add(`require ${i}`, askedFor(r), required(r, given)));
  (list.forbid ?? []).forEach((r, i) =>
    add(
      `forbid ${i}`,
      r.say ?? `nothing like ${r.path}`,
      files(r.path).map((f) => ({ path: f.path, message: 'is not to be handed in' })),
    ),
  );
  (list.names ?? []).forEach((n, i) => {
    const like = isLike(n.like);
    const wrong = files(n.of).filter((f) => !like(stemOf(nameOf(f.path))));
    add(
      `names ${i}`,
      n.say ?? `${n.of} named ${n.like}`,
      wrong.map((f) => ({ path: f.path, message: `is not named ${n.like}` })),
      'rename',
    );
  });
  (list.formats ?? []).forEach((n, i) => {
    const allowed = n.allow.map((a) => `.${a.replace(/^\./, '').toLowerCase()}`);
    const wrong = files(n.of).filter((f) => !allowed.includes(extensionOf(f.path)));
    add(
      `formats ${i}`,
      n.say ?? `${n.of} as ${n.allow.join(', ')}`,
      wrong.map((f) => ({ path: f.path, message: `is ${extensionOf(f.path) || 'without an extension'}` })),
    );
  });
  (list.pictures ?? []).forEach((p, i) =>
    add(`pictures ${i}`, p.say ?? picturesAre(p), pictureTroubles(p, files(p.of), given)),
  );
  if (list.passes && given.frames !== null) add('frames', framesAsked(list), [...given.frames]);
  if (list.units) add('units', unitsAsked(list.units), unitTroubles(list.units, given));
  checkReferences(list, given, add);
  checkSizes(list, given, add);
  checkForm(list, given, add);
  return points;
}

type Add = (id: string, asked: string, found: Found, repair?: HandInRepair | null) => void;

function askedFor({ path, least = 1, most, say }: NonNullable<HandInList['require']>[number]): string {
  if (say) return say;
  if (most === least) return `${least === 1 ? 'one' : least} ${path}`;
  return most === undefined
    ? `at least ${least === 1 ? 'one' : least} ${path}`
    : `${least} to ${most} ${path}`;
}

function required(
  { path, least = 1, most }: NonNullable<HandInList['require']>[number],
  given: HandedIn,
): Found {
  const test = globTest(path.replace(/\/$/, ''));
  const there = given.files.filter((f) => test(f.path)).length + given.folders.filter((f) => test(f)).length;
  if (there < least)
    return [
      {
        path: null,
        message: there === 0 ? `there is none` : `there ${there === 1 ? 'is' : 'are'} only ${there}`,
      },
    ];
  return most !== undefined && there > most ? [{ path: null, message: `there are ${there}` }] : [];
}

function picturesAre(p: NonNullable<HandInList['pictures']>[number]): string {
  const said = [
    p.most === undefined ? '' : `at most ${p.most} wide and high`,
    p.least === undefined ? '' : `at least ${p.least}`,
    p.powersOfTwo ? 'sides powers of two' : '',
    p.bits === undefined ? '' : `${p.bits} bits a channel`,
  ].filter(Boolean);
  return `${p.of} ${said.join(', ')}`;
}

function pictureTroubles(
  p: NonNullable<HandInList['pictures']>[number],
  files: readonly { path: string }[],
  { pictures }: HandedIn,
): Found {
  return files.flatMap(({ path }): Found => {
    const is = pictures.get(path);
    if (!is || is.width === null || is.height === null)
      return [{ path, message: 'cannot be read as a picture' }];
    const [long, short] = [Math.max(is.width, is.height), Math.min(is.width, is.height)];
    const whole = `is ${is.width} × ${is.height}`;
    const isPower = (n: number) => (n & (n - 1)) === 0;
    if (p.most !== undefined && long > p.most) return [{ path, message: whole }];
    if (p.least !== undefined && short < p.least) return [{ path, message: whole }];
    if (p.powersOfTwo && !(isPower(is.width) && isPower(is.height))) return [{ path, message: whole }];
    if (p.bits !== undefined && is.bits !== null && is.bits !== p.bits)
      return [{ path, message: `has ${is.bits} bits a channel` }];
    return [];
  });
}

function framesAsked({ passes }: HandInList): string {
  const scenes = passes!.scenes.map((s) => s.name);
  const range = passes!.frames;
  return `frames ${range ? `${range.first}–${range.last} ` : ''}of ${scenes.slice(0, 3).join(', ')}${scenes.length > 3 ? ` and ${scenes.length - 3} more` : ''}`;
}

function unitsAsked({ unit, upAxis }: NonNullable<HandInList['units']>): string {
  return [unit ? `unit ${unitName(unit)}` : '', upAxis ? `${upAxis} up` : ''].filter(Boolean).join(', ');
}

function unitTroubles({ unit, upAxis }: NonNullable<HandInList['units']>, given: HandedIn): Found {
  return given.units.flatMap(({ path, metres, upAxis: up, by }): Found => {
    const said = metres === null ? 'no unit' : (unitOfMetres(metres) ?? `${metres} m`);
    // A format that knows no unit says nothing against it.
    if (unit && metres !== null && Math.abs(metres / metresIn(unit) - 1) > 1e-6 && by !== 'nobody')
      return [
        {
          path,
          message: `is in ${typeof said === 'string' && said in { mm: 1, cm: 1, m: 1, km: 1, in: 1, ft: 1, yd: 1, mi: 1 } ? unitName(said as UnitId) : said}`,
        },
      ];
    return upAxis && up !== null && up !== upAxis ? [{ path, message: `has ${up} up` }] : [];
  });
}

function checkReferences(list: HandInList, given: HandedIn, add: Add): void {
  const isAbsolute = (r: HandedIn['references'][number]) =>
    r.state === 'absolute' || /^([A-Za-z]:|[\\/])/.test(r.written) || /^file:/i.test(r.written);
  if (list.references?.complete)
    add(
      'complete',
      'nothing missing',
      given.references
        .filter((r) => !r.isReady && !isAbsolute(r))
        .map((r) => ({
          path: r.scene,
          message:
            r.gaps > 0 ? `${r.written}: ${count(r.gaps, 'frame')} of it missing` : `${r.written}: ${r.state}`,
        })),
      'relink',
    );
  if (list.references?.relative)
    add(
      'relative',
      'every path relative',
      given.references
        .filter(isAbsolute)
        .map((r) => ({ path: r.scene, message: `${r.written} is absolute` })),
      'relative',
    );
}

function checkSizes({ size }: HandInList, given: HandedIn, add: Add): void {
  if (size?.file !== undefined)
    add(
      'file size',
      `no file over ${bytes(size.file)}`,
      given.files
        .filter((f) => f.size > size.file!)
        .map((f) => ({ path: f.path, message: `has ${bytes(f.size)}` })),
    );
  if (size?.all === undefined) return;
  const all = given.files.reduce((sum, f) => sum + f.size, 0);
  add(
    'size',
    `at most ${bytes(size.all)}`,
    all > size.all ? [{ path: null, message: `it has ${bytes(all)}` }] : [],
  );
}

function checkForm({ form }: HandInList, given: HandedIn, add: Add): void {
  if (!form) return;
  const isWork = given.form === 'workspace';
  if (form.as)
    add(
      'form',
      form.as === 'zip' ? 'handed in as one ZIP' : 'handed in as a folder',
      isWork || given.form === form.as
        ? []
        : [{ path: null, message: given.form === 'zip' ? 'it is a ZIP' : 'it is a folder' }],
      'pack',
    );
  if (form.named && !isWork)
    add(
      'named',
      `called ${form.named}`,
      isLike(form.named)(stemOf(given.name)) ? [] : [{ path: null, message: `it is called ${given.name}` }],
      'pack',
    );
  if (form.profile && !isWork)
    add(
      'profile',
      `a bag after ${form.profile['BagIt-Profile-Info']['BagIt-Profile-Identifier']}`,
      given.profile === null
        ? [{ path: null, message: 'it is no bag' }]
        : given.profile.map((p) => ({ path: p.path ?? null, message: p.message })),
      'pack',
    );
}

/** One sentence over all points. */
export function handInSentence(points: readonly Point[]): string {
  const wrong = points.filter((p) => !p.ok);
  if (points.length === 0) return 'Nothing was asked for.';
  if (wrong.length === 0)
    return points.length === 1 ? 'The one point is met.' : `All ${points.length} points are met.`;
  return `${points.length - wrong.length} of ${count(points.length, 'point')} are met; ${wrong.length === 1 ? 'one is not' : `${wrong.length} are not`}.`;
}
