// A prim out of a USD text and beside it: its text goes into a layer of its own, and where it stood it is referenced. The stage says what it said.
//
// What would not: an opinion in a layer counts for more than one behind a reference, and paths in a referenced layer reach only what lies in the prim (OpenUSD
// Glossary, "LIVRPS Strength Ordering" and "References"). Such prims stay.

import { latin1, toLatin1, utf8 } from '../text/bytes';
import { piecesOf, type Edit, type Piece } from '../text/edits';
import type { Span } from '../problem';
import type { Refusal } from '../documents/gltfText';
import { blanked, closing, headOf } from '../documents/usdPrims';
import type { TakenOut } from './takeOut';

/** What the stage measures by: a layer that is referenced should say the same, for who opens it alone; and times are scaled where it does not. */
const measures = ['metersPerUnit', 'upAxis', 'kilogramsPerUnit', 'timeCodesPerSecond', 'framesPerSecond'];

/** Takes the prim at `span` out. `path`: its place in the scene (/Boat/Rig). `asset`: how the scene is to name the new layer. */
export function takePrim(bytes: Uint8Array, span: Span, path: string, asset: string): TakenOut | Refusal {
  const text = latin1(bytes);
  const bare = blanked(text);
  const head = headOf(bare);
  const metadata = head ? bare.slice(...head) : '';
  if (/\bsubLayers\b/.test(metadata))
    return { refused: 'The scene has sublayers, which would then count for more than the prim.' };
  const prim = bare.slice(...span);
  const opening = /^(def|over|class)\s+(?:([A-Za-z_]\w*)\s*)?(?=")/.exec(prim);
  if (opening?.[1] !== 'def') return { refused: 'Only a prim that is defined here is taken out.' };
  const name = path.slice(path.lastIndexOf('/') + 1);
  const own = ownMetadata(prim, opening[0].length);
  if (own === null) return { refused: 'Where the prim’s own metadata end cannot be told.' };
  if (/\binstanceable\b/.test(own)) return { refused: 'It is instanceable, and would become an instance.' };
  if (/@`/.test(text.slice(...span))) return { refused: 'A path in it is an expression.' };
  const edits: Edit[] = [];
  for (const m of prim.matchAll(/<([^<>\n]*)>/g)) {
    const target = m[1]!;
    const at = span[0] + m.index + 1;
    if (target.startsWith(path) && /^(?:$|[/.{[])/.test(target.slice(path.length)))
      edits.push({ span: [at, at + path.length], bytes: utf8(`/${name}`) });
    else if (target.startsWith('/') || target.includes('..'))
      return { refused: `It refers to ${target}, which stays in the scene.` };
  }
  const said = measures.flatMap((key) => {
    // In the text itself: an axis is a string, which is blank in `bare`.
    const found = head && new RegExp(`^[ \\t]*${key}[ \\t]*=`, 'm').exec(metadata);
    if (!found) return [];
    const from = head[0] + found.index + found[0].length;
    return [`    ${key} = ${/^[^\r\n;)#]*/.exec(text.slice(from))![0].trim()}\n`];
  });
  const file: Piece[] = [
    { bytes: toLatin1(`#usda 1.0\n(\n    defaultPrim = "${name}"\n${said.join('')})\n\n`)! },
    ...cut(piecesOf(edits, bytes.length), span),
    { bytes: utf8('\n') },
  ];
  const indent = /[ \t]*$/.exec(text.slice(0, span[0]))![0];
  const type = opening[2] === undefined ? '' : `${opening[2]} `;
  const stays = `def ${type}"${name}" (\n${indent}    prepend references = ${asset}\n${indent})\n${indent}{\n${indent}}`;
  const scene: Piece[] = piecesOf([{ span, bytes: toLatin1(stays)! }], bytes.length);
  return { scene, file };
}

/** The pieces that make what becomes of a stretch; edits lie wholly in it. */
function cut(pieces: readonly Piece[], [from, to]: Span): Piece[] {
  return pieces.flatMap((p): Piece[] => {
    if (!('copy' in p)) return [p];
    const copy: Span = [Math.max(p.copy[0], from), Math.min(p.copy[1], to)];
    return copy[0] < copy[1] ? [{ copy }] : [];
  });
}

/** A prim's own metadata; '' where it has none; null where they do not end. */
function ownMetadata(prim: string, from: number): string | null {
  const open = /^"[^"]*"\s*\(/.exec(prim.slice(from));
  if (!open) return '';
  const at = from + open[0].length - 1;
  const end = closing(prim, at);
  return end < 0 ? null : prim.slice(at, end);
}
