// The command line: finds the verb, runs it, prints one JSON document or a readable table, and says by its exit status how it went.

import { AppError } from '@/core/errors';
import { readCall, serverOf, type ExitStatus } from './call';
import { clearLeftParts } from './parts';
import { verbs, type VerbHead } from './verbs';

function helpAll(): string {
  const lines = Object.values(verbs).map((v) => `  satchel ${v.use}\n      ${v.about}`);
  return `Loyal Satchel: keeps 3D projects together.\n\n${lines.join('\n')}\n\nEvery verb: --json one JSON document · --yes apply the plan · --help · --schema · --server URL done on a studio's server (docs/studio.md)\nExit status: 0 nothing wrong · 1 done, with findings · 2 wrong call or unreadable, nothing changed`;
}

function helpOf(verb: VerbHead): string {
  return `satchel ${verb.use}\n  ${verb.about}\n\nExample:\n  ${verb.example}`;
}

// Who reads only the beginning (head, less) ends it: nothing is wrong with that.
process.stdout.on('error', (cause: NodeJS.ErrnoException) => {
  if (cause.code === 'EPIPE') process.exit(0);
  throw cause;
});

function print(text: string): Promise<void> {
  return new Promise((done) => process.stdout.write(text, () => done()));
}

/** Runs one call; resolves with its exit status. */
export async function main(args: readonly string[]): Promise<ExitStatus> {
  const [name, ...rest] = args;
  if (name === undefined || name === '--help' || name === '-h' || name === 'help') {
    process.stdout.write(`${helpAll()}\n`);
    return name === undefined ? 2 : 0;
  }
  const server = serverOf(args);
  if (server) return (await import('./remote')).onServer(server.url, server.args);
  const verb = Object.hasOwn(verbs, name) ? verbs[name] : undefined;
  if (!verb) {
    process.stderr.write(`There is no verb “${name}”. See: satchel --help\n`);
    return 2;
  }
  try {
    const call = readCall(verb, rest);
    if (call.flags.help) {
      process.stdout.write(`${helpOf(verb)}\n`);
      return 0;
    }
    if (call.flags.schema) {
      const { z } = await import('zod');
      const schema = z.toJSONSchema(await (await verb.load()).schema());
      // An answer that has several shapes is an object in each of them.
      process.stdout.write(`${JSON.stringify({ ...schema, type: 'object' }, null, 2)}\n`);
      return 0;
    }
    if (call.words.length < verb.words[0] || call.words.length > verb.words[1])
      throw new AppError('bad-request', `Use: satchel ${verb.use}`);
    clearLeftParts();
    const held = process.env.SATCHEL_HELD_TO;
    if (held !== undefined) (await import('./held')).hold(held)(name, verb, call);
    const answer = await (await verb.load()).run(call);
    if (call.json && answer.parts) for await (const part of answer.parts) await print(part);
    else await print(call.json ? JSON.stringify(answer.json, null, 2) : answer.text());
    await print('\n');
    return answer.findings ? 1 : 0;
  } catch (cause) {
    if (!(cause instanceof AppError)) throw cause;
    process.stderr.write(
      `${cause.message}\n${cause.details
        .slice(1)
        .map((d) => `  ${d}\n`)
        .join('')}${cause.unchanged} ${cause.next}\n`,
    );
    return 2;
  }
}
