// BagIt Profiles, specification 1.3.0: its published examples bagProfileFoo and bagProfileBar, from memory and shortened; then each rule by itself.

import { expect, test } from '@jest/globals';
import { checkProfile, type BagFacts, type BagItProfile } from './profile';

const foo: BagItProfile = {
  'BagIt-Profile-Info': {
    'BagIt-Profile-Identifier': 'http://www.library.yale.edu/mssa/bagitprofiles/disk_images.json',
    'Source-Organization': 'Yale University',
    'External-Description': 'BagIt Profile for packaging disk images',
    Version: '0.3',
  },
  'Bag-Info': {
    'Bagging-Date': { required: true },
    'Source-Organization': { required: true, values: ['Simon Fraser University', 'York University'] },
    'Contact-Phone': { required: true },
  },
  'Manifests-Required': ['md5'],
  'Allow-Fetch.txt': false,
  Serialization: 'required',
  'Accept-Serialization': ['application/zip', 'application/tar'],
  'Accept-BagIt-Version': ['0.96', '0.97'],
};
const bar: BagItProfile = {
  'BagIt-Profile-Info': {
    'BagIt-Profile-Identifier': 'http://canadiana.org/standards/bagit/tdr_ingest.json',
  },
  'Bag-Info': {
    'Source-Organization': { required: true, values: ['Simon Fraser University', 'York University'] },
    'Organization-Address': {
      required: true,
      values: ['8888 University Drive Burnaby, B.C. V5A 1S6 Canada'],
    },
    'Bag-Size': { required: true },
    'Bagging-Date': { required: true },
    'Bag-Type': { required: true, values: ['submission', 'update'], repeatable: false },
  },
  'Manifests-Required': ['md5'],
  'Allow-Fetch.txt': false,
  Serialization: 'optional',
  'Accept-Serialization': ['application/zip'],
  'Tag-Manifests-Required': ['md5'],
  'Tag-Files-Required': ['DPN/dpnFirstNode.txt', 'DPN/dpnRegistry'],
  'Tag-Files-Allowed': ['DPN/*'],
  'Accept-BagIt-Version': ['0.97'],
};
const bag: BagFacts = {
  form: 'zip',
  version: '0.97',
  info: [
    ['Bagging-Date', '2026-11-27'],
    ['source-organization', 'York University'],
    ['Contact-Phone', '1'],
  ],
  files: ['bagit.txt', 'bag-info.txt', 'manifest-md5.txt', 'data/a.png'],
  manifests: ['md5'],
  tagManifests: [],
};
const codes = (b: Partial<BagFacts>, p: BagItProfile) =>
  checkProfile({ ...bag, ...b }, p).map((x) => x.message);

test('the first example: met, labels in any letter case', () => {
  expect(codes({}, foo)).toEqual([]);
});
test('the first example: each thing that is asked', () => {
  expect(codes({ info: [] }, foo)).toHaveLength(3);
  expect(codes({ info: [...bag.info, ['Source-Organization', 'Yale']] }, foo)).toEqual([
    'Source-Organization is “Yale”; allowed are “Simon Fraser University”, “York University”.',
  ]);
  expect(codes({ manifests: ['sha512'] }, foo)).toEqual(['manifest-md5.txt is asked for and not there.']);
  expect(codes({ form: 'folder' }, foo)).toEqual(['The bag has to be one file.']);
  expect(codes({ version: '1.0' }, foo)).toEqual(['BagIt 1.0 is not accepted; 0.96, 0.97 are.']);
  expect(codes({ files: [...bag.files, 'fetch.txt'] }, foo)).toEqual(['fetch.txt is not allowed.']);
});
test('the second example: tag files, tag manifests, what may be said once', () => {
  const whole: Partial<BagFacts> = {
    info: [
      ['Source-Organization', 'York University'],
      ['Organization-Address', '8888 University Drive Burnaby, B.C. V5A 1S6 Canada'],
      ['Bag-Size', '1 kB'],
      ['Bagging-Date', '2026-11-27'],
      ['Bag-Type', 'update'],
    ],
    files: [...bag.files, 'DPN/dpnFirstNode.txt', 'DPN/dpnRegistry'],
    tagManifests: ['md5'],
  };
  expect(codes(whole, bar)).toEqual([]);
  expect(codes({ ...whole, files: [...whole.files!.slice(0, -1), 'readme.txt'] }, bar)).toEqual([
    'The tag file DPN/dpnRegistry is asked for and not there.',
    'The tag file readme.txt is not allowed.',
  ]);
  expect(codes({ ...whole, tagManifests: [] }, bar)).toEqual([
    'tagmanifest-md5.txt is asked for and not there.',
  ]);
  expect(codes({ ...whole, info: [...whole.info!, ['Bag-Type', 'submission']] }, bar)).toEqual([
    'bag-info.txt may say Bag-Type once.',
  ]);
});
test('what 1.4 adds: payload files, an empty payload', () => {
  const p = (more: Partial<BagItProfile>): BagItProfile => ({
    'BagIt-Profile-Info': foo['BagIt-Profile-Info'],
    ...more,
  });
  expect(codes({}, p({ 'Payload-Files-Required': ['data/b.png'] }))).toEqual([
    'data/b.png is asked for and not there.',
  ]);
  expect(codes({}, p({ 'Payload-Files-Allowed': ['data/*.gltf'] }))).toEqual(['data/a.png is not allowed.']);
  expect(codes({ files: [...bag.files, 'data/b'] }, p({ 'Data-Empty': true }))).toEqual([
    'The payload has to be empty.',
  ]);
  expect(codes({}, p({ Serialization: 'forbidden' }))).toEqual(['The bag has to be a folder.']);
  expect(codes({}, p({ 'Accept-Serialization': ['application/tar'] }))).toEqual([
    'A ZIP is not accepted; application/tar are.',
  ]);
  expect(codes({}, p({ 'Manifests-Allowed': ['sha512'], 'Fetch.txt-Required': true }))).toHaveLength(2);
});
