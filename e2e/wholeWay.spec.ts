// The whole way in the browser: create, bring in, see, repair, save, pack, verify, unpack, rehearse, undo; the disk is checked.

import { expect, test } from 'playwright/test';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, openDemo, watch } from './steps';
import { servedDemo, snapshot } from './server';

const server = servedDemo();
test.beforeEach(({ page }) => watch(page));

test(
  'the demo: see what is wrong, repair it in one reviewed step, undo to the same bytes',
  { tag: '@quick' },
  async ({ page }) => {
    await openDemo(page, server.address);
    const before = snapshot(server.root);
    await expect(page.getByText('33 of 53').first()).toBeVisible();
    await page.getByRole('button', { name: 'Make them travel…' }).click();
    await expect(page.getByRole('heading', { name: 'Make 11 references travel' })).toBeVisible();
    await expect(page.getByText('lies on Blue stick, which is not connected')).toBeVisible();
    expect(snapshot(server.root)).toEqual(before);
    await apply(page);
    await expect(page.getByText('44 of 53').first()).toBeVisible();
    const after = snapshot(server.root);
    expect(Object.keys(after).filter((p) => !(p in before))).toEqual([
      'textures/anchor_rust.png',
      'textures/rope_tile.png',
      'textures/wet_wood_orm.png',
    ]);
    const boat = Buffer.from(after['scenes/boat_v004.gltf']!, 'base64').toString();
    expect(boat).toContain('"uri": "../textures/rope_tile.png"');
    await page
      .getByRole('button', { name: /^Undo: Make 11/ })
      .first()
      .click();
    await expect(page.getByRole('heading', { name: 'Undo: Make 11 references travel' })).toBeVisible();
    await apply(page);
    await expect(page.getByText('33 of 53').first()).toBeVisible();
    expect(snapshot(server.root)).toEqual(before);
  },
);

test('the list of workspaces answers at a glance, also for one that was never opened', async ({ page }) => {
  await page.goto(server.address);
  const group = page.getByRole('group', { name: 'Recent' });
  await expect(group.getByText('20 of 53 would not open elsewhere')).toBeVisible();
  await expect(group.getByText(/^boat_v004\.gltf/)).toBeVisible();
  // It is read by itself.
  await expect(group.getByText('All 8 references would open elsewhere')).toBeVisible();
  await expect(page.getByText('1 of 2 workspaces would not open complete on another machine')).toBeVisible();
  // Each with a picture of its newest scene, which the browser keeps.
  const drawn = page.locator('[data-testid=portrait][data-has=true] img');
  await expect(drawn).toHaveCount(2, { timeout: 60_000 });
  const colours = await drawn.first().evaluate(async (img: HTMLImageElement) => {
    await img.decode();
    const canvas = new OffscreenCanvas(img.naturalWidth, img.naturalHeight);
    const context = canvas.getContext('2d')!;
    context.drawImage(img, 0, 0);
    const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
    const seen = new Set<number>();
    for (let i = 0; i < data.length; i += 4)
      seen.add((data[i]! >> 4) * 256 + (data[i + 1]! >> 4) * 16 + (data[i + 2]! >> 4));
    return [canvas.width, canvas.height, seen.size];
  });
  expect([colours[0], colours[1], colours[2]! > 8]).toEqual([168, 112, true]);
  expect(
    await page.evaluate(async () => (await (await caches.open('satchel-portraits')).keys()).length),
  ).toBe(2);
  await page.getByRole('link', { name: 'See what holds it back: Harbour Lantern' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/travel/);
});

test('a file that is put back, or a scene that is saved, shows by itself', async ({ page }) => {
  await openDemo(page, server.address);
  await expect(page.getByText('33 of 53').first()).toBeVisible();
  const gloss = path.join(server.root, 'textures', 'crate_gloss.png');
  fs.copyFileSync(path.join(server.root, 'textures', 'crate_wood.png'), gloss);
  await expect(page.getByText('34 of 53').first()).toBeVisible();
  const layer = path.join(server.root, 'scenes', 'quay_look.usda');
  const before = fs.readFileSync(layer, 'utf8');
  fs.writeFileSync(layer, before.replace('stone_base.png', 'not_there.png'));
  await expect(page.getByText('33 of 53').first()).toBeVisible();
  fs.writeFileSync(layer, before);
  fs.rmSync(gloss);
  await expect(page.getByText('33 of 53').first()).toBeVisible();
  await page
    .getByRole('link', { name: /References/ })
    .first()
    .click();
  await expect(page.getByRole('row').nth(3)).toBeVisible();
  await page.keyboard.press('/');
  await page.keyboard.type('sea');
  await expect(page.getByText('23 files, 1 gap')).toBeVisible();
});

test('references: filter, search, keyboard, drawer, a chosen few; the address holds the view', async ({
  page,
}) => {
  await openDemo(page, server.address);
  await page
    .getByRole('link', { name: /References/ })
    .first()
    .click();
  await page.getByRole('button', { name: /outside\s*3/ }).click();
  await expect(page.getByRole('row')).toHaveCount(1 + 1 + 3);
  await page.keyboard.press('/');
  await page.keyboard.type('rope');
  await expect(page.getByRole('row')).toHaveCount(1 + 1 + 1);
  await expect(page).toHaveURL(/q=rope/);
  await page.reload();
  await expect(page.getByRole('row')).toHaveCount(1 + 1 + 1);
  await expect(page.getByRole('grid').getByText('rope_tile.png')).toBeVisible();
  await page.getByRole('grid').focus();
  await page.keyboard.press('Enter');
  const drawer = page.getByRole('complementary', { name: 'The reference in full' });
  await expect(drawer.getByText('rigging › rope · base colour')).toBeVisible();
  await expect(drawer.getByRole('img', { name: 'Picture of rope_tile.png' })).toBeVisible();
  await page.getByRole('grid').focus();
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: 'Make 1 travel…' }).click();
  await expect(page.getByRole('heading', { name: 'Make rope_tile.png travel' })).toBeVisible();
  await page.getByRole('button', { name: 'Back, change nothing' }).click();
  await expect(page).toHaveURL(/q=rope/);
});

test('files: what each holds, who uses it, what lies idle', { tag: '@quick' }, async ({ page }) => {
  await openDemo(page, server.address);
  await page.getByRole('link', { name: 'Files' }).first().click();
  await page.getByRole('row', { name: /^folder textures/ }).click();
  await page.getByRole('row', { name: 'quay_wall.1002.png' }).click();
  const drawer = page.getByRole('complementary', { name: 'The file in full' });
  await expect(drawer.getByText('PNG · 32 × 32 · 3 channels, 8-bit')).toBeVisible();
  await expect(drawer.getByRole('img', { name: 'Picture of quay_wall.1002.png' })).toHaveJSProperty(
    'naturalWidth',
    32,
  );
  await drawer.getByRole('link', { name: 'scenes/quay.usda' }).click();
  await expect(
    page
      .getByRole('complementary', { name: 'The reference in full' })
      .getByText('quay_wall.<UDIM>.png')
      .first(),
  ).toBeVisible();
  await page.goBack();
  await page.getByRole('tab', { name: /Used by nothing/ }).click();
  await expect(page.getByRole('row')).toHaveCount(1 + 5);
  await page.getByRole('row', { name: /old_sign\.png/ }).click();
  await expect(page.getByText('No scene of this workspace uses it.')).toBeVisible();
  // A name that says one kind over content of another.
  const wrong = path.join(server.root, 'textures', 'not_a_picture.png');
  fs.writeFileSync(wrong, Buffer.from('RIFF\x24\0\0\0WAVEfmt ', 'latin1'));
  await expect(page.getByRole('row')).toHaveCount(1 + 6);
  await page.getByRole('row', { name: /not_a_picture\.png/ }).click();
  await expect(page.getByText('Its name says texture, its content is audio (WAV).')).toBeVisible();
  fs.rmSync(wrong);
  await expect(page.getByRole('row')).toHaveCount(1 + 5);
  await page.keyboard.press('Escape');
});

test(
  'a workspace of one’s own: create, bring in, version, rehearse, pack, verify, unpack',
  { tag: '@quick' },
  async ({ page }) => {
    const work = path.join(server.folder, 'harbour-lantern/bench/work');
    await page.goto(server.address);
    await page.getByRole('button', { name: 'Create a workspace…' }).click();
    await page.getByLabel('Name').fill('CON');
    await expect(page.getByText(/reserved for a device/).first()).toBeVisible();
    await page.getByLabel('Name').fill('2026-12 Winter Quay');
    await expect(page.getByTestId('full-path')).toHaveText(path.join(work, '2026-12 Winter Quay'));
    await page.getByRole('checkbox', { name: 'audio' }).uncheck();
    await page.getByRole('button', { name: 'Create it' }).click();
    await expect(page.getByRole('heading', { name: 'Nothing referenced yet' })).toBeVisible();
    const root = path.join(work, '2026-12 Winter Quay');
    expect(fs.existsSync(path.join(root, 'textures/work'))).toBe(true);
    expect(fs.existsSync(path.join(root, 'audio'))).toBe(false);

    await page.getByRole('link', { name: 'Files', exact: true }).click();
    await page.getByRole('button', { name: 'Bring files in…' }).first().click();
    await page
      .getByLabel('Path')
      .fill(path.join(server.folder, 'harbour-lantern/bench/Downloads/bollard-pack'));
    await page.getByLabel('Path').press('Enter');
    await page.getByRole('option', { name: 'bollard.gltf' }).click();
    await page.getByRole('button', { name: 'Plan it' }).click();
    await expect(
      page.getByRole('heading', { name: 'Bring in bollard.gltf with 4 files it needs' }),
    ).toBeVisible();
    await apply(page);
    expect(Object.keys(snapshot(root))).toEqual([
      'scenes/bollard.bin',
      'scenes/bollard.gltf',
      'textures/bollard base.png',
      'textures/bollard_normal.png',
      'textures/rope_tile.png',
    ]);

    await page.getByRole('link', { name: 'Versions', exact: true }).click();
    await page.getByLabel('Note').fill('first light');
    await page.getByRole('button', { name: 'Save bollard_v001.gltf…' }).click();
    await apply(page);
    await expect(page.getByRole('cell', { name: '“first light”' })).toBeVisible();
    await page.getByRole('button', { name: 'Save bollard_v002.gltf…' }).click();
    await apply(page);
    await page.getByRole('button', { name: 'Bring back bollard_v001.gltf' }).click();
    await expect(
      page.getByRole('heading', { name: 'Bring bollard_v001.gltf back as bollard_v003.gltf' }),
    ).toBeVisible();
    await apply(page);
    await expect(page.getByRole('cell', { name: '“bollard_v001.gltf brought back”' })).toBeVisible();
    const version = (n: number) => fs.readFileSync(path.join(root, `scenes/bollard_v00${n}.gltf`), 'utf8');
    expect(version(3)).toBe(version(1).replaceAll('v001', 'v003'));

    await page.getByRole('link', { name: 'Travel', exact: true }).click();
    await page.getByTestId('machine').filter({ hasText: 'Windows, D:\\work' }).first().click();
    await expect(page.getByTestId('rehearsal')).toContainText(
      /All \d+ references would open on Windows at D:\\work\\2026-12 Winter Quay/,
    );
    await page.getByRole('button', { name: 'Pack the bag…' }).click();
    await page.getByRole('button', { name: 'Pack it' }).click();
    await expect(page.getByText(/^Packed \d+ files/)).toBeVisible();
    await page.keyboard.press('Escape');
    const bag = path.join(server.folder, 'harbour-lantern/bench/2026-12 Winter Quay.zip');
    expect(spawnSync('unzip', ['-tq', bag]).status).toBe(0);
    await page.getByRole('button', { name: 'Verify only' }).click();
    await expect(page.getByText(/^Valid: every byte/)).toBeVisible();
    await page.getByRole('button', { name: 'Take it in' }).click();
    await expect(page.getByTestId('arrived')).toContainText(
      /It opens complete: all \d+ references are found/,
    );
    const arrived = path.join(server.folder, 'harbour-lantern/field-laptop/2026-12 Winter Quay');
    expect(snapshot(arrived)).toEqual(snapshot(root));
    await page.getByRole('button', { name: 'Open the workspace' }).click();
    await expect(page.getByRole('heading', { name: 'Ready to travel' })).toBeVisible();
  },
);

test('folders that are not allowed are refused; a workspace inside a workspace too', async ({ page }) => {
  await page.goto(`${server.address}/?new=1`);
  await page.getByLabel(/^Where/).fill('/etc');
  await page.getByLabel('Name').fill('x');
  await expect(page.getByText(/lies in no folder that you have allowed/)).toBeVisible();
  await page.getByLabel(/^Where/).fill(path.join(server.root, 'scenes'));
  await expect(page.getByText(/lies inside the workspace/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Create it' })).toBeDisabled();
  expect(fs.existsSync(path.join(server.root, 'scenes', 'x'))).toBe(false);
});

test('file names never become markup', async ({ page }) => {
  const name = '<img src=x onerror=alert(1)>.gltf';
  fs.writeFileSync(
    path.join(server.root, 'scenes', name),
    JSON.stringify({ images: [{ uri: '<script>alert(2)</script>.png' }] }),
  );
  page.on('dialog', () => {
    throw new Error('a script of a file name ran');
  });
  await openDemo(page, server.address);
  await page
    .getByRole('link', { name: /References/ })
    .first()
    .click();
  await expect(page.getByText(name).first()).toBeVisible();
  await expect(page.locator('main img[src="x"], main script')).toHaveCount(0);
  fs.rmSync(path.join(server.root, 'scenes', name));
});

test('axe finds nothing on any main view, in both themes', async ({ page }) => {
  await page.goto(server.address);
  await page
    .getByRole('link', { name: /Harbour Lantern/ })
    .first()
    .click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/travel/);
  const w = new URL(page.url()).search;
  for (const view of [
    '/',
    '/?new=1',
    `/overview${w}`,
    `/files${w}`,
    `/references${w}`,
    `/versions${w}`,
    `/travel${w}`,
    '/settings',
    '/help',
  ]) {
    await page.goto(`${server.address}${view}`);
    await expect(page.getByText(/^Reading …$/)).toHaveCount(0);
    await axe(page, view);
  }
  await page.goto(`${server.address}/overview${w}`);
  await page.getByRole('button', { name: 'Make them travel…' }).click();
  await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeVisible();
  await axe(page, 'plan');
});
