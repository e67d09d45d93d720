// What every page owes to the kit it is built of: what is typed stays, leaving asks, the focus goes on where the work does, Enter does what the button does,
// and each main page keeps its tree of accessible things.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { expect, test, type Page } from 'playwright/test';
import { freshDemo, servedDemo, startServer, theDemo } from './server';
import { apply, openDemo, tabTo, watch } from './steps';

const server = servedDemo();
test.beforeEach(({ page }) => watch(page));

const goneError = {
  code: 'plan-gone',
  message: 'This plan is not waiting any more.',
  unchanged: 'Nothing was changed.',
  next: 'Make it anew.',
  details: [],
};

/** What has the focus: its role or tag, and its name. */
const focused = (page: Page) =>
  page.evaluate(() => {
    const e = document.activeElement;
    if (!e || e === document.body) return 'nothing';
    const label = e.getAttribute('aria-labelledby')?.split(' ')[0];
    const name =
      e.getAttribute('aria-label') ??
      (label ? document.getElementById(label)?.textContent : null) ??
      e.textContent;
    return `${e.getAttribute('role') ?? e.tagName.toLowerCase()} ${(name ?? '').trim()}`.slice(0, 60);
  });

test.describe('what is typed', () => {
  // Each: where, the field, what is typed, the button that leads to a plan (null: there is none yet).
  const typings: [string, string, string, string | null][] = [
    ['/settings?{w}&tab=homes', 'Home of texture files', 'art/maps', 'Plan 1 new home…'],
    ['/settings?{w}&tab=units', 'A line every', '2.5 m', 'Plan the change…'],
    ['/?do=adopt', 'Name', 'Dinghy', null],
    ['/settings?{w}&tab=names', 'Person in names', 'ada', 'Plan the change…'],
    ['/?do=many', 'The list', 'Quay\nPier', 'Plan 2 workspaces…'],
    ['/?new=1', 'Name', '2026-12 Pier', null],
    ['/versions?{w}&scene=scenes/boat_v004.gltf', 'Note', 'before the storm', 'Save boat_v005.gltf…'],
    [
      '/files?{w}&folder=textures&file=textures/sand_base.png',
      'Path from the root',
      'textures/dune.png',
      'Plan it…',
    ],
    ['/travel?{w}', 'What arrived', '/media/stick/for the client.zip', null],
  ];
  for (const [at, field, text, plan] of typings)
    test(`survives a reload, another page and a plan that is only looked at: ${at}`, async ({ page }) => {
      page.on('dialog', (d) => void d.accept());
      const w = (await theDemo(server)).slice(1);
      const address = `${server.address}${at.replace('{w}', w)}`;
      const box = page.getByRole('textbox', { name: field, exact: true }).first();
      await page.goto(address);
      await box.fill(text);
      await page.reload();
      await expect(box).toHaveValue(text);
      await page.goto(`${server.address}/help?${w}`);
      await page.goBack();
      await expect(box).toHaveValue(text);
      if (plan === null) return;
      await page.getByRole('button', { name: plan }).click();
      await page.getByRole('button', { name: 'Back, change nothing' }).click();
      await expect(box).toHaveValue(text);
    });

  test('is not another folder’s, and is over once its plan is applied', async ({ page }) => {
    page.on('dialog', (d) => void d.accept());
    const w = await theDemo(server);
    const person = page.getByRole('textbox', { name: 'Person in names' });
    await page.goto(`${server.address}/settings${w}&tab=names`);
    await person.fill('ben');
    await page.getByRole('tab', { name: 'Homes' }).click();
    await expect(page.getByRole('button', { name: 'As it was' })).toHaveCount(0);
    await page.getByRole('tab', { name: 'Names' }).click();
    await expect(person).toHaveValue('ben');
    await page.getByRole('button', { name: 'Plan the change…' }).click();
    await apply(page);
    await expect(person).toHaveValue('ben');
    expect(fs.readFileSync(path.join(server.root, '.satchel/workspace.json'), 'utf8')).toContain('"ben"');
    await expect(page.getByRole('button', { name: 'As it was' })).toBeDisabled();
    expect(
      await page.evaluate(() => Object.keys(sessionStorage).filter((k) => k.includes('tab=names'))),
    ).toEqual([]);
  });

  test('ticks and choices stay, too', async ({ page }) => {
    const w = await theDemo(server);
    fs.writeFileSync(path.join(server.root, 'gull.wav'), 'RIFF\x24\0\0\0WAVEfmt ');
    await page.goto(`${server.address}/files${w}&view=loose`);
    const name = 'Select gull.wav';
    const tick = page.getByRole('checkbox', { name, exact: true });
    await tick.uncheck();
    await page.getByRole('tab', { name: 'By folder' }).click();
    await page.getByRole('tab', { name: 'Lying about' }).click();
    await expect(page.getByRole('checkbox', { name, exact: true })).not.toBeChecked();
    await page.reload();
    await expect(page.getByRole('checkbox', { name, exact: true })).not.toBeChecked();
    await page.getByRole('button', { name: 'Choose all' }).click();
    await expect(page.getByRole('checkbox', { name, exact: true })).toBeChecked();
    fs.rmSync(path.join(server.root, 'gull.wav'));
    // Paths that are being changed: the steps on the way.
    await page.goto(`${server.address}/references${w}&q=scene:boat`);
    await page.getByRole('button', { name: 'Change these paths…' }).click();
    await page.getByRole('textbox', { name: 'New head' }).fill('../nowhere/');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('region', { name: 'States' }).getByRole('listitem')).toHaveCount(2);
    await page.reload();
    await expect(page.getByRole('region', { name: 'States' }).getByRole('listitem')).toHaveCount(2);
    await page.getByRole('button', { name: 'Leave, change nothing' }).click();
    await expect(page.getByRole('grid', { name: 'References' })).toBeVisible();
  });
});

test('a plan that is not waiting any more is made anew by one button', async ({ page }) => {
  page.on('dialog', (d) => void d.accept());
  const w = await theDemo(server);
  await page.goto(`${server.address}/settings${w}&tab=names`);
  await page.getByRole('textbox', { name: 'Person in names' }).fill('cleo');
  await page.getByRole('button', { name: 'Plan the change…' }).click();
  await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeVisible();
  const failed: string[] = [];
  page.on('response', (r) => void (r.status() >= 400 && failed.push(`${r.status()} ${r.url()}`)));
  // The server was started anew meanwhile, and knows nothing of it.
  const plan = page.url().replace(/.*\/plan\/([^?]*).*/, '$1');
  await page.route(`**/api/plans/${plan}`, (r) => r.fulfill({ status: 404, json: { error: goneError } }));
  await page.reload();
  await expect(page.getByText('This plan is not waiting any more.')).toBeVisible();
  await page.getByRole('button', { name: 'Make it anew' }).click();
  await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeVisible();
  expect(page.url()).not.toContain(plan);
  failed.length = 0;
  await apply(page);
  await page.waitForTimeout(500);
  // What is being applied is not asked for again.
  expect(failed).toEqual([]);
  await expect(page.getByRole('textbox', { name: 'Person in names' })).toHaveValue('cleo');
});

test('leaving what is not saved asks: stay, leave it waiting, take it back', async ({ page }) => {
  const w = await theDemo(server);
  await page.goto(`${server.address}/layouts${w}&layout=film-shot`);
  const name = page.getByRole('textbox', { name: 'Name', exact: true });
  await name.fill('Storm shot');
  const ask = page.getByRole('alertdialog', { name: 'Leave without saving?' });
  const leave = () => page.getByRole('link', { name: 'Overview' }).click();
  await leave();
  await expect(ask).toContainText('“Storm shot” was changed and is not saved.');
  await ask.getByRole('button', { name: 'Stay' }).click();
  await expect(ask).toHaveCount(0);
  expect(page.url()).toContain('/layouts');
  await leave();
  await ask.getByRole('button', { name: 'Leave, keep it waiting here' }).click();
  await page.waitForURL(/overview/);
  await page.goBack();
  await expect(name).toHaveValue('Storm shot');
  // The list of commands is a way out as well.
  await page.keyboard.press('Control+k');
  await page.getByRole('menuitem', { name: 'Go to Help' }).click();
  await ask.getByRole('button', { name: 'Leave, take it back' }).click();
  await page.waitForURL(/help/);
  await page.goBack();
  await expect(name).toHaveValue('Film or animation shot');
  await leave();
  await page.waitForURL(/overview/);
});

test('the focus goes on where the work does, never to nowhere', async ({ page }) => {
  const w = await openDemo(page, server.address);
  // A step is taken: its heading, so that Tab goes on below it.
  await page.getByRole('link', { name: 'Files', exact: true }).focus();
  await page.keyboard.press('Enter');
  await expect.poll(() => focused(page)).toBe('h1 Files');
  // A view takes the place of the button that asked for it.
  await page.goto(server.address);
  await page.getByRole('button', { name: 'Adopt a folder…' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Adopt a folder' })).toBeVisible();
  await expect.poll(() => focused(page)).not.toBe('nothing');
  // A dialog gives it back to the button that opened it.
  await page.goto(`${server.address}/files${w}&folder=textures`);
  await page.getByRole('button', { name: 'Bring files in…' }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('dialog').waitFor();
  await page.keyboard.press('Escape');
  await expect.poll(() => focused(page)).toBe('button Bring files in…');
  // A grid keeps it, from folder to folder.
  await page.goto(`${server.address}/files${w}`);
  await page.getByRole('grid').focus();
  await page.keyboard.type('tex');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('grid', { name: 'Files in textures' })).toBeVisible();
  await expect.poll(() => focused(page)).toBe('grid Files in textures');
  // A folder with nothing in it: on what is left there.
  await page.keyboard.press('Home');
  await page.keyboard.press('Enter');
  await expect(page.getByText('This folder is empty.')).toBeVisible();
  await expect.poll(() => focused(page)).not.toBe('nothing');
  // What was pressed goes: the next of its kind, else what is left beside it.
  await page.goto(`${server.address}/settings${w}&tab=outside`);
  const libraries = page.getByRole('region', { name: 'Libraries' });
  await libraries.getByRole('button', { name: 'Add a library' }).click();
  const out = libraries.getByRole('button', { name: /^Take library/ });
  const many = await out.count();
  await out.last().focus();
  await page.keyboard.press('Enter');
  await expect(out).toHaveCount(many - 1);
  await expect.poll(() => focused(page)).toBe('button Add a library');
  // A plan: on its button; back again: on the page it came from.
  await page.goto(`${server.address}/references${w}`);
  await page.getByRole('button', { name: 'Make them travel…' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeFocused();
  await page.getByRole('button', { name: 'Back, change nothing' }).focus();
  await page.keyboard.press('Enter');
  await expect.poll(() => focused(page)).toBe('h1 References');
});

test('Enter in a field does what its button does', async ({ page }) => {
  const w = await theDemo(server);
  const enter = async (at: string, field: string, text: string) => {
    await page.goto(`${server.address}${at}`);
    const box = page.getByRole('textbox', { name: field, exact: true }).first();
    await box.fill(text);
    await box.press('Enter');
  };
  const plan = async (title: RegExp) => {
    await expect(page.getByRole('heading', { level: 1, name: title })).toBeVisible();
    await page.getByRole('button', { name: 'Back, change nothing' }).click();
    await page.waitForURL((url) => !url.pathname.startsWith('/plan'));
  };
  await enter(`/versions${w}&scene=scenes/boat_v004.gltf`, 'Note', 'calm');
  await plan(/Save boat_v005/);
  await enter(
    `/files${w}&folder=textures&file=textures/sand_base.png`,
    'Path from the root',
    'textures/dune.png',
  );
  await plan(/Rename sand_base/);
  await enter(`/settings${w}&tab=names`, 'Category', 'client');
  await plan(/File it under client/);
  await enter('/', 'Allow a folder', '/no/such/folder');
  await expect(page.getByRole('region', { name: 'Allowed folders' }).getByRole('alert')).toBeVisible();
  await enter(
    '/?do=adopt',
    'The folder',
    path.join(server.folder, 'harbour-lantern/bench/work/Dinghy from Sam'),
  );
  await expect(page.getByText('10 files')).toBeVisible();
  await page.getByRole('textbox', { name: 'Name', exact: true }).press('Enter');
  await plan(/Adopt/);
  await enter(`/travel${w}`, 'What arrived', '/no/such/bag.zip');
  await expect(page.getByRole('region', { name: 'Something arrived' }).getByRole('alert')).toBeVisible();
});

test('no letter is lost to who types faster than the page is drawn', async ({ page }) => {
  await page.goto(`${server.address}/?new=1`);
  const box = page.getByRole('textbox', { name: 'Name', exact: true });
  await expect(box).toBeFocused();
  const slow = await page.context().newCDPSession(page);
  await slow.send('Emulation.setCPUThrottlingRate', { rate: 6 });
  const text = 'the quick brown fox jumps over the lazy dog 0123456789 and again';
  await page.keyboard.type(text);
  await slow.send('Emulation.setCPUThrottlingRate', { rate: 1 });
  await expect(box).toHaveValue(text);
  await page.waitForTimeout(500);
  await expect(box).toHaveValue(text);
  await box.fill('');
});

test('a whole form without a pointer: a choice, a tick, a radio, a file list', async ({ page }) => {
  await page.goto(`${server.address}/?new=1`);
  await expect(page.getByRole('textbox', { name: 'Name', exact: true })).toBeFocused();
  await page.keyboard.type('2026-12 Night Pier');
  await tabTo(page, /Game environment|Layout/, 12);
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('radio', { name: /Film or animation shot/ })).toBeChecked();
  await tabTo(page, /^audio$/, 12);
  await page.keyboard.press('Space');
  await expect(page.getByRole('checkbox', { name: 'audio' })).not.toBeChecked();
  await page.getByRole('textbox', { name: 'Name', exact: true }).press('Enter');
  await expect(page.getByRole('heading', { name: 'Nothing referenced yet' })).toBeVisible();
  const root = path.join(server.folder, 'harbour-lantern/bench/work/2026-12 Night Pier');
  expect(fs.existsSync(path.join(root, 'assets/rigs'))).toBe(true);
  expect(fs.existsSync(path.join(root, 'audio'))).toBe(false);
});

const trees = path.join(import.meta.dirname, 'trees');

/** The tree without the parts that begin with such a line, and all that is in them. */
function without(tree: string, part: RegExp): string {
  const out: string[] = [];
  let left = Infinity;
  for (const line of tree.split('\n')) {
    const indent = line.length - line.trimStart().length;
    if (indent > left) continue;
    left = part.test(line) ? indent : Infinity;
    if (left === Infinity) out.push(line);
  }
  return out.join('\n');
}

// What a machine's own folders and drives have to say.
const ofTheMachine = /- (group "Advice on|region "Allowed folders")/;

/** The tree of a page, without what differs from one run or machine to the next. */
async function treeOf(page: Page, folder: string): Promise<string> {
  const tree = without(await page.getByRole('main').ariaSnapshot(), ofTheMachine);
  return (
    tree
      .replaceAll(folder, '<folder>')
      .replaceAll(path.basename(folder), '<folder>')
      .replaceAll(os.homedir(), '<home>')
      .replace(/\b[0-9a-f]{12}\b/g, '<id>')
      // How long ago the demo's morning was differs from day to day.
      .replace(/with(?:out a hole| \d+ holes? of [^.]+)/g, '<holes>')
      .replace(/(?:\d{4}-)?\d{2}-\d{2} \d{2}:\d{2}/g, '<time>')
      .replace(/just now|\d+ (min|h|days?) ago|\d{4}-\d{2}-\d{2}/g, '<time>')
      .replace(/\d[\d.,]* [kMGT]?B\b/g, '<size>')
  );
}

test('each main page keeps its tree of accessible things', async ({ page }) => {
  const own = await startServer(freshDemo());
  const w = await theDemo(own);
  const views: [string, string][] = [
    ['workspaces', '/'],
    ['create', '/?new=1'],
    ['overview', `/overview${w}`],
    ['files', `/files${w}&folder=textures`],
    ['references', `/references${w}&q=scene:boat`],
    ['versions', `/versions${w}&scene=scenes/boat_v004.gltf`],
    ['travel', `/travel${w}`],
    ['ledger', `/ledger${w}`],
    ['settings', `/settings${w}&tab=units`],
    ['layouts', `/layouts${w}&layout=game-environment`],
  ];
  for (const [name, at] of views) {
    await page.goto(`${own.address}${at}`);
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await expect(page.getByText(/^(Reading|Measuring) …$|^(Rehearsing|Looking) |^being read …/)).toHaveCount(
      0,
    );
    await page.waitForTimeout(700);
    await expect(page.getByText(/^(Reading|Measuring) …$|^(Rehearsing|Looking) |^being read …/)).toHaveCount(
      0,
    );
    const file = path.join(trees, `${name}.yml`);
    const tree = `${await treeOf(page, own.folder)}\n`;
    // Written anew only when asked: SATCHEL_TREES=write npx playwright test e2e/kit.spec.ts
    if (process.env.SATCHEL_TREES === 'write') {
      fs.mkdirSync(trees, { recursive: true });
      fs.writeFileSync(file, tree);
    }
    expect.soft(tree, name).toBe(fs.readFileSync(file, 'utf8'));
  }
  await own.stop();
  fs.rmSync(own.folder, { recursive: true, force: true });
});
