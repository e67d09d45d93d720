'use client';
// The text of a layout, to be written: with its own syntax, line by line, wrong lines marked. Tab leaves it; Ctrl+Space offers words.

import { lintGutter } from '@codemirror/lint';
import { EditorView } from '@codemirror/view';
import CodeMirror from '@uiw/react-codemirror';
import { useMemo } from 'react';
import styled from 'styled-components';
import { readLayoutText } from '@/core/layouts/layout';
import { Some } from '../kit/some';
import { color, font, radius } from '../theme/theme';
import { layoutLanguage } from './layoutLanguage';

const Frame = styled.div`
  border: 1px solid ${color.lineStrong};
  border-radius: ${radius.small};
  overflow: hidden;
  &:focus-within {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
`;
const Wrong = styled.ul`
  margin: 4px 0 0;
  padding-left: 18px;
  color: ${color.brick};
`;
const theme = EditorView.theme({
  '&': { backgroundColor: color.sheet, color: color.ink, fontSize: '13.5px' },
  '&.cm-focused': { outline: 'none' },
  '.cm-content': { fontFamily: font.mono, lineHeight: '1.55', caretColor: color.ink },
  '.cm-cursor': { borderLeftColor: color.ink },
  '.cm-gutters': { backgroundColor: color.raised, color: color.soft, border: 'none' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: color.raised },
  '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': {
    backgroundColor: color.greenTint,
  },
  '.cm-tooltip': {
    backgroundColor: color.sheet,
    color: color.ink,
    border: `1px solid ${color.lineStrong}`,
    borderRadius: radius.small,
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: color.greenTint,
    color: color.ink,
  },
  '.cm-diagnostic-error': { borderLeft: `4px solid ${color.brick}` },
});
const shownAtMost = 8;

/** The document's nonce, without which its policy takes no style that a script adds. */
const nonceOf = () => document.querySelector<HTMLElement>('meta[property="csp-nonce"]')?.nonce ?? '';

export function LayoutText({
  label,
  value,
  onChange,
  placeholder = '',
  height = '340px',
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
  placeholder?: string;
  height?: string;
}) {
  const problems = useMemo(() => (value.trim() === '' ? [] : readLayoutText(value).problems), [value]);
  const extensions = useMemo(
    () => [
      layoutLanguage,
      lintGutter(),
      EditorView.lineWrapping,
      EditorView.cspNonce.of(typeof document === 'undefined' ? '' : nonceOf()),
      EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false', tabindex: '0' }),
    ],
    [label],
  );
  return (
    <div>
      <Frame>
        <CodeMirror
          value={value}
          onChange={onChange}
          placeholder={placeholder}
          minHeight="120px"
          maxHeight={height}
          theme={theme}
          indentWithTab={false}
          extensions={extensions}
          basicSetup={{
            foldGutter: false,
            autocompletion: false,
            closeBrackets: false,
            bracketMatching: false,
            highlightSelectionMatches: false,
            searchKeymap: false,
          }}
        />
      </Frame>
      {problems.length > 0 && (
        <Wrong role="alert">
          <Some isList of={problems} more="more" atOnce={shownAtMost}>
            {(p, i) => (
              <li key={i}>
                Line {p.line}: {p.message}
              </li>
            )}
          </Some>
        </Wrong>
      )}
    </div>
  );
}
