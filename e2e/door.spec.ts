// The door of the server, tried from outside: by another account with curl, by a page elsewhere, by addresses that lead nowhere; and what
// comes in through it: uploads of any size, whole or not at all.

import { expect, test, type Browser } from 'playwright/test';
import { spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import fs from 'node:fs';
import http from 'node:http';
import path from 'node:path';
import { Blake3Hasher } from '@napi-rs/blake-hash';
import { ask, keyHeaders, servedDemo, startServer, theDemo } from './server';
import { apply, openDemo, watch } from './steps';

const server = servedDemo();

/** Where the server keeps what a page calls by its drop. */
const keptAt = (name: string) => name.replace(/^drop:/, `${server.folder}/app/incoming/`);

const stranger = (browser: Browser) => browser.newContext({ extraHTTPHeaders: {} });

test(
  'nobody gets in without the key; with it once, the browser is known',
  { tag: '@quick' },
  async ({ browser }) => {
    const { address } = server;
    for (const at of ['/', '/overview', '/icon.svg', '/_next/static/none.js', '/nothing', '/?key=wrong'])
      expect([at, (await fetch(`${address}${at}`)).status]).toEqual([at, 401]);
    for (const [method, at] of [
      ['GET', '/api/state'],
      ['GET', '/api/jobs'],
      ['GET', '/api/events'],
      ['GET', '/api/nothing'],
      ['POST', '/api/allowed'],
      ['POST', '/api/upload?drop=x&file=0'],
      ['DELETE', '/api/allowed'],
    ] as const) {
      const answer = await fetch(`${address}${at}`, {
        method,
        headers: { 'x-satchel': '1', 'content-type': 'application/json', 'x-satchel-key': 'guessed' },
        ...(method === 'GET' ? {} : { body: '{"path":"/"}' }),
      });
      expect([at, answer.status, ((await answer.json()) as { error: { code: string } }).error.code]).toEqual([
        at,
        401,
        'no-key',
      ]);
    }
    const context = await stranger(browser);
    const page = await context.newPage();
    await page.goto(address);
    await expect(page.getByRole('heading', { name: 'Loyal Satchel is running, and locked' })).toBeVisible();
    watch(page);
    await page.goto(`${address}/?key=${keyHeaders['x-satchel-key']}`);
    await expect(page.getByRole('link', { name: /Harbour Lantern/ }).first()).toBeVisible();
    await expect.poll(() => page.url()).toBe(`${address}/`);
    const [cookie] = await context.cookies();
    expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Strict', path: '/', domain: '127.0.0.1' });
    await page.goto(`${address}/settings`);
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await context.close();
  },
);

test('another account of this machine neither gets in nor finds the key', async () => {
  test.skip(process.getuid?.() !== 0, 'only root can be another account');
  const script = `
    const status = async (at, init) => (await fetch('${server.address}' + at, init)).status;
    const readable = (file) => { try { return require('fs').readFileSync(file).length > 0 } catch { return false } };
    const post = { method: 'POST', headers: { 'x-satchel': '1', 'content-type': 'application/json' }, body: '{"path":"/"}' };
    Promise.all([status('/'), status('/api/state'), status('/api/allowed', post), status('/api/upload?drop=a&file=0', post)])
      .then((all) => console.log(JSON.stringify({ all, environ: readable('/proc/${server.pid}/environ'),
        data: ['known.json', 'installation.json', 'database/PG_VERSION'].map((f) => readable('${server.folder}/app/' + f)) })));`;
  const ran = spawnSync(process.execPath, ['-e', script], {
    uid: 65_534,
    gid: 65_534,
    env: { NODE_ENV: 'test' },
    cwd: '/',
  });
  expect(JSON.parse(ran.stdout.toString() || `"${ran.stderr.toString()}"`)).toEqual({
    all: [401, 401, 401, 401],
    environ: false,
    data: [false, false, false],
  });
});

test('a page elsewhere cannot drive the server, also where it knows the key', async () => {
  const status = async (headers: Record<string, string>, method = 'POST') =>
    (
      await fetch(`${server.address}/api/allowed`, {
        method,
        headers: { ...keyHeaders, 'content-type': 'application/json', ...headers },
        body: JSON.stringify({ path: '/' }),
      })
    ).status;
  expect(await status({})).toBe(403);
  expect(await status({ origin: 'http://evil.test' })).toBe(403);
  expect(await status({ 'sec-fetch-site': 'cross-site' })).toBe(403);
  expect(await status({ 'x-satchel': '1', 'content-type': 'text/plain' })).toBe(400);
  // After DNS rebinding the address is this server's, the name is not.
  const rebound = await new Promise<number>((resolve, reject) => {
    const { port } = new URL(server.address);
    http
      .get(
        {
          host: '127.0.0.1',
          port,
          path: '/api/state',
          headers: { ...keyHeaders, host: `evil.test:${port}` },
        },
        (r) => resolve(r.resume().statusCode!),
      )
      .on('error', reject);
  });
  expect(rebound).toBe(421);
  expect(
    (await ask<{ allowed: { path: string }[] }>(server.address, '/api/state')).allowed.map((p) => p.path),
  ).toEqual([path.join(server.folder, 'harbour-lantern')]);
});

test('addresses that lead nowhere', async ({ page }) => {
  for (const at of ['/api/nothing', '/api/%E0%A4%A', '/api/workspaces/%E0%A4%A', '/%E0%A4%A', '/nothing'])
    expect([at, (await fetch(`${server.address}${at}`, { headers: keyHeaders })).status]).toEqual([at, 404]);
  await page.goto(`${server.address}/nothing/at-all`);
  await expect(page.getByText('Nothing lies at /nothing/at-all')).toBeVisible();
  await page.getByRole('link', { name: 'Go to your workspaces' }).click();
  await expect(page.getByRole('heading', { name: 'Workspaces', level: 1 })).toBeVisible();
});

test('pictures, files and answers keep a policy of their own, in which nothing runs', async () => {
  const { workspaces } = await ask<{ workspaces: { id: string }[] }>(server.address, '/api/state');
  const id =
    workspaces[0]?.id ??
    (await ask<{ id: string }>(server.address, '/api/workspaces/open', { path: server.root })).id;
  for (const at of ['/api/state', `/api/workspaces/${id}/picture?path=textures/hull_planks_base.png`]) {
    const { headers } = await fetch(`${server.address}${at}`, { headers: keyHeaders });
    expect([at, headers.get('content-security-policy')]).toEqual([
      at,
      expect.stringMatching(/^default-src 'none';.*sandbox/),
    ]);
    expect(headers.get('x-content-type-options')).toBe('nosniff');
  }
});

test('20 MB dropped on the window arrive to the last byte', async ({ page }) => {
  watch(page);
  await openDemo(page, server.address);
  const sent = await page.evaluate(async () => {
    const bytes = new Uint8Array(20 * 1024 * 1024 + 7);
    for (let at = 0; at < bytes.length; at += 65_536)
      crypto.getRandomValues(bytes.subarray(at, Math.min(at + 65_536, bytes.length)));
    const data = new DataTransfer();
    data.items.add(new File([bytes], 'sky dome.png'));
    for (const name of ['dragenter', 'dragover', 'drop'])
      window.dispatchEvent(new DragEvent(name, { dataTransfer: data, bubbles: true, cancelable: true }));
    const hash = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
    return [...hash].map((b) => b.toString(16).padStart(2, '0')).join('');
  });
  await expect(page.getByRole('heading', { name: 'Bring in sky dome.png' })).toBeVisible();
  await apply(page);
  const here = fs.readFileSync(path.join(server.root, 'textures/sky dome.png'));
  expect([here.length, createHash('sha256').update(here).digest('hex')]).toEqual([
    20 * 1024 * 1024 + 7,
    sent,
  ]);
});

/** Sends a stream as one piece, from a program as a page would. */
function upload(
  at: string,
  body: AsyncIterable<Uint8Array>,
  length: number,
): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    const request = http.request(
      `${server.address}${at}`,
      { method: 'POST', headers: { ...keyHeaders, 'x-satchel': '1', 'content-length': length } },
      (response) => {
        let text = '';
        response.setEncoding('utf8').on('data', (part: string) => (text += part));
        response.on('end', () => resolve({ status: response.statusCode!, text }));
      },
    );
    request.on('error', reject);
    void (async () => {
      for await (const part of body)
        if (!request.write(part)) await new Promise((next) => request.once('drain', next));
      request.end();
    })().catch((cause: Error) => request.destroy(cause));
  });
}
const begin = (...files: { path: string; size: number }[]) =>
  ask<{ drop: string; folder: string; files: string[] }>(server.address, '/api/drops', { files });

test('more than 4 GiB by HTTP in one piece: whole, and the server stays small', async () => {
  test.setTimeout(300_000);
  // Beyond what 32 bits count.
  const size = 4 * 1024 ** 3 + 64 * 1024 ** 2;
  const source = path.join(server.folder, 'sparse.exr');
  fs.closeSync(fs.openSync(source, 'w'));
  fs.truncateSync(source, size);
  const hasher = new Blake3Hasher();
  const zeros = Buffer.alloc(16 * 1024 ** 2);
  for (let n = 0; n < size; n += zeros.length) hasher.update(zeros);
  const memory = () =>
    Number(/VmRSS:\s+(\d+)/.exec(fs.readFileSync(`/proc/${server.pid}/status`, 'utf8'))![1]) / 1024;
  const before = memory();
  let most = 0;
  const watching = setInterval(() => (most = Math.max(most, memory())), 100);
  const drop = await begin({ path: 'sparse.exr', size });
  const answer = await upload(
    `/api/upload?drop=${drop.drop}&file=0&digest=${hasher.digest('hex')}`,
    fs.createReadStream(source, { highWaterMark: 1024 ** 2 }),
    size,
  );
  clearInterval(watching);
  expect(JSON.parse(answer.text)).toEqual({ here: size, whole: true });
  expect(fs.statSync(keptAt(drop.files[0]!)).size).toBe(size);
  expect(most - before).toBeLessThan(400);
  fs.rmSync(source);
  await ask(server.address, '/api/drops', { files: [{ path: 'x', size: 1 }] });
  fs.rmSync(path.dirname(keptAt(drop.folder)), { recursive: true });
});

test('an upload that is cut off leaves nothing, and what was sent wrong is refused', async () => {
  const bytes = randomBytes(3_000_000);
  const drop = await begin({ path: 'a.png', size: bytes.length }, { path: 'b.png', size: 5 });
  const at = `/api/upload?drop=${drop.drop}&file=0&digest=${'0'.repeat(64)}`;
  async function* half() {
    yield bytes.subarray(0, 1_000_000);
    await new Promise((done) => setTimeout(done, 200));
    throw new Error('the plug was pulled');
  }
  await expect(upload(at, half(), bytes.length)).rejects.toThrow('the plug was pulled');
  const files = () =>
    fs
      .readdirSync(path.dirname(keptAt(drop.folder)), { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile())
      .map((e) => e.name);
  await expect.poll(files).toEqual([]);
  async function* whole() {
    yield bytes;
  }
  expect((await upload(at, whole(), bytes.length)).status).toBe(400);
  expect(files()).toEqual([]);
});

test('a page that waits for work learns that a restart ended it, and goes on by itself', async ({ page }) => {
  const own = await startServer();
  const port = Number(new URL(own.address).port);
  // Two films of one size: to tell whether they are the same takes hours.
  fs.mkdirSync(path.join(own.root, 'films'));
  for (const name of ['a', 'b']) {
    fs.closeSync(fs.openSync(path.join(own.root, `films/${name}.mp4`), 'w'));
    fs.truncateSync(path.join(own.root, `films/${name}.mp4`), 2000 * 1024 ** 3);
  }
  const w = await theDemo(own);
  const heard = page.waitForResponse((answer) => answer.url().endsWith('/duplicates'));
  await page.goto(`${own.address}/files${w}&view=twice`);
  const isRunning = async () =>
    (await ask<{ work: string; state: string }[]>(own.address, '/api/jobs')).some(
      (j) => j.work === 'duplicates' && j.state === 'running',
    );
  await expect.poll(isRunning).toBe(true);
  // It knows what it waits for.
  await (await heard).finished();
  await own.stop('SIGKILL');
  await expect(page.getByText('The server of Loyal Satchel does not answer.').first()).toBeVisible();
  const again = await startServer(own.folder, {}, port);
  await expect(page.getByText(/was started anew, which ended this work/)).toBeVisible();
  await expect(page.getByText('The server of Loyal Satchel does not answer.')).toHaveCount(0);
  await page.goto(`${again.address}/files${w}`);
  // What is asked for while it is away comes once it is back.
  await page.getByRole('row', { name: /^folder textures/ }).waitFor();
  await again.stop('SIGKILL');
  await page.getByRole('row', { name: /^folder textures/ }).click();
  await expect(page.getByRole('tabpanel').getByText(/does not answer/)).toBeVisible();
  const third = await startServer(own.folder, {}, port);
  await expect(page.getByText('hull_planks_base.png').first()).toBeVisible();
  await expect(page.getByText(/does not answer/)).toHaveCount(0);
  await third.stop();
  fs.rmSync(own.folder, { recursive: true, force: true });
});

test('a folder that holds more than work is allowed only by a second word', async ({ page }) => {
  await page.goto(server.address);
  const field = page.getByRole('textbox', { name: 'Allow a folder' });
  await field.fill('/');
  await page.getByRole('button', { name: 'Allow this folder' }).click();
  await expect(page.getByRole('region', { name: 'Allowed folders' }).getByRole('alert')).toContainText(
    '/ was not allowed. That is the whole disk',
  );
  const allowed = async () =>
    (await ask<{ allowed: { path: string }[] }>(server.address, '/api/state')).allowed.map((p) => p.path);
  expect(await allowed()).not.toContain('/');
  await page.getByRole('button', { name: 'Allow / all the same' }).click();
  await expect(page.getByText('More than work lies here')).toBeVisible();
  expect(await allowed()).toContain('/');
  await page.getByRole('button', { name: 'No longer allow /', exact: true }).click();
  await expect(page.getByText('More than work lies here')).toHaveCount(0);
});
