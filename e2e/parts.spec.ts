// Part of a scene into another, settings side by side, one file and back, as a user does it; what lies on the disk afterwards.

import { expect, test } from 'playwright/test';
import { NodeIO } from '@gltf-transform/core';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, choose, openDemo, watch } from './steps';
import { servedDemo, users, theDemo } from './server';

let market = '';
const server = servedDemo(({ folder }) => {
  market = path.join(folder, 'harbour-lantern/bench/work/2026-05 Fish Market');
});
test.beforeEach(({ page }) => watch(page));

test('a lamp out of one scene into another: picked, its levels, names that clash, undone to the byte', async ({
  page,
}) => {
  const harbour = server.root;
  const before = { harbour: users(harbour), market: users(market) };
  const scene = path.join(harbour, 'scenes/harbour_v007.gltf');
  const was = fs.readFileSync(scene, 'utf8');
  const w = await openDemo(page, server.address);
  await page.goto(`${server.address}/carry${w}`);
  await page.getByRole('tab', { name: 'Part of a scene' }).click();
  await choose(page, 'From', 'Fish Market');
  await choose(page, 'Scene', 'scenes/market_v002.gltf');
  await page.getByRole('textbox', { name: 'Name or pattern' }).fill('la*');
  await page.getByRole('button', { name: 'Pick all 2' }).click();
  await page.getByRole('textbox', { name: 'Name or pattern' }).fill('');
  // What stands below another of them comes with it.
  const tree = page.getByRole('treegrid', { name: 'Nodes of the scene' });
  await expect(tree.getByRole('row', { name: 'lamp' })).toHaveAttribute('aria-selected', 'true');
  await choose(page, 'Scene it goes into', 'scenes/harbour_v007.gltf');
  await choose(page, 'Under', 'Pier');
  await expect(page.getByRole('region', { name: 'Level 3' }).getByText('for lantern glass')).toBeVisible();
  const taken = page.getByRole('group', { name: 'material iron is there' });
  await taken.getByRole('button', { name: 'use what is there' }).click();
  await expect(page.getByRole('region', { name: 'Level 3' })).toBeVisible();
  await axe(page, 'part of a scene');
  await page.reload();
  await expect(taken.getByRole('button', { name: 'use what is there' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.getByRole('button', { name: 'Plan the carrying…' }).click();
  await expect(
    page.getByText('The material “iron” of harbour_v007.gltf is used, though it is another.'),
  ).toBeVisible();
  expect(users(harbour)).toEqual(before.harbour);
  await apply(page);
  const after = users(harbour);
  const news = Object.keys(after).filter((name) => !(name in before.harbour));
  expect(news).toEqual(['scenes/harbour_v007_lamp.bin']);
  expect(Object.keys(before.harbour).filter((n) => after[n] !== before.harbour[n])).toEqual([
    'scenes/harbour_v007.gltf',
  ]);
  const now = JSON.parse(fs.readFileSync(scene, 'utf8')) as {
    nodes: { name: string }[];
    materials: { name: string }[];
  };
  const old = JSON.parse(was) as typeof now;
  expect(now.nodes.slice(0, old.nodes.length).filter((n) => n.name !== 'Pier')).toEqual(
    old.nodes.filter((n) => n.name !== 'Pier'),
  );
  expect(now.materials.map((m) => m.name)).toEqual([...old.materials.map((m) => m.name), 'glass_2']);
  // Where it stood in the world, it stands.
  const world = async (file: string) => {
    const node = (await new NodeIO().read(file))
      .getRoot()
      .listNodes()
      .find((n) => n.getName() === 'lantern glass')!;
    return node.getWorldTranslation().map((x) => Number(x.toFixed(6)));
  };
  const missing = JSON.parse(fs.readFileSync(scene, 'utf8')) as { images?: unknown; textures?: unknown };
  // The other reader wants pictures that the demo does not have.
  delete missing.images;
  delete missing.textures;
  const probe = path.join(path.dirname(scene), 'probe.gltf');
  const bare = JSON.stringify({ ...missing, materials: undefined, samplers: undefined })
    .replace(/"material":\d+,?/g, '')
    .replace(/,}/g, '}');
  fs.writeFileSync(probe, bare);
  expect(await world(probe)).toEqual(await world(path.join(market, 'scenes/market_v002.gltf')));
  fs.rmSync(probe);
  expect(users(market)).toEqual(before.market);
  await page.goto(`${server.address}/ledger${w}`);
  await page
    .getByRole('main')
    .getByRole('button', { name: /^Undo: Carry “lamp”/ })
    .click();
  await apply(page);
  expect(users(harbour)).toEqual(before.harbour);
});

test('settings side by side: differences first, ticked ones taken over in both directions', async ({
  page,
}) => {
  const marker = (root: string) =>
    JSON.parse(fs.readFileSync(path.join(root, '.satchel/workspace.json'), 'utf8')) as {
      name: string;
      units?: { unit: string; grid: object };
      places: { name: string }[];
    };
  const was = { harbour: marker(server.root), market: marker(market) };
  const w = await theDemo(server);
  await page.goto(`${server.address}/carry${w}&view=settings`);
  await choose(page, 'Beside', 'Fish Market');
  await expect(page.getByRole('row', { name: /Unit metres centimetres/ })).toBeVisible();
  await expect(page.getByRole('cell', { name: '50 cm (0.5 m)' })).toBeVisible();
  await axe(page, 'settings side by side');
  await page.getByRole('checkbox', { name: 'A line every' }).check();
  await page.getByRole('button', { name: 'Take 1 over into Harbour Lantern…' }).click();
  await apply(page);
  expect(marker(server.root).units).toMatchObject({ unit: 'm', grid: { spacing: 0.5 } });
  expect(marker(market)).toEqual(was.market);
  await page.goto(`${server.address}/carry${w}&view=settings`);
  await choose(page, 'Beside', 'Fish Market');
  await page.getByRole('checkbox', { name: 'Place Blue stick' }).check();
  await page.getByRole('button', { name: 'Take 1 over into Fish Market…' }).click();
  await apply(page);
  expect(marker(market).places.map((p) => p.name)).toEqual([
    ...was.market.places.map((p) => p.name),
    'Blue stick',
  ]);
  expect(marker(market).units).toEqual(was.market.units);
  // Two scenes.
  await page.goto(`${server.address}/carry${w}&view=settings`);
  await page.getByRole('button', { name: 'Two scenes' }).click();
  await choose(page, 'Scene of Harbour Lantern', 'scenes/quay.usda');
  await choose(page, 'Scene of', 'Fish Market');
  await choose(page, 'Scene', 'models/crane.usda');
  await page.getByRole('checkbox', { name: 'Unit' }).check();
  await page.getByRole('button', { name: 'Take 1 over into crane.usda…' }).click();
  await expect(page.getByText(/its geometry stays as it is/)).toBeVisible();
  const crane = fs.readFileSync(path.join(market, 'models/crane.usda'), 'utf8');
  await apply(page);
  const now = fs.readFileSync(path.join(market, 'models/crane.usda'), 'utf8');
  expect(now.replace(/metersPerUnit = 1\b/, 'metersPerUnit = 0.01')).toBe(crane);
});

test('one file of a scene with all it needs, and taken apart into the homes again', async ({ page }) => {
  const before = users(server.root);
  const w = await theDemo(server);
  await page.goto(`${server.address}/files${w}&folder=models&file=models/crate.obj`);
  await page.getByRole('button', { name: 'Write as crate.zip…' }).click();
  await expect(page.getByText(/become one of/)).toBeVisible();
  await apply(page);
  expect(Object.keys(users(server.root)).filter((n) => !(n in before))).toEqual(['models/crate.zip']);
  await page.goto(`${server.address}/files${w}&folder=models&file=models/lantern.glb`);
  await page.getByRole('button', { name: 'Take apart into the homes…' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Take lantern.glb apart');
  await apply(page);
  const news = Object.keys(users(server.root)).filter((n) => !(n in before));
  expect(news.filter((n) => n.endsWith('.gltf'))).toEqual(['scenes/lantern.gltf']);
  const text = JSON.parse(fs.readFileSync(path.join(server.root, 'scenes/lantern.gltf'), 'utf8')) as {
    images?: { uri: string }[];
    buffers: { uri: string }[];
  };
  for (const { uri } of [...(text.images ?? []), ...text.buffers])
    expect([uri, fs.existsSync(path.resolve(server.root, 'scenes', decodeURIComponent(uri)))]).toEqual([
      uri,
      true,
    ]);
  await page.goto(`${server.address}/ledger${w}`);
  for (const name of [/^Undo: Take lantern\.glb apart/, /^Undo: Put crate\.obj/]) {
    await page.getByRole('main').getByRole('button', { name }).click();
    await apply(page);
    await page.goto(`${server.address}/ledger${w}`);
  }
  expect(users(server.root)).toEqual(before);
});
