// Settings side by side and taken over, on the real disk: of workspaces, USD text, COLLADA, MaterialX, X3D, glTF. What USD says afterwards is judged by OpenUSD 22.

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { hasOpenUsd, openUsd } from '@/core/convert/crate/testing/openUsd';
import { treePath } from '@/core/files/treePath';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import { writeWorkspaceFile } from '@/core/layouts/workspace';
import { besideEachOther, planTaking } from './beside';
import { applyPlan, recordsIn } from './changing';
import { planUndoOf } from './ledger';
import { plainFolder, readWorkspace } from './open';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-beside-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let folders = 0;

function laid(files: Record<string, string>): string {
  const at = path.join(base, `é ${++folders}`);
  for (const [name, text] of Object.entries(files)) {
    fs.mkdirSync(path.dirname(path.join(at, name)), { recursive: true });
    fs.writeFileSync(path.join(at, name), text);
  }
  return at;
}

/** Two scenes of one folder: what differs, and the second after it has taken settings over. */
async function scenes(name: string, a: string, b: string, keys: string[]) {
  const at = laid({ [`a${name}`]: a, [`b${name}`]: b });
  const workspace = plainFolder(at);
  const side = (scene: string) => ({ workspace, scene: treePath(scene) });
  const found = await besideEachOther(side(`a${name}`), side(`b${name}`));
  const plan = await planTaking(side(`b${name}`), side(`a${name}`), keys);
  const record = plan.steps.length > 0 ? await applyPlan(at, plan) : null;
  const text = fs.readFileSync(path.join(at, `b${name}`), 'utf8');
  if (record) await applyPlan(at, await planUndoOf(recordsIn(at), record.id));
  expect(fs.readFileSync(path.join(at, `b${name}`), 'utf8')).toBe(b);
  expect(fs.readFileSync(path.join(at, `a${name}`), 'utf8')).toBe(a);
  const rows = Object.fromEntries(found.rows.map((r) => [r.key, r]));
  return { found, rows, plan, text };
}

describe('USD', () => {
  const a =
    '#usda 1.0\n(\n    doc = "metersPerUnit = 7"\n    metersPerUnit = 1\n    upAxis = "Z"\n    timeCodesPerSecond = 25 # of film\n    endTimeCode = 96\n)\ndef SphereLight "Sun"\n{\n    float inputs:intensity = 3\n}\n';
  const b = '#usda 1.0\n(\n    upAxis = "Y"; startTimeCode = 1\n)\n\ndef Camera "Eye" { }\n';

  test('differences first, each with what it says, and who can take it over', async () => {
    const { found, rows } = await scenes('.usda', a, b, ['unit']);
    const differing = found.rows.findIndex((r) => !r.differs);
    expect(found.rows.slice(differing).some((r) => r.differs)).toBe(false);
    expect(rows.unit).toMatchObject({
      a: 'metres: 1 is 1 m',
      b: 'centimetres: 1 is 0.01 m (nothing said)',
      takes: ['a', 'b'],
    });
    expect(rows.timeCodesPerSecond).toMatchObject({ a: '25', b: '24 (nothing said)', differs: true });
    expect(rows.framesPerSecond!.differs).toBe(false);
    expect(rows.startTimeCode).toMatchObject({ a: null, b: '1', takes: ['a'] });
    expect(found.rows.filter((r) => r.group === 'lights').map((r) => [r.name, r.takes])).toEqual([
      ['/Sun', []],
    ]);
    expect(found.rows.filter((r) => r.group === 'cameras').map((r) => [r.a, r.takes])).toEqual([[null, []]]);
  });

  test('ticked ones are taken over, all else stays to the byte', async () => {
    const { text, plan } = await scenes('.usda', a, b, ['unit', 'up', 'timeCodesPerSecond', 'endTimeCode']);
    expect(text).toContain('upAxis = "Z"; startTimeCode = 1\n');
    expect(text.endsWith('def Camera "Eye" { }\n')).toBe(true);
    for (const said of ['metersPerUnit = 1', 'timeCodesPerSecond = 25', 'endTimeCode = 96'])
      expect(text).toContain(said);
    expect(plan.notes.some((n) => n.code === 'measured-anew')).toBe(true);
    if (!hasOpenUsd) return;
    const [layer] = openUsd([{ name: 'b.usda', bytes: Buffer.from(text), to: 'text' }]);
    for (const said of [
      'metersPerUnit = 1',
      'timeCodesPerSecond = 25',
      'endTimeCode = 96',
      'upAxis = "Z"',
      'startTimeCode = 1',
    ])
      expect(layer!.toString()).toContain(said);
  });

  test('a layer without any metadata gets some', async () => {
    const { text } = await scenes('.usda', a, '#usda 1.0\ndef Camera "Eye" { }\n', ['endTimeCode']);
    expect(text).toBe('#usda 1.0\n(\n    endTimeCode = 96\n)\ndef Camera "Eye" { }\n');
  });
});

test('COLLADA: unit and axis, said or not', async () => {
  const dae = (asset: string) =>
    `<?xml version="1.0"?>\n<COLLADA version="1.4.1"><asset><created/>${asset}</asset><library_lights><light id="sun" name="Sun"/></library_lights></COLLADA>`;
  const a = dae('<unit name="inch" meter="0.0254"/><up_axis>Z_UP</up_axis>');
  const one = await scenes('.dae', a, dae('<unit meter="1" name="meter"/> <up_axis> Y_UP </up_axis>'), [
    'unit',
    'up',
  ]);
  expect(one.text).toBe(dae('<unit meter="0.0254" name="inch"/> <up_axis> Z_UP </up_axis>'));
  const two = await scenes('.dae', a, dae(''), ['unit', 'up']);
  expect(two.text).toBe(dae('<unit meter="0.0254" name="inch"/><up_axis>Z_UP</up_axis>'));
});

test('MaterialX: the colour space of the document', async () => {
  const doc = (attributes: string) =>
    `<?xml version="1.0"?>\n<materialx version="1.38"${attributes}>\n</materialx>\n`;
  const { text, rows } = await scenes('.mtlx', doc(' colorspace="acescg"'), doc(''), ['colorspace']);
  expect(rows.colorspace).toMatchObject({ a: 'acescg', b: null, takes: ['b'] });
  expect(text).toBe('<?xml version="1.0"?>\n<materialx colorspace="acescg" version="1.38">\n</materialx>\n');
});

test('X3D and glTF tell backgrounds, fog, lights and required extensions', async () => {
  const x3d = (inside: string) =>
    `<?xml version="1.0"?><X3D profile="Immersive" version="4.0"><Scene>${inside}</Scene></X3D>`;
  const x = await scenes(
    '.x3d',
    x3d('<Fog visibilityRange="30"/><PointLight DEF="Lamp" intensity="2"/>'),
    x3d('<Background skyColor="0 0 1"/>'),
    [],
  );
  expect(
    x.found.rows
      .map((r) => [r.group, r.a !== null, r.b !== null])
      .filter(([g]) => g === 'background' || g === 'lights'),
  ).toEqual([
    ['background', true, false],
    ['background', false, true],
    ['lights', true, false],
  ]);
  const gltf = (more: object) => JSON.stringify({ asset: { version: '2.0' }, ...more });
  const g = await scenes(
    '.gltf',
    gltf({
      extensionsUsed: ['KHR_draco_mesh_compression'],
      extensionsRequired: ['KHR_draco_mesh_compression'],
    }),
    gltf({ cameras: [{ name: 'Eye', type: 'orthographic' }] }),
    [],
  );
  expect(g.rows['required KHR_draco_mesh_compression']).toMatchObject({ a: 'required', b: null, takes: [] });
  expect(g.found.rows.filter((r) => r.group === 'cameras').map((r) => r.name)).toEqual(['Eye']);
});

describe('workspaces', () => {
  const file = (more: Partial<WorkspaceFile>): WorkspaceFile => ({
    format: 1,
    name: 'Harbour',
    created: '2026-11-01T00:00:00.000Z',
    layout: 'x',
    folders: [],
    homes: {},
    libraries: [],
    places: [],
    ...more,
  });
  const grid = { spacing: 1, heavyEvery: 10, extent: 50 };
  const units = (unit: 'm' | 'cm', more = {}) => ({
    unit,
    display: { form: 'decimal' as const, digits: 3 },
    upAxis: 'Y' as const,
    grid: { ...grid, ...more },
  });

  const two = async (a: WorkspaceFile, b: WorkspaceFile, more: Record<string, string> = {}) => {
    const at = [a, b].map((f, n) =>
      laid({ '.satchel/workspace.json': writeWorkspaceFile(f), ...(n === 1 ? more : {}) }),
    );
    return [await readWorkspace(at[0]!), await readWorkspace(at[1]!)] as const;
  };

  test('lengths in both units, equal ones equal whatever the unit', async () => {
    const [a, b] = await two(
      file({ units: units('m') }),
      file({ units: units('cm', { spacing: 100, extent: 400 }) }),
    );
    const { rows } = await besideEachOther({ workspace: a, scene: null }, { workspace: b, scene: null });
    const by = Object.fromEntries(rows.map((r) => [r.key, r]));
    expect(by.spacing).toMatchObject({ a: '1 m (100 cm)', b: '100 cm (1 m)', differs: false });
    expect(by.extent).toMatchObject({
      a: '50 m (5000 cm)',
      b: '400 cm (4 m)',
      differs: true,
    });
  });

  test('a unit alone: the grid keeps its size; a home: its files move and references follow', async () => {
    const gltf = JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: '../tex/hull.png' }] });
    const [a, b] = await two(
      file({
        units: units('m'),
        homes: { texture: 'textures' },
        libraries: [{ name: 'oak', path: '/libs/oak' }],
      }),
      file({
        name: 'Market',
        units: units('cm', { spacing: 50 }),
        homes: { texture: 'tex', scene: 'scenes' },
        folders: ['scenes', 'tex'],
        libraries: [{ name: 'own', path: '/libs/own' }],
      }),
      { 'tex/hull.png': 'hull', 'scenes/boat.gltf': gltf },
    );
    const plan = await planTaking({ workspace: b, scene: null }, { workspace: a, scene: null }, [
      'unit',
      'home texture',
      'library oak',
    ]);
    const record = await applyPlan(b.root, plan);
    const now = await readWorkspace(b.root);
    expect(now.file.units!.grid).toEqual({ spacing: 0.5, heavyEvery: 10, extent: 0.5 });
    expect(now.file.units!.unit).toBe('m');
    expect(now.file.homes).toEqual({ texture: 'textures', scene: 'scenes' });
    expect(now.file.libraries.map((l) => l.name)).toEqual(['own', 'oak']);
    expect(now.file.name).toBe('Market');
    expect(fs.readFileSync(path.join(b.root, 'textures/hull.png'), 'utf8')).toBe('hull');
    expect(fs.readFileSync(path.join(b.root, 'scenes/boat.gltf'), 'utf8')).toContain('../textures/hull.png');
    await applyPlan(b.root, await planUndoOf(recordsIn(b.root), record.id));
    expect(fs.readFileSync(path.join(b.root, 'scenes/boat.gltf'), 'utf8')).toBe(gltf);
    expect((await readWorkspace(b.root)).file).toEqual(b.file);
  });
});
