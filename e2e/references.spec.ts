// Repairing references in the browser: one with a reason, with all that moved the same way, all that are sure, many paths at once; each undone to
// the same bytes.

import { expect, test } from 'playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { ask, servedDemo, snapshot, theDemo } from './server';
import { apply, axe, openDemo, watch } from './steps';

const server = servedDemo();
test.beforeEach(({ page }) => watch(page));

const boat = () => fs.readFileSync(path.join(server.root, 'scenes/boat_v004.gltf'), 'utf8');

test(
  'a missing file: candidates with their reason; taken with what moved the same way; undone',
  { tag: '@quick' },
  async ({ page }) => {
    const w = await openDemo(page, server.address);
    const before = snapshot(server.root);
    await page.goto(`${server.address}/references${w}`);
    await page.getByText('hull_planks_base.png').first().click();
    await expect(page.getByRole('radio', { name: 'textures/hull_planks_base.png' })).toBeChecked();
    await expect(page.getByText(/same name, beside 1 of its neighbours/)).toBeVisible();
    // Looking is done once, however often it ends.
    await page.waitForTimeout(1500);
    const looks = (await ask<{ work: string }[]>(server.address, '/api/jobs')).filter(
      (j) => j.work === 'suggest',
    ).length;
    expect(looks).toBeLessThanOrEqual(2);
    await page.getByRole('button', { name: '…and 1 other that moved the same way' }).click();
    await expect(page.getByRole('heading', { name: 'Relink 2 references' })).toBeVisible();
    expect(snapshot(server.root)).toEqual(before);
    await apply(page);
    await expect(page.getByText('35 of 53').first()).toBeVisible();
    expect(boat()).toContain('"../textures/hull_planks_base.png"');
    await page
      .getByRole('button', { name: /^Undo: Relink 2/ })
      .first()
      .click();
    await apply(page);
    expect(snapshot(server.root)).toEqual(before);
  },
);

test('a file that was renamed on disk is told by its size, as a suggestion', async ({ page }) => {
  const w = await openDemo(page, server.address);
  await expect(page.getByText('33 of 53').first()).toBeVisible();
  const [was, is] = ['textures/sail_base.png', 'textures/canvas cloth.png'].map((f) =>
    path.join(server.root, f),
  ) as [string, string];
  fs.renameSync(was, is);
  await page.goto(`${server.address}/references${w}&state=missing`);
  await page.getByText('sail_base.png').first().click();
  await expect(page.getByRole('radio', { name: 'textures/canvas cloth.png' })).toBeVisible();
  await expect(page.getByText(/same size and kind/)).toBeVisible();
  fs.renameSync(is, was);
});

test('everything that is sure at once; what is not is named and left', async ({ page }) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/references${w}`);
  await page.getByRole('button', { name: 'Relink what is sure…' }).click();
  await expect(page.getByText('../textures/crate_gloss.png was found nowhere.')).toBeVisible();
  await apply(page);
  await expect(page.getByText('41 of 53').first()).toBeVisible();
  await page
    .getByRole('button', { name: /^Undo: Relink 8/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
});

test(
  'many paths at once: another head, a text; each state on the way can be returned to; left without a trace',
  { tag: '@quick' },
  async ({ page }) => {
    const w = await theDemo(server);
    const before = snapshot(server.root);
    await page.goto(`${server.address}/references${w}&q=hull_planks%20boat`);
    await expect(page.getByRole('row')).toHaveCount(1 + 1 + 2);
    await page.getByRole('button', { name: 'Change these paths…' }).click();
    await expect(page.getByRole('button', { name: 'texture/', exact: true })).toHaveAttribute(
      'aria-pressed',
      'true',
    );
    await page.getByLabel('New head').fill('../nowhere/');
    await expect(page.getByText('2 of those shown would not be found')).toBeVisible();
    await page.getByRole('button', { name: 'Keep this step' }).click();
    await page.getByRole('button', { name: 'Replace text' }).click();
    await page.getByLabel('Find').fill('nowhere');
    await page.getByLabel('Replace by').fill('textures');
    await expect(page.getByText('all that are shown would be found')).toBeVisible();
    await page.getByRole('button', { name: 'As it is' }).click();
    await expect(page.getByText('2 paths chosen.')).toBeVisible();
    await page.getByRole('button', { name: 'Leave, change nothing' }).click();
    expect(snapshot(server.root)).toEqual(before);
    await page.getByRole('button', { name: 'Change these paths…' }).click();
    await page.getByLabel('New head').fill('../textures/');
    await page.getByRole('button', { name: 'Plan 2 changes…' }).click();
    await apply(page);
    expect(boat()).toContain('"../textures/hull_planks_normal.png"');
    await page
      .getByRole('button', { name: /^Undo: Change 2 paths/ })
      .first()
      .click();
    await apply(page);
    expect(snapshot(server.root)).toEqual(before);
  },
);

test('a tile that lies elsewhere is found for its set, copied there, and taken away again', async ({
  page,
}) => {
  const w = await theDemo(server);
  const [was, is] = ['textures/quay_wall.1002.png', 'reference/quay_wall.1002.png'].map((f) =>
    path.join(server.root, f),
  ) as [string, string];
  fs.mkdirSync(path.dirname(is), { recursive: true });
  fs.renameSync(was, is);
  const before = snapshot(server.root);
  const picture = fs.readFileSync(is);
  await page.goto(`${server.address}/references${w}&q=quay_wall`);
  await page.getByText('quay_wall.').first().click();
  await expect(page.getByRole('heading', { name: 'Where 1002 could be' })).toBeVisible();
  await page.getByRole('button', { name: 'Copy it to the set…' }).click();
  await apply(page);
  expect(fs.readFileSync(was).equals(picture)).toBe(true);
  expect(fs.existsSync(is)).toBe(true);
  await page.goto(`${server.address}/overview${w}`);
  await page
    .getByRole('button', { name: /^Undo: Bring 1 missing file/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
  fs.renameSync(is, was);
});

test('many files renamed by a pattern, a clash shown at once; what nothing uses is cleared to the bin; undone', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/files${w}&folder=textures`);
  await page.getByRole('button', { name: 'Rename these…' }).click();
  await page.getByLabel('New names').fill('tile');
  await expect(page.getByText('Another file would have this name too.').first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Plan it…' })).toBeDisabled();
  for (const tile of ['1001', '1002', '1004'])
    await page.getByRole('checkbox', { name: `quay_wall.${tile}.png` }).uncheck();
  await page.getByLabel('New names').fill('sea {name}');
  await page.getByRole('button', { name: 'Plan it…' }).click();
  await expect(page.getByRole('heading', { name: /^Move \d+ files and folders/ })).toBeVisible();
  await apply(page);
  expect(fs.readFileSync(path.join(server.root, 'scenes/harbour_v007.gltf'), 'utf8')).toContain(
    '"../textures/sea%20stone_base.png"',
  );
  await page.goto(`${server.address}/overview${w}`);
  await page
    .getByRole('button', { name: /^Undo: Move/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
  await page.goto(`${server.address}/files${w}&view=unused`);
  // The index has seen the undo.
  await expect(page.getByRole('row', { name: /old_sign\.png/ })).toBeVisible();
  await page.getByRole('button', { name: /^Clear \d+ files to the bin…/ }).click();
  await apply(page);
  expect(fs.existsSync(path.join(server.root, 'textures/old_sign.png'))).toBe(false);
  await page.goto(`${server.address}/overview${w}`);
  await page
    .getByRole('button', { name: /^Undo: Clear/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
});

test('axe finds nothing where references are repaired, in both themes', async ({ page }) => {
  const w = await theDemo(server);
  await page.goto(`${server.address}/references${w}`);
  await page.getByText('hull_planks_base.png').first().click();
  await page.getByText(/moved the same way/).waitFor();
  await axe(page, 'candidates');
  await page.getByRole('button', { name: 'Close' }).click();
  await page.getByRole('button', { name: 'Change these paths…' }).click();
  await page.getByLabel('New head').fill('../nowhere/');
  await page.getByText(/would not be found/).waitFor();
  await axe(page, 'change paths');
  await page.goto(`${server.address}/files${w}&folder=textures`);
  await page.getByRole('button', { name: 'Rename these…' }).click();
  await axe(page, 'rename many');
});

test('pictures that cannot be read leave no torn sign in the table', async ({ page }) => {
  const folder = path.join(server.root, 'textures');
  const were = new Map(
    fs
      .readdirSync(folder)
      .filter((name) => name.endsWith('.png'))
      .map((name) => [name, fs.readFileSync(path.join(folder, name))]),
  );
  for (const name of were.keys()) fs.writeFileSync(path.join(folder, name), 'no picture');
  const w = await theDemo(server);
  const refused: string[] = [];
  page.on('response', (r) => {
    if (r.url().includes('side=64') && r.status() === 422) refused.push(r.url());
  });
  await page.goto(`${server.address}/references${w}&state=travels`);
  await expect.poll(() => refused.length).toBeGreaterThan(2);
  const torn = () =>
    page.evaluate(
      () =>
        [...document.querySelectorAll('main img')].filter(
          (i) => i instanceof HTMLImageElement && i.complete && i.naturalWidth === 0,
        ).length,
    );
  await expect.poll(torn).toBe(0);
  for (const [name, bytes] of were) fs.writeFileSync(path.join(folder, name), bytes);
});
