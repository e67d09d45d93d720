// Collecting and carrying over as a user does it; what lies on the disk afterwards.

import { expect, test } from 'playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, choose, openDemo, watch } from './steps';
import { servedDemo, snapshot, users, theDemo } from './server';

let bench = '';
const server = servedDemo(({ folder }) => {
  bench = path.join(folder, 'harbour-lantern/bench');
});
test.beforeEach(({ page }) => watch(page));

interface Scene {
  images?: { uri?: string }[];
  buffers?: { uri?: string }[];
}

test('collected for a client: ticks warn, the tree is arranged by hand, one plan fills one folder; undone it is empty', async ({
  page,
}) => {
  const before = users(bench);
  const w = await openDemo(page, server.address);
  await page.getByRole('link', { name: 'Collect', exact: true }).click();
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
  await expect(folder.getByRole('row', { name: 'iron_base.png' })).toHaveAttribute('aria-level', '3');
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

test('only the frames that are shown, as a workspace of its own, by a preset that is kept', async ({
  page,
}) => {
  const w = await theDemo(server);
  await page.goto(`${server.address}/collect${w}`);
  await page.getByRole('button', { name: /Leave out frames and tiles/ }).click();
  await page.getByLabel('From frame').first().fill('5');
  await page.getByLabel('to frame').first().fill('9');
  await page.keyboard.press('Enter');
  await expect(page.getByText('frames 5 to 9 are shown')).toBeVisible();
  await page.getByRole('button', { name: 'as it lies' }).click();
  await page.getByRole('button', { name: 'Presets…' }).click();
  await page.getByLabel('Keep what is chosen now as').fill('As it lies');
  await page.keyboard.press('Enter');
  await expect(
    page.getByRole('list', { name: 'Kept presets' }).getByText('as it lies').first(),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Done' }).click();
  await page.getByRole('button', { name: 'by kind' }).last().click();
  await page.getByRole('button', { name: 'Presets…' }).click();
  await page.getByRole('button', { name: /^As it lies/ }).click();
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByRole('button', { name: 'as it lies' })).toHaveAttribute('aria-pressed', 'true');
  await choose(page, 'As', 'a workspace of its own');
  await page.getByLabel('New folder', { exact: true }).fill('Harbour small');
  await page.getByRole('button', { name: 'Plan the collecting…' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Collect Harbour small');
  await page.getByRole('button', { name: 'Apply the plan' }).click();
  // It is opened at once.
  await expect(page.getByRole('button', { name: /^Workspace Harbour small/ })).toBeVisible();
  const to = path.join(bench, 'Harbour small');
  expect(fs.readdirSync(path.join(to, 'caches/sea')).sort()).toEqual(
    [5, 6, 7, 8, 9].map((n) => `sea.000${n}.ply`),
  );
  const report = fs.readFileSync(path.join(to, 'what is in here.csv'), 'utf8');
  expect(report).toMatch(/^not-used,.*sea\.####\.ply/m);
});

test(
  'carried over from another workspace: levels, a warning for what is left out, a clash replaced, undone to the byte',
  { tag: '@quick' },
  async ({ page }) => {
    const w = await theDemo(server);
    const [harbour, market] = [server.root, path.join(bench, 'work/2026-05 Fish Market')];
    const before = { harbour: users(harbour), market: users(market) };
    await page.goto(`${server.address}/carry${w}`);
    await choose(page, 'From', 'Fish Market');
    const tree = page.getByRole('treegrid', { name: 'What is carried over' });
    await page.getByRole('textbox', { name: 'Search' }).fill('crane.usda');
    await tree.getByRole('row', { name: 'models/crane.usda' }).click();
    await page.getByRole('textbox', { name: 'Search' }).fill('');
    await tree.getByRole('row', { name: 'scenes' }).click();
    // The crane's material stands on another: without that it would be plain, and that is said at once.
    const parent = page.getByRole('region', { name: 'Level 3' });
    // Rows move as the second pick arrives.
    await expect(
      page.getByRole('region', { name: 'Level 1' }).getByText('scenes/market_v002.gltf'),
    ).toBeVisible();
    await parent.getByRole('checkbox', { name: 'materials/paint_base.mtlx' }).click();
    await expect(parent.getByText('crane_paint.mtlx needs it')).toBeVisible();
    await expect(page.getByText('One thing it needs is left out.')).toBeVisible();
    await expect(page.getByText('the same is there')).toBeVisible();
    const taken = page.getByRole('group', { name: 'textures/sail_base.png is another file' });
    await taken.getByRole('button', { name: 'replace what is there' }).click();
    await axe(page, 'carry over');
    // Kept over a reload, the plan looked at, and back.
    await page.reload();
    await expect(page.getByText('One thing it needs is left out.')).toBeVisible();
    await page.getByRole('button', { name: 'Plan the carrying…' }).click();
    await expect(page.getByText(/paint_base\.mtlx is left out\. crane_paint\.mtlx needs it/)).toBeVisible();
    await expect(page.getByText(/Sail_Base\.png takes the place of textures\/sail_base\.png/)).toBeVisible();
    expect(users(harbour)).toEqual(before.harbour);
    await apply(page);
    const after = users(harbour);
    const news = Object.keys(after).filter((name) => !(name in before.harbour));
    expect(news.sort()).toEqual([
      'materials/crane_paint.mtlx',
      'models/crane.usda',
      'scenes/market_v002.bin',
      'scenes/market_v002.gltf',
      'textures/crane_coat.png',
      'textures/iron_base(2).png',
    ]);
    const other = Object.keys(before.harbour).filter((name) => after[name] !== before.harbour[name]);
    expect(other).toEqual(['textures/sail_base.png']);
    expect(after['textures/sail_base.png']).toBe(before.market['textures/Sail_Base.png']);
    const uris = (
      JSON.parse(fs.readFileSync(path.join(harbour, 'scenes/market_v002.gltf'), 'utf8')) as Scene
    ).images!.map((i) => i.uri);
    expect(uris).toEqual([
      '../textures/crate_wood.png',
      '../textures/sail_base.png',
      '../textures/iron_base(2).png',
    ]);
    expect(users(market)).toEqual(before.market);
    await page.goto(`${server.address}/ledger${w}`);
    await page
      .getByRole('main')
      .getByRole('button', { name: /^Undo: Carry over/ })
      .click();
    await apply(page);
    expect(users(harbour)).toEqual(before.harbour);

    // The other way, beginning at a file.
    await page.goto(`${server.address}/files${w}&folder=models&file=models/lantern.glb`);
    await page.getByRole('button', { name: 'Carry into another workspace…' }).click();
    await page.getByRole('button', { name: 'See what comes along' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Carry over');
    await expect(page.getByText(/lantern\.glb of Harbour Lantern needs/)).toBeVisible();
    await expect(page.getByRole('region', { name: 'Level 2' }).getByText(/iron_base\.png/)).toBeVisible();
  },
);
