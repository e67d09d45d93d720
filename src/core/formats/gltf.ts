// glTF, text form (.gltf). References are the `uri` members of images, buffers and of extensions that hold files.
// Sources: glTF 2.0 Specification (Khronos, ISO/IEC 12113), sections on URIs, buffers and images; glTF 1.0 for the
// objects keyed by id. A `data:` URI is embedded and no reference. Unknown extensions: a member named `uri` or ending in
// `Uri` is listed as uncertain.

import type { Problem } from '../problem';
import { utf8 } from '../text/bytes';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { escapeJson, findStrings, jsonPointer, unescapeJson } from './json';

// Extensions whose `uri` members are known to hold files, with what they hold.
const knownExtensions: Record<string, ReferenceKind> = {
  EXT_lights_ies: 'other',
  MSFT_audio_emitter: 'audio',
  KHR_audio_emitter: 'audio',
  KHR_audio: 'audio',
  EXT_structural_metadata: 'other',
  KHR_binary_glTF: 'buffer',
};

/** The kind of file a pointer speaks of; null where a string of this name is no file reference. */
function kindAt(path: readonly (string | number)[]): { kind: ReferenceKind; uncertain: boolean } | null {
  const [head, , last] = path;
  if (path.length === 3 && last === 'uri') {
    if (head === 'images') return { kind: 'texture', uncertain: false };
    if (head === 'buffers') return { kind: 'buffer', uncertain: false };
    if (head === 'shaders') return { kind: 'other', uncertain: false };
  }
  for (let i = 0; i < path.length; i++) {
    if (path[i] === 'extensions') {
      const known = knownExtensions[String(path[i + 1])];
      return { kind: known ?? 'other', uncertain: known === undefined };
    }
    if (path[i] === 'extras') return { kind: 'other', uncertain: true };
  }
  return null;
}

/** References in glTF JSON that stands at [start, end) of `bytes`. Shared with GLB. */
export function readGltfJson(bytes: Uint8Array, start: number, end: number): Reading {
  const found = new Map<string, Reference>();
  const problems: Problem[] = [];
  const tops = new Map<string, number>();
  const isWanted = (from: number, to: number) => {
    const n = to - from;
    if (
      n >= 3 &&
      bytes[to - 2] === 0x72 &&
      bytes[to - 1] === 0x69 &&
      (bytes[to - 3] === 0x75 || bytes[to - 3] === 0x55)
    )
      return n === 3 ? bytes[from] === 0x75 : bytes[to - 3] === 0x55;
    // A key may itself be escaped ("\u0075ri"); then it is undone before it is judged.
    if (bytes.subarray(from, to).includes(0x5c)) {
      const { text } = unescapeJson(bytes.subarray(from, to));
      return text === 'uri' || text.endsWith('Uri');
    }
    return false;
  };
  problems.push(
    ...findStrings(bytes, start, end, isWanted, ({ path, span, topKey }) => {
      const what = kindAt(path);
      if (!what) return;
      const at = jsonPointer(path);
      // The last of two members with one name counts, in every reader: a repeated top-level member hides the earlier one.
      const top = `/${String(path[0])}/`;
      const earlier = tops.get(top);
      if (earlier !== undefined && earlier !== topKey)
        for (const key of [...found.keys()]) if (key.startsWith(top)) found.delete(key);
      tops.set(top, topKey);
      found.delete(at);
      const { text: written, encoding } = unescapeJson(bytes.subarray(span[0], span[1]));
      if (/^data:/i.test(written)) return;
      if (written === '') {
        problems.push({
          code: 'empty-reference',
          message: `${at} is empty: by the URI rules it means this very file.`,
          span,
        });
        return;
      }
      if (encoding === 'latin-1')
        problems.push({ code: 'not-utf-8', message: `${at} is not UTF-8, as glTF demands.`, span });
      found.set(at, {
        at,
        kind: what.kind,
        written,
        span,
        encoding,
        ...(what.uncertain ? { uncertain: true } : {}),
      });
    }),
  );
  return { references: [...found.values()].sort((a, b) => a.span![0] - b.span![0]), problems };
}

/** Bytes of a JSON string's inside. */
export function encodeGltf(value: string): Uint8Array {
  return utf8(escapeJson(value));
}

/** Offset of the first byte after a UTF-8 byte order mark. */
export function afterBom(bytes: Uint8Array): number {
  return bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
}

export const gltf: Format = {
  id: 'gltf',
  name: 'glTF (text)',
  extensions: ['.gltf'],
  syntax: 'uri',
  sniff(head) {
    let i = afterBom(head);
    while (i < head.length && (head[i] === 0x20 || head[i] === 0x0a || head[i] === 0x0d || head[i] === 0x09))
      i++;
    return head[i] === 0x7b;
  },
  read(bytes) {
    return readGltfJson(bytes, afterBom(bytes), bytes.length);
  },
  encode: encodeGltf,
};
