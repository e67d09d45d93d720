// Travel in full, in the browser: rehearsed on all places and mended, chosen and fitted, packed for the stick, checked against what was asked, arrived on
// another machine's folder, backed up, proven, damaged by hand, healed, given back. The disk is checked after each.

import { expect, test, type Page } from 'playwright/test';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { servedDemo, theDemo } from './server';
import { apply, axe, watch } from './steps';

const server = servedDemo();
test.beforeEach(({ page }) => watch(page));

const demo = () => path.join(server.folder, 'harbour-lantern');
const region = (page: Page, name: string) => page.getByRole('region', { name });
const machine = (page: Page, name: string) => page.getByTestId('machine').filter({ hasText: name });

async function travel(page: Page): Promise<string> {
  const w = await theDemo(server);
  await page.goto(`${server.address}/travel${w}`);
  await expect(page.getByTestId('fit')).toBeVisible();
  await expect(page.getByTestId('machine')).toHaveCount(5);
  return w;
}

/** All files below a folder that are the user's, by path. */
function filesIn(root: string): string[] {
  return fs
    .readdirSync(root, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => path.relative(root, path.join(e.parentPath, e.name)).replaceAll('\\', '/'))
    .filter((p) => !p.startsWith('.satchel'))
    .sort();
}

test('rehearsed on every place; what a place refuses is mended by a button, and undone', async ({ page }) => {
  await travel(page);
  await expect(page.getByText(/Opens complete on 0 of 5 places/)).toBeVisible();
  await expect(machine(page, 'Render box')).toContainText('11 paths too long');
  await machine(page, 'Render box').click();
  await expect(page.getByTestId('rehearsal')).toContainText('11 files need attention');
  const before = filesIn(server.root);
  await page.getByRole('button', { name: 'Shorten them…' }).click();
  await expect(page.getByRole('heading', { name: /^Fit \d+ files to Render box$/ })).toBeVisible();
  await apply(page);
  await expect(machine(page, 'Render box')).not.toContainText('too long');
  const root = '/mnt/jobs/2026-11 Harbour Lantern/';
  expect(filesIn(server.root).filter((p) => Buffer.byteLength(root + p) + 1 > 72)).toEqual([]);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await apply(page);
  await expect(machine(page, 'Render box')).toContainText('11 paths too long');
  expect(filesIn(server.root)).toEqual(before);
});

test('a place of one’s own: described, kept with the workspace, and used at once', async ({ page }) => {
  await travel(page);
  await page.getByRole('button', { name: 'Describe a place…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /Which/ }).click();
  await page.getByRole('option', { name: 'A new one' }).click();
  await dialog.getByLabel('Name').fill('Tiny stick');
  await dialog.getByRole('button', { name: /Formatted as/ }).click();
  await page.getByRole('option', { name: 'FAT32' }).click();
  await dialog.getByLabel('Free, GB').fill('0,0001');
  await dialog.getByRole('button', { name: 'Plan the change…' }).click();
  await apply(page);
  await expect(machine(page, 'Tiny stick')).toContainText('too little room');
  const file = JSON.parse(fs.readFileSync(path.join(server.root, '.satchel/workspace.json'), 'utf8')) as {
    places: { name: string; machine?: unknown }[];
  };
  expect(file.places.find((p) => p.name === 'Tiny stick')?.machine).toEqual({
    system: 'windows',
    fileSystem: 'fat32',
    free: 100_000,
  });
  expect(file.places.find((p) => p.name === 'Blue stick')?.machine).toBeDefined();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await apply(page);
});

test('made ready, chosen, fitted, checked against what was asked, packed for the stick, arrived, opens complete', async ({
  page,
}) => {
  const w = await travel(page);
  const what = region(page, 'What travels');
  // What leaving out breaks stands under the very tick.
  await what.getByRole('checkbox', { name: 'Textures' }).uncheck({ force: true });
  await expect(what).toContainText(/files of it are needed by/);
  await what.getByRole('checkbox', { name: 'Textures' }).check({ force: true });
  await expect(what).not.toContainText(/files of it are needed by/);
  await what.getByRole('checkbox', { name: 'Renders and exports' }).uncheck({ force: true });
  await what.getByRole('checkbox', { name: /harbour kit/ }).check({ force: true });
  await what.getByRole('checkbox', { name: /other places outside/ }).check({ force: true });
  await what.getByRole('button', { name: 'Choose by hand…' }).click();
  await page.getByRole('button', { name: 'Into intake' }).click();
  await page.getByRole('dialog').getByRole('checkbox').first().uncheck({ force: true });
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(what).toContainText('1 choice by hand');
  await expect(page.getByTestId('fit')).toContainText('of 28.0 GB on Blue stick');
  await page.reload();
  await expect(what.getByRole('checkbox', { name: 'Renders and exports' })).not.toBeChecked();

  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Open a list…' }).click(),
  ]);
  await chooser.setFiles(path.join(demo(), 'barn/asked for/harbour review.json'));
  await expect(page.getByTestId('hand-in')).toContainText(/\d of 10 points are met/);

  await page.getByRole('button', { name: 'Pack the bag…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'Into the folder' }).fill(path.join(demo(), 'blue-stick'));
  await dialog.getByLabel('Name').fill('lantern');
  const before = filesIn(server.root).map((p) => [p, fs.readFileSync(path.join(server.root, p), 'latin1')]);
  await dialog.getByRole('button', { name: 'Pack it' }).click();
  await expect(dialog.getByText(/^Packed \d+ files/)).toBeVisible();
  expect(filesIn(server.root).map((p) => [p, fs.readFileSync(path.join(server.root, p), 'latin1')])).toEqual(
    before,
  );
  const bag = path.join(demo(), 'blue-stick/lantern.zip');
  expect(spawnSync('unzip', ['-tq', bag]).status).toBe(0);
  const names = spawnSync('unzip', ['-Z1', bag], { encoding: 'utf8' }).stdout.split('\n');
  for (const n of ['arrival.html', 'report.json', 'report.csv', 'hand-in/list.json', 'hand-in/result.json'])
    expect(names).toContain(`lantern/${n}`);
  expect(names.filter((n) => /\/(renders|intake)\/.|\.satchel\/(store|journal|bin)/.test(n))).toEqual([]);
  expect(names).toContain('lantern/data/libraries/harbour kit/textures/bollard_iron.png');
  await page.keyboard.press('Escape');

  // On the other machine: the bag's path is known already, since it was just packed.
  const arrived = region(page, 'Something arrived');
  await expect(arrived.getByTestId('recognised')).toContainText(/^A bag, \d+ files/);
  await arrived.getByRole('button', { name: 'Take it in' }).click();
  await expect(page.getByTestId('arrived')).toContainText(/references are found/);
  await expect(page.getByTestId('arrived')).toContainText('field-laptop/lantern/scenes/harbour_v007.gltf');
  const there = path.join(demo(), 'field-laptop/lantern');
  // What was absolute here is relative there.
  const boat = fs.readFileSync(path.join(there, 'scenes/boat_v004.gltf'), 'utf8');
  expect(boat).not.toContain(demo());
  expect(boat).toContain('../outside/');
  expect(fs.existsSync(path.join(there, '.satchel/arrived.json'))).toBe(true);

  // A second time, with changes on both sides.
  fs.appendFileSync(path.join(there, 'scenes/quay.usda'), '# ours\n');
  fs.appendFileSync(path.join(server.root, 'scenes/quay.usda'), '# theirs\n');
  fs.writeFileSync(path.join(server.root, 'textures/new one.png'), 'n');
  await page.goto(`${server.address}/travel${w}`);
  await arrived.getByRole('textbox', { name: 'What arrived' }).fill(server.root);
  await arrived.getByLabel('As').fill('lantern');
  await expect(arrived.getByTestId('recognised')).toContainText('compared file by file');
  await arrived.getByRole('button', { name: 'Compare…' }).click();
  await expect(page.getByTestId('again')).toContainText('1 changed on both sides');
  await page.getByRole('button', { name: 'What becomes of scenes/quay.usda' }).click();
  await page.getByRole('option', { name: 'theirs beside ours' }).click();
  await page.getByRole('button', { name: /^Plan \d+ files?…$/ }).click();
  await apply(page);
  expect(fs.readFileSync(path.join(there, 'scenes/quay.usda'), 'utf8')).toContain('# ours');
  expect(fs.readFileSync(path.join(there, 'scenes/quay(2).usda'), 'utf8')).toContain('# theirs');
  expect(fs.existsSync(path.join(there, 'textures/new one.png'))).toBe(true);

  // A copy made by hand may be separate work, which has to be confirmed.
  const copy = path.join(demo(), 'copied by hand');
  fs.cpSync(there, copy, { recursive: true });
  fs.writeFileSync(path.join(copy, 'textures/separate.png'), 's');
  await page.goto(`${server.address}/travel${w}`);
  await arrived.getByRole('textbox', { name: 'What arrived' }).fill(copy);
  await arrived.getByLabel('As').fill('lantern');
  await arrived.getByRole('button', { name: 'Compare…' }).click();
  await expect(page.getByText('Same work, or a separate copy?')).toBeVisible();
  const planFiles = page.getByRole('button', { name: 'Plan 1 file…' });
  await expect(planFiles).toBeDisabled();
  await axe(page, 'a delivery that may be a copy');
  await page.getByRole('checkbox', { name: 'Both are the same work' }).click({ force: true });
  await planFiles.click();
  await apply(page);
  expect(fs.existsSync(path.join(there, 'textures/separate.png'))).toBe(true);
});

test('backed up twice, proven, damaged by hand, healed, given back, moved off and brought back', async ({
  page,
}) => {
  const w = await travel(page);
  const folder = path.join(demo(), 'barn/backups');
  const backups = region(page, 'Backups');
  await backups.getByRole('button', { name: 'Back up to…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Back up now' }).click();
  await expect(backups).toContainText(/\d+ files, .* new/);
  fs.appendFileSync(path.join(server.root, 'scenes/quay.usda'), '# evening\n');
  await backups.getByRole('button', { name: 'Back up now' }).click();
  await backups.getByRole('button', { name: 'Look into backups' }).click();
  const drawer = page.getByRole('complementary', { name: 'Backups in backups' });
  await expect(drawer.getByRole('list', { name: 'Snapshots' }).getByRole('listitem')).toHaveCount(2);
  await drawer.getByRole('button', { name: 'Prove every byte' }).click();
  await expect(drawer.getByText(/^Every byte proven/)).toBeVisible();
  await axe(page, 'travel with backups');

  const pack = path.join(folder, '.satchel/store/packs/000001.pack');
  const bytes = fs.readFileSync(pack);
  bytes[3000]! ^= 1;
  fs.writeFileSync(pack, bytes);
  await drawer.getByRole('button', { name: 'Prove every byte' }).click();
  await expect(drawer.getByText('1 content is not right any more.')).toBeVisible();
  await drawer.getByRole('button', { name: 'Heal' }).click();
  await expect(drawer.getByText(/^1 content healed from/)).toBeVisible();
  await expect(drawer.getByText(/^Every byte proven/)).toBeVisible();

  // A file of the first snapshot back into the workspace, as a plan.
  const now = fs.readFileSync(path.join(server.root, 'scenes/quay.usda'), 'utf8');
  await drawer.getByRole('list', { name: 'Snapshots' }).getByRole('button').last().click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Since then 1 file changed');
  await dialog.getByRole('button', { name: /other now/ }).click();
  await dialog.getByRole('checkbox').first().check({ force: true });
  await dialog.getByRole('button', { name: 'Back into the workspace…' }).click();
  await expect(page.getByRole('heading', { name: 'Give quay.usda back' })).toBeVisible();
  await apply(page);
  expect(fs.readFileSync(path.join(server.root, 'scenes/quay.usda'), 'utf8')).toBe(
    now.replace('# evening\n', ''),
  );

  // All of it, into a folder.
  await page.goto(`${server.address}/travel${w}&backups=${encodeURIComponent(folder)}`);
  await drawer.getByRole('list', { name: 'Snapshots' }).getByRole('button').first().click();
  await dialog.getByRole('textbox', { name: 'As', exact: true }).fill('given back');
  await dialog.getByRole('button', { name: 'Give all of it back' }).click();
  await expect(dialog.getByText(/^Given back: \d+ files/)).toBeVisible();
  const back = path.join(path.dirname(server.root), 'given back');
  expect(fs.readFileSync(path.join(back, 'scenes/quay.usda'), 'utf8')).toBe(now);
  expect(filesIn(back)).toEqual(filesIn(server.root));
  await page.keyboard.press('Escape');

  // Moved off with proof, and back.
  const before = filesIn(server.root).map((p) => [p, fs.readFileSync(path.join(server.root, p), 'latin1')]);
  await drawer.getByRole('button', { name: 'Move the work off…' }).click();
  await page.getByRole('button', { name: 'Keep, prove, remove here' }).click();
  await expect(backups).toContainText('This work was moved off');
  expect(filesIn(server.root)).toEqual(['where this is.txt']);
  await backups.getByRole('button', { name: 'Bring it back' }).click();
  await expect(backups).not.toContainText('moved off');
  expect(filesIn(server.root).map((p) => [p, fs.readFileSync(path.join(server.root, p), 'latin1')])).toEqual(
    before,
  );
});

test('many small files become one and travel so; a bag that is dropped on the window arrives, and they lie there apart', async ({
  page,
}) => {
  const w = await travel(page);
  const what = region(page, 'What travels');
  const sea = (root: string) =>
    filesIn(path.join(root, 'caches/sea')).map((p) => {
      const file = path.join(root, 'caches/sea', p);
      return [p, Math.round(fs.statSync(file).mtimeMs), fs.readFileSync(file, 'latin1')];
    });
  const before = sea(server.root);
  await what.getByRole('button', { name: 'Many small files…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('checkbox', { name: /caches\/sea/ })
    .check({ force: true });
  await page.getByRole('button', { name: 'Put into one…' }).click();
  await expect(page.getByRole('heading', { name: /^Put \d+ files into sea.bundle.zip$/ })).toBeVisible();
  await expect(page.getByRole('main')).toContainText(
    `It makes 1 file out of ${before.length}, which go to the bin.`,
  );
  await apply(page);
  expect(filesIn(path.join(server.root, 'caches/sea'))).toEqual(['sea.bundle.zip']);
  expect(spawnSync('unzip', ['-tq', path.join(server.root, 'caches/sea/sea.bundle.zip')]).status).toBe(0);

  const bag = path.join(demo(), 'blue-stick/sent.zip');
  await page.getByRole('button', { name: 'Pack the bag…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'Into the folder' }).fill(path.dirname(bag));
  await dialog.getByLabel('Name').fill('sent');
  await dialog.getByRole('button', { name: 'Pack it' }).click();
  await expect(dialog.getByText(/^Packed \d+ files/)).toBeVisible();
  await page.keyboard.press('Escape');

  // Taken apart here again.
  await what.getByRole('button', { name: 'Bundles…' }).click();
  await page.getByRole('button', { name: 'Take caches/sea/sea.bundle.zip apart' }).click();
  await apply(page);
  expect(sea(server.root)).toEqual(before);

  // Dropped where a workspace is open: asked whether it arrives.
  await page.goto(`${server.address}/files${w}`);
  await expect(page.getByRole('grid', { name: 'Files in the root' })).toBeVisible();
  await page.evaluate(
    (text) => {
      const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
      const data = new DataTransfer();
      data.items.add(new File([bytes], 'sent.zip'));
      for (const name of ['dragenter', 'dragover', 'drop'])
        window.dispatchEvent(new DragEvent(name, { dataTransfer: data, bubbles: true, cancelable: true }));
    },
    fs.readFileSync(bag, 'base64'),
  );
  await expect(page.getByText('This is a bag.')).toBeVisible();
  await page.getByRole('button', { name: 'Let it arrive…' }).click();
  const arrived = region(page, 'Something arrived');
  await expect(arrived.getByTestId('recognised')).toContainText(/^A bag, \d+ files/);
  await expect(arrived.getByLabel('As')).toHaveValue('sent');
  await arrived.getByRole('button', { name: 'Take it in' }).click();
  await expect(page.getByTestId('arrived')).toContainText(
    `${before.length} files came in 1 bundle and lie in their places again.`,
  );
  expect(sea(path.join(demo(), 'field-laptop/sent'))).toEqual(before);
});

test('without a pointer: a machine, its drawer, ticks and the bag', async ({ page }) => {
  await travel(page);
  await machine(page, 'Field laptop').focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary', { name: 'Rehearsed on Field laptop' })).toBeVisible();
  await page.getByRole('complementary').getByRole('button', { name: 'Close' }).focus();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('complementary')).toHaveCount(0);
  const tick = region(page, 'What travels').getByRole('checkbox', { name: 'The intake' });
  await tick.focus();
  await page.keyboard.press('Space');
  await expect(tick).not.toBeChecked();
  await page.getByRole('button', { name: 'Pack the bag…' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog').getByRole('textbox', { name: 'Into the folder' })).toBeVisible();
  await page.keyboard.press('Escape');
});
