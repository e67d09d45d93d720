'use client';
// The scene in space: turned by pointer or keys, an object picked, missing textures striped with their names on them, the workspace's grid below.
// Drawn only when something changes, so that it costs nothing while it is looked at.

import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { convert, type WorkspaceUnits } from '@/core/units/units';
import type { PreviewView } from '@/wire/views';
import { Soft } from '../kit/layout';
import { Notice } from '../kit/notices';
import { color, font, radius } from '../theme/theme';
import { loadModel, lostOf, type Model } from './load';
import { Sources } from './sources';
import { stripedMaterial } from './stripes';

const Frame = styled.div`
  position: relative;
  flex: 1;
  min-height: 260px;
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  overflow: hidden;
  background: ${color.raised};
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    outline-offset: -3px;
    cursor: grab;
    touch-action: none;
  }
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
  references: string[];
}

interface Props {
  workspace: string;
  view: PreviewView;
  /** Keys of references whose objects are marked. */
  marked: readonly string[];
  hasGrid: boolean;
  onPick: (picked: Picked) => void;
  onLoaded: (said: { objects: number; striped: number; keys: ReadonlySet<string> }) => void;
}

const most = 12;
const named = (o: THREE.Object3D | null): string => (!o ? '' : o.name || named(o.parent));

/** The workspace's grid: a line every spacing, a heavier one every so many, with the box that is one spacing to a side. In metres. */
function gridOf(
  units: WorkspaceUnits,
  reach: number,
  colours: { fine: string; heavy: string; box: string },
): THREE.Object3D {
  const group = new THREE.Group();
  const step = convert(units.grid.spacing, units.unit, 'm');
  // No further than the declared extent, nor much further than what there is to see.
  const lines = Math.min(
    200,
    Math.floor(units.grid.extent / units.grid.spacing),
    Math.max(
      units.grid.heavyEvery,
      Math.ceil((reach * 1.5) / step / units.grid.heavyEvery) * units.grid.heavyEvery,
    ),
  );
  const end = lines * step;
  for (const isHeavy of [false, true]) {
    const points: number[] = [];
    for (let n = -lines; n <= lines; n++)
      if ((n % units.grid.heavyEvery === 0) === isHeavy)
        points.push(n * step, 0, -end, n * step, 0, end, -end, 0, n * step, end, 0, n * step);
    const geometry = new THREE.BufferGeometry().setAttribute(
      'position',
      new THREE.Float32BufferAttribute(points, 3),
    );
    group.add(
      new THREE.LineSegments(
        geometry,
        new THREE.LineBasicMaterial({
          color: isHeavy ? colours.heavy : colours.fine,
          transparent: true,
          opacity: isHeavy ? 0.9 : 0.7,
        }),
      ),
    );
  }
  const box = new THREE.LineSegments(
    new THREE.EdgesGeometry(new THREE.BoxGeometry(step, step, step)),
    new THREE.LineBasicMaterial({ color: colours.box }),
  );
  box.position.set(step / 2, step / 2, -step / 2);
  group.add(box);
  return group;
}

/** All that is drawn, and what can be done with it. */
class View {
  readonly scene = new THREE.Scene();
  readonly camera = new THREE.PerspectiveCamera(40, 1, 0.01, 5000);
  private readonly renderer: THREE.WebGLRenderer;
  readonly controls: OrbitControls;
  readonly labels: { at: THREE.Vector3; element: HTMLElement }[] = [];
  private readonly marks = new THREE.Group();
  readonly meshes: THREE.Mesh[] = [];
  private model: THREE.Object3D | null = null;
  private asked = 0;
  grid: THREE.Object3D | null = null;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    readonly css: (name: string) => string,
  ) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true });
    this.scene.background = new THREE.Color(css('--line'));
    this.scene.add(new THREE.HemisphereLight('#ffffff', '#8a8070', 1.7), this.marks);
    const sun = new THREE.DirectionalLight('#ffffff', 1.6);
    sun.position.set(3, 6, 4);
    this.scene.add(sun);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('change', () => this.draw());
  }

  draw(): void {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => {
      this.renderer.render(this.scene, this.camera);
      const { clientWidth: width, clientHeight: height } = this.canvas;
      const taken: [number, number][] = [];
      for (const { at, element } of this.labels) {
        const p = at.clone().project(this.camera);
        const [x, y] = [((p.x + 1) / 2) * width - element.offsetWidth / 2, ((1 - p.y) / 2) * height - 12];
        // One name must not hide another.
        const isHidden = p.z > 1 || taken.some(([a, b]) => Math.abs(a - x) < 120 && Math.abs(b - y) < 24);
        if (!isHidden) taken.push([x, y]);
        element.style.visibility = isHidden ? 'hidden' : 'visible';
        element.style.transform = `translate(${Math.max(4, Math.min(width - element.offsetWidth - 4, x))}px, ${y}px)`;
      }
    });
  }

  size(): void {
    const { clientWidth, clientHeight } = this.canvas.parentElement!;
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.setSize(clientWidth, clientHeight, false);
    this.camera.aspect = clientWidth / Math.max(1, clientHeight);
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** Looks at everything, or at one part. */
  frame(part: THREE.Object3D | null = this.model): void {
    if (!part) return;
    const box = new THREE.Box3().setFromObject(part);
    if (box.isEmpty()) return;
    const ball = box.getBoundingSphere(new THREE.Sphere());
    const radius = Math.max(1e-4, ball.radius);
    this.camera.near = radius / 200;
    this.camera.far = radius * 400;
    this.camera.updateProjectionMatrix();
    this.controls.target.copy(ball.center);
    this.camera.position
      .copy(ball.center)
      .add(
        new THREE.Vector3(0.9, 0.55, 1.2)
          .normalize()
          .multiplyScalar((radius / Math.sin((this.camera.fov * Math.PI) / 360)) * 1.05),
      );
    this.controls.update();
    this.draw();
  }

  show(model: Model, sources: Sources, host: HTMLElement, label: (text: string) => HTMLElement): number {
    this.model = model.object;
    this.scene.add(model.object);
    const whole = new THREE.Box3().setFromObject(model.object).getSize(new THREE.Vector3());
    let striped = 0;
    const seen = new Set<string>();
    for (const [mesh, keys] of model.references) {
      this.meshes.push(mesh);
      const lost = lostOf(sources, keys);
      if (lost.length === 0) continue;
      striped++;
      const box = new THREE.Box3().setFromObject(mesh);
      const size = box.getSize(new THREE.Vector3());
      mesh.material = stripedMaterial(
        Math.max(size.x, size.y, size.z, Math.max(whole.x, whole.y, whole.z) / 100),
        this.css('--stripe'),
        this.css('--stripe-ink'),
      );
      const text = lost.length > 1 ? `${lost[0]} and ${lost.length - 1} more` : lost[0]!;
      if (this.labels.length < most && !seen.has(text)) {
        seen.add(text);
        const element = label(text);
        host.append(element);
        this.labels.push({ at: box.getCenter(new THREE.Vector3()), element });
      }
    }
    return striped;
  }

  /** What is marked; all of it where nothing is. */
  get marked(): THREE.Object3D | null {
    return this.marks.children.length > 0 ? this.marks : this.model;
  }

  mark(meshes: readonly THREE.Object3D[]): void {
    for (const old of [...this.marks.children]) {
      this.marks.remove(old);
      (old as THREE.LineSegments).geometry.dispose();
    }
    for (const mesh of meshes)
      this.marks.add(new THREE.BoxHelper(mesh, new THREE.Color(this.css('--saddle'))));
    this.draw();
  }

  at(x: number, y: number): THREE.Mesh | null {
    const ray = new THREE.Raycaster();
    ray.setFromCamera(
      new THREE.Vector2((x / this.canvas.clientWidth) * 2 - 1, 1 - (y / this.canvas.clientHeight) * 2),
      this.camera,
    );
    return (ray.intersectObjects(this.meshes, false)[0]?.object as THREE.Mesh | undefined) ?? null;
  }

  turn(sideways: number, up: number): void {
    const offset = new THREE.Spherical().setFromVector3(
      this.camera.position.clone().sub(this.controls.target),
    );
    offset.theta += sideways;
    offset.phi = Math.min(Math.PI - 0.05, Math.max(0.05, offset.phi + up));
    this.camera.position.setFromSpherical(offset).add(this.controls.target);
    this.controls.update();
  }

  nearer(factor: number): void {
    this.camera.position.sub(this.controls.target).multiplyScalar(factor).add(this.controls.target);
    this.controls.update();
  }

  end(): void {
    cancelAnimationFrame(this.asked);
    this.controls.dispose();
    this.scene.traverse((o) => {
      if (!(o instanceof THREE.Mesh || o instanceof THREE.LineSegments)) return;
      (o.geometry as THREE.BufferGeometry).dispose();
      for (const m of [o.material as THREE.Material | THREE.Material[]].flat()) {
        for (const value of Object.values(m)) if (value instanceof THREE.Texture) value.dispose();
        m.dispose();
      }
    });
    for (const { element } of this.labels) element.remove();
    this.renderer.dispose();
  }
}

export default function Stage({ workspace, view, marked, hasGrid, onPick, onLoaded }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const labelModel = useRef<HTMLSpanElement>(null);
  const held = useRef<{ view: View; model: Model } | null>(null);
  const [said, setSaid] = useState<string | null>('Loading …');
  const [wrong, setWrong] = useState<string | null>(null);
  const [notes, setNotes] = useState<string[]>([]);
  const tell = useRef({ onPick, onLoaded });
  useEffect(() => {
    tell.current = { onPick, onLoaded };
  });

  useEffect(() => {
    const host = frame.current!;
    const canvas = document.createElement('canvas');
    canvas.tabIndex = 0;
    canvas.setAttribute('role', 'img');
    canvas.setAttribute(
      'aria-label',
      `${view.scene} in space. Arrow keys turn it, plus and minus come nearer or go away, 0 shows all of it, Enter what is marked.`,
    );
    host.prepend(canvas);
    const stop = new AbortController();
    let stage: View;
    try {
      stage = new View(canvas, (name) =>
        getComputedStyle(document.documentElement).getPropertyValue(name).trim(),
      );
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
    now.view.mark(
      [...now.model.references].filter(([, keys]) => keys.some((k) => wanted.has(k))).map(([mesh]) => mesh),
    );
  }, [marked, said]);

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
    const step = Math.PI / 24;
    const acts: Record<string, () => void> = {
      ArrowLeft: () => stage.turn(-step, 0),
      ArrowRight: () => stage.turn(step, 0),
      ArrowUp: () => stage.turn(0, -step),
      ArrowDown: () => stage.turn(0, step),
      '+': () => stage.nearer(0.85),
      '=': () => stage.nearer(0.85),
      '-': () => stage.nearer(1 / 0.85),
      '0': () => stage.frame(),
      Enter: () => stage.frame(stage.marked),
    };
    const act = acts[e.key];
    if (!act || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    act();
  };

  return (
    <Frame ref={frame} onKeyDown={onKeyDown} data-testid="stage" data-ready={said === null && wrong === null}>
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
