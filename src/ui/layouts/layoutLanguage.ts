// The text of a layout for the editor: its words told apart, wrong lines marked where they stand, kinds and words of a folder offered as they are typed.

import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { linter, type Diagnostic } from '@codemirror/lint';
import type { Extension, Text } from '@codemirror/state';
import { tags } from '@lezer/highlight';
import { fileKinds } from '@/core/layouts/homes';
import { flags, readLayoutText } from '@/core/layouts/layout';
import { color } from '../theme/theme';

/** In which part of its line the reading is; `blank`: just behind a blank, which makes a sign of what follows. */
interface Part {
  at: 'name' | 'kinds' | 'flags' | 'said';
  blank: boolean;
}

const language = StreamLanguage.define<Part>({
  name: 'layout',
  startState: () => ({ at: 'name', blank: false }),
  token(stream, state) {
    const isFirst = /^\s*$/.test(stream.string.slice(0, stream.pos));
    if (stream.sol()) Object.assign(state, { at: 'name', blank: false });
    if (stream.eatSpace()) {
      state.blank = true;
      return null;
    }
    const isSign = state.blank && !isFirst;
    state.blank = false;
    if (isFirst) {
      if (stream.match(/#.*/)) return 'comment';
      if (stream.match(/:\w+/)) {
        state.at = 'said';
        return 'keyword';
      }
    }
    if (state.at === 'said') {
      stream.skipToEnd();
      return 'string';
    }
    if (isSign && state.at === 'name' && stream.match(/=(?=\s|$)/)) {
      state.at = 'kinds';
      return 'operator';
    }
    if (isSign && stream.match(/:(?=\s|$)/)) {
      state.at = 'flags';
      return 'operator';
    }
    if (stream.match(',')) return 'punctuation';
    if (!stream.match(/[^\s,]+/)) stream.next();
    return state.at === 'kinds' ? 'typeName' : state.at === 'flags' ? 'modifier' : 'name';
  },
});

const look = HighlightStyle.define([
  { tag: tags.comment, color: color.soft, fontStyle: 'italic' },
  { tag: tags.keyword, color: color.slate },
  { tag: tags.string, color: color.ink },
  { tag: tags.typeName, color: color.greenText, fontWeight: '600' },
  { tag: tags.modifier, color: color.slate, fontWeight: '600' },
  { tag: [tags.operator, tags.punctuation], color: color.soft },
]);

/** What is wrong, with the line it stands in. */
export function diagnosticsOf(doc: Text): Diagnostic[] {
  return readLayoutText(doc.toString()).problems.map(({ line, message }) => {
    const { from, to, text } = doc.line(Math.min(line, doc.lines));
    return { from: from + (text.length - text.trimStart().length), to, severity: 'error', message };
  });
}

/** After ' = ' the kinds that live nowhere yet, after ' : ' what may be said of a folder, after ':' what may be said of a layout. */
export function wordsAt(context: CompletionContext): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const word = /[\w]*$/.exec(before)![0];
  const from = context.pos - word.length;
  const offer = (labels: readonly string[], type: string) =>
    word === '' && !context.explicit ? null : { from, options: labels.map((label) => ({ label, type })) };
  if (/^\s*#/.test(before)) return null;
  if (/^\s*:\w*$/.test(before)) return offer(['name', 'about', 'top', 'bottom'], 'keyword');
  if (/\s:\s[^:]*$/.test(before)) return offer(flags, 'keyword');
  if (/\s=\s[^=]*$/.test(before)) {
    const { tree } = readLayoutText(context.state.doc.toString());
    const taken = new Set<string>();
    const walk = (folders: typeof tree.folders): void =>
      folders.forEach((f) => {
        f.kinds.forEach((k) => taken.add(k));
        walk(f.folders);
      });
    walk(tree.folders);
    return offer(
      fileKinds.filter((k) => !taken.has(k) || k === word),
      'type',
    );
  }
  return null;
}

export const layoutLanguage: Extension = [
  language,
  syntaxHighlighting(look),
  linter((view) => diagnosticsOf(view.state.doc), { delay: 200 }),
  autocompletion({ override: [wordsAt], icons: false }),
];
