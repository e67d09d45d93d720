import { describe, expect, test } from '@jest/globals';
import { CompletionContext } from '@codemirror/autocomplete';
import { ensureSyntaxTree } from '@codemirror/language';
import { EditorState } from '@codemirror/state';
import { highlightTree, classHighlighter } from '@lezer/highlight';
import fc from 'fast-check';
import { readLayoutText } from '@/core/layouts/layout';
import { diagnosticsOf, layoutLanguage, wordsAt } from './layoutLanguage';

const stateOf = (doc: string) => EditorState.create({ doc, extensions: [layoutLanguage] });

/** The words of a text that are told apart, with what they are told as. */
function told(doc: string): [string, string][] {
  const state = stateOf(doc);
  const out: [string, string][] = [];
  highlightTree(ensureSyntaxTree(state, doc.length, 5000)!, classHighlighter, (from, to, as) =>
    out.push([doc.slice(from, to), as.replaceAll('tok-', '')]),
  );
  return out;
}
const words = (doc: string, explicit = false) =>
  wordsAt(new CompletionContext(stateOf(doc), doc.length, explicit))?.options.map((o) => o.label) ?? null;

describe('the syntax of a layout', () => {
  test('tells names, kinds, flags, headers and notes apart', () => {
    expect(told(':name Props\n# where the work is\n  tex work = texture, video : keep, bottom\n')).toEqual([
      [':name', 'keyword'],
      ['Props', 'string'],
      ['# where the work is', 'comment'],
      ['=', 'operator'],
      ['texture', 'typeName'],
      [',', 'punctuation'],
      ['video', 'typeName'],
      [':', 'operator'],
      ['keep', 'keyword'],
      [',', 'punctuation'],
      ['bottom', 'keyword'],
    ]);
  });
  test('a sign within a name is part of it', () => {
    // Names are left as they are: nothing in them is told as anything else.
    expect(told('a=b #1 x:y')).toEqual([]);
  });
  test('ends with any text, whatever stands in it', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('a', ' ', '=', ':', ',', '#', '\n', '\t', '/', 'é', '\\') }),
        (doc) => {
          for (const [word] of told(doc)) expect(doc).toContain(word);
        },
      ),
    );
  });
});

describe('marks at wrong lines', () => {
  test('stand at the line that is wrong, without its indent', () => {
    const doc = 'scenes = scene\n  CON\nmaps = nonsense : never';
    const { doc: text } = stateOf(doc);
    const marks = diagnosticsOf(text);
    expect(marks.map((d) => doc.slice(d.from, d.to))).toEqual([
      'CON',
      'maps = nonsense : never',
      'maps = nonsense : never',
    ]);
    expect(marks.map((d) => d.message)).toEqual(readLayoutText(doc).problems.map((p) => p.message));
  });
  test('lie within the text, whatever it is', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('a', 'A', ' ', '=', ':', '\n', '\r', '/', '.') }),
        (doc) => {
          const { doc: text } = stateOf(doc);
          for (const { from, to } of diagnosticsOf(text)) {
            expect(from).toBeGreaterThanOrEqual(0);
            expect(to).toBeLessThanOrEqual(text.length);
            expect(from).toBeLessThanOrEqual(to);
          }
        },
      ),
    );
  });
});

describe('words that are offered', () => {
  test('kinds after a sign, without those that live somewhere already', () => {
    const kinds = words('scenes = scene\ntextures = t')!;
    expect(kinds).toContain('texture');
    expect(kinds).not.toContain('scene');
  });
  test('what can be said of a folder, and of a layout', () => {
    expect(words('a = texture : k')).toEqual(['input', 'output', 'keep', 'top', 'bottom']);
    expect(words(':n')).toEqual(['name', 'about', 'top', 'bottom']);
  });
  test('nothing within a name, a note, or unasked after a blank', () => {
    expect([words('textu'), words('# kind = t'), words('a = '), words('a = ', true) === null]).toEqual([
      null,
      null,
      null,
      false,
    ]);
  });
});
