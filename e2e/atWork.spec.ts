// References at work: the table, the scene in space, the map, the room, what is there twice, the ledger, bases and libraries and places, by pointer and
// by keyboard alone; every planted trouble is repaired without a path being typed, and undone to the same bytes.

import { expect, test, type Page } from 'playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { zipSync } from 'fflate';
import { gzipSync } from 'node:zlib';
import sharp from 'sharp';
import { servedDemo, snapshot, theDemo } from './server';
import { apply, axe, openDemo, tabTo, watch } from './steps';

const server = servedDemo();
test.beforeEach(({ page }) => watch(page));

const text = (file: string) => fs.readFileSync(path.join(server.root, file), 'utf8');
const ready = (page: Page, n: number) => expect(page.getByText(`${n} of 53`).first()).toBeVisible();
const stage = (page: Page) => page.locator('[data-testid=stage][data-ready=true] canvas').waitFor();

/** Undoes plans from the ledger, the latest first, until none is in force. */
async function undoAll(page: Page, w: string): Promise<void> {
  for (let n = 0; n < 12; n++) {
    await page.goto(`${server.address}/ledger${w}&show=holding`);
    await page
      .getByText(/in force/)
      .first()
      .waitFor();
    const undo = page
      .getByRole('main')
      .getByRole('button', { name: /^Undo: / })
      .first();
    if ((await undo.count()) === 0) return;
    await undo.click();
    await apply(page);
  }
  throw new Error('there was always one more to undo');
}

test('the table: grouped, searched, sorted, columns chosen and kept; the address keeps the view', async ({
  page,
}) => {
  const w = await openDemo(page, server.address);
  await page.goto(`${server.address}/references${w}`);
  const grid = page.getByRole('grid', { name: 'References' });
  await page.getByRole('button', { name: 'Grouped by scene' }).click();
  await page.getByRole('menuitemradio', { name: 'state' }).click();
  await expect(grid.getByRole('row').nth(1)).toContainText('missing· 6 of 6 need attention');
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Leads to' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Used by' }).click();
  await page.keyboard.press('Escape');
  await expect(grid.getByRole('columnheader')).toHaveText([
    'Selected',
    'Picture',
    'State',
    'Written path',
    'Leads to',
    'Size',
  ]);
  await page.getByRole('button', { name: 'Size', exact: true }).click();
  await expect(grid.getByRole('columnheader', { name: 'Size' })).toHaveAttribute('aria-sort', 'ascending');
  const width = page.getByRole('separator', { name: 'Width of Leads to' });
  const before = Number(await width.getAttribute('aria-valuenow'));
  await width.focus();
  await page.keyboard.press('ArrowRight');
  await expect(width).toHaveAttribute('aria-valuenow', String(before + 16));
  await page.keyboard.press('/');
  await page.keyboard.type('kind:texture in:textures -stone scene:harbour_v007');
  await expect(page.getByText('4 references in 3 groups')).toBeVisible();
  await expect(page).toHaveURL(/q=kind/); // the address follows when the typing rests
  await page.reload();
  await expect(page.getByText('4 references in 3 groups')).toBeVisible();
  await expect(grid.getByRole('columnheader')).toHaveText([
    'Selected',
    'Picture',
    'State',
    'Written path',
    'Leads to',
    'Size',
  ]);
});

test('what is chosen: by group, by range, by likeness', async ({ page }) => {
  const w = await theDemo(server);
  await page.goto(`${server.address}/references${w}&q=scene:boat`);
  await page.getByRole('button', { name: 'select 8' }).click();
  await expect(page.getByText('8 selected')).toBeVisible();
  await page.getByRole('button', { name: 'select 8' }).click();
  await expect(page.getByText('8 selected')).toHaveCount(0);
  await page.getByRole('grid').focus();
  for (const key of ['Home', 'ArrowDown', ' ']) await page.keyboard.press(key);
  await expect(page.getByText('1 selected')).toBeVisible();
  const like = async (name: string, n: number) => {
    await page.getByRole('button', { name: 'And all like it' }).click();
    await page.getByRole('menuitem', { name, exact: true }).click();
    await expect(page.getByText(`${n} selected`)).toBeVisible();
  };
  await like('All from the same folder', 2);
  // What is selected waits over a reload and another page, until it is cleared.
  await page.reload();
  await expect(page.getByText('2 selected')).toBeVisible();
  await page.goto(`${server.address}/files${w}`);
  await page.goto(`${server.address}/references${w}`);
  await expect(page.getByText('2 selected')).toBeVisible();
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await page.getByRole('grid').focus();
  for (const key of ['Home', 'ArrowDown', ' ']) await page.keyboard.press(key);
  await like('All that share this problem', 1);
  await like('All of the same kind', 39);
  await page.getByRole('grid').focus();
  for (const key of ['Escape', 'Home', 'Shift+End']) await page.keyboard.press(key);
  await expect(page.getByText('53 selected')).toBeVisible();
});

/** How many pixels of the scene are of the stripes' amber. */
async function amber(page: Page): Promise<number> {
  await page.waitForTimeout(400);
  const { data } = await sharp(await page.locator('[data-testid=stage] canvas').screenshot())
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  let n = 0;
  for (let i = 0; i < data.length; i += 3)
    if (data[i]! > data[i + 2]! * 3 && data[i]! > 120 && Math.abs(data[i + 1]! / data[i]! - 0.69) < 0.08) n++;
  return n;
}

test('a scene in space: what is missing is striped with its name, picked both ways; repaired, the stripes are gone', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/references${w}&q=scene:harbour_v007`);
  await page.getByRole('button', { name: 'see it' }).click();
  await stage(page);
  await expect(page.getByText('1 object of 6 lacks a texture.')).toBeVisible();
  await expect(page.getByTestId('stage').getByText('sand_base.png')).toBeVisible();
  expect(await amber(page)).toBeGreaterThan(5000);
  await page.locator('canvas').click();
  const list = page.getByRole('group', { name: 'References of this scene' });
  await expect(list.getByText(/^(tower|beach)$/)).toBeVisible();
  await list.getByRole('button', { name: 'all of them' }).click();
  await list.getByRole('button', { name: /sand_base/ }).click();
  await page.getByRole('button', { name: 'Point it there…' }).click();
  await apply(page);
  await stage(page);
  await expect(page.getByText('lacks a texture')).toHaveCount(0);
  expect(await amber(page)).toBeLessThan(500);
  // Each of its pictures on a ball: it has no material.
  await page.goto(`${server.address}/references${w}&see=models/timber.mtlx`);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-drawn', '2');
  await undoAll(page, w);
  expect(snapshot(server.root)).toEqual(before);
});

test('other formats in space; pictures of formats that no browser knows', async ({ page }) => {
  const w = await theDemo(server);
  for (const [scene, said] of [
    ['models/crate.obj', '1 object of 1 lacks a texture.'],
    ['models/lantern.glb', '1 reference of 3'],
    ['scenes/quay.usda', '2 references of 4'],
    ['models/buoys.wrl', '1 reference of 3'],
    ['models/rope_coil.ply', 'Its one reference would open'],
    ['models/hook.3mf', 'It needs no other file.'],
    ['models/signal_set.usdz', 'It needs no other file.'],
    ['models/boathouse.dae', 'All 2 references'],
  ] as const) {
    await page.goto(`${server.address}/references${w}&see=${scene}`);
    await stage(page);
    await expect(page.getByText(said), scene).toBeVisible();
  }
  const tga = Buffer.concat([
    Buffer.from([0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 2, 0, 2, 0, 24, 0x20]),
    Buffer.from([0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 255]),
  ]);
  const hdr = Buffer.concat([
    Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 2\n'),
    Buffer.from([128, 0, 0, 129, 0, 128, 0, 129]),
  ]);
  for (const [name, bytes] of [
    ['zz.tga', tga],
    ['zz.hdr', hdr],
    ['zz.ktx2', fs.readFileSync(path.resolve('src/server/facts/testing/etc1s.ktx2'))],
    [
      'zz.tif',
      await sharp({ create: { width: 4, height: 4, channels: 3, background: '#369' } })
        .tiff()
        .toBuffer(),
    ],
  ] as const) {
    const file = path.join(server.root, 'textures', name);
    fs.writeFileSync(file, bytes);
    await page.goto(`${server.address}/files${w}&folder=textures&file=textures/${name}`);
    const picture = page.getByRole('img', { name: `Picture of ${name}` });
    await expect(picture).toBeVisible();
    expect(
      await picture.evaluate((i: HTMLImageElement) => i.decode().then(() => i.naturalWidth)),
    ).toBeGreaterThan(1);
    fs.rmSync(file);
  }
});

test('what real files hold is shown in space: a missing buffer, packed geometry, X3D in XML; and a sentence where nothing can be', async ({
  page,
}) => {
  const w = await theDemo(server);
  const put = (name: string, content: string | Buffer) =>
    fs.writeFileSync(path.join(server.root, 'models', name), content);
  const boat = JSON.parse(text('scenes/boat_v004.gltf')) as {
    buffers: { uri: string; byteLength: number }[];
    bufferViews: object[];
    accessors: object[];
    meshes: object[];
    nodes: object[];
    scenes: { nodes: number[] }[];
  };
  // A second object, in a buffer that is not there.
  boat.buffers = boat.buffers.map((b) => ({ ...b, uri: `../scenes/${b.uri}` }));
  boat.buffers.push({ uri: 'gone.bin', byteLength: 36 });
  boat.bufferViews.push({ buffer: boat.buffers.length - 1, byteLength: 36 });
  boat.accessors.push({
    bufferView: boat.bufferViews.length - 1,
    componentType: 5126,
    count: 3,
    type: 'VEC3',
    min: [0, 0, 0],
    max: [1, 1, 1],
  });
  boat.meshes.push({ primitives: [{ attributes: { POSITION: boat.accessors.length - 1 } }] });
  boat.nodes.push({ mesh: boat.meshes.length - 1 });
  boat.scenes[0]!.nodes.push(boat.nodes.length - 1);
  put('half.gltf', JSON.stringify(boat));
  put(
    'cone.x3d',
    '<?xml version="1.0"?><X3D profile="Immersive" version="3.3"><head><meta name="title" content="cone.x3d"/></head><Scene><Transform translation="1 0 0"><Shape><Appearance><Material diffuseColor="0.8 0.2 0.1"/></Appearance><Cone/></Shape></Transform></Scene></X3D>',
  );
  put(
    'odd.dae',
    '<?xml version="1.0"?><COLLADA version="1.4.1"><scene><instance_visual_scene url="#none"/></scene></COLLADA>',
  );
  put('wide.obj', Buffer.from('\ufeffv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n', 'utf16le'));
  // Strips of triangles, which the browser's own reader leaves out; in a package with its picture; in gzip.
  const strip = (picture = '') =>
    `<?xml version="1.0" encoding="utf-8"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset><unit meter="0.01"/><up_axis>Z_UP</up_axis></asset>${
      picture === ''
        ? ''
        : `<library_images><image id="i"><init_from>${picture}</init_from></image></library_images><library_effects><effect id="e"><profile_COMMON><newparam sid="s"><surface type="2D"><init_from>i</init_from></surface></newparam><newparam sid="m"><sampler2D><source>s</source></sampler2D></newparam><technique sid="c"><lambert><diffuse><texture texture="m" texcoord="u"/></diffuse></lambert></technique></profile_COMMON></effect></library_effects><library_materials><material id="mat"><instance_effect url="#e"/></material></library_materials>`
    }<library_geometries><geometry id="g"><mesh><source id="p"><float_array id="pa" count="12">0 0 0 100 0 0 0 0 100 100 0 100</float_array><technique_common><accessor source="#pa" count="4" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source><vertices id="v"><input semantic="POSITION" source="#p"/></vertices><tristrips count="1" material="a"><input semantic="VERTEX" source="#v" offset="0"/><p>0 1 2 3</p></tristrips></mesh></geometry></library_geometries><library_visual_scenes><visual_scene id="s0"><node id="n"><instance_geometry url="#g">${picture === '' ? '' : '<bind_material><technique_common><instance_material symbol="a" target="#mat"/></technique_common></bind_material>'}</instance_geometry></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s0"/></scene></COLLADA>`;
  put('strip.dae', strip('../textures/signal_red.png'));
  put('packed.dae', gzipSync(strip()));
  put(
    'kit.zae',
    Buffer.from(
      zipSync({
        'm/kit.dae': new TextEncoder().encode(strip('../t/own%20red.png')),
        't/own red.png': fs.readFileSync(path.join(server.root, 'textures/signal_red.png')),
      }),
    ),
  );
  put(
    'proto.wrl',
    '#VRML V2.0 utf8\nPROTO Mast [ field SFFloat tall 2 field MFString paint "../textures/signal_red.png" ] { Group { children [ Shape { geometry Cylinder { height IS tall radius 0.1 } appearance Appearance { texture ImageTexture { url IS paint } } } Shape { geometry Text { string "MAST" } } ] } }\nMast {} Transform { translation 2 0 0 children Mast { tall 4 } }\nScript { field SFNode at USE none url "javascript: function go() {}" }\n',
  );
  const samples = path.resolve('.cache/samples/usr/share/assimp/models/glTF2/draco');
  const seen: [string, number][] = [
    ['half.gltf', 3],
    ['cone.x3d', 1],
    ['wide.obj', 1],
    ['strip.dae', 1],
    ['packed.dae', 1],
    ['kit.zae', 1],
    ['proto.wrl', 4],
  ];
  if (fs.existsSync(samples)) {
    for (const f of fs.readdirSync(samples)) put(f, fs.readFileSync(path.join(samples, f)));
    seen.push(['2CylinderEngine.gltf', 10]);
  }
  for (const [name] of seen) {
    await page.goto(`${server.address}/references${w}&see=models/${name}`);
    await stage(page);
    await expect(page.getByText(/cannot make out|could be drawn/), name).toHaveCount(0);
    const shot = await page.locator('[data-testid=stage] canvas').screenshot();
    const { data } = await sharp(shot)
      .removeAlpha()
      .resize(64, 48)
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([
      name,
      new Set(Array.from({ length: 64 * 48 }, (_, i) => data.readUIntBE(i * 3, 3))).size > 20,
    ]).toEqual([name, true]);
    if (name === 'half.gltf')
      await expect(page.getByText('gone.bin is missing: 1 object cannot be shown.')).toBeVisible();
  }
  await page.goto(`${server.address}/references${w}&see=models/odd.dae`);
  await expect(
    page.getByText(/cannot make out what is in it|holds nothing that could be drawn/).first(),
  ).toBeVisible();
  await expect(page.getByText(/undefined|TypeError/)).toHaveCount(0);
  for (const f of [
    'half.gltf',
    'cone.x3d',
    'odd.dae',
    'wide.obj',
    '2CylinderEngine.gltf',
    '2CylinderEngine.bin',
    'strip.dae',
    'packed.dae',
    'kit.zae',
    'proto.wrl',
  ])
    fs.rmSync(path.join(server.root, 'models', f), { force: true });
});

test('map, room, and what is there twice; each leads on, merging is undone to the same bytes', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/map${w}`);
  await expect(page.getByText('17 scenes and material files lead to 21 files.')).toBeVisible();
  await page.locator('svg text').filter({ hasText: 'textures · 10' }).waitFor();
  const list = page.getByRole('list', { name: 'What the map shows' });
  await expect(list.getByRole('button').first()).toContainText('boat_v004.gltf');
  await list.getByRole('button', { name: /travels textures/ }).click();
  await page.getByRole('button', { name: 'Open', exact: true }).click();
  await expect(list.getByRole('button', { name: /stone_normal\.png/ })).toBeVisible();
  await list.getByRole('button', { name: /boat_v004/ }).click();
  await page.getByRole('link', { name: 'See in the table' }).click();
  await expect(page.getByText('8 references in 1 group')).toBeVisible();
  await page.goto(`${server.address}/files${w}&view=room`);
  await page
    .locator('svg text')
    .filter({ hasText: /^stone_base/ })
    .first()
    .waitFor();
  await page.getByRole('button', { name: 'By use' }).click();
  await expect(
    page.getByRole('list', { name: 'Room' }).getByRole('button', { name: 'used by nothing' }),
  ).toBeVisible();
  await page.getByRole('list', { name: 'Room' }).getByRole('button', { name: 'used by a scene' }).click();
  await page.getByRole('list', { name: 'Room' }).getByRole('button', { name: 'caches/sea' }).click();
  await expect(page.getByRole('row', { name: 'sea.0001.ply' })).toBeVisible();
  await page.goto(`${server.address}/files${w}&view=twice`);
  await page.getByRole('radio', { name: /quay stones\.png/ }).check();
  await page.getByRole('button', { name: /^Merge 1 group/ }).click();
  await expect(
    page.getByRole('heading', { name: /Merge one file into reference\/quay stones\.png/ }),
  ).toBeVisible();
  expect(snapshot(server.root)).toEqual(before);
  await apply(page);
  expect(fs.existsSync(path.join(server.root, 'textures/stone_base.png'))).toBe(false);
  expect(text('scenes/harbour_v007.gltf')).toContain('"../reference/quay%20stones.png"');
  expect(text('scenes/quay_look.usda')).toContain('@../reference/quay stones.png@');
  await ready(page, 33);
  await undoAll(page, w);
  expect(snapshot(server.root)).toEqual(before);
});

test('a folder renamed: every path to what is in it follows, and the home it is; undone to the same bytes', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/files${w}&folder=textures`);
  await page.getByRole('button', { name: 'Rename this folder…' }).click();
  await page.getByLabel('The folder’s path from the root').fill('art/tex');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Rename textures to tex' })).toBeVisible();
  await apply(page);
  expect(fs.existsSync(path.join(server.root, 'art/tex/stone_base.png'))).toBe(true);
  expect(text('scenes/harbour_v007.gltf')).toContain('"../art/tex/stone_base.png"');
  expect(JSON.parse(text('.satchel/workspace.json')).homes.texture).toBe('art/tex');
  await undoAll(page, w);
  expect(snapshot(server.root)).toEqual(before);
});

test('the ledger: undone in any order where nothing later stands on it, with the reason where it does', async ({
  page,
}) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  const relink = async (q: string, file: string) => {
    await page.goto(`${server.address}/references${w}&q=${q}`);
    await page.getByText(file).first().click();
    await page.getByRole('button', { name: /^(Point it there|Match the letters|Make it travel)…$/ }).click();
    await apply(page);
  };
  await relink('scene:boat_v004', 'hull_planks_base.png');
  await relink('scene:harbour_v005', 'Lantern_Glass.PNG');
  await relink('scene:boat_v004', 'sail_base.png');
  await page.goto(`${server.address}/ledger${w}`);
  const entry = (title: string) =>
    page.locator('li[data-state=applied]').filter({ hasNotText: 'Undo: ' }).filter({ hasText: title });
  await expect(page.getByText('3 plans in force, 2 of them can be undone now.')).toBeVisible();
  await expect(entry('Relink hull_planks_base.png in boat_v004.gltf')).toContainText(
    '“Make sail_base.png travel” has changed the same files since. Undo that first.',
  );
  await entry('lantern_glass.png').getByRole('button', { name: /^Undo/ }).click();
  await apply(page);
  expect(text('scenes/harbour_v005.gltf')).toBe(
    Buffer.from(before['scenes/harbour_v005.gltf']!, 'base64').toString(),
  );
  expect(text('scenes/boat_v004.gltf')).toContain('"../textures/hull_planks_base.png"');
  // The drawer tells the same history.
  await page.goto(
    `${server.address}/references${w}&q=scene:boat_v004&scene=scenes/boat_v004.gltf&at=/images/0/uri`,
  );
  await expect(
    page.getByRole('complementary').getByRole('link', { name: 'Make sail_base.png travel' }),
  ).toBeVisible();
  await undoAll(page, w);
  expect(snapshot(server.root)).toEqual(before);
});

test('bases, libraries by name, and paths as other machines have them', async ({ page }) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  const lantern = () => fs.readFileSync(path.join(server.root, 'models/lantern.glb'), 'latin1');
  await page.goto(`${server.address}/references${w}&state=library`);
  await page.getByText('bollard_iron.png').first().click();
  await expect(page.getByText('//barn/kits/harbour/textures/bollard_iron.png')).toBeVisible();
  await page.getByRole('button', { name: 'Write it by the library’s name…' }).click();
  await apply(page);
  expect(lantern()).toContain('"%7Bharbour%20kit%7D/textures/bollard_iron.png"');
  await expect(page.getByText(/begins with a library's name/)).toBeVisible();
  await page.getByRole('button', { name: 'Write its path out…' }).click();
  await apply(page);
  expect(snapshot(server.root)['models/lantern.glb']).toBe(before['models/lantern.glb']);
  await page
    .getByRole('button', { name: 'Write it as //barn/kits/harbour/textures/bollard_iron.png' })
    .click();
  await apply(page);
  expect(lantern()).toContain('"//barn/kits/harbour/textures/bollard_iron.png"');
  await undoAll(page, w);
  await page.goto(`${server.address}/references${w}&q=scene:moorings kind:scene`);
  await page.getByRole('button', { name: /^select/ }).click();
  await page.getByRole('button', { name: 'Change 6 paths…' }).click();
  await page.getByRole('checkbox', { name: 'with all scenes that these lead to' }).check();
  await page.getByRole('button', { name: 'absolute…' }).click();
  await apply(page);
  expect(text('scenes/quay_look.usda')).toContain(`@${server.root}/textures/stone_base.png@`);
  await undoAll(page, w);
  await page.goto(`${server.address}/references${w}&q=storm_sky`);
  await page.getByRole('button', { name: 'Change these paths…' }).click();
  await page.getByRole('button', { name: '/Volumes/Blue stick' }).click();
  await page.getByRole('button', { name: 'Plan 1 change…' }).click();
  await apply(page);
  expect(text('scenes/boat_v004.gltf')).toContain('"/Volumes/Blue%20stick/skies/storm_sky.png"');
  await undoAll(page, w);
  expect(snapshot(server.root)).toEqual(before);
  await page.goto(`${server.address}/settings${w}&tab=outside`);
  await page.getByLabel('See a path as the other machines have it').fill('/Volumes/Blue stick/a/b.exr');
  await expect(page.getByText('E:/a/b.exr')).toBeVisible();
});

test('every planted trouble is repaired without a path being typed, and undone to the same bytes', async ({
  page,
}) => {
  test.setTimeout(240_000);
  const w = await theDemo(server);
  const before = snapshot(server.root);
  const references = (more = '') => page.goto(`${server.address}/references${w}${more}`);
  await references();
  await page.getByRole('button', { name: 'Relink what is sure…' }).click();
  await apply(page);
  await ready(page, 41);
  await page.getByRole('button', { name: 'Make them travel…' }).click();
  await apply(page);
  await ready(page, 46);
  // Nothing like it anywhere; on a stick that is not plugged in; on the web: another file is chosen.
  for (const [state, file, choice] of [
    ['missing', 'crate_gloss.png', 'crate_wood.png'],
    ['offline', 'storm_sky.png', 'sand_base.png'],
    ['remote', 'sticker.png', 'signal_red.png'],
  ] as const) {
    await references(`&state=${state}`);
    await page.getByText(file).first().click();
    await page.getByRole('button', { name: 'Choose a file yourself…' }).click();
    await page.getByRole('option', { name: 'textures' }).click();
    await page.keyboard.press('Enter');
    await page.getByRole('option', { name: choice }).click();
    await page.getByRole('button', { name: 'Point it there', exact: true }).click();
    await apply(page);
  }
  await expect(page.getByText('49 of 53').first()).toBeVisible();
  await page.goto(`${server.address}/files${w}&view=unused`);
  await page.getByRole('button', { name: /^Clear \d+ files? to the bin/ }).click();
  await apply(page);
  await page.goto(`${server.address}/files${w}&view=twice`);
  await page.getByRole('button', { name: /^Merge 1 group/ }).click();
  await apply(page);
  await page.goto(`${server.address}/files${w}&view=unused`);
  await expect(page.getByText('Nothing lies idle.')).toBeVisible();
  await undoAll(page, w);
  expect(snapshot(server.root)).toEqual(before);
});

test('the whole repair by keyboard alone', async ({ page }) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/overview${w}`);
  await ready(page, 33);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('References');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'References' })).toBeVisible();
  await page.getByRole('grid').waitFor();
  await page.keyboard.press('/');
  await page.keyboard.type('hull_planks scene:boat');
  await expect(page.getByText('2 references in 1 group')).toBeVisible();
  await tabTo(page, /^References$/);
  for (const key of ['Home', 'ArrowDown', 'Enter']) await page.keyboard.press(key);
  await expect(page.getByRole('button', { name: 'Point it there…' })).toBeVisible();
  await expect(page.getByRole('button', { name: /moved the same way/ })).toBeEnabled();
  await tabTo(page, /moved the same way/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Relink 2 references' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeEnabled();
  await tabTo(page, /^Apply the plan$/);
  await page.keyboard.press('Enter');
  await page.waitForURL((url) => !url.pathname.startsWith('/plan'));
  await ready(page, 35);
  expect(text('scenes/boat_v004.gltf')).toContain('"../textures/hull_planks_normal.png"');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Ledger');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/in force/).first()).toBeVisible();
  await tabTo(page, /^Undo: Relink 2/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeEnabled();
  await tabTo(page, /^Apply the plan$/);
  await page.keyboard.press('Enter');
  await page.waitForURL((url) => !url.pathname.startsWith('/plan'));
  expect(snapshot(server.root)).toEqual(before);
});

test('axe finds nothing where references are at work, in both themes', async ({ page }) => {
  const w = await theDemo(server);
  await page.goto(`${server.address}/references${w}&group=state&sort=size`);
  await page.getByRole('button', { name: 'select 6' }).click();
  await axe(page, 'table, grouped by state');
  await page.goto(`${server.address}/references${w}&see=scenes/boat_v004.gltf`);
  await stage(page);
  await axe(page, 'a scene in space');
  await page.goto(`${server.address}/references${w}&scene=models/lantern.glb&at=/images/2/uri`);
  await page.getByText('On other machines').waitFor();
  await axe(page, 'drawer');
  await page.goto(`${server.address}/map${w}`);
  await page.locator('svg text').first().waitFor();
  await page.getByRole('list', { name: 'What the map shows' }).getByRole('button').first().click();
  await axe(page, 'map');
  for (const view of ['room', 'twice', 'unused']) {
    await page.goto(`${server.address}/files${w}&view=${view}`);
    await page.getByRole('heading', { name: 'Files' }).waitFor();
    await page.waitForTimeout(900);
    await axe(page, view);
  }
  await page.goto(`${server.address}/ledger${w}`);
  await page.getByRole('heading', { name: 'Ledger' }).waitFor();
  await axe(page, 'ledger');
  await page.goto(`${server.address}/settings${w}&tab=outside`);
  await page.getByRole('heading', { name: 'Places' }).waitFor();
  await axe(page, 'places');
});
