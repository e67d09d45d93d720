// Versions as an artist meets them: saved, lost, found again; with both habits, and the net under them. The disk is checked, not just the screen.

import { Document, NodeIO } from '@gltf-transform/core';
import { expect, test, type Page } from 'playwright/test';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { apply, axe, watch } from './steps';
import { anotherDemo, servedDemo, snapshot, type RunningServer, theDemo } from './server';

const served = servedDemo();
let server: RunningServer;
test.beforeEach(async ({ page }) => {
  server = await anotherDemo(served);
  watch(page);
});

const at = (file: string) => path.join(server.root, ...file.split('/'));
const read = (file: string) => fs.readFileSync(at(file), 'utf8');

/** Opens the versions of a scene. */
async function openVersions(page: Page, scene: string): Promise<string> {
  const w = await theDemo(server);
  await page.goto(`${server.address}/versions${w}&scene=${scene}`);
  await expect(page.getByRole('heading', { name: 'Versions' })).toBeVisible();
  return w;
}

const answer = (page: Page) => page.locator('.answer').first();

test('a program dies while it saves: the last good state is found and comes back; nothing else changed', async ({
  page,
}) => {
  await openVersions(page, 'scenes/boat_v004.gltf');
  const before = snapshot(server.root);
  const good = read('scenes/boat_v004.gltf').replace('"sail"', '"sail, mended"');
  fs.writeFileSync(at('scenes/boat_v004.gltf'), good);
  await page.getByRole('button', { name: 'Keep now' }).click();
  await expect(page.getByRole('row', { name: /kept by the net.*just now/ })).toHaveCount(1);
  fs.writeFileSync(at('scenes/boat_v004.gltf'), good.slice(0, 700));
  await page.getByRole('button', { name: 'Keep now' }).click();
  await expect(page.getByRole('row', { name: /kept by the net.*broken/ })).toHaveCount(1);
  await axe(page, 'versions with the net');
  // What differs is seen before anything is done.
  await page
    .getByRole('button', { name: /^Compare kept/ })
    .nth(1)
    .click();
  await expect(page.getByText('Gone since')).toBeVisible();
  await axe(page, 'side by side');
  await page.getByRole('button', { name: 'Bring it back…' }).click();
  await apply(page);
  expect(read('scenes/boat_v005.gltf')).toBe(good.replace('boat_v004.bin', 'boat_v005.bin'));
  expect(read('scenes/boat_v004.gltf')).toBe(good.slice(0, 700));
  const after = snapshot(server.root);
  delete after['scenes/boat_v005.gltf'];
  delete after['scenes/boat_v005.bin'];
  after['scenes/boat_v004.gltf'] = before['scenes/boat_v004.gltf']!;
  expect(after).toEqual(before);
  await expect(answer(page)).toContainText('boat_v005.gltf');
});

test('one current file: the habit is changed, a version saved and brought back to the byte, and all of it undone', async ({
  page,
}) => {
  await openVersions(page, 'scenes/harbour_v007.gltf');
  const before = snapshot(server.root);
  await page.getByRole('tab', { name: 'How they are kept' }).click();
  await expect(page.getByRole('heading', { name: 'The net' })).toBeVisible();
  await axe(page, 'how versions are kept');
  await page.getByRole('radio', { name: 'One current file, older ones in a folder' }).check({ force: true });
  await page.getByRole('button', { name: 'Change the habit…' }).click();
  await apply(page);
  expect(fs.readdirSync(at('scenes/versions')).sort()).toEqual([
    'harbour_v005.bin',
    'harbour_v005.gltf',
    'harbour_v006.bin',
    'harbour_v006.gltf',
  ]);
  expect(read('scenes/versions/harbour_v006.gltf')).toContain('../../textures/stone_base.png');
  const present = read('scenes/harbour.gltf');
  expect(present).toContain('"harbour.bin"');

  await page.getByRole('tab', { name: 'One scene' }).click();
  await page.getByLabel('Note').fill('before the storm');
  await page.getByRole('button', { name: 'Save harbour_v007.gltf…' }).click();
  await apply(page);
  await expect(page.getByText('“before the storm”')).toBeVisible();
  const changed = present.replace('"tower"', '"tower, leaning"');
  fs.writeFileSync(at('scenes/harbour.gltf'), changed);
  await page.reload();
  await page.getByRole('button', { name: 'Compare harbour_v007.gltf with the present' }).click();
  await expect(page.getByText('Renamed since')).toBeVisible();
  await page.getByRole('button', { name: 'Bring back harbour_v007.gltf' }).click();
  await expect(
    page.getByRole('heading', { name: 'Bring harbour_v007.gltf back as harbour.gltf' }),
  ).toBeVisible();
  await apply(page);
  expect(read('scenes/harbour.gltf')).toBe(present);
  expect(read('scenes/versions/harbour_v008.gltf')).toContain('tower, leaning');

  for (const what of [/^Undo: Bring/, /^Undo: Save/, /^Undo: Keep versions/]) {
    // What was changed by hand in between is put back by hand: an undo does not overwrite it.
    if (String(what).includes('Keep')) fs.writeFileSync(at('scenes/harbour.gltf'), present);
    await page.getByRole('button', { name: what }).first().click();
    await apply(page);
  }
  expect(snapshot(server.root)).toEqual(before);
});

test('old versions are kept compact and come back as they were; several scenes are saved in one step', async ({
  page,
}) => {
  await openVersions(page, 'scenes/harbour_v007.gltf');
  const before = snapshot(server.root);
  for (const name of ['harbour_v005.gltf', 'harbour_v006.gltf'])
    await page.getByRole('checkbox', { name: `Choose ${name}` }).check({ force: true });
  await page.getByRole('button', { name: 'Keep 2 versions compact…' }).click();
  await apply(page);
  expect(fs.existsSync(at('scenes/harbour_v005.gltf'))).toBe(false);
  expect(fs.existsSync(at('scenes/harbour_v006.bin'))).toBe(false);
  await expect(page.getByText('kept compact').first()).toBeVisible();
  for (const name of ['harbour_v005.gltf', 'harbour_v006.gltf'])
    await page.getByRole('checkbox', { name: `Choose ${name}` }).check({ force: true });
  await page.getByRole('button', { name: 'Make 2 files of them again…' }).click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);

  await page.getByRole('button', { name: 'Save all that changed…' }).click();
  await expect(page.getByRole('heading', { name: /^Save \d+ versions$/ })).toBeVisible();
  await apply(page);
  expect(fs.existsSync(at('scenes/harbour_v008.gltf'))).toBe(true);
  expect(fs.existsSync(at('scenes/boat_v005.gltf'))).toBe(true);
  await page.getByRole('button', { name: 'Save all that changed…' }).click();
  await expect(page.getByText('Every scene is as it was when its last version was saved.')).toBeVisible();
});

test('a checkpoint before something risky: all of it goes back at once, and that can be undone', async ({
  page,
}) => {
  const w = await openVersions(page, 'scenes/boat_v004.gltf');
  await page.goto(`${server.address}/versions${w}&view=checkpoints`);
  await page.getByLabel('Name').fill('before the flood');
  await page.getByRole('button', { name: 'Make a checkpoint' }).click();
  await expect(page.getByText('before the flood')).toBeVisible();
  await expect(page.getByLabel('Name')).toHaveValue('');
  const before = snapshot(server.root);
  fs.rmSync(at('textures'), { recursive: true });
  fs.writeFileSync(at('scenes/boat_v004.gltf'), '{}');
  fs.writeFileSync(at('scenes/not of then.gltf'), '{}');
  const flooded = snapshot(server.root);
  await page.getByRole('button', { name: 'What changed since before the flood' }).click();
  await expect(page.getByText('scenes/not of then.gltf')).toBeVisible();
  await axe(page, 'checkpoints');
  await page.getByRole('button', { name: 'Go back to before the flood' }).click();
  await expect(page.getByRole('heading', { name: 'Go back to “before the flood”' })).toBeVisible();
  await apply(page);
  expect(snapshot(server.root)).toEqual(before);
  await page
    .getByRole('button', { name: /^Undo: Go back/ })
    .first()
    .click();
  await apply(page);
  expect(snapshot(server.root)).toEqual(flooded);
});

test('the one missing frame is seen: the list made of what lies there, what is left, and what came since', async ({
  page,
}) => {
  const w = await openVersions(page, 'scenes/boat_v004.gltf');
  await page.goto(`${server.address}/versions${w}&view=outputs`);
  await page.getByLabel('How outputs are called').fill('renders/{scene}/{scene}.{frame:4}.png');
  await page.getByRole('button', { name: 'Make the list…' }).click();
  await apply(page);
  expect(JSON.parse(read('passes.json'))).toMatchObject({
    format: 1,
    scenes: [{ name: 'lamp', frames: { first: 1, last: 6, step: 1 } }],
  });
  await expect(page.getByText('5 of 6 files are there and whole; 1 left.')).toBeVisible();
  await expect(page.getByRole('row', { name: /lamp.*missing 4/ })).toBeVisible();
  // What was said of a button at work stays a while for ears only, and points to what is gone.
  await page.reload();
  await expect(page.getByRole('row', { name: /lamp.*missing 4/ })).toBeVisible();
  await axe(page, 'outputs');
  fs.copyFileSync(at('renders/lamp/lamp.0003.png'), at('renders/lamp/lamp.0004.png'));
  fs.truncateSync(at('renders/lamp/lamp.0006.png'), 60);
  await page
    .getByRole('region', { name: 'Expected outputs' })
    .getByRole('button', { name: 'Look again' })
    .click();
  await expect(page.getByRole('row', { name: /lamp.*cut off 6/ })).toBeVisible();
});

test('a scene in its other form, and the references that follow', async ({ page }) => {
  const w = await theDemo(server);
  const before = snapshot(server.root);
  await page.goto(`${server.address}/files${w}&file=scenes/boat_v004.gltf`);
  await page.getByRole('button', { name: 'Write as boat_v004.glb…' }).click();
  await apply(page);
  const glb = fs.readFileSync(at('scenes/boat_v004.glb'));
  expect([glb.toString('latin1', 0, 4), glb.readUInt32LE(8)]).toEqual(['glTF', glb.length]);
  const after = snapshot(server.root);
  delete after['scenes/boat_v004.glb'];
  expect(after).toEqual(before);
});

const hasDecoder = spawnSync('ffmpeg', ['-version'], { stdio: 'ignore' }).status === 0;

/** Every frame of a video as 320 × 180 pixels of RGB, by Debian's ffmpeg. */
function decoded(file: string): Buffer[] {
  const args = ['-v', 'error', '-i', file, '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'];
  const { stdout, status } = spawnSync('ffmpeg', args, { maxBuffer: 1e9 });
  expect(status).toBe(0);
  const size = 320 * 180 * 3;
  expect(stdout.length % size).toBe(0);
  return Array.from({ length: stdout.length / size }, (_, n) => stdout.subarray(n * size, (n + 1) * size));
}

test('from an output to its version; the next one’s name; frames become a clip, looked at by another decoder', async ({
  page,
}) => {
  const w = await openVersions(page, 'scenes/harbour_v007.gltf');
  const before = snapshot(server.root);
  await page.goto(`${server.address}/versions${w}&scene=scenes/harbour_v007.gltf&view=outputs`);
  const row = page.getByRole('row', { name: /harbour_v007_Pier/ });
  await expect(row).toContainText('harbour_v007.gltf · sure');
  await expect(row.getByRole('cell', { name: 'Pier', exact: true })).toBeVisible();
  await expect(page.getByText(/^\d{4}-\d\d-\d\d harbour v007 Gallery$/)).toBeVisible();
  await row.getByRole('button', { name: /^Make a clip/ }).click();
  const drawer = page.getByRole('complementary', { name: 'Review clip' });
  await expect(drawer.getByText(/12 frames, 0.5 s. Frame 8 is missing/)).toBeVisible();
  await axe(page, 'a clip');
  await drawer.getByRole('checkbox', { name: /^Write “/ }).uncheck();
  await drawer.getByRole('button', { name: 'Make the clip' }).click();
  const saved = page.waitForEvent('download');
  await drawer.getByRole('button', { name: 'Save the clip' }).click();
  const clip = path.join(server.folder, 'clip.mp4');
  const download = await saved;
  expect(download.suggestedFilename()).toBe('harbour_v007_Pier.mp4');
  await download.saveAs(clip);
  expect(snapshot(server.root)).toEqual(before);
  if (hasDecoder) {
    const frames = decoded(clip);
    expect(frames).toHaveLength(12);
    for (const [n, frame] of frames.entries()) {
      // Frame 8 is not there: the seventh is held.
      const number = String(n === 7 ? 7 : n + 1).padStart(4, '0');
      const picture = at(`renders/harbour/harbour_v007_Pier.${number}.png`);
      const source = await sharp(picture).removeAlpha().raw().toBuffer();
      let apart = 0;
      for (let i = 0; i < source.length; i++) apart += Math.abs(source[i]! - frame[i]!);
      expect([n, apart / source.length < 6]).toEqual([n, true]);
    }
  }
  // And from a version to its outputs; and both versions in space, looked at from one place.
  await page.goto(
    `${server.address}/versions${w}&scene=scenes/harbour_v007.gltf&beside=scenes/harbour_v006.gltf`,
  );
  await page.getByRole('button', { name: 'See both in space' }).click();
  await expect(page.getByText('1 object came: in boxes.')).toBeVisible();
  await axe(page, 'both in space');
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  await page.getByRole('link', { name: 'Outputs of harbour_v006.gltf' }).click();
  await expect(page.getByText('No output of harbour_v006.gltf is known.')).toBeVisible();
});

test('what makes saves dear is named, and taken out of the scene', async ({ page }) => {
  const lay = async (n: number) => {
    const document = new Document();
    const buffer = document.createBuffer();
    const corners = Float32Array.from({ length: 9 * (40 + n) }, (_, i) => Math.sin(i * n));
    const position = document.createAccessor().setType('VEC3').setArray(corners).setBuffer(buffer);
    const flat = document
      .createAccessor()
      .setType('VEC2')
      .setArray(new Float32Array(6 * (40 + n)))
      .setBuffer(buffer);
    const pixels = Buffer.from(Uint8Array.from({ length: 200 * 200 * 3 }, (_, i) => (i * i * 7919) >> 5));
    const picture = await sharp(pixels, { raw: { width: 200, height: 200, channels: 3 } })
      .png()
      .toBuffer();
    const texture = document.createTexture('net').setImage(new Uint8Array(picture)).setMimeType('image/png');
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', position)
      .setAttribute('TEXCOORD_0', flat)
      .setMaterial(document.createMaterial('net').setBaseColorTexture(texture));
    document
      .createScene()
      .addChild(
        document.createNode('boathouse').setMesh(document.createMesh('boathouse').addPrimitive(primitive)),
      );
    fs.writeFileSync(at(`scenes/keeper_v00${n}.glb`), await new NodeIO().writeBinary(document));
    return picture;
  };
  await lay(1);
  const picture = await lay(2);
  const w = await openVersions(page, 'scenes/keeper_v002.glb');
  const before = snapshot(server.root);
  await page.goto(`${server.address}/versions${w}&scene=scenes/keeper_v002.glb&view=cost`);
  await expect(
    page.getByText(/of each save is the picture net inside keeper_v001.glb, keeper_v002.glb/),
  ).toBeVisible();
  await expect(page.getByRole('img', { name: /as copies. The table below/ })).toBeVisible();
  await axe(page, 'cost');
  await page.getByRole('button', { name: 'Take net out of 1 scene…' }).click();
  await apply(page);
  expect(fs.readFileSync(at('textures/net.png')).equals(picture)).toBe(true);
  expect(fs.statSync(at('scenes/keeper_v002.glb')).size).toBeLessThan(4000);
  const after = snapshot(server.root);
  delete after['textures/net.png'];
  after['scenes/keeper_v002.glb'] = before['scenes/keeper_v002.glb']!;
  expect(after).toEqual(before);
  // Its new path is a reference like any other.
  await page.goto(`${server.address}/references${w}&q=net.png`);
  await expect(page.getByRole('row', { name: /textures\/net.png/ }).first()).toBeVisible();
});
