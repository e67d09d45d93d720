'use client';
// Two states of a scene in space, looked at from one place: turn one and the other turns with it. What differs has a box around it.

import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import type { PreviewView } from '@/wire/views';
import { count } from '@/core/text/figures';
import { Soft } from '../kit/layout';
import { Notice } from '../kit/notices';
import { color, radius, space } from '../theme/theme';
import { canvasIn, canvasLook, themeColour } from './canvas';
import { differing } from './differing';
import { loadModel } from './load';
import { Sources } from './sources';
import { StateSources } from './stateSources';
import { keyAct, View } from './view';

const Both = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: ${space(3)};
  figure {
    margin: 0;
    min-width: 0;
  }
  figcaption {
    font-weight: 600;
    margin-bottom: ${space(1)};
    overflow-wrap: anywhere;
  }
  .host {
    height: min(52vh, 520px);
    border: 1px solid ${color.line};
    border-radius: ${radius.medium};
    overflow: hidden;
    background: ${color.raised};
  }
  ${canvasLook}
`;

const saidOf = (name: string) =>
  `${name} in space. Arrow keys turn both, plus and minus come nearer or go away, 0 shows all, Enter what differs.`;

export default function Beside({
  workspace,
  view,
  state,
  names,
}: {
  workspace: string;
  /** The present scene. */
  view: PreviewView;
  /** The other one, as a route takes it. */
  state: string;
  names: readonly [before: string, after: string];
}) {
  const hosts = [useRef<HTMLDivElement>(null), useRef<HTMLDivElement>(null)] as const;
  const views = useRef<View[]>([]);
  const [said, setSaid] = useState('Loading both …');
  const [wrong, setWrong] = useState<string | null>(null);
  const [beforeName, afterName] = names;
  useEffect(() => {
    const stop = new AbortController();
    const made: View[] = [];
    const canvases: HTMLCanvasElement[] = [];
    const watch = new ResizeObserver(() => made.forEach((v) => v.size()));
    try {
      for (const [n, host] of [hosts[0].current!, hosts[1].current!].entries()) {
        const canvas = canvasIn(host, saidOf(n === 0 ? beforeName : afterName));
        canvases.push(canvas);
        made.push(new View(canvas, themeColour));
        watch.observe(host);
      }
    } catch {
      // eslint-disable-next-line react-hooks/set-state-in-effect -- whether there is WebGL is known only when it is asked for
      setWrong('This browser has no WebGL, which the picture needs. The list says what differs.');
    }
    const [before, after] = made;
    if (before && after) {
      views.current = made;
      const sources = [new StateSources(workspace, view, state), new Sources(workspace, view)] as const;
      Promise.all(sources.map((s) => loadModel(s, stop.signal))).then(
        ([old, now]) => {
          if (stop.signal.aborted) return;
          // Before anything is striped.
          const found = differing(old!.references.keys(), now!.references.keys());
          for (const [shown, model, from] of [
            [before, old!, sources[0]],
            [after, now!, sources[1]],
          ] as const)
            shown.show(model, from, document.createElement('div'), () => document.createElement('span'));
          before.mark([...found.gone, ...found.changed.map((c) => c[0])], '--brick');
          after.mark([...found.came, ...found.changed.map((c) => c[1])], '--green');
          made.forEach((v) => v.size());
          after.frame();
          before.follow(after);
          before.controls.addEventListener('change', () => after.follow(before));
          after.controls.addEventListener('change', () => before.follow(after));
          const words = [
            found.came.length > 0 && `${count(found.came.length, 'object')} came`,
            found.gone.length > 0 && `${count(found.gone.length, 'object')} went`,
            found.changed.length > 0 && `${count(found.changed.length, 'object')} changed`,
          ].filter(Boolean);
          setSaid(words.length === 0 ? 'Both look the same in space.' : `${words.join(', ')}: in boxes.`);
        },
        (cause: unknown) => {
          if (stop.signal.aborted) return;
          setWrong(cause instanceof Error ? cause.message : String(cause));
        },
      );
    }
    return () => {
      stop.abort();
      watch.disconnect();
      views.current = [];
      for (const v of made) v.end();
      for (const c of canvases) c.remove();
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the two places never change
  }, [workspace, view, state, beforeName, afterName]);
  const onKeyDown = (e: KeyboardEvent) => {
    const after = views.current[1];
    const act = after && !e.ctrlKey && !e.metaKey ? keyAct(after, e.key) : null;
    if (!act) return;
    e.preventDefault();
    act();
  };
  return (
    <div data-testid="beside">
      {wrong !== null ? <Notice tone="amber" title={wrong} /> : <Soft role="status">{said}</Soft>}
      <Both onKeyDown={onKeyDown}>
        {([0, 1] as const).map((n) => (
          <figure key={n}>
            <figcaption>{names[n]}</figcaption>
            <div className="host" ref={hosts[n]} />
          </figure>
        ))}
      </Both>
    </div>
  );
}
