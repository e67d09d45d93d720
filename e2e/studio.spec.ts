// A server for several, as its people use it: on a real PostgreSQL server, in browsers of their own. Skipped where Debian's package is not installed.

import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import http from 'node:http';
import https from 'node:https';
import os from 'node:os';
import path from 'node:path';
import { expect, test, type Browser, type BrowserContext, type Page } from 'playwright/test';
import { postgresBin, postgresHere, type PostgresHere } from '../src/server/database/testing/postgres';
import { ask, freePort, freshDemo, snapshot, startServer, type RunningServer } from './server';
import { apply, axe, openDemo, watch } from './steps';

const bin = postgresBin();
test.skip(bin === null, 'PostgreSQL is not installed here');
test.describe.configure({ mode: 'serial' });

let postgres: PostgresHere;
let server: RunningServer;
let env: Record<string, string>;
let port: number;
test.beforeAll(async () => {
  port = await freePort();
  postgres = postgresHere(bin!, await freePort());
  env = {
    SATCHEL_MODE: 'studio',
    SATCHEL_DATABASE_URL: postgres.url('studio'),
    SATCHEL_SECRET: 'c2VjcmV0LW9mLXRoZS1oYXJib3VyLW1hcmtldA==',
    SATCHEL_ORIGIN: `http://127.0.0.1:${port}`,
    SATCHEL_HOOKS_TO_THIS_MACHINE: '1',
  };
  server = await startServer(freshDemo(), env, port);
});
test.afterAll(async () => {
  for (const context of Object.values(contexts)) await context.close();
  await server.stop();
  postgres.close();
  fs.rmSync(server.folder, { recursive: true, force: true });
});

interface JobSeen {
  id: string;
  state: string;
}

const passwords = { Marit: 'the first lantern', Aya: 'a boat in the harbour', Lena: 'looking at the sea' };
type Name = keyof typeof passwords;
const contexts: Record<string, BrowserContext> = {};

/** A page in somebody's own browser. */
async function pageOf(browser: Browser, name: Name): Promise<Page> {
  contexts[name] ??= await browser.newContext();
  const page = await contexts[name].newPage();
  watch(page);
  return page;
}

/** Comes in by a link. */
async function comeIn(page: Page, name: Name, link: string): Promise<void> {
  await page.goto(link);
  await page.getByLabel('Your name').fill(name);
  await page.getByLabel('E-mail address').fill(`${name.toLowerCase()}@studio.example`);
  await page.getByLabel('Password').fill(passwords[name]);
  await page.getByRole('button', { name: 'Come in' }).click();
  await expect(page.getByRole('button', { name: new RegExp(`^${name}, who`) })).toBeVisible();
  // What let them in stands in no address any more.
  expect(page.url()).not.toContain('#');
}

test(
  'without a secret, or over a network without TLS, it does not start, and says why',
  { tag: '@quick' },
  () => {
    for (const [change, why] of [
      [{ SATCHEL_SECRET: '' }, 'SATCHEL_SECRET'],
      [{ SATCHEL_ORIGIN: 'http://satchel.studio.example' }, 'not encrypted'],
    ] as const) {
      const project = path.resolve(import.meta.dirname, '..');
      const started = spawnSync(
        process.execPath,
        [path.join(project, 'node_modules/next/dist/bin/next'), 'start', '-H', '127.0.0.1', '-p', '0'],
        {
          cwd: project,
          encoding: 'utf8',
          timeout: 60_000,
          env: {
            ...process.env,
            NODE_ENV: 'production',
            SATCHEL_DATA: `${server.folder}/other`,
            ...env,
            ...change,
          },
        },
      );
      expect(started.status).toBe(3);
      expect(started.stderr).toContain(why);
    }
  },
);

test(
  'the first who manages comes in by the printed link, and invites two',
  { tag: '@quick' },
  async ({ browser }) => {
    const marit = await pageOf(browser, 'Marit');
    await marit.goto(`${server.address}/files?w=x`);
    await expect(marit.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await axe(marit, 'sign in');
    const link = /http:\S+\/join#\S+/.exec(server.said())![0];
    await comeIn(marit, 'Marit', link);
    // A link that was used leads nowhere.
    const again = await pageOf(browser, 'Aya');
    await again.goto(link);
    await expect(again.getByText('does not hold any more')).toBeVisible();
    await axe(again, 'a link that is over');

    const links: Record<string, string> = {};
    await marit.getByRole('link', { name: 'People' }).click();
    for (const [name, role] of [
      ['Aya', 'looks and changes'],
      ['Lena', 'looks'],
    ] as const) {
      await marit.getByLabel('Whom').fill(`${name}, props`);
      await marit.getByRole('button', { name: /Role/ }).first().click();
      await marit.getByRole('option', { name: role, exact: true }).click();
      await marit.getByRole('button', { name: 'Make a link' }).click();
      const dialog = marit.getByRole('alertdialog');
      links[name] = (await dialog.getByText('/join#').innerText()).trim();
      if (name === 'Aya') await axe(marit, 'a link to hand on');
      await dialog.getByRole('button', { name: 'Done' }).click();
    }
    await expect(marit.getByText('2 links wait')).toBeVisible();
    await axe(marit, 'people');
    // The first answer does not come: the page asks again, and shows no link that leads nowhere.
    let isFirst = true;
    await again.route('**/api/join/look', (route) => {
      const fails = isFirst;
      isFirst = false;
      return fails ? route.abort() : route.continue();
    });
    await again.goto(links.Aya!);
    await expect(again.getByText('This link could not be checked')).toBeVisible();
    await again.getByLabel('Your name').fill('Ay');
    await axe(again, 'come in');
    // What was typed stays when the same link is opened once more.
    await again.evaluate((hash) => (window.location.hash = hash), new URL(links.Aya!).hash);
    await expect(again).toHaveURL(/\/join$/);
    await expect(again.getByLabel('Your name')).toHaveValue('Ay');
    await comeIn(again, 'Aya', links.Aya!);
    await comeIn(await pageOf(browser, 'Lena'), 'Lena', links.Lena!);
    await marit.reload();
    await expect(marit.getByText('3 people come in')).toBeVisible();
  },
);

test(
  'what somebody saves says who did it, in the ledger and beside the version',
  { tag: '@quick' },
  async ({ browser }) => {
    const aya = await pageOf(browser, 'Aya');
    const w = await openDemo(aya, server.address);
    await aya.goto(`${server.address}/versions${w}&scene=scenes/boat_v004.gltf`);
    await aya.getByRole('textbox', { name: 'Note' }).fill('new rig');
    await aya.getByRole('button', { name: 'Save boat_v005.gltf…' }).click();
    await apply(aya);
    expect(fs.existsSync(path.join(server.root, 'scenes', 'boat_v005.gltf'))).toBe(true);
    const lena = await pageOf(browser, 'Lena');
    await lena.goto(`${server.address}/versions${w}&scene=scenes/boat_v005.gltf`);
    await expect(lena.getByText('Aya · “new rig”')).toBeVisible();
    await lena.goto(`${server.address}/ledger${w}`);
    await expect(lena.getByText(/^Aya · /).first()).toBeVisible();
  },
);

test('a scene is held by name, seen by all; a plan on it says so; the hold is broken with a reason that is kept; what others change is told', async ({
  browser,
}) => {
  const aya = await pageOf(browser, 'Aya');
  const w = await openDemo(aya, server.address);
  const at = `${server.address}/versions${w}&scene=scenes/boat_v005.gltf`;
  await aya.goto(at);
  await aya.getByRole('button', { name: 'Hold it…' }).click();
  await aya.getByLabel('What for').fill('rigging the mast');
  await aya.getByLabel('What for').press('Enter');
  await expect(aya.getByText('You hold this scene')).toBeVisible();
  const marit = await pageOf(browser, 'Marit');
  await marit.goto(at);
  await expect(marit.getByText('Aya holds this scene')).toBeVisible();
  await axe(marit, 'a scene that is held');
  await marit.getByRole('button', { name: 'Save boat_v006.gltf…' }).click();
  await expect(marit.getByText(/boat_v005\.gltf is held by Aya since .*“rigging the mast”/)).toBeVisible();
  await expect(marit.getByText('Somebody is at work on it')).toBeVisible();
  // Aya looks at the ledger meanwhile, and hears of it there.
  await aya.goto(`${server.address}/ledger${w}`);
  await expect(aya.getByText(/^Aya · /).first()).toBeVisible();
  await apply(marit);
  const news = aya.getByRole('log', { name: 'What others changed' });
  await expect(news.getByText('Marit: Save')).toBeVisible();
  await axe(aya, 'news');
  await news.getByRole('button', { name: /^Seen/ }).click();
  await expect(news.getByText('Marit: Save')).toHaveCount(0);
  await marit.goto(at);
  await marit.getByRole('button', { name: 'Break the hold…' }).click();
  await expect(marit.getByRole('button', { name: 'Break it', exact: true })).toBeDisabled();
  await marit.getByLabel('Why').fill('Aya is away until Monday');
  await marit.getByRole('button', { name: 'Break it', exact: true }).click();
  await expect(marit.getByText('Nobody holds this scene.')).toBeVisible();
  const log = fs.readFileSync(path.join(server.root, '.satchel', 'holds.jsonl'), 'utf8');
  expect(
    log
      .trim()
      .split('\n')
      .map((l) => (JSON.parse(l) as { do: string; by: string; why: string }).why),
  ).toEqual(['rigging the mast', 'Aya is away until Monday']);
  fs.rmSync(path.join(server.root, 'scenes', 'boat_v006.gltf'));
});

test('a plan that somebody else has overtaken is refused with nothing done, and made anew by one button', async ({
  browser,
}) => {
  const scenes = path.join(server.root, 'scenes');
  const lying = () =>
    fs.readdirSync(scenes).map((name) => `${name} ${fs.statSync(path.join(scenes, name)).mtimeMs}`);
  const before = fs.readdirSync(scenes);
  const [aya, marit] = [await pageOf(browser, 'Aya'), await pageOf(browser, 'Marit')];
  const w = await openDemo(aya, server.address);
  for (const [page, note] of [
    [aya, 'sails, by Aya'],
    [marit, 'ropes, by Marit'],
  ] as const) {
    await page.goto(`${server.address}/versions${w}&scene=scenes/boat_v005.gltf`);
    await page.getByRole('textbox', { name: 'Note' }).fill(note);
    await page.getByRole('button', { name: 'Save boat_v006.gltf…' }).click();
    await expect(page.getByRole('button', { name: 'Apply the plan' })).toBeVisible({ timeout: 60_000 });
  }
  await apply(marit);
  const after = lying();
  expect(after.some((line) => line.startsWith('boat_v006.gltf '))).toBe(true);
  await aya.getByRole('button', { name: 'Apply the plan' }).click();
  const refused = aya.getByRole('main').getByRole('alert').first();
  await expect(refused).toContainText('has appeared since the plan was made');
  // What a busy button was announced by is gone with it; the kit's announcement stays for seven seconds.
  await expect(aya.locator('[data-live-announcer] [aria-labelledby]')).toHaveCount(0);
  await axe(aya, 'a plan that was overtaken');
  expect(lying()).toEqual(after);
  await aya.getByRole('button', { name: 'Make it anew' }).click();
  await apply(aya);
  expect(lying().filter((line) => !after.includes(line) && line.includes('.gltf ')).length).toBe(1);
  for (const [scene, said] of [
    ['boat_v006.gltf', 'Marit · “ropes, by Marit”'],
    ['boat_v007.gltf', 'Aya · “sails, by Aya”'],
  ]) {
    await aya.goto(`${server.address}/versions${w}&scene=scenes/${scene}`);
    await expect(aya.getByText(said!)).toBeVisible();
  }
  for (const name of fs.readdirSync(scenes)) if (!before.includes(name)) fs.rmSync(path.join(scenes, name));
});

test(
  'who looks changes nothing: the page says so, and the disk stays as it is',
  { tag: '@quick' },
  async ({ browser }) => {
    const lena = await pageOf(browser, 'Lena');
    const w = await openDemo(lena, server.address);
    const before = snapshot(server.root);
    await lena.goto(`${server.address}/versions${w}&scene=scenes/boat_v005.gltf`);
    await lena.getByRole('button', { name: 'Save boat_v006.gltf…' }).click();
    await expect(lena.getByText('You may look at everything here, and change nothing.')).toBeVisible();
    await expect(lena.getByRole('link', { name: 'People' })).toHaveCount(0);
    // Not by the address, either.
    for (const [method, at, data] of [
      ['POST', '/api/allowed', { path: server.folder }],
      ['GET', '/api/people', undefined],
      ['POST', '/api/workspaces/x/plans', { kind: 'travel' }],
    ] as const) {
      const answered = await lena.request.fetch(`${server.address}${at}`, {
        method,
        headers: { 'x-satchel': '1', origin: server.address },
        ...(data ? { data } : {}),
      });
      expect([at, answered.status()]).toEqual([at, 403]);
    }
    expect(snapshot(server.root)).toEqual(before);
  },
);

test('the database is away: that is said; once it is back everybody goes on, still signed in, also after a restart', async ({
  browser,
}) => {
  const aya = await pageOf(browser, 'Aya');
  const w = await openDemo(aya, server.address);
  postgres.kill();
  const answered = await aya.request.get(`${server.address}/api/state`);
  expect([answered.status(), ((await answered.json()) as { error: { code: string } }).error.code]).toEqual([
    503,
    'no-database',
  ]);
  await aya.goto(`${server.address}/files${w}`);
  await expect(aya.getByRole('heading', { name: 'The accounts do not answer just now' })).toBeVisible();
  postgres.start();
  await aya.goto(`${server.address}/files${w}`);
  await expect(aya.getByRole('heading', { name: 'Files' })).toBeVisible();
  await server.stop('SIGKILL');
  server = await startServer(server.folder, env, port);
  expect(server.said()).not.toContain('/join#');
  await aya.goto(`${server.address}/ledger${w}`);
  await expect(aya.getByText(/^Aya · /).first()).toBeVisible();
});

/** What stands before a server in a studio: TLS, the name it was asked for, the address of who asks. */
function proxyTo(port: number, folder: string, onPort: number): https.Server {
  const [key, cert] = ['key.pem', 'cert.pem'].map((f) => path.join(folder, f)) as [string, string];
  spawnSync('openssl', [
    ...['req', '-x509', '-newkey', 'rsa:2048', '-nodes', '-days', '2', '-subj', '/CN=localhost'],
    ...['-keyout', key, '-out', cert],
  ]);
  return https
    .createServer({ key: fs.readFileSync(key), cert: fs.readFileSync(cert) }, (asked, answer) => {
      const headers = { ...asked.headers, 'x-forwarded-for': asked.socket.remoteAddress };
      const on = http.request(
        { host: '127.0.0.1', port, path: asked.url, method: asked.method, headers },
        (got) => {
          answer.writeHead(got.statusCode!, got.headers);
          got.pipe(answer);
        },
      );
      on.on('error', () => answer.destroy());
      asked.pipe(on);
    })
    .listen(onPort, '127.0.0.1');
}

test('behind a proxy with TLS: cookies go by TLS alone, links and redirects name the outside; two servers on one database', async ({
  browser,
}) => {
  const [outside, inside] = [await freePort(), await freePort()];
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-tls-'));
  const origin = `https://localhost:${outside}`;
  const proxy = proxyTo(inside, folder, outside);
  // By the proxy's own name it is not asked whether it is there.
  const other = await startServer(
    folder,
    { ...env, SATCHEL_ORIGIN: origin, SATCHEL_DEMO: path.join(server.folder, 'harbour-lantern') },
    inside,
    origin,
  );
  const context = await browser.newContext({ ignoreHTTPSErrors: true });
  const page = await context.newPage();
  watch(page);
  await page.goto(`${origin}/people`);
  expect(page.url()).toBe(`${origin}/sign-in?to=%2Fpeople`);
  await page.getByLabel('E-mail address').fill('marit@studio.example');
  await page.getByLabel('Password').fill(passwords.Marit);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
  const cookies = (await context.cookies()).filter((c) => c.name.includes('session'));
  expect(cookies.map((c) => [c.name.startsWith('__Secure-'), c.secure, c.httpOnly, c.sameSite])).toEqual([
    [true, true, true, 'Strict'],
  ]);
  // Both do the work of one queue, each with a worker of its own; that of the server that was killed is there until it is missed.
  await expect(page.getByLabel('Machines that do the work').getByText('was heard of')).toHaveCount(2, {
    timeout: 60_000,
  });
  await page.getByRole('button', { name: /^A new password for Lena/ }).click();
  await expect(page.getByRole('alertdialog').getByText(`${origin}/join#`)).toBeVisible();
  await page.getByRole('button', { name: 'Done' }).click();
  // What one of them is asked for is seen by the other.
  const marit = await pageOf(browser, 'Marit');
  const w = await openDemo(marit, server.address);
  await page.goto(`${origin}/overview${w}`);
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/travel/);
  const asked = await page.request.post(
    `${origin}/api/workspaces/${new URLSearchParams(w).get('w')}/measure`,
    {
      headers: { 'x-satchel': '1', origin },
      data: {},
    },
  );
  const { id } = (await asked.json()) as { id: string };
  await expect
    .poll(async () => {
      const jobs = (await (await marit.request.get(`${server.address}/api/jobs`)).json()) as JobSeen[];
      return jobs.find((j) => j.id === id)?.state;
    })
    .toBe('done');
  // The name of the inside is nobody's way in.
  expect((await page.request.get(`http://127.0.0.1:${inside}/sign-in`)).status()).toBe(421);
  await context.close();
  await other.stop();
  proxy.close();
  fs.rmSync(folder, { recursive: true, force: true });
});

test('seen from above: all workspaces side by side with who is at work; who uses a file in any of them', async ({
  browser,
}) => {
  const marit = await pageOf(browser, 'Marit');
  const w = await openDemo(marit, server.address);
  await marit.goto(`${server.address}/versions${w}&scene=scenes/boat_v005.gltf`);
  await marit.getByRole('button', { name: 'Hold it…' }).click();
  await marit.getByLabel('What for').press('Enter');
  await expect(marit.getByText('You hold this scene')).toBeVisible();
  const lena = await pageOf(browser, 'Lena');
  await lena.goto(server.address);
  await lena.getByRole('tab', { name: 'Side by side' }).click();
  const table = lena.getByRole('grid', { name: 'All workspaces' });
  await expect(table.getByRole('row', { name: /Harbour Lantern/ })).toContainText(
    'Marit holds boat_v005.gltf',
  );
  await expect(lena.getByText(/would not open complete elsewhere.*Marit is at work/)).toBeVisible();
  await axe(lena, 'side by side');
  await lena.getByRole('tab', { name: 'Who uses a file' }).click();
  await lena.getByRole('searchbox', { name: 'Who uses a file' }).fill('HULL_planks');
  const uses = lena.getByRole('grid', { name: 'References that lead there' });
  await expect(uses.getByRole('row').filter({ hasText: 'timber.mtlx' })).toHaveCount(2);
  await axe(lena, 'who uses a file');
  await uses.getByRole('row').filter({ hasText: 'timber.mtlx' }).first().click();
  await expect(lena).toHaveURL(/\/references\?.*timber\.mtlx/);
  await marit.getByRole('button', { name: 'Let it go' }).click();
  await expect(marit.getByText('Nobody holds this scene.')).toBeVisible();
});

/** The command line, asked by a pipeline. */
async function satchel(key: string, ...args: string[]) {
  const project = path.resolve(import.meta.dirname, '..');
  const child = spawn(
    process.execPath,
    [path.join(project, 'dist', 'satchel.mjs'), '--server', server.address, ...args],
    {
      env: { ...process.env, SATCHEL_API_KEY: key, SATCHEL_HELD_TO: undefined },
    },
  );
  let [out, said] = ['', ''];
  child.stdout.on('data', (part: Buffer) => (out += part.toString()));
  child.stderr.on('data', (part: Buffer) => (said += part.toString()));
  const status = await new Promise<number | null>((done) => child.on('close', done));
  return { status, out, said };
}

test('a pipeline comes in by a key as far as its role goes, does the verbs of the command line there, and hears by a web hook what was done', async ({
  browser,
}) => {
  // Each verb is a process here, and one there.
  test.setTimeout(300_000);
  const heard: { headers: http.IncomingHttpHeaders; body: string }[] = [];
  let answersWith = 503;
  const listener = http
    .createServer((asked, answer) => {
      let body = '';
      asked.on('data', (part: Buffer) => (body += part.toString()));
      asked.on('end', () => {
        heard.push({ headers: asked.headers, body });
        answer.writeHead(answersWith).end();
        answersWith = 200;
      });
    })
    .listen(0, '127.0.0.1');
  await new Promise((done) => listener.once('listening', done));
  const to = `http://127.0.0.1:${(listener.address() as { port: number }).port}/told`;
  const marit = await pageOf(browser, 'Marit');
  await marit.goto(server.address);
  await marit.getByRole('link', { name: 'Pipelines' }).click();
  const made: Record<string, string> = {};
  for (const [about, role] of [
    ['the render farm', 'looks and changes'],
    ['the wall screen', 'looks'],
  ] as const) {
    await marit.getByRole('textbox', { name: 'For what' }).first().fill(about);
    await marit.getByRole('button', { name: /Role/ }).click();
    await marit.getByRole('option', { name: role, exact: true }).click();
    await marit.getByRole('button', { name: 'Make a key' }).click();
    const dialog = marit.getByRole('alertdialog');
    made[about] = (await dialog.getByText(/^satchel_/).innerText()).trim();
    await dialog.getByRole('button', { name: 'Done' }).click();
  }
  const hooks = marit.getByRole('region', { name: 'Web hooks' });
  await hooks.getByRole('textbox', { name: 'For what' }).fill('the review page');
  await hooks.getByRole('textbox', { name: 'Address' }).fill(to);
  await hooks.getByRole('button', { name: 'Make a web hook' }).click();
  const secret = (
    await marit
      .getByRole('alertdialog')
      .getByText(/^whsec_/)
      .innerText()
  ).trim();
  await marit.getByRole('button', { name: 'Done' }).click();
  await axe(marit, 'pipelines');

  // Looking is done by both, and prints what it prints here.
  const [farm, wall] = [made['the render farm']!, made['the wall screen']!];
  const scene = path.join(server.root, 'scenes', 'boat_v005.gltf');
  const there = await satchel(wall, 'refs', scene, '--json');
  const here = spawnSync(process.execPath, ['dist/satchel.mjs', 'refs', scene, '--json'], {
    cwd: path.resolve(import.meta.dirname, '..'),
    encoding: 'utf8',
  });
  expect([there.status, there.out]).toEqual([here.status, here.stdout]);
  // Changing only by the one that may; what is planned is not done.
  const before = snapshot(server.root);
  expect(await satchel(wall, 'save', scene, '--yes')).toMatchObject({
    status: 2,
    said: expect.stringContaining('change nothing') as unknown,
  });
  expect((await satchel(farm, 'save', scene)).out).toContain('boat_v006.gltf');
  expect(snapshot(server.root)).toEqual(before);
  // Nothing outside of what is allowed, by no way.
  for (const outside of ['/etc', path.join(server.root, '..', '..', '..', '..')])
    expect((await satchel(farm, 'refs', scene, outside)).status).toBe(2);
  expect(
    (await satchel(farm, 'pack', server.root, '--to', path.join(os.tmpdir(), 'satchel-stolen.zip'))).status,
  ).toBe(2);
  expect((await satchel('satchel_nobody_has_this_one_here', 'refs', scene)).said).toContain(
    'SATCHEL_API_KEY',
  );
  const done = await satchel(farm, 'save', scene, '--note', 'from the farm', '--yes');
  expect([done.status, done.said]).toEqual([0, '']);
  expect(fs.existsSync(path.join(server.root, 'scenes', 'boat_v006.gltf'))).toBe(true);
  await marit.goto(`${server.address}/ledger${await openDemo(marit, server.address)}`);
  await expect(marit.getByText(/^the render farm · /).first()).toBeVisible();

  // What was done, and what it came to, are told once each; what was not heard is told again. Signed so that the package for it agrees.
  await expect.poll(() => heard.length, { timeout: 30_000 }).toBe(3);
  const { Webhook } = await import('standardwebhooks');
  const told = heard.map(({ headers, body }) => ({
    id: headers['webhook-id'],
    ...(new Webhook(secret).verify(body, headers as Record<string, string>) as {
      type: string;
      data: object;
    }),
  }));
  const each = [...new Map(told.map((m) => [m.id, m])).values()].sort((m, n) => (m.type < n.type ? 1 : -1));
  expect(each).toMatchObject([
    {
      type: 'version.saved',
      data: { by: 'the render farm', workspace: { root: server.root }, verb: 'save' },
    },
    // The new version lacks what the one before lacked.
    { type: 'readiness.fallen', data: { workspace: { root: server.root } } },
  ]);
  await marit.goto(`${server.address}/pipelines`);
  await marit.getByText('2 messages of late').click();
  await expect(marit.getByText(/2 tries · answered: 200/)).toBeVisible();
  await axe(marit, 'what a web hook was told');
  // A key that is taken back is out with the next request.
  await marit.getByRole('button', { name: 'The key for the render farm holds no more' }).click();
  await expect(marit.getByRole('button', { name: 'The key for the render farm holds no more' })).toHaveCount(
    0,
  );
  expect((await satchel(farm, 'refs', scene)).status).toBe(2);
  listener.close();
  fs.rmSync(path.join(server.root, 'scenes', 'boat_v006.gltf'));
});

test('a folder that is not theirs to see is not there for them', async ({ browser }) => {
  const marit = await pageOf(browser, 'Marit');
  await marit.goto(server.address);
  const folder = path.join(server.folder, 'harbour-lantern');
  await marit.getByRole('button', { name: `Who sees ${folder}` }).click();
  await marit.getByRole('option', { name: 'seen by those who change' }).click();
  await expect(marit.getByRole('button', { name: `Who sees ${folder}` })).toContainText('those who change');
  const lena = await pageOf(browser, 'Lena');
  await lena.goto(server.address);
  await expect(lena.getByText('No folder is yours to see yet.')).toBeVisible();
  await expect(lena.getByRole('link', { name: /Harbour Lantern/ })).toHaveCount(0);
  await axe(lena, 'no folder yet');
});

test('who is sent away is out with the next click, and does not come in again', async ({ browser }) => {
  const aya = await pageOf(browser, 'Aya');
  const w = await openDemo(aya, server.address);
  const marit = await pageOf(browser, 'Marit');
  await marit.goto(`${server.address}/people`);
  await marit.getByRole('button', { name: 'Aya does not come in any more' }).click();
  await expect(marit.getByText('does not come in any more')).toBeVisible();
  await aya.getByRole('link', { name: 'Versions' }).click();
  await expect(aya.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  // Nothing of the window is left around it.
  await expect(aya.getByRole('link', { name: 'Workspaces' })).toHaveCount(0);
  await aya.getByLabel('E-mail address').fill('aya@studio.example');
  await aya.getByLabel('Password').fill(passwords.Aya);
  await aya.getByRole('button', { name: 'Sign in' }).click();
  await expect(aya.getByText('do not belong together')).toBeVisible();
  // The key of one's own machine opens nothing here.
  await expect(ask(server.address, `/api/workspaces/${new URLSearchParams(w).get('w')}`)).rejects.toThrow(
    '401',
  );
  // Who did it stays said.
  await marit.goto(`${server.address}/ledger${w}`);
  await expect(marit.getByText(/^Aya · /).first()).toBeVisible();
});
