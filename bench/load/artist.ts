// One artist at work: looks at pages, now and then saves a version, moves a texture, takes that back, keeps a checkpoint, holds a scene, backs up, or lets a pipeline do
// it. Everything that was answered is written down, to be held against the disk afterwards.

import { z } from 'zod';
import { errorShape, eventMessage, jobView, type JobView } from '@/wire/jobs';
import type { Place, World } from './world';

/** What an artist was told of something that changes files. */
export interface Told {
  place: Place;
  what: 'save' | 'move' | 'undo' | 'verb';
  note: string;
  /** The ledger's entry, where it was said to be done; null: it was said not to be, or nothing was said. */
  entry: string | null;
  /** 'unknown': who did it went away, and the ledger alone tells. */
  how: 'done' | 'not done' | 'unknown';
}

/** How long a page's data took. `at`: when it was asked for, ms. */
export interface Look {
  page: string;
  at: number;
  ms: number;
}

class Away extends Error {}
class Refused extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

const patience = 20_000; // ms
// Between two steps an artist reads, or works elsewhere: seven seconds on average, and every third step or so changes something.
const thinks = 12_000; // ms
const planMade = z.object({ plan: z.string() });
const applied = z.object({ id: z.string() });

export class Artist {
  readonly told: Told[] = [];
  readonly looks: Look[] = [];
  /** What went wrong and is no outage. */
  readonly faults: string[] = [];
  private readonly made: { place: Place; entry: string }[] = [];
  /** How late each end of work was told of. */
  readonly events: Look[] = [];
  private readonly waiting = new Map<string, (job: JobView) => void>();
  private count = 0;

  constructor(
    private readonly world: World,
    private readonly who: World['keys'][number],
    private readonly random: () => number,
  ) {}

  private async ask<S extends z.ZodType>(
    schema: S,
    method: string,
    at: string,
    body?: unknown,
  ): Promise<z.output<S>> {
    let answered: Response;
    let text: string;
    try {
      answered = await fetch(this.world.address + at, {
        method,
        signal: AbortSignal.timeout(patience),
        headers: { authorization: `Bearer ${this.who.key}`, 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      text = await answered.text();
    } catch (cause) {
      throw new Away(String(cause));
    }
    if (answered.ok) return schema.parse(JSON.parse(text));
    const said = z.object({ error: errorShape }).safeParse(parsedOrNull(text));
    if (!said.success) throw new Away(`${answered.status} ${text.slice(0, 100)}`);
    const { code, message } = said.data.error;
    if (code === 'no-database' || code === 'offline') throw new Away(message);
    throw new Refused(answered.status, code, message);
  }

  /** Hears what becomes of jobs, as every window does; when each end was heard of is written down. */
  async hear(isOver: () => boolean): Promise<void> {
    while (!isOver()) {
      try {
        const answered = await fetch(`${this.world.address}/api/events`, {
          headers: { authorization: `Bearer ${this.who.key}` },
        });
        let rest = '';
        const decoder = new TextDecoder();
        for await (const part of answered.body as unknown as AsyncIterable<Uint8Array>) {
          if (isOver()) return;
          const lines = (rest + decoder.decode(part, { stream: true })).split('\n\n');
          rest = lines.pop()!;
          for (const line of lines) if (line.startsWith('data: ')) this.heardOf(line.slice(6));
        }
      } catch {
        // The server is away.
      }
      await pause(1000);
    }
  }

  private heardOf(text: string): void {
    // Fifty windows of one process: how far work is goes by unread.
    if (text.startsWith('{"job":') && text.includes('"ended":null')) return;
    const { jobs, job } = eventMessage.parse(JSON.parse(text));
    for (const j of jobs ?? []) if (j.ended !== null) this.waiting.get(j.id)?.(j);
    if (!job || job.ended === null) return;
    this.events.push({ page: 'an event', at: job.ended, ms: Date.now() - job.ended });
    this.waiting.get(job.id)?.(job);
  }

  /** Waits for a job's end; null: the server no longer lists it. Throws for one that has not ended after five minutes, with what it waited for. */
  private async ended(job: JobView): Promise<JobView | null> {
    const heard = new Promise<JobView>((done) => this.waiting.set(job.id, done));
    try {
      const until = Date.now() + 300_000;
      for (let now = job; ;) {
        if (Date.now() > until)
          throw new Error(`“${now.title}” has not ended after five minutes: ${JSON.stringify(now)}`);
        if (now.ended !== null)
          // What a verb printed is for who asked for it alone.
          return now.work === 'verb' ? await this.ask(jobView, 'GET', `/api/jobs/${job.id}`) : now;
        now =
          (await Promise.race([heard, pause(3000).then(() => null)])) ??
          (await this.ask(jobView, 'GET', `/api/jobs/${job.id}`).catch((cause: unknown) => {
            if (cause instanceof Away) return now;
            throw cause;
          }));
      }
    } catch (cause) {
      if (cause instanceof Away || (cause instanceof Refused && cause.code === 'not-found')) return null;
      throw cause;
    } finally {
      this.waiting.delete(job.id);
    }
  }

  private pick<T>(of: readonly T[]): T {
    return of[Math.floor(this.random() * of.length)]!;
  }

  private async look(page: string, at: string): Promise<void> {
    const from = Date.now();
    await this.ask(z.unknown(), 'GET', at);
    this.looks.push({ page, at: from, ms: Date.now() - from });
  }

  /** A page, with what its window asks for. */
  private async open(place: Place): Promise<void> {
    const w = `/api/workspaces/${place.id}`;
    const pages: Record<string, string[]> = {
      workspaces: ['/api/state'],
      overview: [w, '/api/state'],
      files: [`${w}/files`, `${w}/files?folder=textures`],
      references: [`${w}/references`, `${w}/references/rows?offset=0&limit=200`],
      versions: [`${w}/series`, `${w}/holds`],
      ledger: [`${w}/ledger`],
      'side by side': ['/api/above'],
      'who uses a file': ['/api/uses?text=t3'],
    };
    const weights = [
      'overview',
      'overview',
      'overview',
      'references',
      'references',
      'files',
      'files',
      'versions',
      'versions',
      'ledger',
      'workspaces',
      'who uses a file',
      'side by side',
    ];
    const page = this.pick(weights);
    for (const at of pages[page]!) await this.look(page, at);
  }

  /** Makes a plan and applies it; what is said of it is written down. */
  private async change(place: Place, what: Told['what'], request: object, note: string): Promise<void> {
    const told: Told = { place, what, note, entry: null, how: 'not done' };
    const plan = await this.ask(jobView, 'POST', `/api/workspaces/${place.id}/plans`, request);
    const made = await this.ended(plan);
    if (made?.state !== 'done') return;
    this.told.push(told);
    told.how = 'unknown';
    const job = await this.ask(
      jobView,
      'POST',
      `/api/plans/${planMade.parse(made.result).plan}/apply`,
      {},
    ).catch((cause: unknown) => {
      if (cause instanceof Refused) told.how = 'not done';
      throw cause;
    });
    const end = await this.ended(job);
    if (end?.state === 'done') {
      told.entry = applied.parse(end.result).id;
      told.how = 'done';
      if (what === 'move') this.made.push({ place, entry: told.entry });
    } else if (end && end.error?.code !== 'lost-work') told.how = 'not done';
  }

  private async step(place: Place): Promise<void> {
    const n = this.random();
    const note = `${this.who.name}, the ${++this.count}.`;
    const w = `/api/workspaces/${place.id}`;
    if (this.who.may === 'look' || n < 0.62) return this.open(place);
    if (n < 0.74) {
      const series = await this.ask(z.array(z.object({ scene: z.string() }).loose()), 'GET', `${w}/series`);
      if (series.length === 0) return;
      return this.change(place, 'save', { kind: 'save', scenes: [this.pick(series).scene], note }, note);
    }
    if (n < 0.84) {
      const files = await this.ask(
        z.array(z.object({ path: z.string(), kind: z.string() }).loose()),
        'GET',
        `${w}/files?folder=textures`,
      );
      const pictures = files.filter((f) => f.kind === 'file' && f.path.endsWith('.png'));
      if (pictures.length === 0) return;
      const { path } = this.pick(pictures);
      const to = `textures/${path
        .split('/')
        .pop()!
        .replace(/(_\d+)?\.png$/, '')}_${Math.floor(this.random() * 1e6)}.png`;
      return this.change(place, 'move', { kind: 'move', moves: [{ path, to }] }, note);
    }
    if (n < 0.89) {
      const last = this.made.pop();
      if (last) return this.change(last.place, 'undo', { kind: 'undo', id: last.entry }, note);
      return;
    }
    if (n < 0.92) {
      const job = await this.ask(jobView, 'POST', `${w}/checkpoints`, { name: note });
      return void (await this.ended(job));
    }
    if (n < 0.94)
      return void (await this.ask(z.unknown(), 'POST', `${w}/holds`, {
        do: 'hold',
        scene: 'scenes/boat_v001.gltf',
        why: note,
      }));
    if (n < 0.96) {
      const job = await this.ask(jobView, 'POST', `${w}/back-up`, {
        folder: `${this.world.base}/barn/backups`,
        as: 'snapshots',
      });
      return void (await this.ended(job));
    }
    const told: Told = { place, what: 'verb', note, entry: null, how: 'unknown' };
    const scene = `${place.root}/scenes/harbour_v001.gltf`;
    const job = await this.ask(jobView, 'POST', '/api/verbs', {
      args: ['save', scene, '--note', note, '--json', '--yes'],
    });
    this.told.push(told);
    const end = await this.ended(job);
    if (end?.state !== 'done') return;
    const { status, out } = z.object({ status: z.number(), out: z.string() }).parse(end.result);
    if (status === 2) told.how = 'not done';
    else {
      told.entry = z.object({ applied: z.string().nullable() }).parse(JSON.parse(out)).applied;
      told.how = told.entry === null ? 'not done' : 'done';
    }
  }

  /** Works until it is told to stop. Half of all is done in a tenth of the workspaces, as in any studio. */
  async work(isOver: () => boolean): Promise<void> {
    const { places } = this.world;
    const busy = places.slice(0, Math.ceil(places.length / 10));
    while (!isOver()) {
      try {
        await this.step(this.pick(this.random() < 0.5 ? busy : places));
      } catch (cause) {
        if (cause instanceof Away) await pause(1000);
        // Overtaken, held by another, at work already: what several people meet.
        else if (!(cause instanceof Refused && cause.status < 500))
          this.faults.push(`${this.who.name}: ${String(cause)}`);
      }
      await pause(1000 + this.random() * thinks);
    }
  }
}

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

function parsedOrNull(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
