// The table of references in the real browser, with 100,000 references in 5,000 scenes: how soon it opens once the data is there, how soon a search
// answers, and whether scrolling ever holds the page up. Beside it, in the same run, what a user would otherwise search with: grep over the scenes.
//
//     node bench/table.mjs            figures go to docs/performance.md by hand

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromiumOptions } from '../scripts/chromium.mjs';
import { buildApp, buildCli, freePort, project, serve } from '../scripts/setup.mjs';

await buildCli();
await buildApp();
const base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-table-'));
const root = path.join(base, 'work', 'big');
fs.mkdirSync(path.join(base, 'work'), { recursive: true });
spawnSync(process.execPath, [
  path.join(project, 'dist', 'satchel.mjs'),
  'new',
  path.join(base, 'work'),
  'big',
  '--layout',
  'game-environment',
  '--yes',
]);
const picture = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGP4////fwAJ+wP9KobjigAAAABJRU5ErkJggg==',
  'base64',
);
for (let s = 0; s < 200; s++) {
  fs.mkdirSync(path.join(root, 'textures', `set${s}`), { recursive: true });
  for (let i = 0; i < 100; i++)
    fs.writeFileSync(path.join(root, 'textures', `set${s}`, `t${i}.png`), picture);
}
for (let n = 0; n < 5000; n++) {
  const folder = path.join(root, 'scenes', `shot${n % 50}`);
  fs.mkdirSync(folder, { recursive: true });
  fs.writeFileSync(
    path.join(folder, `s${n}.gltf`),
    JSON.stringify({
      asset: { version: '2.0' },
      images: Array.from({ length: 20 }, (_, i) => ({
        uri:
          n % 17 === 0 && i === 0
            ? `../../texture/set${n % 200}/t1.png`
            : `../../textures/set${(n * 7 + i) % 200}/t${(n + i * 13) % 100}.png`,
      })),
    }),
  );
}
const { address, entry, key, child, ended } = await serve(await freePort(4780), {
  SATCHEL_DATA: path.join(base, 'app'),
  SATCHEL_DEMO: base,
  HOME: base,
});
process.once('exit', () => child.kill('SIGTERM'));
const { chromium } = await import('playwright/test');
const browser = await chromium.launch(chromiumOptions());
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
page.setDefaultTimeout(300_000);
const api = async (at, body) =>
  (
    await fetch(
      `${address}${at}`,
      body === undefined
        ? { headers: { 'x-satchel-key': key } }
        : {
            method: 'POST',
            headers: { 'content-type': 'application/json', 'x-satchel': '1', 'x-satchel-key': key },
            body: JSON.stringify(body),
          },
    )
  ).json();
await api('/api/allowed', { path: base });
const opened = await api('/api/workspaces/open', { path: root });
const w = `?w=${opened.id ?? opened.workspace?.id}`;
const show = (what, text) => console.log(`${what.padEnd(56)} ${text}`);
await page.goto(entry);
await page.goto(`${address}/overview${w}`);
await page
  .getByText(/of 100,000|of 100000/)
  .first()
  .waitFor();

// The reading goes on for a while behind the page: what is measured is the page, not the reading beside it.
for (let quiet = 0; quiet < 4; quiet++) {
  await new Promise((r) => setTimeout(r, 1000));
  if ((await api('/api/jobs')).some((j) => j.ended === null)) quiet = -1;
}

// Opening: the sheet of rows in the server is read from the index once; after that a page needs its groups and the first rows.
const open = async () => {
  const start = Date.now();
  await page.goto(`${address}/references${w}`);
  await page.getByRole('row').nth(2).getByRole('checkbox').waitFor();
  await page.getByText('set').first().waitFor();
  const data = await page.evaluate(() =>
    Math.max(
      ...performance
        .getEntriesByType('resource')
        .filter((e) => e.name.includes('/references'))
        .slice(0, 2)
        .map((e) => e.responseEnd),
    ),
  );
  const shown = await page.evaluate(() => performance.now());
  return { whole: Date.now() - start, afterData: shown - data };
};
show('first opening (the index is read)', `${(await open()).whole} ms`);
const later = [];
for (let n = 0; n < 5; n++) later.push(await open());
const median = (list) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)];
show('opening, whole page', `${median(later.map((o) => o.whole))} ms`);
show('opening, from the data being there', `${Math.round(median(later.map((o) => o.afterData)))} ms`);

// Searching: from the key to the number of what is found on the page.
const search = [];
for (const word of [
  't77',
  'state:missing',
  'scene:s4999.',
  'in:set12 -shot7',
  'kind:texture t5',
  't78',
  'set9 state:missing',
  'shot3',
]) {
  await page.goto(`${address}/references${w}`);
  await page.getByRole('row').nth(2).getByRole('checkbox').waitFor();
  await page.waitForTimeout(1500); // as long as it takes to read the page and think of a word
  const before = await page.getByText(/references? in [\d,]+ groups?/).innerText();
  await page.locator('[data-search]').focus();
  const ms = await page.evaluate(
    async ([text, was]) => {
      const input = document.querySelector('[data-search]');
      const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
      const start = performance.now();
      set.call(input, text);
      input.dispatchEvent(new Event('input', { bubbles: true }));
      for (;;) {
        await new Promise((r) => requestAnimationFrame(r));
        const now = [...document.querySelectorAll('span')].find((s) =>
          /references? in [\d,]+ groups?/.test(s.textContent),
        )?.textContent;
        if ((now && now !== was) || performance.now() - start > 5000) return performance.now() - start;
      }
    },
    [word, before],
  );
  search.push(ms);
  show(`search “${word}”`, `${Math.round(ms)} ms`);
}
show('search, median', `${Math.round(median(search))} ms`);
const start = process.hrtime.bigint();
spawnSync('sh', ['-c', `grep -rlF t77 '${path.join(root, 'scenes')}' > /dev/null`]);
const grep = Number(process.hrtime.bigint() - start) / 1e6;
show(
  'grep -rlF t77 over the scenes',
  `${Math.round(grep)} ms; the search takes ${(median(search) / grep).toFixed(2)} of it`,
);

// Scrolling from top to bottom, as fast as the wheel goes.
await page.goto(`${address}/references${w}`);
await page.getByRole('row').nth(2).getByRole('checkbox').waitFor();
await page.evaluate(() => {
  window.long = [];
  new PerformanceObserver((list) => window.long.push(...list.getEntries().map((e) => e.duration))).observe({
    type: 'longtask',
    buffered: false,
  });
});
const grid = await page.getByRole('grid').boundingBox();
await page.mouse.move(grid.x + 200, grid.y + 200);
for (let n = 0; n < 150; n++) {
  await page.mouse.wheel(0, 600);
  await page.waitForTimeout(16);
}
await page.evaluate(() => {
  const g = document.querySelector('[role=grid]');
  g.scrollTop = g.scrollHeight / 2;
});
await page.waitForTimeout(500);
for (let n = 0; n < 60; n++) {
  await page.mouse.wheel(0, -900);
  await page.waitForTimeout(16);
}
const long = await page.evaluate(() => window.long);
show(
  'scrolling: tasks over 50 ms',
  `${long.length}${long.length ? `, the longest ${Math.round(Math.max(...long))} ms` : ''}`,
);
await browser.close();
child.kill('SIGTERM');
await ended;
fs.rmSync(base, { recursive: true, force: true });
