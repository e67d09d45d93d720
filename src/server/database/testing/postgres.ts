// A PostgreSQL server of the test's own, where Debian's package is installed: in a folder of its own, on a port of its own, without fsync.

import { execFileSync, spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import type { Socket } from 'node:net';
import os from 'node:os';
import path from 'node:path';

/** Where its programs lie; null: it is not on this machine, or there is no account that may run it. */
export function postgresBin(): string | null {
  const base = '/usr/lib/postgresql';
  if (!fs.existsSync(base) || process.getuid?.() !== 0) return null;
  const version = fs
    .readdirSync(base)
    .sort((a, b) => Number(a) - Number(b))
    .at(-1);
  const bin = version ? path.join(base, version, 'bin') : '';
  return bin && fs.existsSync(path.join(bin, 'initdb')) && spawnSync('id', ['postgres']).status === 0
    ? bin
    : null;
}

export interface PostgresHere {
  /** Of a database of this name; made where it is not there. */
  url(name?: string): string;
  port: number;
  /** One of its programs, as its account. */
  as(command: string): void;
  start(): void;
  /** At once, as if the machine was lost. */
  kill(): void;
  close(): void;
}

/** Starts one. `port`: the one it takes; below those that a system lends to connections (from 32768 on, ip(7)), so that none of them has it. */
export function postgresHere(bin: string, port = 20000 + (process.pid % 4000)): PostgresHere {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-pg-'));
  execFileSync('chown', ['postgres', folder]);
  const as = (command: string) =>
    void execFileSync('su', ['postgres', '-c', `${bin}/${command} >/dev/null 2>&1`], { timeout: 120_000 });
  const start = () =>
    as(
      `pg_ctl -D ${folder}/data -w -o "-p ${port} -k ${folder} -c listen_addresses=127.0.0.1 -c fsync=off" -l ${folder}/log start`,
    );
  const kill = () => as(`pg_ctl -D ${folder}/data -m immediate stop`);
  const stop = `su postgres -c '${bin}/pg_ctl -D ${folder}/data -m immediate stop'`;
  // The server leaves our process group; this shell ends it once our end of its input closes, however we end.
  const guard = spawn('sh', ['-c', `cat >/dev/null; ${stop}; rm -rf ${folder}`], {
    stdio: ['pipe', 'ignore', 'ignore'],
    detached: true,
  });
  guard.unref();
  (guard.stdin as Socket).unref();
  as(`initdb -D ${folder}/data -A trust -E UTF8`);
  start();
  const made = new Set(['postgres']);
  return {
    port,
    as,
    start,
    kill,
    url(name = 'postgres') {
      if (!made.has(name)) as(`createdb -h 127.0.0.1 -p ${port} ${name}`);
      made.add(name);
      return `postgres://postgres@127.0.0.1:${port}/${name}`;
    },
    close() {
      spawnSync('sh', ['-c', stop], { timeout: 60_000 });
      guard.stdin.end();
      fs.rmSync(folder, { recursive: true, force: true });
    },
  };
}
