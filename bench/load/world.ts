// The studio under load: a PostgreSQL server, the built application, workers, and a share of small workspaces, each with scenes and textures of its own.

import { spawn, type ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import http from 'node:http';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { makeWorkspaceFile } from './marker';
import { openServer, type Database } from '@/server/database/database';
import { addAllowed } from '@/server/database/allowedQueries';
import { rememberWorkspace } from '@/server/database/queries';
import { postgresBin, postgresHere, type PostgresHere } from '@/server/database/testing/postgres';
import { workspaceId } from '@/server/hub';
import { makeOneKey } from '@/server/studio/keys';

export const shares = 4;
const project = process.cwd();
const lease = '5'; // s
const texturesEach = 8;

export interface Place {
  id: string;
  root: string;
  /** Its textures, each with content of its own. */
  contents: string[];
}

export interface World {
  base: string;
  address: string;
  postgres: PostgresHere;
  db: Database;
  places: readonly Place[];
  /** A key for each artist; every fifth only looks. */
  keys: readonly { key: string; name: string; may: 'look' | 'change' }[];
  server: Kept;
  workers: readonly Kept[];
  close(): Promise<void>;
}

/** A process that is started again when it was ended from outside. */
export class Kept {
  private child: ChildProcess | null = null;
  private said = '';

  constructor(
    readonly name: string,
    private readonly args: readonly string[],
    private readonly env: Record<string, string>,
    private readonly isUp: (said: string) => Promise<boolean>,
    private readonly cwd = project,
  ) {}

  async start(): Promise<void> {
    this.said = '';
    const child = spawn(process.execPath, this.args, {
      cwd: this.cwd,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: {
        ...process.env,
        NODE_ENV: 'production',
        NEXT_TELEMETRY_DISABLED: '1',
        NEXT_MANUAL_SIG_HANDLE: 'true',
        ...this.env,
      },
    });
    this.child = child;
    for (const out of [child.stdout, child.stderr])
      out.on('data', (part: Buffer) => (this.said = (this.said + part.toString()).slice(-20_000)));
    for (let n = 0; ; n++) {
      if (child.exitCode !== null || n > 600) throw new Error(`${this.name} did not start: ${this.said}`);
      if (await this.isUp(this.said)) return;
      await new Promise((wait) => setTimeout(wait, 100));
    }
  }

  async kill(signal: NodeJS.Signals = 'SIGKILL'): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise<void>((done) => child.once('exit', () => done()));
    child.kill(signal);
    await ended;
  }

  get words(): string {
    return this.said;
  }
}

const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = net.createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as net.AddressInfo;
      probe.close(() => resolve(port));
    });
  });

/** A workspace of two scenes that lead to textures, no two of which are alike. */
function makePlace(root: string, number: number): Place {
  for (const folder of ['scenes', 'textures', '.satchel'])
    fs.mkdirSync(path.join(root, folder), { recursive: true });
  fs.writeFileSync(path.join(root, '.satchel', 'workspace.json'), makeWorkspaceFile(`Show ${number}`));
  const contents: string[] = [];
  const uris: string[] = [];
  for (let t = 0; t < texturesEach; t++) {
    const content = `texture ${t} of show ${number}`;
    contents.push(content);
    fs.writeFileSync(path.join(root, 'textures', `t${t}.png`), content);
    uris.push(`../textures/t${t}.png`);
  }
  const scene = (of: readonly string[]) =>
    JSON.stringify({ asset: { version: '2.0' }, images: of.map((uri) => ({ uri })) });
  fs.writeFileSync(path.join(root, 'scenes', 'harbour_v001.gltf'), scene(uris));
  fs.writeFileSync(path.join(root, 'scenes', 'boat_v001.gltf'), scene(uris.slice(0, 3)));
  return { id: workspaceId(root), root, contents };
}

export async function makeWorld(of: {
  artists: number;
  workspaces: number;
  workers: number;
}): Promise<World> {
  const bin = postgresBin();
  if (!bin) throw new Error('No PostgreSQL is installed here.');
  const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-load-')));
  const postgres = postgresHere(bin, await freePort());
  const url = postgres.url('load');
  const db = await openServer(url);
  const places: Place[] = [];
  for (let s = 0; s < shares; s++) {
    fs.mkdirSync(path.join(base, `share${s}`));
    await addAllowed(db, path.join(base, `share${s}`));
  }
  fs.mkdirSync(path.join(base, 'barn'));
  await addAllowed(db, path.join(base, 'barn'));
  for (let n = 0; n < of.workspaces; n++) {
    const place = makePlace(path.join(base, `share${n % shares}`, `show ${n}`), n);
    places.push(place);
    await rememberWorkspace(db, place.id, place.root, `Show ${n}`);
  }
  await db.query(
    `INSERT INTO person ("id", "name", "email", "emailVerified", "role") VALUES ('lead', 'Lead', 'lead@studio.example', false, 'manage')`,
  );
  const keys: World['keys'][number][] = [];
  for (let a = 0; a < of.artists; a++) {
    const may = a % 5 === 4 ? ('look' as const) : ('change' as const);
    const name = `Artist ${a}`;
    const { key } = await makeOneKey(db, { about: name, role: may, days: 1, by: 'lead' });
    keys.push({ key, name, may });
  }
  const port = await freePort();
  const address = `http://127.0.0.1:${port}`;
  const common = { SATCHEL_DATABASE_URL: url, SATCHEL_LEASE: lease };
  const answers = () =>
    new Promise<boolean>((resolve) => {
      http
        .get(
          `${address}/api/me`,
          { agent: false, headers: { authorization: `Bearer ${keys[0]!.key}` } },
          (answer) => {
            answer.resume();
            resolve(answer.statusCode === 200);
          },
        )
        .on('error', () => resolve(false));
    });
  const server = new Kept(
    'the server',
    [path.join(project, 'node_modules/next/dist/bin/next'), 'start', '-H', '127.0.0.1', '-p', String(port)],
    {
      ...common,
      SATCHEL_MODE: 'studio',
      SATCHEL_SECRET: 'c2VjcmV0LW9mLXRoZS1oYXJib3VyLW1hcmtldA==',
      SATCHEL_ORIGIN: address,
      SATCHEL_DATA: path.join(base, 'app'),
    },
    answers,
  );
  await server.start();
  const workers: Kept[] = [];
  for (let w = 0; w < of.workers; w++) {
    const worker = new Kept(
      `worker ${w}`,
      [
        path.join(project, 'dist/satchel.mjs'),
        'worker',
        '--name',
        `worker ${w}`,
        '--data',
        path.join(base, `app-${w}`),
        '--at-once',
        '2',
      ],
      common,
      (said) => Promise.resolve(said.includes('is at work')),
      base,
    );
    await worker.start();
    workers.push(worker);
  }
  return {
    ...{ base, address, postgres, db, places, keys, server, workers },
    async close() {
      await Promise.all([server.kill(), ...workers.map((w) => w.kill())]);
      await db.close();
      postgres.close();
      fs.rmSync(base, { recursive: true, force: true });
    },
  };
}
