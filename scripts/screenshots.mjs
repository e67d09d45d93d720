// npm run screenshots: one picture of each main view, made from a fresh demo, into docs/screenshots/.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromiumOptions } from './chromium.mjs';
import { buildApp, buildCli, checkNode, freePort, install, project, serve } from './setup.mjs';

checkNode();
await install({ tools: true });
await buildCli();
await buildApp();
const { chromium } = await import('playwright/test');
// A short, fixed path, so that no path of this machine stands in a picture.
const folder = path.join(os.tmpdir(), 'satchel-demo');
fs.rmSync(folder, { recursive: true, force: true });
spawnSync(process.execPath, [
  path.join(project, 'dist', 'make-demo.mjs'),
  path.join(folder, 'harbour-lantern'),
]);
const { address, entry, child, ended } = await serve(await freePort(4680), {
  SATCHEL_DATA: path.join(folder, 'app'),
  SATCHEL_DEMO: path.join(folder, 'harbour-lantern'),
  HOME: path.join(folder, 'home'),
});
process.once('exit', () => child.kill('SIGTERM')); // also after a failure
const browser = await chromium.launch(chromiumOptions());
const out = path.join(project, 'docs', 'screenshots');
fs.mkdirSync(out, { recursive: true });
for (const scheme of ['light', 'dark']) {
  const page = await (
    await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: scheme })
  ).newPage();
  const settled = async () => {
    await page
      .getByText(/^Reading/)
      .first()
      .waitFor({ state: 'detached' })
      .catch(() => {});
    await page.waitForTimeout(900);
  };
  const shoot = async (name) => {
    await settled();
    await page.screenshot({ path: path.join(out, `${name}.png`) });
  };
  await page.goto(entry);
  await page
    .getByRole('link', { name: /Harbour Lantern/ })
    .first()
    .click();
  await page.getByText('33 of 53').first().waitFor();
  const w = new URL(page.url()).search;
  const open = (view) => page.goto(`${address}${view}${w}`);
  if (scheme === 'dark') {
    await page.goto(`${address}/?view=above`);
    await shoot('side-by-side');
    break;
  }
  await shoot('overview');
  await page.goto(entry);
  await page.waitForFunction(
    () => document.querySelectorAll('[data-testid=portrait][data-has=true]').length === 2,
  );
  await shoot('workspaces');
  await page.goto(`${address}/?new=1`);
  await page.getByLabel('Name').fill('2026-12 Winter Quay');
  await shoot('create');
  await page.goto(`${address}/?do=adopt`);
  await page
    .getByLabel('The folder', { exact: true })
    .fill(path.join(folder, 'harbour-lantern/bench/work/Dinghy from Sam'));
  await page.getByText('Its folders').waitFor();
  await page.getByRole('checkbox').first().check();
  await shoot('adopt');
  await page.goto(`${address}/layouts${w}&layout=film-shot`);
  await page.getByRole('row', { name: 'textures' }).click();
  await shoot('layouts');
  await page.goto(`${address}/files${w}&view=intake`);
  await page.getByRole('button', { name: 'A ZIP archive…' }).first().click();
  await page.getByLabel('Path').fill(path.join(folder, 'harbour-lantern/bench/Downloads'));
  await page.keyboard.press('Enter');
  await page.getByRole('option', { name: 'lamp kit.zip' }).click();
  await page.getByRole('button', { name: 'Plan it', exact: true }).click();
  await page.getByRole('button', { name: 'Apply the plan' }).click();
  await page.getByRole('button', { name: 'See what is in lamp kit' }).click();
  await page.getByText(/you have already/).waitFor();
  await page.getByRole('button', { name: /^Choose its/ }).click();
  await shoot('intake');
  await page.goto(`${address}/overview${w}`);
  await page
    .getByRole('button', { name: /^Undo: Take lamp kit/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Apply the plan' }).click();
  await page.getByText('33 of 53').first().waitFor();
  await page.goto(`${address}/files${w}&folder=textures`);
  await page.getByRole('row', { name: 'hull_planks_base.png' }).click();
  await page.getByText('PNG · 128 × 128').waitFor();
  await shoot('files');
  await open('/references');
  await page.getByText('hull_planks_base.png').first().click();
  await page.getByText(/moved the same way/).waitFor();
  await shoot('references');
  await page.goto(`${address}/references${w}&see=scenes/boat_v004.gltf`);
  await page.locator('[data-testid=stage][data-ready=true] canvas').waitFor();
  await page.getByRole('button', { name: /hull_planks_base/ }).click();
  await page.getByText(/moved the same way/).waitFor();
  await page.locator('canvas').focus();
  await page.keyboard.press('Enter');
  await shoot('scene');
  await open('/map');
  await page.locator('svg text').first().waitFor();
  await shoot('map');
  await open('/references');
  await page.getByRole('button', { name: 'Relink what is sure…' }).click();
  await page.getByRole('button', { name: 'Apply the plan' }).click();
  await page.getByText('41 of 53').first().waitFor();
  await page.getByRole('button', { name: 'Make them travel…' }).click();
  await page.getByRole('button', { name: 'Apply the plan' }).click();
  await page.getByText('46 of 53').first().waitFor();
  await open('/ledger');
  await page.getByRole('button', { name: /^Make/, expanded: false }).first().click();
  await shoot('ledger');
  for (const title of [/^Undo: Make/, /^Undo: Relink/]) {
    await open('/ledger');
    await page.getByRole('main').getByRole('button', { name: title }).first().click();
    await page.getByRole('button', { name: 'Apply the plan' }).click();
    await page.waitForURL((url) => !url.pathname.startsWith('/plan'));
  }
  await page.getByText('33 of 53').first().waitFor();
  await open('/versions');
  await page.getByRole('button', { name: 'Compare harbour_v006.gltf with the present' }).click();
  await page.getByText('Came since').waitFor();
  await page.getByRole('heading', { level: 1 }).scrollIntoViewIfNeeded();
  await shoot('versions');
  await page.goto(`${address}/versions${w}&scene=scenes/harbour_v007.gltf&view=outputs`);
  await page.getByRole('button', { name: /^Make a clip of .*Pier/ }).click();
  await page.getByRole('button', { name: 'Make the clip' }).click();
  await page.getByRole('button', { name: 'Save the clip' }).waitFor();
  await shoot('outputs');
  await open('/collect');
  const needed = page.getByRole('treegrid', { name: 'What is needed' });
  await needed.getByRole('row', { name: /rope_tile/ }).waitFor();
  await needed.getByRole('row', { name: /rope_tile/ }).focus();
  await page.keyboard.press('Space');
  const tree = page.getByRole('treegrid', { name: 'Where it will lie' });
  await tree.getByRole('row', { name: 'models' }).click();
  await page.keyboard.press('F2');
  await page.getByLabel('Name in the new folder').fill('props');
  await page.keyboard.press('Enter');
  await needed.getByRole('row', { name: /rope_tile/ }).scrollIntoViewIfNeeded();
  await shoot('collect');
  await open('/carry');
  await page.getByRole('button', { name: /From$/ }).click();
  await page.getByRole('option', { name: 'Fish Market' }).click();
  const market = page.getByRole('treegrid', { name: 'What is carried over' });
  await market.getByRole('row', { name: 'models' }).getByRole('button').first().click();
  await market.getByRole('row', { name: 'crane.usda' }).click();
  await market.getByRole('row', { name: 'scenes' }).click();
  await page.getByRole('checkbox', { name: 'materials/paint_base.mtlx' }).click();
  await shoot('carry-over');
  await page.goto(`${address}/carry${w}&view=part`);
  const pick = async (field, option) => {
    await page.getByRole('button', { name: new RegExp(`${field}$`) }).click();
    await page.getByRole('option', { name: option }).click();
  };
  await pick('From', 'Fish Market');
  await pick('Scene', 'scenes/market_v002.gltf');
  await page.getByRole('treegrid', { name: 'Nodes of the scene' }).getByRole('row', { name: 'lamp' }).click();
  await pick('Scene it goes into', 'scenes/harbour_v007.gltf');
  await pick('Under', 'Pier');
  await page.getByRole('region', { name: 'Level 4' }).waitFor();
  await page.getByRole('button', { name: 'In space' }).click();
  await page.waitForTimeout(2500);
  await shoot('part-of-a-scene');
  await open('/travel');
  await page.getByTestId('fit').waitFor();
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Open a list…' }).click(),
  ]);
  await chooser.setFiles(path.join(folder, 'harbour-lantern/barn/asked for/harbour review.json'));
  await page.getByTestId('hand-in').waitFor();
  await page.getByRole('button', { name: 'Back up to…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Back up now' }).click();
  await page.getByRole('button', { name: 'Look into backups' }).waitFor();
  // All of it in one picture: the page is read from the places down to what arrived.
  await page.setViewportSize({ width: 1280, height: 1120 });
  await page.getByTestId('machine').first().scrollIntoViewIfNeeded();
  await page.getByRole('heading', { level: 1 }).scrollIntoViewIfNeeded();
  await shoot('travel');
  await page.setViewportSize({ width: 1280, height: 800 });
  await open('/overview');
  await page.getByRole('button', { name: 'Make them travel…' }).click();
  await page.getByRole('button', { name: 'Apply the plan' }).waitFor();
  await shoot('plan');
}
await browser.close();
child.kill('SIGTERM');
await ended;
fs.rmSync(folder, { recursive: true, force: true });
