// Makes a clip from pictures in a thread of the browser: draws, encodes (WebCodecs) and puts the file together. MP4 with H.264 where the browser encodes
// that, else WebM with VP9.

import {
  BufferTarget,
  canEncodeVideo,
  CanvasSource,
  Mp4OutputFormat,
  Output,
  QUALITY_HIGH,
  WebMOutputFormat,
} from 'mediabunny';
import { clipSize } from '@/core/outputs/clip';
import type { ClipOrder, FromThread, ToThread } from './talk';

const tell = (what: FromThread, moved: Transferable[] = []) => {
  (self as unknown as { postMessage(what: FromThread, moved: Transferable[]): void }).postMessage(
    what,
    moved,
  );
};

let waiting: ((answer: { picture: ArrayBuffer | null; why: string }) => void) | null = null;
let stopped = false;

self.onmessage = ({ data }: MessageEvent<ToThread>) => {
  if (data.say === 'begin') void make(data.order);
  else if (data.say === 'stop') stopped = true;
  else waiting?.(data);
};

async function pictureOf(frame: number): Promise<ImageBitmap | null> {
  const { picture } = await new Promise<{ picture: ArrayBuffer | null; why: string }>((resolve) => {
    waiting = resolve;
    tell({ say: 'want', frame });
  });
  if (!picture) return null;
  return createImageBitmap(new Blob([picture])).catch(() => null);
}

async function make(order: ClipOrder): Promise<void> {
  try {
    await made(order);
  } catch (cause) {
    tell({ say: 'failed', why: cause instanceof Error ? cause.message : String(cause) });
  }
}

async function made({ fps, side, frames, labels }: ClipOrder): Promise<void> {
  const unread = new Set<number>();
  const held = { shows: NaN, picture: null as ImageBitmap | null };
  const take = async (shows: number) => {
    if (held.shows === shows) return;
    held.picture?.close();
    Object.assign(held, { shows, picture: await pictureOf(shows) });
    if (!held.picture) unread.add(shows);
  };
  // The first picture that can be had tells the size.
  for (const { shows } of frames) {
    if (shows === null || unread.has(shows)) continue;
    await take(shows);
    if (held.picture) break;
  }
  if (!held.picture) throw new Error('None of these frames is a picture that can be shown.');
  const { width, height } = clipSize(held.picture.width, held.picture.height, side);
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { alpha: false })!;
  context.imageSmoothingQuality = 'high';

  const size = { width, height, bitrate: QUALITY_HIGH };
  const kind = (await canEncodeVideo('avc', size))
    ? 'mp4'
    : (await canEncodeVideo('vp9', size))
      ? 'webm'
      : null;
  if (kind === null) throw new Error('This browser encodes neither H.264 nor VP9.');
  const target = new BufferTarget();
  const output = new Output({
    format: kind === 'mp4' ? new Mp4OutputFormat({ fastStart: 'in-memory' }) : new WebMOutputFormat(),
    target,
  });
  const source = new CanvasSource(canvas, { codec: kind === 'mp4' ? 'avc' : 'vp9', bitrate: QUALITY_HIGH });
  output.addVideoTrack(source, { frameRate: fps });
  await output.start();
  try {
    for (const [n, { frame, shows }] of frames.entries()) {
      if (stopped) {
        await output.cancel();
        return;
      }
      if (shows !== null) await take(shows);
      const picture = shows === null ? null : held.picture;
      draw(context, picture, picture ? null : `${frame} is ${shows === null ? 'missing' : 'not readable'}`);
      if (labels) write(context, labels[n]!, height);
      await source.add(n / fps, 1 / fps);
      tell({ say: 'drawn', done: n + 1 });
    }
    await output.finalize();
  } catch (cause) {
    await output.cancel().catch(() => undefined);
    throw cause;
  }
  const file = target.buffer!;
  const codec = kind === 'mp4' ? 'H.264' : 'VP9';
  tell({ say: 'made', file, kind, codec, width, height, unread: [...unread].sort((a, b) => a - b) }, [file]);
}

type Drawing = OffscreenCanvasRenderingContext2D;

/** The whole picture in the middle, on black; without one what is missing, on grey. */
function draw(context: Drawing, picture: ImageBitmap | null, missing: string | null): void {
  const { width, height } = context.canvas;
  context.fillStyle = picture ? '#000' : '#3a3a3a';
  context.fillRect(0, 0, width, height);
  if (picture) {
    const scale = Math.min(width / picture.width, height / picture.height);
    const [w, h] = [picture.width * scale, picture.height * scale];
    context.drawImage(picture, (width - w) / 2, (height - h) / 2, w, h);
  } else if (missing !== null) {
    context.font = `${Math.max(10, Math.round(width * 0.05))}px sans-serif`;
    context.textAlign = 'center';
    context.textBaseline = 'middle';
    context.fillStyle = '#fff';
    context.fillText(missing, width / 2, height / 2, width * 0.95);
  }
}

/** White on a dark strip at the foot. */
function write(context: Drawing, text: string, height: number): void {
  const { width } = context.canvas;
  const size = Math.max(10, Math.round(width * 0.032));
  context.font = `${size}px sans-serif`;
  context.textAlign = 'center';
  context.textBaseline = 'middle';
  const wide = Math.min(width, context.measureText(text).width + size);
  context.fillStyle = '#141414';
  context.fillRect((width - wide) / 2, height - size * 1.7, wide, size * 1.7);
  context.fillStyle = '#fff';
  context.fillText(text, width / 2, height - size * 0.85, width - size);
}
