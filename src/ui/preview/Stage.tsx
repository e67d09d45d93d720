'use client';
// The scene in space: turned by pointer or keys, an object picked, missing textures striped with their names on them, the workspace's grid below.
// Drawn only when something changes, so that it costs nothing while it is looked at.

import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import * as THREE from 'three';
import type { PreviewView } from '@/wire/views';
import { Soft } from '../kit/layout';
import { Notice } from '../kit/notices';
import { color, font, radius } from '../theme/theme';
import { canvasIn, canvasLook, themeColour } from './canvas';
import { loadModel, type Model } from './load';
import { Sources } from './sources';
import { gridOf, keyAct, named, View } from './view';

const Frame = styled.div`
  position: relative;
  flex: 1;
  min-height: 260px;
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  overflow: hidden;
  background: ${color.raised};
  ${canvasLook}
  .said {
    position: absolute;
    left: 12px;
    right: 12px;
    top: 12px;
    max-width: 620px;
  }
`;
const Label = styled.span`
  position: absolute;
  left: 0;
  top: 0;
  max-width: 340px;
  padding: 2px 8px;
  border-radius: 4px;
  background: ${color.stripeInk};
  color: #fffdf8;
  font: 700 13px ${font.mono};
  pointer-events: none;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  border: 2px solid ${color.stripe};
`;

export interface Picked {
  /** Name of the object; null: nothing is picked. */
  object: string | null;
  /** Its number in a glTF; null: its format has none. */
  node: string | null;
  references: string[];
}

interface Props {
  workspace: string;
  view: PreviewView;
  /** Keys of references whose objects are marked. */
  marked: readonly string[];
  /** Ids of nodes whose objects are marked, instead. */
  markedNodes?: ReadonlySet<string>;
  hasGrid: boolean;
  onPick: (picked: Picked) => void;
  onLoaded: (said: { objects: number; striped: number; keys: ReadonlySet<string> }) => void;
}

export default function Stage({ workspace, view, marked, markedNodes, hasGrid, onPick, onLoaded }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const labelModel = useRef<HTMLSpanElement>(null);
  const held = useRef<{ view: View; model: Model } | null>(null);
  const [said, setSaid] = useState<string | null>('Loading …');
  const [wrong, setWrong] = useState<string | null>(null);
  const [notes, setNotes] = useState<string[]>([]);
  const [drawn, setDrawn] = useState<number | null>(null);
  const tell = useRef({ onPick, onLoaded });
  useEffect(() => {
    tell.current = { onPick, onLoaded };
  });

  useEffect(() => {
    const host = frame.current!;
    const canvas = canvasIn(
      host,
      `${view.scene} in space. Arrow keys turn it, plus and minus come nearer or go away, 0 shows all of it, Enter what is marked.`,
    );
    const stop = new AbortController();
    let stage: View;
    try {
      stage = new View(canvas, themeColour);
    } catch {
      // eslint-disable-next-line react-hooks/set-state-in-effect -- whether there is WebGL is known only when it is asked for
      setWrong('This browser has no WebGL, which the picture needs. Everything else works without it.');
      canvas.remove();
      return;
    }
    const watch = new ResizeObserver(() => stage.size());
    watch.observe(host);
    const sources = new Sources(workspace, view);
    loadModel(sources, stop.signal).then(
      (model) => {
        if (stop.signal.aborted) return;
        held.current = { view: stage, model };
        const striped = stage.show(model, sources, host, (text) => {
          const element = labelModel.current!.cloneNode() as HTMLElement;
          element.hidden = false;
          element.textContent = text;
          return element;
        });
        stage.size();
        stage.frame();
        setSaid(null);
        setNotes(model.notes);
        setDrawn(model.drawn);
        tell.current.onLoaded({
          objects: model.references.size,
          striped,
          keys: new Set([...model.references.values()].flat()),
        });
      },
      (cause: unknown) => {
        if (stop.signal.aborted) return;
        setSaid(null);
        setWrong(cause instanceof Error ? cause.message : String(cause));
      },
    );
    // A click picks; a drag only turns.
    let from = [0, 0];
    canvas.addEventListener('pointerdown', (e) => {
      from = [e.offsetX, e.offsetY];
    });
    canvas.addEventListener('click', (e) => {
      if (Math.hypot(e.offsetX - from[0]!, e.offsetY - from[1]!) > 4 || !held.current) return;
      const mesh = stage.at(e.offsetX, e.offsetY);
      tell.current.onPick({
        object: mesh ? named(mesh) : null,
        node: mesh ? held.current.model.nodeOf(mesh) : null,
        references: mesh ? (held.current.model.references.get(mesh) ?? []) : [],
      });
    });
    canvas.addEventListener('dblclick', (e) => stage.frame(stage.at(e.offsetX, e.offsetY) ?? undefined));
    return () => {
      stop.abort();
      held.current = null;
      watch.disconnect();
      stage.end();
      canvas.remove();
    };
  }, [workspace, view]);

  useEffect(() => {
    const now = held.current;
    if (!now) return;
    const wanted = new Set(marked);
    const isMarked = (mesh: THREE.Mesh, keys: readonly string[]) =>
      markedNodes ? markedNodes.has(now.model.nodeOf(mesh) ?? '') : keys.some((k) => wanted.has(k));
    now.view.mark([...now.model.references].filter(([m, keys]) => isMarked(m, keys)).map(([mesh]) => mesh));
  }, [marked, markedNodes, said]);

  useEffect(() => {
    const now = held.current;
    if (!now) return;
    if (now.view.grid) now.view.scene.remove(now.view.grid);
    now.view.grid = null;
    if (hasGrid) {
      const box = new THREE.Box3().setFromObject(now.model.object);
      const reach = box.isEmpty()
        ? 1
        : Math.max(...[box.min.x, box.min.z, box.max.x, box.max.z].map(Math.abs));
      now.view.grid = gridOf(view.grid, reach, {
        fine: now.view.css('--line-strong'),
        heavy: now.view.css('--soft'),
        box: now.view.css('--saddle'),
      });
      now.view.scene.add(now.view.grid);
    }
    now.view.draw();
  }, [hasGrid, view.grid, said]);

  const onKeyDown = (e: KeyboardEvent) => {
    const stage = held.current?.view;
    if (!stage) return;
    const act = keyAct(stage, e.key);
    if (!act || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    act();
  };

  return (
    <Frame
      ref={frame}
      onKeyDown={onKeyDown}
      data-testid="stage"
      data-ready={said === null && wrong === null}
      data-drawn={drawn ?? undefined}
    >
      <Label ref={labelModel} hidden />
      <div className="said">
        {said && <Soft role="status">{said}</Soft>}
        {wrong && (
          <Notice tone="amber" title={wrong}>
            Its references are listed beside as always.
          </Notice>
        )}
        {notes.map((n) => (
          <Notice key={n} tone="slate" title={n} />
        ))}
      </div>
    </Frame>
  );
}
