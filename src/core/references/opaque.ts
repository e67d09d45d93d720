// Files that surely hold paths we cannot read: scenes of formats that are not known here, damaged, commented, wrapped or oddly encoded ones.
// What they reference cannot be told, but the names of files stand in their bytes, as UTF-8 or UTF-16, and can be looked for.
//
//     ....tex\x00\x12\x00\x00\x00//textures\wood 01.png\x00....
//                                            ^---------^ a name that is known: this file uses it, most likely

import { decodeText } from '../text/bytes';

// A name is looked for by its end: a dot, an extension of letters and digits, and something that is none after it.
const nameEnd = /\.[A-Za-z0-9_]{1,10}(?![A-Za-z0-9_])/g;
const longestName = 255;
const partLength = 32 * 1024;
// Begins a name for sure; blanks and marks may also stand within one, so each of them is tried.
const hardStart = /[\u0000-\u001f"<>|:*?/\\]/;
const softStart = /[\s,;=()[\]{}'&]/;

/** Which of the `wanted` names stand in a text (one character a byte, or decoded). */
function namesInText(text: string, wanted: ReadonlySet<string>, found: Set<string>): void {
  for (const m of text.matchAll(nameEnd)) {
    const end = m.index + m[0].length;
    for (let at = m.index; at >= 0 && end - at <= longestName; at--) {
      const before = at === 0 ? '\0' : text[at - 1]!;
      const isHard = hardStart.test(before);
      if (isHard || softStart.test(before)) {
        const name = text.slice(at, end);
        if (wanted.has(name)) found.add(name);
      }
      if (isHard) break;
    }
  }
}

/** Percent escapes undone where they can be. */
function unescaped(text: string): string {
  return text.replace(/(?:%[0-9A-Fa-f]{2})+/g, (run) => {
    try {
      return decodeURIComponent(run);
    } catch {
      return run;
    }
  });
}

/** Which of the `wanted` names (as they are on disk) stand in a file's bytes. */
export function namesIn(bytes: Uint8Array, wanted: ReadonlySet<string>): Set<string> {
  const found = new Set<string>();
  const utf8 = decodeText(bytes).text;
  namesInText(utf8, wanted, found);
  if (utf8.includes('%')) namesInText(unescaped(utf8), wanted, found);
  // Wide text shows as every other byte being nil.
  const zero = bytes.indexOf(0);
  if (zero >= 0)
    for (const [low, high] of [
      [0, 1],
      [1, 0],
      [1, 2],
    ] as const)
      namesInText(wideText(bytes, low, high), wanted, found);
  return found;
}

/** Pairs of bytes as UTF-16 units; `low` and `high` say where in a pair each stands. */
function wideText(bytes: Uint8Array, low: number, high: number): string {
  let text = '';
  for (let at = 0; at + Math.max(low, high) < bytes.length;) {
    const units: number[] = [];
    for (; units.length < partLength && at + Math.max(low, high) < bytes.length; at += 2)
      units.push(bytes[at + low]! | (bytes[at + high]! << 8));
    text += String.fromCharCode(...units);
  }
  return text;
}
