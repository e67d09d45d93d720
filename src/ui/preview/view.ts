// What draws a scene in space and what can be done with it; drawn only when something changes, so that it costs nothing while it is looked at.

import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { convert, type WorkspaceUnits } from '@/core/units/units';
import { lostOf, type Model } from './load';
import type { Sources } from './sources';
import { stripedMaterial } from './stripes';

const mostLabels = 12;
export const named = (o: THREE.Object3D | null): string => (!o ? '' : o.name || named(o.parent));

/** The workspace's grid: a line every spacing, a heavier one every so many, with the box that is one spacing to a side. In metres. */
export function gridOf(
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
export class View {
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
      if (this.labels.length < mostLabels && !seen.has(text)) {
        seen.add(text);
        const element = label(text);
        host.append(element);
        this.labels.push({ at: box.getCenter(new THREE.Vector3()), element });
      }
    }
    return striped;
  }

  /** All of it as a picture, of the size of what holds the canvas. */
  picture(): Promise<Blob | null> {
    this.size();
    this.frame();
    cancelAnimationFrame(this.asked);
    this.renderer.render(this.scene, this.camera);
    // Asked for at once: what was drawn is there until the browser shows the next frame.
    return new Promise((resolve) => this.canvas.toBlob(resolve, 'image/webp', 0.86));
  }

  /** What is marked; all of it where nothing is. */
  get marked(): THREE.Object3D | null {
    return this.marks.children.length > 0 ? this.marks : this.model;
  }

  mark(meshes: readonly THREE.Object3D[], colour = '--saddle'): void {
    for (const old of [...this.marks.children]) {
      this.marks.remove(old);
      (old as THREE.LineSegments).geometry.dispose();
    }
    for (const mesh of meshes) this.marks.add(new THREE.BoxHelper(mesh, new THREE.Color(this.css(colour))));
    this.draw();
  }

  /** Where it is looked from. */
  get look(): { position: THREE.Vector3; target: THREE.Vector3; near: number; far: number } {
    const { position, near, far } = this.camera;
    return { position, target: this.controls.target, near, far };
  }

  /** Looks from where another one looks. */
  follow({ look }: View): void {
    if (this.camera.position.equals(look.position) && this.controls.target.equals(look.target)) return;
    this.camera.position.copy(look.position);
    this.controls.target.copy(look.target);
    Object.assign(this.camera, { near: look.near, far: look.far });
    this.camera.updateProjectionMatrix();
    this.controls.update();
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

/** What keys do to a view; null: nothing. */
export function keyAct(view: View, key: string): (() => void) | null {
  const step = Math.PI / 24;
  const acts: Record<string, () => void> = {
    ArrowLeft: () => view.turn(-step, 0),
    ArrowRight: () => view.turn(step, 0),
    ArrowUp: () => view.turn(0, -step),
    ArrowDown: () => view.turn(0, step),
    '+': () => view.nearer(0.85),
    '=': () => view.nearer(0.85),
    '-': () => view.nearer(1 / 0.85),
    '0': () => view.frame(),
    Enter: () => view.frame(view.marked),
  };
  return acts[key] ?? null;
}
