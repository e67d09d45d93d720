// Starts the real server on a fresh data folder and a fresh demo, and ends it, gently or not.

import { test } from 'playwright/test';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import http from 'node:http';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';

const project = path.resolve(import.meta.dirname, '..');

// An unpacked release to be tried instead of the build in this folder.
const release = process.env.SATCHEL_RELEASE;

/** The environment of a machine on which nothing was installed for it: an empty home, and no program in the path but what its starter itself calls. */
function bareHome(release: string): Record<string, string> {
  const [home, tools] = ['home', 'tools'].map((f) => path.join(release, '..', f)) as [string, string];
  for (const folder of [home, tools]) fs.mkdirSync(folder, { recursive: true });
  for (const tool of ['readlink', 'dirname'])
    try {
      fs.symlinkSync(`/usr/bin/${tool}`, path.join(tools, tool));
    } catch (cause) {
      // Another process of the run has made it.
      if ((cause as NodeJS.ErrnoException).code !== 'EEXIST') throw cause;
    }
  return { HOME: home, PATH: tools };
}

/** What a request brings to be let in. */
export const keyHeaders: Record<string, string> = { 'x-satchel-key': process.env.SATCHEL_KEY ?? '' };

export interface RunningServer {
  address: string;
  folder: string;
  pid: number;
  /** The demo's workspace. */
  root: string;
  /** What it has printed so far. */
  said(): string;
  stop(signal?: NodeJS.Signals): Promise<void>;
}

export function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = net.createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as net.AddressInfo;
      probe.close(() => resolve(port));
    });
  });
}

/** Lays the demo scenario in a folder that is not there yet. */
function layDemo(folder: string): void {
  const made = spawnSync(process.execPath, [path.join(project, 'dist', 'make-demo.mjs'), folder]);
  if (made.status !== 0) throw new Error(made.stderr.toString());
}

/** The workspace of a demo scenario. */
const workspaceIn = (demo: string) => path.join(demo, 'bench', 'work', '2026-11 Harbour Lantern');

/** A temporary folder with the demo scenario in it. */
export function freshDemo(): string {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-e2e-'));
  layDemo(path.join(folder, 'harbour-lantern'));
  return folder;
}

/** The status with which a server answers, asked by a name. */
const isUp = (address: string, name = address) =>
  new Promise<number>((resolve, reject) => {
    const headers = { ...keyHeaders, host: new URL(name).host };
    http
      .get(`${address}/api/jobs`, { agent: false, headers }, (answer) => {
        answer.resume();
        resolve(answer.statusCode ?? 0);
      })
      .on('error', reject);
  });

/** Starts the server; `folder` from an earlier run goes on where that left off. */
export async function startServer(
  folder = freshDemo(),
  env: Record<string, string> = {},
  onPort?: number,
  /** The name that it answers to, where that is not its own address. */
  name?: string,
): Promise<RunningServer> {
  const port = onPort ?? (await freePort());
  const demo = path.join(folder, 'harbour-lantern');
  const next = path.join(project, 'node_modules/next/dist/bin/next');
  const [program, args] = release
    ? [path.join(release, 'loyal-satchel'), ['--no-open', '--port', String(port)]]
    : [process.execPath, [next, 'start', '-H', '127.0.0.1', '-p', String(port)]];
  const child: ChildProcess = spawn(program, args, {
    cwd: release ?? project,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      ...(release ? bareHome(release) : {}),
      NODE_ENV: 'production',
      NEXT_TELEMETRY_DISABLED: '1',
      NEXT_MANUAL_SIG_HANDLE: 'true',
      SATCHEL_DATA: path.join(folder, 'app'),
      SATCHEL_DEMO: demo,
      ...env,
    },
  });
  // A test that fails in the middle leaves it behind: it goes with the process of the tests, which is made anew after a failure.
  const goWith = () => child.kill('SIGKILL');
  process.once('exit', goWith);
  child.once('exit', () => process.off('exit', goWith));
  let said = '';
  child.stdout!.on('data', (part: Buffer) => (said = (said + part.toString()).slice(-20_000)));
  const ended = new Promise<void>((done) => child.once('exit', () => done()));
  const address = `http://127.0.0.1:${port}`;
  for (let n = 0; ; n++) {
    if (n > 600 || child.exitCode !== null) throw new Error('the server did not start');
    if (
      await isUp(address, name).then(
        // On a server for several nobody has the key.
        (status) => status === 200 || (env.SATCHEL_MODE === 'studio' && status === 401),
        () => false,
      )
    )
      break;
    await new Promise((done) => setTimeout(done, 100));
  }
  return {
    address,
    folder,
    pid: child.pid!,
    said: () => said,
    root: workspaceIn(demo),
    async stop(signal = 'SIGTERM') {
      if (child.exitCode === null) child.kill(signal);
      const late = setTimeout(() => child.kill('SIGKILL'), 15_000);
      await ended;
      clearTimeout(late);
    },
  };
}

/** A server of its own for the tests of a file, on a fresh demo: there when they begin, gone with all its files after the last. `prepare` runs once it is there. */
export function servedDemo(prepare: (server: RunningServer) => void = () => undefined): RunningServer {
  const served = {} as RunningServer;
  test.beforeAll(async () => {
    prepare(Object.assign(served, await startServer()));
  });
  test.afterAll(async () => {
    await served.stop();
    fs.rmSync(served.folder, { recursive: true, force: true });
  });
  return served;
}

/** The demo scenario once more, for one test, on a server that goes on: a workspace that nothing was done in yet. */
export async function anotherDemo(server: RunningServer): Promise<RunningServer> {
  const demo = path.join(fs.mkdtempSync(path.join(server.folder, 'harbour-lantern', 'again-')), 'demo');
  layDemo(demo);
  const root = workspaceIn(demo);
  await ask(server.address, '/api/workspaces/open', { path: root });
  return { ...server, root };
}

/** Every user's file below a folder with its bytes; our own records are left out. */
export function snapshot(root: string): Record<string, string> {
  return Object.fromEntries(
    fs
      .readdirSync(root, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile())
      .map((e) => path.relative(root, path.join(e.parentPath, e.name)))
      .filter((p) => !p.startsWith('.satchel'))
      .sort()
      .map((p) => [p, fs.readFileSync(path.join(root, p)).toString('base64')]),
  );
}

/** As `snapshot`, of a folder with several workspaces: our own records in each of them are left out (the net writes down when it looked). */
export function users(folder: string): Record<string, string> {
  return Object.fromEntries(
    Object.entries(snapshot(folder)).filter(([name]) => !/(^|\/)\.satchel\//.test(name)),
  );
}

/** Asks the server as the page would. Each time by a new connection: a kept one may be closed just as it is used again. */
export async function ask<T>(address: string, at: string, body?: unknown): Promise<T> {
  const text = body === undefined ? null : JSON.stringify(body);
  const { status, answer } = await new Promise<{ status: number; answer: string }>((resolve, reject) => {
    const headers =
      text === null
        ? keyHeaders
        : {
            ...keyHeaders,
            'content-type': 'application/json',
            'content-length': Buffer.byteLength(text),
            'x-satchel': '1',
          };
    const request = http.request(
      `${address}${at}`,
      { agent: false, method: text === null ? 'GET' : 'POST', headers },
      (response) => {
        const parts: Buffer[] = [];
        response
          .on('data', (part: Buffer) => parts.push(part))
          .on('error', reject)
          .on('end', () =>
            resolve({ status: response.statusCode ?? 0, answer: Buffer.concat(parts).toString() }),
          );
      },
    );
    request.on('error', reject).end(text ?? undefined);
  });
  if (status >= 400) throw new Error(`${at}: ${status} ${answer}`);
  return JSON.parse(answer) as T;
}

/** Waits until a job has ended; throws after two minutes, with how far it is. */
export async function finished(
  address: string,
  id: string,
): Promise<{ state: string; result: unknown; error: { message: string } | null }> {
  for (const until = Date.now() + 120_000; ;) {
    const job = (
      await ask<
        {
          id: string;
          ended: number | null;
          state: string;
          result: unknown;
          error: { message: string } | null;
        }[]
      >(address, '/api/jobs')
    ).find((j) => j.id === id);
    if (job?.ended) return job;
    if (Date.now() > until)
      throw new Error(`job ${id} has not ended after two minutes: ${JSON.stringify(job)}`);
    await new Promise((done) => setTimeout(done, 50));
  }
}

/** By which id a server knows the demo's workspace. */
export async function demoId({ address, root }: Pick<RunningServer, 'address' | 'root'>): Promise<string> {
  // What was brought to another folder may have the same name: the one that is meant is told by its root.
  const { workspaces } = await ask<{ workspaces: { id: string; root: string }[] }>(address, '/api/state');
  return workspaces.find((w) => w.root === root)!.id;
}

const read = new Set<string>();

/** The search part of an address that names the demo's workspace, once it has been read on this server: to go where a bookmark leads, without the way through the list. */
export async function theDemo(server: RunningServer): Promise<string> {
  const id = await demoId(server);
  const which = `${server.address} ${id}`;
  if (!read.has(which)) {
    const job = await ask<{ id: string }>(server.address, `/api/workspaces/${id}/scan`, {});
    await finished(server.address, job.id);
    read.add(which);
  }
  return `?w=${id}`;
}
