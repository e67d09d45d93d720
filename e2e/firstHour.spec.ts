// The first ten minutes of somebody who has only a downloads folder: every folder is chosen, none typed. And the way through the demo's troubles.

import { expect, test, type Page } from 'playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { apply, axe, openDemo, watch } from './steps';
import { ask, finished, servedDemo, snapshot, startServer } from './server';

const server = servedDemo();
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

test('with work going on, an undo, and very long names, no page is wider than its window', async ({
  page,
}) => {
  test.setTimeout(240_000);
  const long = 'A very long name that somebody gave this because it says all that there is to say of it '
    .repeat(2)
    .trim();
  const root = path.join(server.folder, 'harbour-lantern/bench/work', long.slice(0, 120));
  fs.cpSync(server.root, root, { recursive: true });
  const marker = path.join(root, '.satchel/workspace.json');
  fs.writeFileSync(marker, JSON.stringify({ ...JSON.parse(fs.readFileSync(marker, 'utf8')), name: long }));
  fs.renameSync(
    path.join(root, 'textures/stone_base.png'),
    path.join(root, `textures/${'unbroken'.repeat(24)}.png`),
  );
  fs.mkdirSync(path.join(root, `scenes/${'folder_without_any_blank_'.repeat(8)}`));
  fs.renameSync(
    path.join(root, 'models/crate.obj'),
    path.join(root, `scenes/${'folder_without_any_blank_'.repeat(8)}/${'x'.repeat(200)}.obj`),
  );
  const { id } = await ask<{ id: string }>(server.address, '/api/workspaces/open', { path: root });
  const plan = await ask<{ id: string }>(server.address, `/api/workspaces/${id}/plans`, {
    kind: 'travel',
    only: null,
  });
  const made = await finished(server.address, plan.id);
  const planned = (made.result as { plan: string }).plan;
  const applied = await ask<{ id: string }>(server.address, `/api/plans/${planned}/apply`, {});
  await finished(server.address, applied.id);
  // Something is under way all the time.
  const job = {
    id: 'j1',
    work: 'duplicates',
    title: `Look for files that are there twice in ${long}`,
    workspace: id,
    who: null,
    state: 'running',
    ending: false,
    started: Date.now() - 5000,
    ended: null,
    progress: {
      files: 3,
      filesTotal: 1200,
      bytes: 123456,
      bytesTotal: 99999999,
      path: `textures/${'unbroken'.repeat(24)}.png`,
    },
    error: null,
    result: null,
  };
  await page.route('**/api/events', (route) =>
    route.fulfill({ contentType: 'text/event-stream', body: `data: ${JSON.stringify({ jobs: [job] })}\n\n` }),
  );
  await page.route('**/api/jobs', (route) => route.fulfill({ json: [job] }));
  const search = `?w=${id}`;
  const views = [
    '/',
    '/overview',
    '/files',
    '/files@view=twice',
    '/references',
    '/references@change=1',
    '/map',
    '/versions',
    '/collect',
    '/carry',
    '/travel',
    '/ledger',
    '/settings',
    '/layouts',
    '/help',
  ];
  const wrong: string[] = [];
  for (const view of views) {
    const [at, more] = view.split('@');
    // A page may put its own address right meanwhile, which ends a visit.
    await expect(async () => {
      await page.goto(`${server.address}${at}${search}${more ? `&${more}` : ''}`);
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    }).toPass();
    await page.waitForTimeout(500);
    for (const width of [1024, 1280]) {
      await page.setViewportSize({ width, height: 800 });
      await page.waitForTimeout(100);
      wrong.push(
        ...(await page.evaluate(
          ([name, w]) => {
            const out: string[] = [];
            if (document.documentElement.scrollWidth > window.innerWidth)
              out.push(`${name} ${w}: the page scrolls sideways (${document.documentElement.scrollWidth})`);
            for (const e of document.querySelectorAll('button, a[href], input')) {
              const box = e.getBoundingClientRect();
              if (box.width === 0 || box.height === 0) continue;
              let scrolls = false;
              for (let p = e.parentElement; p; p = p.parentElement)
                scrolls ||=
                  p.scrollWidth > p.clientWidth && /auto|scroll/.test(getComputedStyle(p).overflowX);
              if (!scrolls && (box.right > window.innerWidth + 1 || box.left < -1))
                out.push(
                  `${name} ${w}: “${(e.textContent || e.getAttribute('aria-label') || '').slice(0, 40)}” ends at ${Math.round(box.right)}`,
                );
            }
            return out;
          },
          [view, width] as const,
        )),
      );
    }
  }
  expect(wrong).toEqual([]);
  await expect(page.getByText('Look for files that are there twice').first()).toBeVisible();
});
