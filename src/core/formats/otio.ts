// OpenTimelineIO (.otio), JSON. Media are named by `target_url` of an ExternalReference, a URL or a plain path; an
// ImageSequenceReference names a folder, and its frames by prefix, padded number and suffix:
//
//     {"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"file:///shots/q010/","name_prefix":"q010.","name_suffix":".exr",
//                                                                  ^ span ---------^
//      "start_frame":1001,"frame_step":1,"frame_zero_padding":4, …}
//
// Source: OpenTimelineIO file format specification and schema reference (Academy Software Foundation), from memory.

import { decodeText, latin1 } from '../text/bytes';
import type { Format, Reading, Reference } from './format';
import { afterBom, encodeGltf } from './gltf';
import { jsonPointer, unescapeJson, walkStrings } from './json';
import { kindOfPath } from './kinds';

type Json = { [key: string]: unknown };

/** The object a pointer's parent names; null where the document does not have it so. */
function ownerOf(doc: unknown, path: readonly (string | number)[]): Json | null {
  let at: unknown = doc;
  for (const part of path.slice(0, -1)) {
    if (typeof at !== 'object' || at === null || !Object.hasOwn(at, part)) return null;
    at = (at as Json)[part];
  }
  return typeof at === 'object' && at !== null ? (at as Json) : null;
}

/** What follows the folder of a sequence's frames, the number as a run of '#'; and the frames its available range asks for. */
function sequenceOf(o: Json): Pick<Reference, 'suffix' | 'frames'> {
  const text = (key: string) => (typeof o[key] === 'string' ? (o[key] as string) : '');
  const number = (key: string, otherwise: number) =>
    typeof o[key] === 'number' ? (o[key] as number) : otherwise;
  const start = number('start_frame', 1);
  const step = Math.max(1, number('frame_step', 1));
  const duration = ((o.available_range as Json | undefined)?.duration as Json | undefined)?.value;
  const base = text('target_url_base');
  const suffix = `${base === '' || /[/\\]$/.test(base) ? '' : '/'}${text('name_prefix')}${'#'.repeat(Math.max(1, Math.min(16, number('frame_zero_padding', 0))))}${text('name_suffix')}`;
  return {
    suffix,
    ...(typeof duration === 'number' && duration >= 1
      ? { frames: [start, start + Math.floor(duration) - 1, step] as const }
      : {}),
  };
}

export const otio: Format = {
  id: 'otio',
  name: 'OpenTimelineIO',
  extensions: ['.otio'],
  syntax: 'uri',
  sniff(head) {
    return head[afterBom(head)] === 0x7b && latin1(head.subarray(0, 4096)).includes('"OTIO_SCHEMA"');
  },
  read(bytes) {
    const reading: Reading = { references: [], problems: [] };
    let doc: unknown = null;
    try {
      doc = JSON.parse(decodeText(bytes.subarray(afterBom(bytes))).text);
    } catch {
      // The walk below says what is wrong, and finds what stands before it.
    }
    const wanted = (from: number, to: number) => {
      const key = unescapeJson(bytes.subarray(from, to)).text;
      return key === 'target_url' || key === 'target_url_base';
    };
    reading.problems.push(
      ...walkStrings(bytes, afterBom(bytes), bytes.length, wanted, ({ path, span }) => {
        const { text: written, encoding } = unescapeJson(bytes.subarray(...span));
        if (path.includes('metadata')) return;
        const owner = ownerOf(doc, path);
        const isSequence = path.at(-1) === 'target_url_base';
        if ((written === '' && !isSequence) || /^data:/i.test(written)) return;
        const sequence = isSequence && owner ? sequenceOf(owner) : {};
        const full = `${written}${sequence.suffix ?? ''}`;
        // A plain path holds no escapes; a URL begins with its scheme.
        reading.references.push({
          at: jsonPointer(path),
          kind: isSequence ? 'texture' : kindOfPath(full, 'video'),
          written,
          span,
          encoding,
          syntax: /^[a-z][a-z0-9+.-]+:/i.test(written) ? 'uri' : 'native',
          ...sequence,
        });
      }),
    );
    return reading;
  },
  encode(value, at) {
    const suffix = at.suffix ?? '';
    if (!value.endsWith(suffix)) return null;
    const base = value.slice(0, value.length - suffix.length);
    return suffix === '' || suffix.startsWith('/') || base === '' || /[/\\]$/.test(base)
      ? encodeGltf(base)
      : null;
  },
};
