'use client';
// Help: the words, the states, the keys.

import type { ReactNode } from 'react';
import styled from 'styled-components';
import { Sheet } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { Page } from '../kit/Page';
import { Button } from '../kit/buttons';
import { useRemembered } from '../kit/remembered';
import { useServerState } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Columns = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(360px, 1fr));
  gap: ${space(4)};
  align-items: start;
`;
const Terms = styled.dl`
  display: grid;
  grid-template-columns: minmax(110px, auto) 1fr;
  gap: 7px ${space(4)};
  margin: ${space(2)} 0 0;
  dt {
    font-weight: 600;
  }
  dd {
    margin: 0;
    color: ${color.soft};
  }
  kbd {
    font: 600 13px ${font.mono};
    border: 1px solid ${color.line};
    border-radius: 4px;
    padding: 1px 6px;
    color: ${color.ink};
  }
`;

const words: [string, string][] = [
  ['workspace', 'a project folder that Loyal Satchel knows; its top folder is the root'],
  ['layout', 'a reusable set of standard folders'],
  ['home', 'the folder where one kind of file belongs'],
  ['intake', 'the holding area for packs and downloads not yet filed'],
  ['reference', 'a pointer from a scene file to another file'],
  ['readiness', 'how many references would open on another machine, of all'],
  ['plan', 'a change worked out but not made'],
  ['ledger', 'every plan applied, with its undo'],
  ['bag', 'the package that travels (RFC 8493)'],
  ['rehearse', 'open a bag on another machine, in simulation'],
  ['place', 'a folder, drive or share that you have allowed'],
  ['library', 'a shared folder outside the workspace, known by a name'],
];
const states: [string, string][] = [
  ['travels', 'found inside the root, by a relative path'],
  ['absolute', 'found inside the root, but written from the top of the drive'],
  ['outside', 'found, but not inside the root'],
  ['library', 'found in a named library'],
  ['case', 'found only if letter case is ignored'],
  ['missing', 'nothing lies there'],
  ['offline', 'its drive or share is not connected'],
  ['remote', 'a web address'],
];
const keys: [string, string][] = [
  ['/', 'search'],
  ['Ctrl/⌘ K', 'commands: go anywhere by name'],
  ['?', 'this page'],
  ['↑ ↓', 'move in a table'],
  ['Space', 'select'],
  ['Shift + ↑ ↓', 'select a range'],
  ['Ctrl/⌘ A', 'select what is shown'],
  ['Space on a heading', 'select the whole group'],
  ['Enter on a scene', 'see it in space'],
  ['letters', 'jump to a file name'],
  ['Enter', 'open in full'],
  ['Ctrl/⌘ C', 'copy the written path'],
  ['Esc', 'clear the selection, close'],
  ['Enter in a field', 'what the button of its form does'],
  ['← → on a heading’s edge', 'make a column narrower or wider'],
  ['Alt + arrows', 'move a folder in a layout'],
  ['Insert, Delete', 'add a folder to a layout, take one out'],
  ['Ctrl + Space', 'words for the text of a layout'],
  ['← ↑ ↓ →', 'turn a scene in space'],
  ['+ − 0', 'come nearer, go away, see all of it'],
];

export function HelpPage() {
  const { data: state } = useServerState();
  const [isAway, putAway] = useRemembered('guide-away');
  return (
    <Page
      title="Help"
      answer="Every change goes the same way: choose, look at the plan, apply; the ledger undoes it."
    >
      <Columns>
        <Sheet>
          <h2>The first ten minutes</h2>
          <ol style={{ margin: '8px 0 0', paddingLeft: 20 }}>
            <li>
              Workspaces: allow the folder your projects live in, and create a workspace there, or adopt a
              folder you have.
            </li>
            <li>
              Files: bring a scene in, or drop files on the window. Textures come along, each to its home;
              packs wait in the intake.
            </li>
            <li>Overview: see whether it would open elsewhere. If not, make its references travel.</li>
            <li>References and Map: what is missing, where it could be, and what leads to what.</li>
            <li>Versions: save the next version before you go on.</li>
            <li>Travel: rehearse the arrival, then pack a bag.</li>
          </ol>
          {state?.demo && isAway && (
            <Button onPress={() => putAway(false)}>Show the way through the demo again</Button>
          )}
        </Sheet>
        <Sheet>
          <h2>States of a reference</h2>
          <Terms>
            {states.map(([s, t]) => (
              <Pair key={s} a={<StateMark state={s} />} b={t} />
            ))}
            <Pair
              a={<StateMark state="travels" odd />}
              b="found, but spelt in a way not every program understands"
            />
          </Terms>
        </Sheet>
        <Sheet>
          <h2>Keys</h2>
          <Terms>
            {keys.map(([k, t]) => (
              <Pair key={k} a={<kbd>{k}</kbd>} b={t} />
            ))}
          </Terms>
        </Sheet>
        <Sheet>
          <h2>Words</h2>
          <Terms>
            {words.map(([w, t]) => (
              <Pair key={w} a={w} b={t} />
            ))}
          </Terms>
        </Sheet>
      </Columns>
    </Page>
  );
}

function Pair({ a, b }: { a: ReactNode; b: string }) {
  return (
    <>
      <dt>{a}</dt>
      <dd>{b}</dd>
    </>
  );
}
