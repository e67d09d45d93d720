// What a schema has against a value, in words for people: which part, and what is wanted there.

import type { z } from 'zod';

type Issue = z.core.$ZodIssue;

const kinds: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'yes or no (true or false)',
  array: 'a list',
  tuple: 'a list',
  object: 'a group of values',
  record: 'a group of values',
  null: 'nothing (null)',
};
const listed = (values: readonly unknown[]) => values.map((v) => JSON.stringify(v)).join(', ');

function wanted(issue: Issue): string {
  switch (issue.code) {
    case 'invalid_type':
      return /received undefined$/.test(issue.message) // zod keeps no input with an issue
        ? `${kinds[issue.expected] ?? issue.expected} is wanting`
        : `${kinds[issue.expected] ?? issue.expected} is wanted`;
    case 'invalid_value':
      return issue.values.length === 1
        ? `only ${listed(issue.values)} can stand there`
        : `one of ${listed(issue.values)} is wanted`;
    case 'too_small': {
      if (issue.origin === 'string' || issue.origin === 'array' || issue.origin === 'set')
        return Number(issue.minimum) <= 1 ? 'it is empty' : `at least ${issue.minimum} are wanted`;
      return `${issue.inclusive === false ? 'more than' : 'at least'} ${issue.minimum} is wanted`;
    }
    case 'too_big':
      if (issue.origin === 'string') return `it is longer than ${issue.maximum} characters`;
      if (issue.origin === 'array' || issue.origin === 'set')
        return `it has more than ${issue.maximum} entries`;
      return `${issue.inclusive === false ? 'less than' : 'at most'} ${issue.maximum} is wanted`;
    case 'unrecognized_keys':
      return `${listed(issue.keys)} ${issue.keys.length === 1 ? 'is' : 'are'} not known there`;
    case 'invalid_format':
      return 'it is written in another form than is wanted';
    case 'custom':
      return issue.message.replace(/\.$/, '');
    default:
      return 'it is none of the things that can stand there';
  }
}

/** One issue as a sentence. What a rule of its own says (a `refine` with a message that is a sentence) stands by itself. */
function sentence(issue: Issue): string {
  if (issue.code === 'custom' && /^\p{Lu}.*\.$/su.test(issue.message)) return issue.message;
  const at = issue.path.map(String).join('.');
  return at === '' ? `${wanted(issue).replace(/^./, (c) => c.toUpperCase())}.` : `“${at}”: ${wanted(issue)}.`;
}

const saidAtMost = 5;

/** What is wrong with a value, most of it first; for an error's message. */
export function issueWords(error: z.ZodError): string {
  const all = [...new Set(error.issues.map(sentence))];
  const rest = all.length - saidAtMost;
  return `${all.slice(0, saidAtMost).join(' ')}${rest > 0 ? ` And ${rest} more.` : ''}`;
}
