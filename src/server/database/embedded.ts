// PGlite with its files in a folder, as its thread runs it: it blocks while a query runs.
//
// A thread that ends is replaced, and the new one opens the same folder. Who was in the middle of a transaction must learn that: each answer
// tells which opening it comes from, and a question may ask for one.

import { randomUUID } from 'node:crypto';
import fs from 'node:fs';
import { fileURLToPath } from 'node:url';
import { setFlagsFromString } from 'node:v8';
import { PGlite } from '@electric-sql/pglite';
import * as tar from 'tar';
import type { Value } from './database';

export interface Question {
  folder: string;
  /** Absent: the database is only opened. */
  sql?: string | undefined;
  values?: readonly Value[] | undefined;
  /** The opening that must answer; absent: any. */
  opening?: string | undefined;
  close?: boolean | undefined;
}

export interface Reply {
  opening: string;
  rows: unknown[];
}

// An empty database, made once when this code is built (scripts/setup.mjs): unpacked in a moment, where making one takes seconds.
const template = fileURLToPath(new URL('./template.tar', import.meta.url));

/** A file that could not be written would be passed over with a warning. Its paths begin with '/', which alone is told as well. */
function refuse(code: string, message: string | Error): void {
  if (code !== 'TAR_ENTRY_INFO') throw message instanceof Error ? message : new Error(message);
}

/** Lays the empty database into a folder with nothing in it, whole or not at all. */
function unpackInto(folder: string): void {
  const laid = `${folder}-new`;
  fs.rmSync(laid, { recursive: true, force: true });
  fs.mkdirSync(laid, { mode: 0o700 });
  try {
    tar.extract({ file: template, cwd: laid, sync: true, onwarn: refuse });
    fs.rmdirSync(folder);
    fs.renameSync(laid, folder);
  } catch (cause) {
    fs.rmSync(laid, { recursive: true, force: true });
    throw cause;
  }
}

// The system keeps the files' pages in memory already: a large cache of its own would only be memory taken (128 MB unless told).
const startParams = [...PGlite.defaultStartParams, '-c', 'shared_buffers=16MB'];

// What runs once while it opens is not worth compiling a second time, and better: by V8's own measure (1.8 million) that is most of what a start costs. What a
// scan runs over and over still is, a moment later (tried: 100,000 rows in and looked through, no slower than by that measure).
setFlagsFromString('--wasm-tiering-budget=30000000');

async function openIn(folder: string): Promise<PGlite> {
  if (fs.existsSync(template) && fs.readdirSync(folder).length === 0) unpackInto(folder);
  return PGlite.create({ dataDir: folder, parsers: { 20: Number }, startParams });
}

let opened: Promise<PGlite> | null = null;
let closing: Promise<unknown> = Promise.resolve();
let opening = randomUUID();

/** The database; opened where it is not, once one that is being closed is. */
async function open(folder: string): Promise<PGlite> {
  await closing;
  opening = randomUUID();
  return openIn(folder);
}

export default async function answer({
  folder,
  sql,
  values,
  opening: asked,
  close,
}: Question): Promise<Reply> {
  if (close) {
    const was = opened;
    opened = null;
    closing = Promise.resolve(was)
      .then((db) => db?.close())
      .catch(() => undefined);

    await closing;
    return { opening, rows: [] };
  }
  // int8, and with it count(), as a number: JavaScript's are exact up to 2^53.
  const db = await (opened ??= open(folder));
  if (asked !== undefined && asked !== opening)
    throw new Error('The database was started anew in the middle of this work.');
  return { opening, rows: sql === undefined ? [] : (await db.query(sql, values as unknown[])).rows };
}
