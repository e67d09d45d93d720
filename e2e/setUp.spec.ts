// Setting up and putting right, in the browser as a user would: adopt, create several, repair nested ones, move, layouts, homes, names, units, places,
// the holding area, drops on the window, settings that travel. The disk is checked after each.

import { expect, test } from 'playwright/test';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, choose, openDemo, watch } from './steps';
import { ask, servedDemo, snapshot, startServer, theDemo } from './server';

let work = '';
const server = servedDemo(({ folder }) => {
  work = path.join(folder, 'harbour-lantern/bench/work');
});
test.beforeEach(({ page }) => watch(page));

const images = (name: string) =>
  (JSON.parse(fs.readFileSync(name, 'utf8')) as { images: { uri: string }[] }).images.map((i) => i.uri);

test('a half-broken folder becomes a tidy workspace, keeps every path, and goes back to the same bytes', async ({
  page,
}) => {
  const mess = path.join(work, 'Dinghy from Sam');
  const before = snapshot(mess);
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Adopt a folder…' }).click();
  await page.getByLabel('The folder', { exact: true }).fill(mess);
  await expect(page.getByText('10 files')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Home of texture files' })).toContainText('tex');
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Plan it…' }).click();
  await expect(page.getByText(/It moves 7 files/)).toBeVisible();
  expect(snapshot(mess)).toEqual(before);
  await apply(page);
  await expect(page.getByText('6 of 7').first()).toBeVisible();
  expect(Object.keys(snapshot(mess))).toEqual([
    'audio/waves.wav',
    'models/oar.mtl',
    'models/oar.obj',
    'scenes/dinghy final2.bin',
    'scenes/dinghy final2.gltf',
    'tex/oar.png',
    'tex/planks.png',
    'tex/sail white.png',
    'tex/sail_normal.png',
    'to do.txt',
  ]);
  expect(images(path.join(mess, 'scenes/dinghy final2.gltf'))).toEqual([
    '../tex/planks.png',
    'planks_nrm.png',
    '../tex/sail%20white.png',
    '../tex/sail_normal.png',
  ]);
  // Its sail is 2.6 m in centimetres, taken as metres: the grid tells.
  await page.getByRole('link', { name: 'Settings' }).click();
  await page.getByRole('tab', { name: 'Units and grid', exact: true }).click();
  await expect(page.getByText(/If its numbers were centimetres, it would be 3\.3 m/)).toBeVisible();
  await page.getByRole('link', { name: 'Overview' }).click();
  await page
    .getByRole('button', { name: /^Undo: Adopt/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(mess)).toEqual(before);
});

test('thirty alike in one go, from a list; a bad name stops all; undone as one', async ({ page }) => {
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Create several…' }).click();
  await page.getByLabel('Title, the same for all').fill('Harbour course');
  const people = Array.from({ length: 30 }, (_, i) => `Student ${String(i + 1).padStart(2, '0')}`);
  await page.getByLabel('The list').fill([...people, 'student 01'].join('\n'));
  await page.getByLabel('Category').fill('teaching');
  await expect(page.getByText(/differs only in letter case/).first()).toBeVisible();
  await expect(page.getByRole('button', { name: /^Plan 31/ })).toBeDisabled();
  await page.getByLabel('The list').fill(people.join('\n'));
  await page.getByRole('button', { name: 'Plan 30 workspaces…' }).click();
  await expect(page.getByRole('heading', { name: 'Create 30 workspaces' })).toBeVisible();
  const made = () => fs.readdirSync(work).filter((n) => n.includes('Harbour course'));
  expect(made()).toEqual([]);
  await apply(page);
  await expect(page.getByRole('group', { name: 'teaching' }).getByRole('link')).toHaveCount(30);
  expect(made().length).toBe(30);
  for (const n of made()) expect(fs.existsSync(path.join(work, n, 'textures/work'))).toBe(true);
  await page.getByRole('button', { name: 'Undo: Create 30 workspaces' }).click();
  await apply(page);
  await expect(page.getByRole('group', { name: 'teaching' })).toHaveCount(0);
  expect(made()).toEqual([]);
});

test('a workspace inside another is found and merged; a subfolder offers its root', async ({ page }) => {
  const inner = path.join(server.root, 'scenes', 'buoy study');
  for (const f of ['.satchel', 'textures', 'scenes']) fs.mkdirSync(path.join(inner, f), { recursive: true });
  fs.writeFileSync(
    path.join(inner, '.satchel/workspace.json'),
    JSON.stringify({
      format: 1,
      name: 'Buoy study',
      created: '2026-11-01T00:00:00Z',
      layout: '',
      folders: [],
      homes: {},
    }),
  );
  fs.writeFileSync(path.join(inner, 'textures/buoy.png'), 'BUOY');
  fs.writeFileSync(
    path.join(inner, 'scenes/buoy.gltf'),
    JSON.stringify({ images: [{ uri: '../textures/buoy.png' }] }),
  );
  // Opened by mistake: said at once, with the ways out.
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Open a folder…' }).click();
  await page.getByLabel('Path').fill(inner);
  await page.getByLabel('Path').press('Enter');
  await page.getByRole('button', { name: 'Open', exact: true }).click();
  await expect(page.getByText('It lies inside another workspace, 2026-11 Harbour Lantern')).toBeVisible();
  await page.getByRole('button', { name: 'Merge Buoy study into the outer workspace' }).click();
  await expect(page.getByRole('heading', { name: 'Merge Buoy study into Harbour Lantern' })).toBeVisible();
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Look for workspaces…' }).click();
  await page.getByRole('button', { name: 'Look', exact: true }).click();
  await expect(page.getByText('1 workspace lies inside another.')).toBeVisible();
  await page.getByRole('button', { name: 'Merge Buoy study into the outer workspace' }).click();
  await expect(page.getByRole('heading', { name: 'Merge Buoy study into Harbour Lantern' })).toBeVisible();
  await apply(page);
  await expect(page.getByRole('heading', { name: 'Look for workspaces' })).toBeVisible();
  expect([
    fs.existsSync(path.join(server.root, 'textures/buoy.png')),
    fs.existsSync(path.join(inner, '.satchel/workspace.json')),
  ]).toEqual([true, false]);
  expect(images(path.join(inner, 'scenes/buoy.gltf'))).toEqual(['../../../textures/buoy.png']);
  await openDemo(page, server.address);
  await page
    .getByRole('button', { name: /^Undo: Merge/ })
    .first()
    .click();
  await apply(page);
  fs.rmSync(inner, { recursive: true });
  // Picking a subfolder by mistake.
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Open a folder…' }).click();
  await page.getByLabel('Path').fill(path.join(server.root, 'models'));
  await page.getByLabel('Path').press('Enter');
  await page.getByRole('button', { name: 'Open its root' }).click();
  await expect(page.getByRole('button', { name: /^Workspace Harbour Lantern/ })).toBeVisible();
});

test('a folder that holds workspaces is adopted only by a second word', async ({ page }) => {
  await page.goto(`${server.address}/?do=adopt`);
  await page.getByLabel('The folder', { exact: true }).fill(path.dirname(server.root));
  await expect(page.getByText('it holds workspaces, and is seldom meant to be one')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Plan it…' })).toBeDisabled();
  await page.getByRole('checkbox', { name: /^Adopt the folder around/ }).check({ force: true });
  await expect(page.getByRole('button', { name: 'Plan it…' })).toBeEnabled();
  await page.getByRole('link', { name: /^Look at/ }).click();
  await expect(page.getByText('none inside another')).toBeVisible();
  expect(fs.existsSync(path.join(path.dirname(server.root), '.satchel'))).toBe(false);
});

test('a number in the name counts on from the workspaces beside it', async ({ page }) => {
  const parent = path.join(work, 'numbered');
  fs.mkdirSync(parent, { recursive: true });
  for (const [title, n] of [
    ['Quay', '001'],
    ['Pier', '002'],
  ] as const) {
    await page.goto(`${server.address}/?new=1`);
    await page.getByLabel('Where: the folder that will hold it', { exact: true }).fill(parent);
    await page.getByText('Compose the name by a pattern').click();
    await page.getByRole('textbox', { name: 'Pattern' }).fill('{number:3} {title}');
    await page.getByRole('textbox', { name: 'Title' }).fill(title);
    await expect(page.getByRole('textbox', { name: 'Name', exact: true })).toHaveValue(`${n} ${title}`);
    // At once, before anything was looked up.
    await page.getByRole('textbox', { name: 'Name', exact: true }).press('Enter');
    await expect(page.getByRole('heading', { name: 'Nothing referenced yet' })).toBeVisible();
  }
  expect(fs.readdirSync(parent).sort()).toEqual(['001 Quay', '002 Pier']);
  await page.goto(`${server.address}/?new=1`);
  await page.getByText('Compose the name by a pattern').click();
  await page.getByRole('textbox', { name: 'Pattern' }).fill('{title} {camera}');
  await expect(page.getByText('{camera} stands for nothing here.')).toBeVisible();
});

test('a workspace is renamed and moved; what other workspaces know of it follows; category and archive', async ({
  page,
}) => {
  const pier = path.join(work, '2026-03 Old Pier');
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Adopt a folder…' }).click();
  await page.getByLabel('The folder', { exact: true }).fill(pier);
  await expect(page.getByText('Every file lies where its kind belongs.')).toBeVisible();
  await page.getByRole('button', { name: 'Plan it…' }).click();
  await apply(page);
  await expect(page.getByRole('button', { name: /^Workspace 2026-03 Old Pier/ })).toBeVisible();
  await page.goto(server.address);
  await page.getByRole('button', { name: 'More for 2026-03 Old Pier' }).click();
  await page.getByRole('menuitem', { name: 'Archive…' }).click();
  await apply(page);
  await page.getByText('Archive', { exact: true }).click();
  await page.getByRole('button', { name: 'More for 2026-03 Old Pier' }).click();
  await page.getByRole('menuitem', { name: 'File under a category…' }).click();
  await page.getByRole('textbox', { name: 'Category' }).fill('client');
  await page.getByRole('button', { name: 'Plan it…' }).click();
  await apply(page);
  await page.getByText('Archive', { exact: true }).click();
  await page.getByRole('button', { name: 'More for 2026-03 Old Pier' }).click();
  await page.getByRole('menuitem', { name: 'Take out of the archive…' }).click();
  await apply(page);
  await expect(
    page.getByRole('group', { name: 'client' }).getByText('2026-03 Old Pier').first(),
  ).toBeVisible();
  const boat = path.join(server.root, 'scenes/boat_v004.gltf');
  const before = fs.readFileSync(boat);
  await page.goto(server.address);
  await page.getByRole('button', { name: 'More for 2026-03 Old Pier' }).click();
  await page.getByRole('menuitem', { name: 'Move or rename…' }).click();
  await page.getByRole('textbox', { name: 'Folder that holds it' }).fill(path.join(work, 'client'));
  await page.getByLabel('Folder name').fill('Old Pier');
  await page.getByRole('button', { name: 'Plan the move…' }).click();
  await expect(page.getByText(/point into it; they are changed with it/)).toBeVisible();
  await apply(page);
  await expect(page.getByRole('link', { name: /^Old Pier/ })).toBeVisible();
  expect(images(boat)).toContain('../../client/Old%20Pier/textures/wet_wood_orm.png');
  await page.getByRole('button', { name: /^Undo: Move 2026-03 Old Pier/ }).click();
  await apply(page);
  expect(fs.readFileSync(boat)).toEqual(before);
  expect(fs.existsSync(path.join(pier, 'textures/wet_wood_orm.png'))).toBe(true);
});

test('layouts: tree and text follow each other, by keyboard too; kept, exported, given to a workspace', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/layouts${w}&layout=game-environment`);
  const text = page.getByRole('textbox', { name: 'Layout as text' });
  const lines = () => text.locator('.cm-line').allTextContents();
  const says = (what: RegExp) => expect.poll(async () => (await lines()).join('\n')).toMatch(what);
  await page.getByLabel('Name', { exact: true }).fill('Harbour props');
  await page.getByRole('row', { name: 'textures' }).click();
  await page.getByLabel('Folder name').fill('maps');
  await says(/:name Harbour props\n[\s\S]*\nmaps = texture\n {2}work\n/);
  await page.getByRole('row', { name: 'intake' }).click();
  await choose(page, 'Sorts', /^last/);
  await says(/\nintake = other : bottom\n/);
  await page.getByRole('row', { name: 'audio' }).click();
  await page.keyboard.press('Alt+ArrowUp');
  await says(/\naudio = audio\ncaches = cache\n/);
  await page.keyboard.press('Alt+ArrowRight');
  await says(/\n {2}audio = audio\n/);
  await page.keyboard.press('Alt+ArrowLeft');
  await text.fill(`${(await lines()).join('\n')}CON`);
  await expect(page.locator('.cm-lintRange-error')).toHaveText('CON');
  await expect(page.getByRole('alert').getByText(/reserved for a device/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save as my own' })).toBeDisabled();
  await text.fill((await lines()).join('\n').replace(/CON$/, 'boards'));
  await expect(page.getByRole('row', { name: 'boards' })).toBeVisible();
  await page.getByRole('button', { name: 'Save as my own' }).click();
  await expect(page.getByRole('button', { name: /Harbour props/ })).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export as JSON' }).click();
  const json = JSON.parse(fs.readFileSync(await (await download).path(), 'utf8')) as {
    format: string;
    name: string;
  };
  expect([json.format, json.name]).toEqual(['loyal-satchel-layout-1', 'Harbour props']);
  await page.getByRole('button', { name: 'Give it to a workspace…' }).click();
  await page.getByRole('button', { name: 'Plan it for Harbour Lantern' }).click();
  await apply(page);
  expect(Object.keys(snapshot(server.root))).toContain('maps/stone_base.png');
  expect(fs.existsSync(path.join(server.root, 'zz_intake'))).toBe(true);
  await openDemo(page, server.address);
  // What was found before is found; paths that were in wrong letters or spelt oddly are right now.
  await expect(page.getByText('37 of 53').first()).toBeVisible();
  await page
    .getByRole('button', { name: /^Undo: Lay out as Harbour props/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
});

test('a home is changed and its files follow; one file is renamed; what lies about is filed', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/settings${w}&tab=homes`);
  await page.getByLabel('Home of texture files').fill('art/maps');
  await page.getByRole('button', { name: 'Plan 1 new home…' }).click();
  await apply(page);
  expect(images(path.join(server.root, 'scenes/harbour_v007.gltf'))).toContain('../art/maps/stone_base.png');
  await page.goto(`${server.address}/files${w}&folder=art/maps`);
  await page.getByRole('row', { name: 'stone_base.png' }).click();
  await page.getByLabel('Path from the root').fill('art/maps/stone wall.png');
  await page.getByRole('button', { name: 'Plan it…' }).click();
  await apply(page);
  expect(images(path.join(server.root, 'scenes/harbour_v007.gltf'))).toContain(
    '../art/maps/stone%20wall.png',
  );
  await page.goto(`${server.address}/overview${w}`);
  await expect(page.getByText('37 of 53').first()).toBeVisible();
  for (const name of [/^Undo: Rename stone_base/, /^Undo: Let texture files/]) {
    await page.getByRole('button', { name }).first().click();
    await apply(page);
  }
  expect(snapshot(server.root)).toEqual(before);
  fs.writeFileSync(path.join(server.root, 'gull.wav'), 'RIFF\x24\0\0\0WAVEfmt ');
  await page.goto(`${server.address}/files${w}&view=loose`);
  await page.getByRole('checkbox', { name: 'Select gull.wav' }).waitFor();
  for (const box of await page.getByRole('checkbox').all())
    if ((await box.getAttribute('aria-label')) !== 'Select gull.wav') await box.uncheck();
  await page.getByRole('button', { name: /^File (1 file|all of them)…/ }).click();
  await apply(page);
  expect(fs.existsSync(path.join(server.root, 'audio/gull.wav'))).toBe(true);
  fs.rmSync(path.join(server.root, 'audio/gull.wav'));
});

test('units in inches by fractions, a grid and box as files, patterns of names; all of it lies in the folder', async ({
  page,
}) => {
  const w = await theDemo(server);
  await page.goto(`${server.address}/settings${w}&tab=units`);
  await expect(page.getByRole('img', { name: /A grid with a line every 1 m/ })).toBeVisible();
  await page.waitForTimeout(1500);
  expect(
    (await ask<{ work: string }[]>(server.address, '/api/jobs')).filter((j) => j.work === 'measure').length,
  ).toBeLessThanOrEqual(3);
  await choose(page, 'Working unit', 'inches (in)');
  await choose(page, 'Shown as', 'fractions to 1/32 in');
  await page.getByRole('textbox', { name: 'A line every' }).fill('1 ft');
  await page.getByLabel('Heavier every … lines').fill('3');
  // As people type them, and as the field shows them itself.
  const reach = page.getByRole('textbox', { name: 'As far as' });
  await reach.fill('10 in');
  await expect(page.getByText('At least to the first line, 12 in.')).toBeVisible();
  await reach.blur();
  await expect(reach).toHaveValue('10 in');
  await reach.fill('60,000 in');
  await reach.blur();
  await expect(reach).toHaveValue('60000 in');
  await reach.fill('166 ½ ft');
  await reach.blur();
  await expect(reach).toHaveValue('1998 in');
  await expect(
    page.getByText('1 inch = 0.0254 m, exactly. One third of it is shown as 11/32 in.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Plan the change…' }).click();
  await apply(page);
  await expect(page.getByText(/declare another unit than inches/)).toBeVisible();
  await page.getByRole('button', { name: 'OBJ', exact: true }).click();
  await page.getByRole('button', { name: 'Make 3 files…' }).click();
  await apply(page);
  expect(fs.readFileSync(path.join(server.root, 'reference/grid and box 12 in.usda'), 'utf8')).toContain(
    'metersPerUnit = 0.0254',
  );
  expect(fs.readFileSync(path.join(server.root, 'reference/grid and box 12 in.obj'), 'utf8')).toContain(
    'v 12 0 0',
  );
  await page.getByRole('tab', { name: 'Names', exact: true }).click();
  await page.getByLabel('Pattern of scene names').fill('{month} {title}');
  await expect(page.getByText('A month without its year does not sort: put {year} before it.')).toBeVisible();
  await page.getByLabel('Pattern of scene names').fill('{date}_{title}_v{version:3}');
  await expect(page.getByText(/^Sorted by name they stand in the order of time/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Plan the change…' }).click();
  await apply(page);
  const marker = JSON.parse(fs.readFileSync(path.join(server.root, '.satchel/workspace.json'), 'utf8')) as {
    units: unknown;
    names: { scene: string };
  };
  expect(marker.units).toMatchObject({
    unit: 'in',
    display: { form: 'fraction', parts: 32 },
    grid: { spacing: 12, heavyEvery: 3 },
  });
  expect(marker.names.scene).toBe('{date}_{title}_v{version:3}');

  // The folder alone, on a fresh installation.
  const arrived = path.join(server.folder, 'elsewhere', 'bench', 'work', 'Harbour');
  fs.cpSync(server.root, arrived, { recursive: true });
  const other = await startServer(fs.mkdtempSync(path.join(server.folder, 'fresh-')), {
    SATCHEL_DEMO: path.join(server.folder, 'elsewhere'),
  });
  await page.goto(other.address);
  await page
    .getByRole('link', { name: /Harbour Lantern/ })
    .first()
    .click();
  await expect(page.getByRole('button', { name: /^Workspace Harbour Lantern/ })).toBeVisible();
  const search = new URL(page.url()).search;
  await page.goto(`${other.address}/settings${search}&tab=units`);
  await expect(page.getByRole('textbox', { name: 'A line every' })).toHaveValue('12 in');
  await page.getByRole('tab', { name: 'Names', exact: true }).click();
  await expect(page.getByLabel('Pattern of scene names')).toHaveValue('{date}_{title}_v{version:3}');
  await page.getByRole('tab', { name: 'Libraries and places', exact: true }).click();
  await expect(page.getByRole('textbox', { name: 'Name' }).first()).toHaveValue('harbour kit');
  await other.stop();
});

test('the holding area: a ZIP comes in, what is needed is taken with its parts, the rest is cleared', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/files${w}&view=intake`);
  await page.getByRole('button', { name: 'A ZIP archive…' }).first().click();
  await page.getByLabel('Path').fill(path.join(server.folder, 'harbour-lantern/bench/Downloads'));
  await page.getByLabel('Path').press('Enter');
  await page.getByRole('option', { name: 'lamp kit.zip' }).click();
  await page.getByRole('button', { name: 'Plan it', exact: true }).click();
  await apply(page);
  await page.getByRole('button', { name: 'See what is in lamp kit' }).click();
  await expect(page.getByText('same content as iron_base.png')).toBeVisible();
  await page.getByRole('checkbox', { name: 'Select intake/lamp kit/lamp.gltf' }).check();
  await page.getByRole('button', { name: 'Take 1 out…' }).click();
  await expect(
    page.getByRole('heading', { name: 'Take lamp.gltf out of intake with 4 files needed' }),
  ).toBeVisible();
  await apply(page);
  expect(images(path.join(server.root, 'scenes/lamp.gltf'))).toEqual([
    '../textures/brass_base.png',
    '../textures/brass_normal.png',
    '../textures/iron_small.png',
  ]);
  await page.getByRole('button', { name: 'Clear all…' }).click();
  await apply(page);
  expect(Object.keys(snapshot(server.root)).filter((p) => p.startsWith('intake/'))).toEqual([
    'intake/read me first.txt',
  ]);
  await page.goto(`${server.address}/overview${w}`);
  for (const name of [/^Undo: Clear/, /^Undo: Take lamp.gltf/, /^Undo: Take lamp kit/]) {
    await page.getByRole('button', { name }).first().click();
    await apply(page);
    // The list moves up once it is read anew: a click must not fall into that.
    await expect(page.getByRole('button', { name })).toHaveCount(0);
  }
  expect(snapshot(server.root)).toEqual(before);
});

test('dropped on the window: loose files go to their homes, a folder to the holding area', async ({
  page,
}) => {
  await openDemo(page, server.address);
  const drop = (files: { path: string; content: string }[]) =>
    page.evaluate((given) => {
      const data = new DataTransfer();
      for (const f of given)
        data.items.add(new File([f.content], f.path.split('/').pop()!, { lastModified: 1_600_000_000_000 }));
      for (const name of ['dragenter', 'dragover', 'drop'])
        window.dispatchEvent(new DragEvent(name, { dataTransfer: data, bubbles: true, cancelable: true }));
    }, files);
  await drop([
    { path: 'gull.wav', content: 'RIFF$\0\0\0WAVEfmt ' },
    { path: 'net.png', content: 'NET' },
  ]);
  await expect(page.getByRole('heading', { name: 'Bring in 2 files' })).toBeVisible();
  await apply(page);
  expect([
    fs.readFileSync(path.join(server.root, 'textures/net.png'), 'utf8'),
    fs.existsSync(path.join(server.root, 'audio/gull.wav')),
  ]).toEqual(['NET', true]);
  expect(fs.statSync(path.join(server.root, 'textures/net.png')).mtimeMs).toBe(1_600_000_000_000);
  await page
    .getByRole('button', { name: /^Undo: Bring in 2 files/ })
    .first()
    .click();
  await apply(page);
  expect(fs.existsSync(path.join(server.root, 'textures/net.png'))).toBe(false);
  await drop([{ path: 'rope kit.tar', content: 'x' }]);
  await expect(page.getByText(/archive of a kind that is not opened here/)).toBeVisible();
});

test('advice on a place, measured on request; two bases of a path', async ({ page }) => {
  fs.writeFileSync(path.join(server.folder, 'harbour-lantern/.stfolder'), '');
  await page.goto(server.address);
  await expect(page.getByText(/is kept in step with another machine/)).toBeVisible();
  await page
    .getByRole('button', { name: /^What kind of place is/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Measure its speed' }).click();
  await expect(page.getByText(/It writes .* a second, and makes \d+ small files a second/)).toBeVisible();
  fs.rmSync(path.join(server.folder, 'harbour-lantern/.stfolder'));
  const w = await theDemo(server);
  await page.goto(`${server.address}/references${w}`);
  await page.getByText('hull_planks_base.png').first().click();
  await expect(page.getByText('from the scene’s folder')).toBeVisible();
  await expect(page.getByText('from the root', { exact: true })).toBeVisible();
});

test('a root that goes away is offline; work waits for it and goes on when it is back', async ({ page }) => {
  const w = await openDemo(page, server.address);
  await expect(page.getByText('33 of 53').first()).toBeVisible();
  // Something stands in its ledger.
  await page.goto(`${server.address}/settings${w}&tab=names`);
  await page.getByRole('textbox', { name: 'Person in names' }).fill('dora');
  await page.getByRole('button', { name: 'Plan the change…' }).click();
  await apply(page);
  await page.goto(`${server.address}/ledger${w}`);
  await expect(page.getByRole('button', { name: 'Change patterns of names' }).first()).toBeVisible();
  const away = path.join(server.folder, 'unplugged');
  fs.renameSync(server.root, away);
  await page.goto(`${server.address}/overview${w}`);
  await expect(page.getByText(/is not there just now/)).toBeVisible();
  await page.goto(server.address);
  await expect(page.getByText('offline').first()).toBeVisible();
  const id = new URLSearchParams(w).get('w')!;
  const job = await ask<{ id: string }>(server.address, `/api/workspaces/${id}/scan`, {});
  // What waits for one workspace's drive is told where that is open, not on every page.
  await expect(page.getByText(/Read Harbour Lantern/)).toHaveCount(0);
  await page.goto(`${server.address}/ledger${w}`);
  await expect(page.getByText(/Read Harbour Lantern/)).toBeVisible();
  await expect(page.getByText(/This is the ledger as it was read on/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Change patterns of names' }).first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo: Change patterns of names' })).toHaveCount(0);
  fs.renameSync(away, server.root);
  await expect
    .poll(
      async () =>
        (await ask<{ id: string; state: string }[]>(server.address, '/api/jobs')).find((j) => j.id === job.id)
          ?.state,
    )
    .toBe('done');
  await page.goto(`${server.address}/overview${w}`);
  await expect(page.getByText('33 of 53').first()).toBeVisible();
});

test('the command line adopts and renames, by the same plans', async () => {
  const cli = (...args: string[]) =>
    spawnSync(process.execPath, [path.resolve(import.meta.dirname, '../dist/satchel.mjs'), ...args], {
      encoding: 'utf8',
    });
  const mess = path.join(work, 'Dinghy from Sam');
  const before = snapshot(mess);
  const inside = cli('adopt', path.join(server.root, 'scenes'));
  expect([inside.status, inside.stderr.includes('lies inside the workspace')]).toEqual([2, true]);
  const adopted = JSON.parse(cli('adopt', mess, '--tidy', '--json', '--yes').stdout) as { applied: string };
  const renamed = JSON.parse(
    cli('rename', path.join(mess, 'tex/planks.png'), 'hull planks.png', '--json', '--yes').stdout,
  ) as { applied: string; plan: { paths: { after: string }[] } };
  expect(renamed.plan.paths.map((p) => p.after)).toEqual(['../tex/hull%20planks.png']);
  expect(cli('undo', mess, renamed.applied, '--yes').status).toBe(0);
  expect(cli('undo', mess, adopted.applied, '--yes').status).toBe(0);
  expect(snapshot(mess)).toEqual(before);
});

test('axe finds nothing on any view of setting up, in both themes', async ({ page }) => {
  const w = await theDemo(server);
  const look = async (name: string) => {
    await expect(page.getByText(/^Reading …$/)).toHaveCount(0);
    await axe(page, name);
  };
  for (const view of [
    '/?do=adopt',
    '/?do=many',
    '/?do=find',
    `/layouts${w}`,
    `/settings${w}&tab=homes`,
    `/settings${w}&tab=names`,
    `/settings${w}&tab=units`,
    `/settings${w}&tab=outside`,
    `/files${w}&view=intake`,
    `/files${w}&view=loose`,
  ]) {
    await page.goto(`${server.address}${view}`);
    await look(view);
  }
  await page.goto(`${server.address}/layouts${w}&layout=game-environment`);
  await page.getByRole('row', { name: 'textures' }).click();
  await look('a folder of a layout');
  await page.goto(`${server.address}/?do=adopt`);
  await page.getByLabel('The folder', { exact: true }).fill(path.join(work, 'Dinghy from Sam'));
  await page.getByText('Its folders').waitFor();
  await look('what is in a folder');
  await page.goto(`${server.address}/files${w}&view=intake&pack=intake/read me first.txt`);
  await look('a pack');
});
