// Which frames a scene says that it shows.
//
// Sources: OpenUSD, layer metadata startTimeCode and endTimeCode; OpenTimelineIO, source_range of a clip and available_range of its medium (from memory).

import type { FormatId } from '../formats/format';
import { decodeText } from '../text/bytes';

export type FrameRange = readonly [first: number, last: number];

/** The frames of a whole scene; 'none': it says nothing of frames; 'unknown': it says something that moves them. */
export function framesIn(format: FormatId, bytes: Uint8Array): FrameRange | 'none' | 'unknown' {
  if (format !== 'usda') return 'none';
  const { text } = decodeText(bytes);
  // Frames of a layer that is moved in time are other ones than it says.
  if (/\(\s*(?:offset|scale)\s*=|\bclips\s*=/.test(text)) return 'unknown';
  const head = /^#usda[^\n]*\n\s*\(([\s\S]*?)\n\)/.exec(text)?.[1] ?? '';
  const said = (name: string) => new RegExp(`\\b${name}\\s*=\\s*(-?[\\d.]+)`).exec(head)?.[1];
  const [first, last] = [said('startTimeCode'), said('endTimeCode')];
  if (first === undefined || last === undefined) return 'none';
  return [Math.floor(Number(first)), Math.ceil(Number(last))];
}

interface Time {
  value?: number;
  rate?: number;
}
interface Range {
  start_time?: Time;
  duration?: Time;
}

/** The frames that a clip of a timeline shows of a sequence. `at`: the place of the sequence's path, as a JSON pointer; null: it does not say. */
export function framesOfClip(bytes: Uint8Array, at: string): FrameRange | null {
  const path = at
    .split('/')
    .slice(1)
    .map((p) => p.replaceAll('~1', '/').replaceAll('~0', '~'));
  let here: unknown;
  try {
    here = JSON.parse(decodeText(bytes).text.replace(/^\ufeff/, ''));
  } catch {
    return null;
  }
  const above: Record<string, unknown>[] = [];
  for (const part of path) {
    if (typeof here !== 'object' || here === null) return null;
    above.push(here as Record<string, unknown>);
    here = (here as Record<string, unknown>)[part];
  }
  const medium = above.at(-1);
  const clip = above.findLast((o) => typeof o.OTIO_SCHEMA === 'string' && o.OTIO_SCHEMA.startsWith('Clip.'));
  if (!medium || !clip || typeof medium.start_frame !== 'number') return null;
  const [source, available] = [clip.source_range, medium.available_range] as (Range | null | undefined)[];
  const [start, duration] = [source?.start_time, source?.duration];
  const rate = typeof medium.rate === 'number' ? medium.rate : start?.rate;
  if (start?.value === undefined || duration?.value === undefined || !start.rate || !duration.rate || !rate)
    return null;
  const begin = available?.start_time;
  if (begin?.value !== undefined && !begin.rate) return null;
  // Effects that change speed show other frames.
  if (Array.isArray(clip.effects) && clip.effects.length > 0) return null;
  const seconds = start.value / start.rate - (begin?.value ?? 0) / (begin?.rate ?? 1);
  const step = typeof medium.frame_step === 'number' && medium.frame_step > 0 ? medium.frame_step : 1;
  const first = medium.start_frame + Math.floor(seconds * rate + 1e-6) * step;
  const last =
    medium.start_frame + (Math.ceil((seconds + duration.value / duration.rate) * rate - 1e-6) - 1) * step;
  return [first, last];
}
