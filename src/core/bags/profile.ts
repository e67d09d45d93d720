// BagIt Profiles (specification 1.3 and 1.4, from memory of the published document at bagit-profiles.github.io): what a receiver asks of a bag's form:
// labels of bag-info.txt, manifests, tag files, payload files, serialisation, versions.

import type { Problem } from '../problem';
import { globTest } from '../names/globs';

/** A profile, as far as it says something that can be checked. Keys as the specification spells them. */
export interface BagItProfile {
  'BagIt-Profile-Info': {
    'BagIt-Profile-Identifier': string;
    'Source-Organization'?: string | undefined;
    'External-Description'?: string | undefined;
    Version?: string | undefined;
  };
  'Bag-Info'?:
    | Record<
        string,
        {
          required?: boolean | undefined;
          values?: readonly string[] | undefined;
          repeatable?: boolean | undefined;
        }
      >
    | undefined;
  'Manifests-Required'?: readonly string[] | undefined;
  'Manifests-Allowed'?: readonly string[] | undefined;
  'Tag-Manifests-Required'?: readonly string[] | undefined;
  'Tag-Manifests-Allowed'?: readonly string[] | undefined;
  'Tag-Files-Required'?: readonly string[] | undefined;
  'Tag-Files-Allowed'?: readonly string[] | undefined;
  'Payload-Files-Required'?: readonly string[] | undefined;
  'Payload-Files-Allowed'?: readonly string[] | undefined;
  'Allow-Fetch.txt'?: boolean | undefined;
  'Fetch.txt-Required'?: boolean | undefined;
  'Data-Empty'?: boolean | undefined;
  Serialization?: 'required' | 'optional' | 'forbidden' | undefined;
  'Accept-Serialization'?: readonly string[] | undefined;
  'Accept-BagIt-Version'?: readonly string[] | undefined;
}

/** What a bag is, as a profile looks at it. `files`: paths below its base folder. */
export interface BagFacts {
  form: 'zip' | 'folder';
  version: string | null;
  info: readonly (readonly [label: string, value: string])[];
  files: readonly string[];
  /** Algorithms of its payload manifests and tag manifests. */
  manifests: readonly string[];
  tagManifests: readonly string[];
}

const standard = (path: string) =>
  /^(bagit\.txt|bag-info\.txt|fetch\.txt|(tag)?manifest-[a-z0-9-]+\.txt)$/i.test(path);

/** What keeps a bag from meeting a profile. Empty: it meets it. */
export function checkProfile(bag: BagFacts, profile: BagItProfile): Problem[] {
  const problems: Problem[] = [];
  const wrong = (code: string, message: string, path?: string) =>
    problems.push({ code, message, ...(path === undefined ? {} : { path }) });
  checkInfo(bag, profile, wrong);
  for (const [which, have] of [
    ['Manifests', bag.manifests],
    ['Tag-Manifests', bag.tagManifests],
  ] as const) {
    const what = which === 'Manifests' ? 'manifest' : 'tagmanifest';
    for (const a of profile[`${which}-Required`] ?? [])
      if (!have.includes(a)) wrong('manifest', `${what}-${a}.txt is asked for and not there.`);
    const allowed = profile[`${which}-Allowed`];
    for (const a of have)
      if (allowed && !allowed.includes(a)) wrong('manifest', `${what}-${a}.txt is not allowed.`);
  }
  const tags = bag.files.filter((f) => !f.startsWith('data/'));
  const payload = bag.files.filter((f) => f.startsWith('data/'));
  for (const t of profile['Tag-Files-Required'] ?? [])
    if (!tags.includes(t)) wrong('tag-file', `The tag file ${t} is asked for and not there.`, t);
  const tagsAllowed = profile['Tag-Files-Allowed']?.map(globTest);
  for (const t of tags)
    if (tagsAllowed && !standard(t) && !tagsAllowed.some((test) => test(t)))
      wrong('tag-file', `The tag file ${t} is not allowed.`, t);
  for (const p of profile['Payload-Files-Required'] ?? [])
    if (!payload.includes(p)) wrong('payload-file', `${p} is asked for and not there.`, p);
  const payloadAllowed = profile['Payload-Files-Allowed']?.map(globTest);
  for (const p of payload)
    if (payloadAllowed && !payloadAllowed.some((test) => test(p)))
      wrong('payload-file', `${p} is not allowed.`, p);
  if (profile['Data-Empty'] && payload.length > 1) wrong('payload-file', 'The payload has to be empty.');
  const hasFetch = tags.includes('fetch.txt');
  if (profile['Allow-Fetch.txt'] === false && hasFetch)
    wrong('fetch', 'fetch.txt is not allowed.', 'fetch.txt');
  if (profile['Fetch.txt-Required'] && !hasFetch) wrong('fetch', 'fetch.txt is asked for and not there.');
  if (profile.Serialization === 'required' && bag.form === 'folder')
    wrong('serialization', 'The bag has to be one file.');
  if (profile.Serialization === 'forbidden' && bag.form !== 'folder')
    wrong('serialization', 'The bag has to be a folder.');
  const types = profile['Accept-Serialization'];
  if (
    bag.form === 'zip' &&
    profile.Serialization !== 'forbidden' &&
    types &&
    !types.includes('application/zip')
  )
    wrong('serialization', `A ZIP is not accepted; ${types.join(', ')} are.`);
  const versions = profile['Accept-BagIt-Version'];
  if (versions && (bag.version === null || !versions.includes(bag.version)))
    wrong('version', `BagIt ${bag.version ?? 'of no version'} is not accepted; ${versions.join(', ')} are.`);
  return problems;
}

function checkInfo(
  { info }: BagFacts,
  profile: BagItProfile,
  wrong: (code: string, message: string) => void,
): void {
  for (const [label, rule] of Object.entries(profile['Bag-Info'] ?? {})) {
    // Labels are compared without regard to letter case (RFC 8493 §2.2.2).
    const values = info.filter(([l]) => l.toLowerCase() === label.toLowerCase()).map(([, v]) => v);
    if (rule.required && values.length === 0) wrong('bag-info', `bag-info.txt has to say ${label}.`);
    if (rule.repeatable === false && values.length > 1)
      wrong('bag-info', `bag-info.txt may say ${label} once.`);
    const { values: allowed } = rule;
    for (const v of values)
      if (allowed && allowed.length > 0 && !allowed.includes(v))
        wrong('bag-info', `${label} is “${v}”; allowed are ${allowed.map((a) => `“${a}”`).join(', ')}.`);
  }
}
