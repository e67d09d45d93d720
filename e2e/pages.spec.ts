// One journey a page, for `npm test`: every page reached by its link, with no accessibility fault, and the one thing it is for done to the disk.
// Workspaces, Overview, Files, References and Carry over have theirs beside their other tests, tagged @quick; what else a page does is tested there, too.

import fs from 'node:fs';
import path from 'node:path';
import { expect, test, type Page } from 'playwright/test';
import { servedDemo, snapshot, theDemo } from './server';
import { apply, axe, choose, openDemo, settled, watch } from './steps';

test.beforeEach(({ page }) => watch(page));

const server = servedDemo();

/** Goes to a page as a bookmark does. */
async function open(page: Page, at: string, more = ''): Promise<void> {
  await page.goto(`${server.address}${at}${await theDemo(server)}${more}`);
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
}

const pages = [
  'Workspaces',
  'Overview',
  'Files',
  'References',
  'Map',
  'Versions',
  'Collect',
  'Carry over',
  'Travel',
  'Ledger',
  'Settings',
  'Help',
];

test('every page opens by its link and has no accessibility fault', { tag: '@quick' }, async ({ page }) => {
  await openDemo(page, server.address);
  const steps = page.getByRole('navigation', { name: 'Steps of the work' });
  for (const name of pages) {
    await steps.getByRole('link', { name: new RegExp(`^${name}`) }).click();
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await settled(page);
    await axe(page, name, true);
  }
});

test('shows an error when a page fails to load, and loads it on retry', async ({ page }) => {
  const at = `${server.address}/ledger${await theDemo(server)}`;
  const document = await (await page.request.get(at)).text();
  // Serve the scripts of the frame; block those of the page.
  await page.route('**/_next/static/**', (route) =>
    document.includes(path.basename(new URL(route.request().url()).pathname))
      ? route.continue()
      : route.abort(),
  );
  await page.goto(at);
  await expect(page.getByText('This page could not be loaded.')).toBeVisible();
  await page.unrouteAll();
  await page.getByRole('button', { name: 'Load it again' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ledger' })).toBeVisible();
});

test(
  'versions: the next version is saved, and undone from the ledger',
  { tag: '@quick' },
  async ({ page }) => {
    const before = snapshot(server.root);
    await open(page, '/versions', '&scene=scenes/boat_v004.gltf');
    await page.getByRole('textbox', { name: 'Note' }).fill('new rig');
    await page.getByRole('button', { name: 'Save boat_v005.gltf…' }).click();
    await page.waitForURL('**/plan/**');
    const address = page.url();
    await apply(page);
    const saved = path.join(server.root, 'scenes', 'boat_v005.gltf');
    expect(fs.existsSync(saved)).toBe(true);
    // Back on the plan, also after a reload: it was applied, and can be undone from there.
    await page.goBack();
    await expect(page.getByText(/“.*” was applied\./)).toBeVisible();
    await page.goto(address);
    await expect(page.getByText(/“.*” was applied\./)).toBeVisible();
    await expect(page.getByText('Nothing was changed')).toBeHidden();
    await expect(page.getByRole('button', { name: 'Undo…' })).toBeVisible();
    await page.getByRole('link', { name: 'Show in the ledger' }).click();
    await page.getByRole('button', { name: /^Undo/ }).first().click();
    await apply(page);
    expect(snapshot(server.root)).toEqual(before);
  },
);

test('collect: what one scene needs, complete in a new folder', { tag: '@quick' }, async ({ page }) => {
  const before = snapshot(server.root);
  await open(page, '/collect', '&scene=models/lantern.glb');
  await page.getByRole('button', { name: 'Which scenes…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('checkbox', { name: 'All of them' }).check();
  await dialog.getByRole('checkbox', { name: 'All of them' }).uncheck();
  await dialog.getByRole('checkbox', { name: 'scenes/boat_v004.gltf' }).check();
  await page.getByRole('button', { name: 'Take 1 scene' }).click();
  await page.getByLabel('New folder', { exact: true }).fill('For the client');
  await page.getByRole('button', { name: 'Plan the collecting…' }).click();
  await apply(page);
  await expect(page.getByText('Collected.')).toBeVisible();
  const to = path.join(server.folder, 'harbour-lantern', 'bench', 'For the client');
  expect(Object.keys(snapshot(to))).toEqual(
    expect.arrayContaining(['scenes/boat_v004.gltf', 'scenes/boat_v004.bin', 'what is in here.html']),
  );
  expect(snapshot(server.root)).toEqual(before);
});

test('travel: rehearsed, and backed up with every byte verified', { tag: '@quick' }, async ({ page }) => {
  await open(page, '/travel');
  const backups = page.getByRole('region', { name: 'Backups' });
  await backups.getByRole('button', { name: 'Back up to…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Back up now' }).click();
  await expect(backups).toContainText(/\d+ files, .* new/);
  await backups.getByRole('button', { name: 'Look into backups' }).click();
  const drawer = page.getByRole('complementary', { name: 'Backups in backups' });
  await drawer.getByRole('button', { name: 'Prove every byte' }).click();
  await expect(drawer.getByText(/^Every byte proven/)).toBeVisible();
});

test('settings: another unit is kept in the folder', { tag: '@quick' }, async ({ page }) => {
  await open(page, '/settings', '&tab=units');
  await choose(page, 'Working unit', 'inches (in)');
  await page.getByRole('button', { name: 'Plan the change…' }).click();
  await apply(page);
  const marker = path.join(server.root, '.satchel', 'workspace.json');
  expect(JSON.parse(fs.readFileSync(marker, 'utf8'))).toMatchObject({ units: { unit: 'in' } });
});

test('layouts: one of one’s own is kept', { tag: '@quick' }, async ({ page }) => {
  await open(page, '/layouts', '&layout=game-environment');
  await page.getByLabel('Name', { exact: true }).fill('Harbour props');
  await page.getByRole('button', { name: 'Save as my own' }).click();
  await expect(page.getByRole('button', { name: /Harbour props/ })).toBeVisible();
});
