// What a scene says of how it was made and what it takes to open it: programs, extensions, plug-ins, fonts, units. Read for a report; nothing is followed.
//
// Sources: glTF 2.0 Specification, §3.2 (asset) and §3.12 (extensions); COLLADA 1.4.1, §3 and §5 (asset, technique); X3D (ISO/IEC 19775-1), §7.2.5 (profiles and components);
// OpenUSD's schemas (applied schemas, upAxis, metersPerUnit); MaterialX Specification 1.39 (version); 3MF Core Specification 1.3, §2.3 (requiredextensions).

import type { FormatId } from '../formats/format';
import { undoEntities } from '../formats/markup';
import { decodeText } from '../text/bytes';

export interface Says {
  /** The format's version, as it is written. */
  version: string | null;
  /** Programs that wrote it, as they call themselves. */
  programs: string[];
  /** Without these it does not open as it is meant. */
  required: string[];
  /** These are used as well. */
  used: string[];
  /** Names of typefaces in its texts. */
  fonts: string[];
  /** Its unit and its up axis, in words. */
  unit: string | null;
}

const nothing: Says = { version: null, programs: [], required: [], used: [], fonts: [], unit: null };

/** What it says; null for formats that are not looked into. `bytes`: of a GLB its JSON is enough. */
export function saysOf(format: FormatId, bytes: Uint8Array): Says | null {
  switch (format) {
    case 'gltf':
      return gltfSays(decodeText(bytes).text);
    case 'glb':
      return glbSays(bytes);
    case 'dae':
      return colladaSays(decodeText(bytes).text);
    case 'x3d':
    case 'x3dv':
      return x3dSays(decodeText(bytes).text);
    case 'usda':
      return usdSays(decodeText(bytes).text);
    case 'mtlx':
      return {
        ...nothing,
        version: first(decodeText(bytes).text, /<materialx\b[^>]*\bversion\s*=\s*["']([^"']+)/),
      };
    case 'obj':
    case 'mtl':
      return { ...nothing, programs: unique([firstComment(decodeText(bytes.subarray(0, 4096)).text)]) };
    case 'ply':
      return {
        ...nothing,
        programs: unique([first(head(bytes), /^comment\s+(.*(?:by|with|generated|created).*)$/im)]),
      };
    default:
      return null;
  }
}

const unique = (all: Iterable<string | null | undefined>): string[] =>
  [...new Set([...all].flatMap((x) => (x?.trim() ? [x.trim()] : [])))].sort();
const first = (text: string, pattern: RegExp): string | null => pattern.exec(text)?.[1]?.trim() ?? null;
const every = (text: string, pattern: RegExp) => Array.from(text.matchAll(pattern), (m) => m[1]);
const head = (bytes: Uint8Array) => decodeText(bytes.subarray(0, 8192)).text.split('end_header')[0]!;
const firstComment = (text: string) => first(text, /^#\s*(\S.*)$/m);

const words = (x: unknown): string[] =>
  Array.isArray(x) ? x.filter((w): w is string => typeof w === 'string') : [];

function gltfSays(text: string): Says | null {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\ufeff/, ''));
  } catch {
    return null;
  }
  const { asset, extensionsRequired, extensionsUsed } = (json ?? {}) as Record<string, unknown>;
  const { generator, version } = (asset ?? {}) as Record<string, unknown>;
  const required = unique(words(extensionsRequired));
  return {
    ...nothing,
    version: typeof version === 'string' ? version : null,
    programs: unique([typeof generator === 'string' ? generator : null]),
    required,
    used: unique(words(extensionsUsed)).filter((e) => !required.includes(e)),
    // Fixed by the format (glTF 2.0, §3.4).
    unit: 'metres, Y up',
  };
}

function glbSays(bytes: Uint8Array): Says | null {
  if (bytes.length < 20) return null;
  const length = new DataView(bytes.buffer, bytes.byteOffset, 16).getUint32(12, true);
  return gltfSays(decodeText(bytes.subarray(20, 20 + length)).text);
}

function colladaSays(text: string): Says {
  const meter = first(text, /<unit\b[^>]*\bmeter\s*=\s*["']([^"']+)/);
  const axis = first(text, /<up_axis>\s*([XYZ])_UP/);
  return {
    ...nothing,
    version: first(text, /<COLLADA\b[^>]*\bversion\s*=\s*["']([^"']+)/),
    programs: unique(every(text, /<authoring_tool>([^<]*)</g).map((t) => undoEntities(t ?? ''))),
    // What a technique of a program's own holds, other programs pass over.
    used: unique(every(text, /<technique\b[^>]*\bprofile\s*=\s*["']([^"']+)/g)).map((p) => `profile ${p}`),
    unit: [meter && `${meter} m`, axis && `${axis} up`].filter(Boolean).join(', ') || null,
  };
}

function x3dSays(text: string): Says {
  const isXml = text.includes('<X3D');
  const profile = first(text, isXml ? /<X3D\b[^>]*\bprofile\s*=\s*["']([^"']+)/ : /^PROFILE\s+(\w+)/m);
  const components = isXml
    ? Array.from(
        text.matchAll(/<component\b[^>]*\bname\s*=\s*["']([^"']+)["'][^>]*?\blevel\s*=\s*["'](\d)/g),
        (m) => `${m[1]}:${m[2]}`,
      )
    : every(text, /^COMPONENT\s+(\w+\s*:\s*\d)/gm);
  return {
    ...nothing,
    version: first(text, isXml ? /<X3D\b[^>]*\bversion\s*=\s*["']([^"']+)/ : /^#(?:X3D|VRML) V([\d.]+)/),
    programs: unique([
      first(
        text,
        isXml
          ? /<meta\b[^>]*\bname\s*=\s*["']generator["'][^>]*\bcontent\s*=\s*["']([^"']+)/
          : /^META\s+"generator"\s+"([^"]+)/m,
      ),
    ]),
    required: unique([profile && `profile ${profile}`, ...components]),
    fonts: unique(
      (isXml ? every(text, /<\w*FontStyle\b[^>]*\bfamily\s*=\s*(?:"([^"]*)"|'[^']*')/g) : [])
        .concat(
          isXml
            ? every(text, /<\w*FontStyle\b[^>]*\bfamily\s*=\s*'([^']*)'/g)
            : every(text, /\bfamily\s+\[?([^\]\n{}]*)/g),
        )
        .flatMap((list) => (list ?? '').split(/["',]|&quot;/)),
    ),
  };
}

function usdSays(text: string): Says {
  const meters = first(text, /^\s*metersPerUnit\s*=\s*([^\s)]+)/m);
  const axis = first(text, /^\s*upAxis\s*=\s*"([XYZ])"/m);
  return {
    ...nothing,
    version: first(text, /^#usda ([\d.]+)/),
    programs: unique([
      first(
        text.slice(0, 4096),
        /^\s*(?:doc|comment)?\s*=?\s*"{1,3}([^"\n]*(?:Generated|Exported|Created|written)[^"\n]*)/im,
      ),
    ]),
    used: unique(
      every(text, /\bapiSchemas\s*=\s*\[?([^\]\n]*)/g).flatMap((list) => (list ?? '').split(/[",\s]+/)),
    ),
    // Of a stage that says nothing (OpenUSD, UsdGeom: 0.01 and Y).
    unit: `${meters ?? '0.01'} m, ${axis ?? 'Y'} up`,
  };
}
