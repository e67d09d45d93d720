// A review clip: which pictures it shows, for how long, how large, and what is written into them.

import { framesText } from '../text/figures';

/** What becomes of frames that are not there. */
export type Holes = 'hold' | 'mark';

export interface ClipFrame {
  /** The number it has. */
  frame: number;
  /** The number whose picture is shown; null: none, the hole is marked. */
  shows: number | null;
}

/** The frames of a clip from `first` to `last`; the step of a row with gaps is the smallest that occurs. Before its first frame there is nothing to hold. */
export function clipFrames(there: readonly number[], first: number, last: number, holes: Holes): ClipFrame[] {
  const sorted = [...new Set(there)].sort((a, b) => a - b);
  const step = stepOf(sorted);
  const has = new Set(sorted);
  const frames: ClipFrame[] = [];
  let held: number | null = sorted.filter((n) => n <= first).at(-1) ?? null;
  for (let frame = first; frame <= last && frames.length < mostFrames; frame += step) {
    if (has.has(frame)) held = frame;
    frames.push({ frame, shows: has.has(frame) || holes === 'hold' ? held : null });
  }
  return frames;
}

/** A clip is for looking: more frames than an hour at 30 a second are a slip of the keyboard. */
export const mostFrames = 108_000;

function stepOf(sorted: readonly number[]): number {
  let step = Infinity;
  for (let i = 1; i < sorted.length; i++) step = Math.min(step, sorted[i]! - sorted[i - 1]!);
  return sorted.length > 2 && Number.isFinite(step) ? Math.max(1, step) : 1;
}

/** Width and height within a longest side, both even, as video needs them: colour is kept for two by two pixels. */
export function clipSize(width: number, height: number, longest: number): { width: number; height: number } {
  const scale = Math.min(1, longest / Math.max(width, height));
  const even = (n: number) => Math.max(2, Math.round((n * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}

const padded = (frame: number) => (frame < 0 ? '-' : '') + String(Math.abs(frame)).padStart(4, '0');

/** What is written into a frame: scene, version, camera, frame number. */
export function clipLabel(
  of: { scene: string | null; version: number | null; camera: string | null },
  frame: number,
): string {
  const named = [of.scene, of.version === null ? null : `v${String(of.version).padStart(3, '0')}`, of.camera];
  return [...named.filter(Boolean), padded(frame)].join(' · ');
}

/** In words what is not there, or null. */
export function holesText(frames: readonly ClipFrame[]): string | null {
  const missing = frames.filter((f) => f.shows !== f.frame).map((f) => f.frame);
  if (missing.length === 0) return null;
  return `${missing.length === 1 ? 'Frame' : 'Frames'} ${framesText(missing)} ${missing.length === 1 ? 'is' : 'are'} missing`;
}

/**
 * How long each of `count` frames is shown, in whole units of `grain` ms, so that the sum stays right: animated WebP counts ms, GIF hundredths of a second
 * (GIF89a specification, 23.c.vi).
 */
export function delays(count: number, fps: number, grain: number): number[] {
  const at = (n: number) => Math.round((n * 1000) / fps / grain);
  return Array.from({ length: count }, (_, n) => (at(n + 1) - at(n)) * grain);
}
