// What a picture says of the program that wrote it, and of the typefaces it takes: from its first bytes.
//
// Sources: Exif 2.32 (JEITA CP-3451), §4.5 (APP1 of JPEG, TIFF's tag 305, Software); PNG, "tEXt" with the keyword Software, "eXIf"; WebP container, "EXIF";
// SVG 1.1, §10.10 (font-family); Dublin Core and the generators' comments in SVG are common practice, no source.

import { extensionOf } from '../files/treePath';
import { undoEntities } from '../formats/markup';
import { decodeText, latin1 } from '../text/bytes';

export interface PictureSays {
  programs: string[];
  fonts: string[];
}

/** So many bytes from the beginning tell it. Zero: nothing is told by such a file. */
export function bytesToSay(name: string): number {
  const extension = extensionOf(name);
  if (extension === '.svg') return 256 * 1024;
  return ['.jpg', '.jpeg', '.png', '.tif', '.tiff', '.webp'].includes(extension) ? 16 * 1024 : 0;
}

/** What it says; null: nothing. `head`: its first bytes. */
export function pictureSays(name: string, head: Uint8Array): PictureSays | null {
  const said = extensionOf(name) === '.svg' ? svgSays(decodeText(head).text) : rasterSays(head);
  return said.programs.length + said.fonts.length > 0 ? said : null;
}

function rasterSays(head: Uint8Array): PictureSays {
  const programs = new Set<string>();
  try {
    for (const text of softwareIn(head)) if (text !== '') programs.add(text);
  } catch (cause) {
    // It ends inside what it says.
    if (!(cause instanceof RangeError)) throw cause;
  }
  return { programs: [...programs], fonts: [] };
}

function* softwareIn(b: Uint8Array): Iterable<string> {
  const view = new DataView(b.buffer, b.byteOffset, b.length);
  const tag = (at: number, length = 4) => latin1(b.subarray(at, at + length));
  if (b[0] === 0xff && b[1] === 0xd8) {
    for (
      let at = 2;
      at + 4 <= b.length && b[at] === 0xff && b[at + 1] !== 0xda;
      at += 2 + view.getUint16(at + 2)
    )
      if (b[at + 1] === 0xe1 && tag(at + 4, 6) === 'Exif\0\0') yield* inTiff(b.subarray(at + 10));
  } else if (tag(1, 3) === 'PNG') {
    for (let at = 8; at + 8 <= b.length; at += 12 + view.getUint32(at)) {
      const data = b.subarray(at + 8, at + 8 + view.getUint32(at));
      if (tag(at + 4) === 'eXIf') yield* inTiff(data);
      if (tag(at + 4) === 'tEXt' && latin1(data.subarray(0, 9)) === 'Software\0')
        yield clean(latin1(data.subarray(9)));
    }
  } else if (tag(0) === 'RIFF' && tag(8) === 'WEBP') {
    for (let at = 12; at + 8 <= b.length; at += 8 + ((view.getUint32(at + 4, true) + 1) & ~1))
      if (tag(at) === 'EXIF') yield* inTiff(b.subarray(at + (tag(at + 8, 6) === 'Exif\0\0' ? 14 : 8)));
  } else if (tag(0) === 'II*\0' || tag(0) === 'MM\0*') yield* inTiff(b);
}

function* inTiff(b: Uint8Array): Iterable<string> {
  const view = new DataView(b.buffer, b.byteOffset, b.length);
  const little = b[0] === 0x49;
  const directory = view.getUint32(4, little);
  const entries = view.getUint16(directory, little);
  for (let n = 0; n < entries; n++) {
    const at = directory + 2 + 12 * n;
    if (view.getUint16(at, little) !== 305 || view.getUint16(at + 2, little) !== 2) continue;
    const count = view.getUint32(at + 4, little);
    const from = count <= 4 ? at + 8 : view.getUint32(at + 8, little);
    yield clean(latin1(b.subarray(from, from + Math.min(count, 200))));
  }
}

const clean = (text: string) =>
  text
    .split('\0')[0]!
    .replace(/[\p{Cc}]/gu, ' ')
    .trim();

function svgSays(text: string): PictureSays {
  const fonts = new Set<string>();
  // Style sheets, and styles of single elements.
  const styles = [
    ...Array.from(text.matchAll(/<style\b[^>]*>([\s\S]*?)<\/style>/g), (m) => m[1]!),
    ...Array.from(text.matchAll(/\bstyle\s*=\s*(?:"([^"]*)"|'([^']*)')/g), (m) =>
      undoEntities(m[1] ?? m[2]!),
    ),
  ];
  const families = [
    ...Array.from(text.matchAll(/\bfont-family\s*=\s*(?:"([^"]*)"|'([^']*)')/g), (m) =>
      undoEntities(m[1] ?? m[2]!),
    ),
    ...styles.flatMap((style) => Array.from(style.matchAll(/\bfont-family\s*:\s*([^;}]+)/g), (m) => m[1]!)),
  ];
  for (const family of families)
    for (const one of family.split(',')) {
      const name = one.trim().replace(/^["']|["']$/g, '');
      if (name !== '' && !/^(?:serif|sans-serif|monospace|cursive|fantasy|system-ui|inherit)$/i.test(name))
        fonts.add(name);
    }
  const program =
    /<!--\s*(?:Generator|Created with)[:\s]+([^>]*?)\s*-->/i.exec(text)?.[1] ??
    /<meta\s[^>]*\bname="generator"[^>]*\bcontent="([^"]+)"/i.exec(text)?.[1];
  return { programs: program ? [clean(undoEntities(program)).slice(0, 200)] : [], fonts: [...fonts].sort() };
}
