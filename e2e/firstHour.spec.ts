// The first ten minutes of somebody who has only a downloads folder: every folder is chosen, none typed. And the way through the demo's troubles.

import { expect, test, type Page } from '@playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, openDemo, watch } from './steps';
import { snapshot, startServer, type RunningServer } from './server';

let server: RunningServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(async () => {
  await server.stop();
  fs.rmSync(server.folder, { recursive: true, force: true });
});
test.beforeEach(({ page }) => watch(page));

/** Allows a folder of the home by choosing it. */
async function allow(page: Page, ...way: string[]): Promise<void> {
  await page.getByRole('button', { name: 'Choose…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Allow which folder' });
  for (const name of way.slice(0, -1)) await dialog.getByRole('option', { name, exact: true }).dblclick();
  await dialog.getByRole('option', { name: way.at(-1)!, exact: true }).click();
  await dialog.getByRole('button', { name: `Take ${way.at(-1)}` }).click();
  await page.getByRole('button', { name: 'Allow this folder' }).click();
  await expect(
    page.getByRole('button', { name: new RegExp(`^No longer allow .*${way.at(-1)}$`) }),
  ).toBeVisible();
}

test('from a downloads folder to a bag, by choosing only', async ({ page }) => {
  test.setTimeout(180_000);
  const folder = fs.mkdtempSync(path.join(server.folder, 'new-'));
  const home = path.join(folder, 'home');
  const pack = path.join(home, 'Downloads', 'old pier (final) [2]', 'maps é');
  fs.mkdirSync(pack, { recursive: true });
  fs.mkdirSync(path.join(home, 'Art', 'projects'), { recursive: true });
  fs.mkdirSync(path.join(home, '.hidden'));
  const picture = fs.readFileSync(path.join(server.root, 'textures', 'hull_planks_base.png'));
  fs.writeFileSync(path.join(pack, 'wood #1.png'), picture);
  fs.writeFileSync(
    path.join(path.dirname(pack), 'pier.gltf'),
    JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: 'maps%20%C3%A9/wood%20%231.png' }] }),
  );
  const fresh = await startServer(folder, { HOME: home, SATCHEL_DEMO: path.join(folder, 'none') });
  try {
    await page.goto(fresh.address);
    await expect(page.getByRole('heading', { name: 'Welcome' })).toBeVisible();
    await page.getByRole('button', { name: 'Choose…' }).click();
    const dialog = page.getByRole('dialog', { name: 'Allow which folder' });
    await expect(dialog.getByRole('option', { name: 'Downloads' })).toBeVisible();
    await expect(dialog.getByText('.hidden')).toHaveCount(0);
    await axe(page, 'choosing a folder to allow');
    // By keyboard: into a folder, and out again.
    await dialog.getByRole('option', { name: 'Art' }).focus();
    await page.keyboard.press('Enter');
    await expect(dialog.getByRole('option', { name: 'projects' })).toBeVisible();
    await page.keyboard.press('Escape');
    await allow(page, 'Art', 'projects');
    await allow(page, 'Downloads');
    await page.getByRole('button', { name: 'Create a workspace…' }).first().click();
    await page.getByLabel('Name', { exact: true }).fill('Pier');
    await page.getByRole('button', { name: 'Create it' }).click();
    await expect(page.getByRole('button', { name: /^Workspace Pier/ })).toBeVisible();
    const root = path.join(home, 'Art', 'projects', 'Pier');
    const search = new URL(page.url()).search;
    await page.goto(`${fresh.address}/files${search}`);
    await page
      .getByRole('button', { name: /^Bring/ })
      .first()
      .click();
    const bring = page.getByRole('dialog', { name: /^Bring in/ });
    await bring.getByRole('button', { name: 'Downloads' }).click();
    await bring.getByRole('option', { name: /^old pier/ }).dblclick();
    await bring.getByRole('option', { name: 'pier.gltf' }).click();
    await bring.getByRole('button', { name: 'Plan it' }).click();
    await apply(page);
    expect(fs.readFileSync(path.join(root, 'textures', 'wood #1.png')).equals(picture)).toBe(true);
    expect(fs.readFileSync(path.join(root, 'scenes', 'pier.gltf'), 'utf8')).toContain(
      '"../textures/wood%20%231.png"',
    );
    await page.goto(`${fresh.address}/overview${search}`);
    await expect(page.getByRole('heading', { name: 'Ready to travel' })).toBeVisible();
    // It is nobody's demo.
    await expect(page.getByRole('region', { name: 'A way through the demo' })).toHaveCount(0);
  } finally {
    await fresh.stop();
  }
});

test('the way through the demo: why each would break, mended one by one, then out of the way', async ({
  page,
}) => {
  const w = await openDemo(page, server.address);
  const before = snapshot(server.root);
  const guide = page.getByRole('region', { name: 'A way through the demo' });
  await expect(guide.getByRole('listitem')).toHaveCount(9);
  await expect(guide.getByText('another machine has another top')).toBeVisible();
  await expect(guide.getByText(/undefined|null/)).toHaveCount(0);
  await guide.getByRole('link', { name: 'Make it relative' }).click();
  await page.getByRole('button', { name: 'Make it travel…' }).click();
  await apply(page);
  await page.goto(`${server.address}/overview${w}`);
  await expect(guide.getByText('1 of 9 mended')).toBeVisible();
  await expect(guide.getByText('Absolute paths: mended')).toBeVisible();
  // Each of the others leads to one that is as it says.
  const stops = guide.getByRole('listitem').getByRole('link');
  await expect(stops).toHaveCount(8);
  for (let n = 0; n < 8; n++) {
    await stops.nth(n).click();
    await expect(page.getByRole('complementary', { name: 'The reference in full' })).toBeVisible();
    await page.goBack();
  }
  await guide.getByRole('button', { name: /^Put this away/ }).click();
  await expect(guide).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/travel/);
  await expect(guide).toHaveCount(0);
  await page.goto(`${server.address}/help${w}`);
  await page.getByRole('button', { name: 'Show the way through the demo again' }).click();
  await page.goto(`${server.address}/overview${w}`);
  await expect(guide).toBeVisible();
  await page
    .getByRole('button', { name: /^Undo: Make/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
});
