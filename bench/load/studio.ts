// A studio under load, on this machine alone: artists at mixed work in many workspaces, workers, and everything that goes wrong. At the end nothing is lost, nothing was
// done twice, every ledger is true; and a page's data came quickly while nothing was away.
//
// node scripts/load.mjs [--minutes 3] [--artists 50] [--workspaces 200] [--workers 3] [--seed 1] [--calm] [--strict]

import { parseArgs } from 'node:util';
import { Artist, type Look } from './artist';
import { Trouble, type Outage } from './trouble';
import { wrongIn } from './truth';
import { makeWorld } from './world';

const { values } = parseArgs({
  options: {
    minutes: { type: 'string', default: '3' },
    artists: { type: 'string', default: '50' },
    workspaces: { type: 'string', default: '200' },
    workers: { type: 'string', default: '3' },
    // What is too slow is a fault too: for a machine that does nothing beside.
    strict: { type: 'boolean', default: false },
    // Nothing goes wrong: how quick it is by itself.
    calm: { type: 'boolean', default: false },
    seed: { type: 'string', default: String(Date.now() % 1_000_000) },
  },
});
const of = {
  artists: Number(values.artists),
  workspaces: Number(values.workspaces),
  workers: Number(values.workers),
};
const lasts = Number(values.minutes) * 60_000;
// So long after something was away pages may be slow: caches are cold, and everybody asks at once.
const settles = 8000; // ms
const wished = 300; // ms
const wishedOfEvents = 2000; // ms

/** Numbers from a seed, in [0, 1): the same each time. */
function numbers(seed: number): () => number {
  let n = seed >>> 0;
  return () => {
    n = (n + 0x6d2b79f5) >>> 0;
    let t = Math.imul(n ^ (n >>> 15), 1 | n);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const part = (sorted: readonly number[], p: number) =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))] ?? 0;
const isCalm = (look: Look, outages: readonly Outage[]) =>
  !outages.some((o) => look.at + look.ms >= o.from && look.at <= o.to + settles);
const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

const seed = Number(values.seed);
console.log(
  `${of.artists} artists, ${of.workspaces} workspaces, ${of.workers} workers, ${values.minutes} minutes; seed ${seed}`,
);
const world = await makeWorld(of);
let failed = false;
// What is being waited for: named when time runs out or somebody stops the run, after which no process is left behind.
let phase = 'the artists to come in';
const stopNow = async (why: string, status: number) => {
  console.log(`${why}, while waiting for ${phase}`);
  await world.close().catch((cause: unknown) => console.log(String(cause)));
  process.exit(status);
};
setTimeout(() => void stopNow('WRONG it has not ended in time', 1), lasts + 8 * 60_000).unref();
process.once('SIGTERM', () => void stopNow('Stopped', 143));
process.once('SIGINT', () => void stopNow('Stopped', 130));
try {
  const random = numbers(seed);
  const artists = world.keys.map((who, a) => new Artist(world, who, numbers(seed + a + 1)));
  const trouble = new Trouble(world, random);
  let isOver = false;
  const isGone = { now: false };
  for (const a of artists) void a.hear(() => isGone.now);
  // They come in one after the other, as in any morning; until all are there pages may be slow.
  const comesIn = Math.min(30_000, lasts / 6);
  const begun = Date.now() + comesIn;
  const everybody = [
    ...artists.map(async (a, i) => {
      await pause((comesIn * i) / artists.length);
      await a.work(() => isOver);
    }),
    // Each kind of trouble at least once, with calm between.
    ...(values.calm ? [] : [trouble.work(() => isOver, Math.max(15_000, lasts / 11))]),
  ];
  await pause(lasts);
  isOver = true;
  phase = 'each artist to finish what is in hand';
  await Promise.all(everybody);

  // What goes on comes to its end; what lay half way is put back by the next who meets it.
  const headers = { authorization: `Bearer ${world.keys[0]!.key}` };
  const open = async () =>
    (await world.db.query<{ n: number }>('SELECT count(*) AS n FROM work WHERE ended IS NULL'))[0]!.n;
  const until = Date.now() + 180_000;
  phase = 'open jobs to end';
  while ((await open()) > 0 && Date.now() < until) await pause(1000);
  const stuck = await open();
  if (stuck > 0)
    console.log(
      JSON.stringify(
        await world.db.query(
          'SELECT work, title, state, progress, worker, tries FROM work WHERE ended IS NULL LIMIT 10',
        ),
      ),
    );
  phase = 'changes that were broken off to be undone';
  for (const { id } of world.places)
    for (let n = 0; n < 20; n++) {
      const answered = await fetch(`${world.address}/api/workspaces/${id}`, {
        headers,
        signal: AbortSignal.timeout(60_000),
      });
      const { open: left } = (await answered.json()) as { open: unknown[] };
      if (left.length === 0) break;
      await pause(1000);
    }

  const looks = artists.flatMap((a) => a.looks);
  const calm = looks.filter((l) => l.at > begun && isCalm(l, trouble.outages));
  const told = artists.flatMap((a) => a.told);
  isGone.now = true;
  for (const page of [...new Set(calm.map((l) => l.page))].sort()) {
    const ms = calm
      .filter((l) => l.page === page)
      .map((l) => l.ms)
      .sort((a, b) => a - b);
    console.log(
      `  ${page.padEnd(18)} ${String(ms.length).padStart(6)} asked   half in ${part(ms, 0.5)} ms, 95 % in ${part(ms, 0.95)} ms`,
    );
  }
  const sorted = calm.map((l) => l.ms).sort((a, b) => a - b);
  const p95 = part(sorted, 0.95);
  console.log(
    `a page's data, while nothing was away: half in ${part(sorted, 0.5)} ms, 95 % in ${p95} ms (of ${calm.length}; ${looks.length} with outages)`,
  );
  const events = artists
    .flatMap((a) => a.events)
    .filter((l) => l.at > begun && isCalm(l, trouble.outages))
    .map((l) => l.ms)
    .sort((a, b) => a - b);
  console.log(
    `an end of work, told to every window: half in ${part(events, 0.5)} ms, 99 % in ${part(events, 0.99)} ms (of ${events.length})`,
  );
  for (const what of [...new Set(trouble.outages.map((o) => o.what))])
    console.log(`  ${what}: ${trouble.outages.filter((o) => o.what === what).length} times`);
  for (const how of ['done', 'not done', 'unknown'] as const)
    console.log(`  changes told as ${how}: ${told.filter((t) => t.how === how).length}`);

  phase = 'ledgers to be checked';
  const wrong: string[] = [];
  for (const place of world.places)
    wrong.push(
      ...(await wrongIn(
        place,
        told.filter((t) => t.place === place),
      )),
    );
  const faults = artists.flatMap((a) => a.faults);
  if (stuck > 0) wrong.push(`${stuck} jobs came to no end`);
  if (told.filter((t) => t.how === 'done').length === 0) wrong.push('nothing was done at all');
  for (const line of [...wrong, ...faults].slice(0, 40)) console.log(`WRONG ${line}`);
  const isLate = part(events, 0.99) > wishedOfEvents;
  if (isLate)
    console.log(
      `LATE 99 % of what is told to every window came within ${part(events, 0.99)} ms, ${wishedOfEvents} are wished`,
    );
  if (p95 > wished) console.log(`LATE 95 % of a page's data took up to ${p95} ms, ${wished} are wished`);
  console.log(`${wrong.length} wrong in ${world.places.length} workspaces, ${faults.length} faults told`);
  failed = wrong.length + faults.length > 0 || (values.strict && (isLate || p95 > wished));
} finally {
  if (failed) console.log(world.server.words.slice(-4000));
  await world.close();
}
process.exit(failed ? 1 : 0);
