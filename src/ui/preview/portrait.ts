// A small picture of a scene: drawn once, out of sight, while nothing else is to be done; kept by the browser until the scene is another.

import { readScene } from '@/wire/routes/references';
import type { PreviewView } from '@/wire/views';
import { call } from '../kit/api';
import { canvasIn, themeColour } from './canvas';

const store = 'satchel-portraits';
export const portraitSize = { width: 168, height: 112 } as const;
// What takes long to load is not loaded for a small picture.
const mostBytes = 64 * 1024 * 1024;

/** Which picture of which scene it is. */
export interface PortraitOf {
  workspace: string;
  scene: string;
  /** Size and time of its file: another one is another picture. */
  size: number;
  modified: number;
}

// Drawn one after the other: each takes a context of WebGL, of which a page has few.
let turn: Promise<unknown> = Promise.resolve();

const keyOf = (p: PortraitOf) =>
  `/portrait/${p.workspace}/${encodeURIComponent(p.scene)}?${p.size}-${p.modified}-${encodeURIComponent(themeColour('--line'))}`;

/** The browser's own store; null where it has none (a page that is not served securely). */
const kept = () => ('caches' in globalThis ? caches.open(store).catch(() => null) : Promise.resolve(null));

async function drawn(p: PortraitOf, signal: AbortSignal): Promise<Blob | null> {
  signal.throwIfAborted();
  const view = await call(readScene, { id: p.workspace }, { scene: p.scene });
  if (weightOf(view) > mostBytes) return null;
  const [{ loadModel }, { Sources }, { View }] = await Promise.all([
    import('./load'),
    import('./sources'),
    import('./view'),
  ]);
  signal.throwIfAborted();
  const host = document.createElement('div');
  host.style.cssText = `position:fixed;left:-9999px;top:0;width:${portraitSize.width}px;height:${portraitSize.height}px`;
  host.inert = true;
  document.body.append(host);
  let stage: InstanceType<typeof View> | null = null;
  try {
    stage = new View(canvasIn(host, ''), themeColour);
    const sources = new Sources(p.workspace, view);
    const model = await loadModel(sources, signal);
    stage.show(model, sources, host, () => document.createElement('span'));
    return await stage.picture();
  } finally {
    stage?.end();
    host.remove();
  }
}

const weightOf = (view: PreviewView): number =>
  view.size + view.references.reduce((sum, r) => sum + (r.size ?? 0), 0);

/** The picture; null where there is none to be made. Rejects when it is not wanted any more. */
export async function portraitOf(p: PortraitOf, signal: AbortSignal): Promise<Blob | null> {
  const cache = await kept();
  const known = await cache?.match(keyOf(p));
  if (known) return known.headers.get('content-type') === 'text/plain' ? null : known.blob();
  const mine = turn.then(() => drawn(p, signal));
  turn = mine.catch(() => undefined);
  const picture = await mine.catch((cause: unknown) => {
    signal.throwIfAborted();
    // What cannot be shown in space has no picture: a scene is no worse for it, and its own page says why.
    console.debug('no portrait of', p.scene, cause);
    return null;
  });
  // One picture of each scene is kept: the old ones go.
  const own = keyOf(p).replace(/\?.*/, '');
  for (const request of (await cache?.keys()) ?? [])
    if (new URL(request.url).pathname === own) await cache?.delete(request);
  await cache?.put(
    keyOf(p),
    new Response(picture ?? '', { headers: { 'content-type': picture?.type ?? 'text/plain' } }),
  );
  return picture;
}
