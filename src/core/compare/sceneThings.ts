// What is in a scene, by its format; for formats that are not looked into, how much of the bytes is the same.

import { readGlb, readJson } from '../documents/gltfFile';
import { gltfThings } from './gltfThings';
import type { Hasher } from './hasher';
import { markupThings } from './markupThings';
import { mtlThings, objThings } from './objThings';
import { usdThings } from './usdThings';
import type { FormatId } from '../formats/format';
import { decodeText } from '../text/bytes';
import type { Thing } from './things';

/** A scene's bytes, and those of the files beside it that it names; null: one that is not there. */
export interface SceneFile {
  format: FormatId;
  bytes: Uint8Array;
  beside: (uri: string) => Promise<Uint8Array | null>;
}

/** Formats that are looked into. */
export const comparedFormats: ReadonlySet<FormatId> = new Set([
  'gltf',
  'glb',
  'obj',
  'mtl',
  'usda',
  'dae',
  'mtlx',
  'x3d',
  'usdc',
  'x3dv',
]);

/** The things in a scene; null: its format is not looked into. */
export async function sceneThings(file: SceneFile, start: Hasher): Promise<Thing[] | null> {
  const { format, bytes } = file;
  switch (format) {
    case 'gltf':
    case 'glb': {
      const document = format === 'glb' ? readGlb(bytes) : readJson(bytes);
      if (!document) return [];
      return gltfThings({ json: document.json, buffer: await document.buffers(file.beside) }, start);
    }
    case 'obj': {
      const things = objThings(bytes, start);
      for (const name of materialLibraries(bytes)) {
        const library = await file.beside(name);
        if (library) things.push(...mtlThings(library, start));
      }
      return things;
    }
    case 'mtl':
      return mtlThings(bytes, start);
    case 'usda':
      return usdThings(bytes, start);
    case 'usdc': {
      // As the text that says the same; what text cannot say is told by its bytes.
      const { usdText } = await import('../convert/crate/usdText');
      const text = await usdText(bytes);
      return 'refused' in text ? null : usdThings(text, start);
    }
    case 'x3dv': {
      const { xmlOf } = await import('../convert/x3d/convert');
      const xml = xmlOf(bytes);
      return 'refused' in xml ? null : markupThings(xml.content, start, false);
    }
    case 'dae':
    case 'x3d':
    case 'mtlx':
      return markupThings(bytes, start, format === 'mtlx');
    default:
      return null;
  }
}

/** Names on the mtllib lines at the head of an OBJ file. */
function materialLibraries(bytes: Uint8Array): string[] {
  const head = decodeText(bytes.subarray(0, 64 * 1024)).text;
  return [...head.matchAll(/^\s*mtllib\s+(.+?)\s*$/gm)].map((m) => m[1]!);
}
