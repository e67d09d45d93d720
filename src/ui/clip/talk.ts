// What the page and the thread that makes a clip say to each other.

import type { ClipFrame } from '@/core/outputs/clip';

export interface ClipOrder {
  fps: number;
  /** Pixels of the longest side. */
  side: number;
  frames: readonly ClipFrame[];
  /** What is written into each frame; null: nothing. */
  labels: readonly string[] | null;
}

export type ToThread =
  | { say: 'begin'; order: ClipOrder }
  /** The picture that was asked for; null: it cannot be had, and why. */
  | { say: 'picture'; picture: ArrayBuffer | null; why: string }
  | { say: 'stop' };

export type FromThread =
  /** The picture of this frame number is wanted. */
  | { say: 'want'; frame: number }
  | { say: 'drawn'; done: number }
  | {
      say: 'made';
      file: ArrayBuffer;
      kind: 'mp4' | 'webm';
      codec: string;
      width: number;
      height: number;
      /** Frames whose picture could not be had. */
      unread: number[];
    }
  | { say: 'failed'; why: string };
