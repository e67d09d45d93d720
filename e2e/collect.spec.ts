// Collecting and carrying over as a user does it; what lies on the disk afterwards.

import { expect, test } from '@playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, choose, openDemo, watch } from './steps';
import { snapshot, startServer, type RunningServer } from './server';

let server: RunningServer;
let bench = '';
test.beforeAll(async () => {
  server = await startServer();
  bench = path.join(server.folder, 'harbour-lantern/bench');
});
test.afterAll(async () => {
  await server.stop();
  fs.rmSync(server.folder, { recursive: true, force: true });
});
test.beforeEach(({ page }) => watch(page));

/** Files of the user: the net writes down when it looked. */
function users(folder: string): Record<string, string> {
  return Object.fromEntries(
    Object.entries(snapshot(folder)).filter(([name]) => !/(^|\/)\.satchel\//.test(name)),
  );
}

interface Scene {
  images?: { uri?: string }[];
  buffers?: { uri?: string }[];
}

test('collected for a client: ticks warn, the tree is arranged by hand, one plan fills one folder; undone it is empty', async ({
  page,
}) => {
  const before = users(bench);
  const w = await openDemo(page, server.address);
  await page.getByRole('link', { name: 'Collect' }).click();
  const needed = page.getByRole('treegrid', { name: 'What is needed' });
  const folder = page.getByRole('treegrid', { name: 'Where it will lie' });
  // Three scenes only.
  await page.getByRole('button', { name: 'Which scenes…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('checkbox', { name: 'All of them' }).check();
  await dialog.getByRole('checkbox', { name: 'All of them' }).uncheck();
  for (const scene of ['scenes/boat_v004.gltf', 'scenes/harbour_v007.gltf', 'models/lantern.glb'])
    await dialog.getByRole('checkbox', { name: scene }).check();
  await page.getByRole('button', { name: 'Take 3 scenes' }).click();
  await expect(page.getByText('for boat_v004.gltf and').or(page.getByText('and 1 more'))).toBeVisible();
  // A tick taken out says at once who needs it.
  const rope = needed.getByRole('row', { name: /rope_tile\.png/ });
  await rope.focus();
  await page.keyboard.press('Space');
  await expect(rope.getByText('boat_v004.gltf needs it')).toBeVisible();
  await expect(page.getByText('one of them is needed')).toBeVisible();
  // By keyboard: out of its folder, renamed, into a folder that is made.
  await folder.getByRole('row', { name: 'lantern.glb' }).click();
  await page.keyboard.press('Alt+ArrowLeft');
  await page.keyboard.press('F2');
  await page.getByLabel('Name in the new folder').fill('con.glb');
  await expect(page.getByText(/Windows/)).toBeVisible();
  await page.getByLabel('Name in the new folder').fill('lamp for you.glb');
  await page.keyboard.press('Enter');
  await folder.getByRole('row', { name: 'textures' }).click();
  await page.keyboard.press('F2');
  await page.getByLabel('Name in the new folder').fill('pictures');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Insert');
  await expect(folder.getByRole('row', { name: 'new folder' })).toBeVisible();
  // By pointer: a picture onto another's name is a clash, shown there, and no plan is made of it.
  await folder.getByRole('row', { name: 'iron_base.png' }).click();
  await page.keyboard.press('F2');
  await page.getByLabel('Name in the new folder').fill('Signal_Red.png');
  await page.keyboard.press('Enter');
  await expect(folder.getByText('Another file will lie there.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Plan the collecting…' })).toBeDisabled();
  await page.keyboard.press('Control+z');
  await expect(folder.getByText('Another file will lie there.')).toHaveCount(0);
  await folder
    .getByRole('row', { name: 'iron_base.png' })
    .dragTo(folder.getByRole('row', { name: 'new folder' }));
  await expect(folder.getByRole('row', { name: 'iron_base.png' })).toContainText('by hand');
  // What was changed by hand stays when ticks change, and over a reload.
  await rope.focus();
  await page.keyboard.press('Space');
  await page.reload();
  await expect(folder.getByRole('row', { name: 'lamp for you.glb' })).toBeVisible();
  await expect(page.getByText('left out')).toHaveCount(0);
  await axe(page, 'collect');
  await page.getByLabel('New folder', { exact: true }).fill('For the client');
  await page.getByRole('button', { name: 'Plan the collecting…' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Collect For the client: 15 files');
  expect(fs.existsSync(path.join(bench, 'For the client'))).toBe(false);
  await apply(page);
  await expect(page.getByText('Collected.')).toBeVisible();

  const to = path.join(bench, 'For the client');
  const files = snapshot(to);
  expect(Object.keys(files)).toEqual(
    expect.arrayContaining([
      'lamp for you.glb',
      'pictures/new folder/iron_base.png',
      'pictures/rope_tile.png',
      'scenes/boat_v004.gltf',
      'scenes/boat_v004.bin',
      'what is in here.html',
    ]),
  );
  const report = JSON.parse(fs.readFileSync(path.join(to, 'what is in here.json'), 'utf8')) as {
    left: { why: string; what: string }[];
  };
  const missing = new Set(report.left.map((l) => l.what));
  expect(report.left.map((l) => l.why).sort()).toEqual(['missing', 'missing', 'missing', 'offline']);
  for (const name of ['boat_v004', 'harbour_v007']) {
    const scene = JSON.parse(fs.readFileSync(path.join(to, `scenes/${name}.gltf`), 'utf8')) as Scene;
    for (const { uri } of [...(scene.images ?? []), ...(scene.buffers ?? [])]) {
      if (!uri || uri.startsWith('data:')) continue;
      const isThere = fs.existsSync(path.join(to, 'scenes', decodeURIComponent(uri)));
      expect([uri, isThere]).toEqual([uri, !missing.has(uri)]);
    }
  }
  const after = users(bench);
  for (const [name, digest] of Object.entries(before))
    expect([name, after[name] === digest]).toEqual([name, true]);
  expect(fs.readFileSync(path.join(to, 'what is in here.html'), 'utf8')).not.toContain(bench);
  // The page opens by itself, without the application.
  await page.goto(`file://${path.join(to, 'what is in here.html')}`);
  await expect(page.getByRole('heading', { level: 1 })).toContainText('For the client');
  // What lies in it now is named before it would be filled again; undone, only the report is left.
  await page.goto(`${server.address}/collect${w}`);
  await page.getByLabel('New folder', { exact: true }).fill('For the client');
  await expect(page.getByText(/not empty: .* lies there/)).toBeVisible();
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Undo: Collect For the client: 15 files' }).click();
  await apply(page);
  expect(fs.readdirSync(to).sort()).toEqual([
    'what is in here.csv',
    'what is in here.html',
    'what is in here.json',
  ]);
  expect(users(path.join(bench, 'work'))).toEqual(
    Object.fromEntries(
      Object.entries(before).flatMap(([n, d]) => (n.startsWith('work/') ? [[n.slice(5), d]] : [])),
    ),
  );
});
