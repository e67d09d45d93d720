// Which fields of X3D and VRML nodes hold lists of URLs, and what kind of file they name. Shared by the XML and the classic form.
// Source: X3D Architecture (Web3D, ISO/IEC 19775-1:2023) node reference; VRML97 (ISO/IEC 14772-1).

import type { Reading, Reference, ReferenceKind } from './format';
import { kindOfPath } from './kinds';
import { nodeType } from './x3dTypes';

const urlNodes: Record<string, ReferenceKind> = {
  Inline: 'scene',
  ImageTexture: 'texture',
  ImageTexture3D: 'texture',
  ImageCubeMapTexture: 'texture',
  ImageTextureAtlas: 'texture',
  MovieTexture: 'video',
  RenderedTexture: 'texture',
  AudioClip: 'audio',
  BufferAudioSource: 'audio',
  Script: 'other',
  ShaderPart: 'other',
  PackagedShader: 'other',
  ShaderProgram: 'other',
  FontLibrary: 'font',
  GeoMetadata: 'other',
  DISEntityTypeMapping: 'other',
  ExternProtoDeclare: 'scene',
  EXTERNPROTO: 'scene',
};
const backgrounds = new Set(['Background', 'TextureBackground']);
const sides = new Set(['backUrl', 'bottomUrl', 'frontUrl', 'leftUrl', 'rightUrl', 'topUrl']);

/** The kind of file a field of a node names; null where it is no list of URLs. An Anchor's url is a link to follow, not a dependency. */
export function kindOfField(node: string, field: string): ReferenceKind | null {
  if (field === 'url') return urlNodes[node] ?? null;
  if (backgrounds.has(node) && sides.has(field)) return 'texture';
  if (node === 'GeoLOD' && /^(root|child[1-4])Url$/.test(field)) return 'scene';
  return null;
}

/** What a field names; `guess`: the node is not known, and only the field's name speaks for files. */
export interface Named {
  kind: ReferenceKind | null;
  isGuess: boolean;
}

// Elements of XML that are no nodes.
const statements = new Set(
  'X3D head Scene meta component unit field fieldValue IS connect ROUTE IMPORT EXPORT ProtoDeclare ProtoInterface ProtoBody ProtoInstance'.split(
    ' ',
  ),
);

/** Prototypes of a file: which of their fields a `url` in their body IS (ISO/IEC 19775-1, 4.4.4). Names of inner ones are not told apart from outer ones. */
export class Protos {
  private readonly fields = new Map<string, Map<string, ReferenceKind>>();
  /** Declared elsewhere: nothing is known of their fields but the names. */
  private readonly extern = new Set<string>();

  declare(proto: string): void {
    this.extern.delete(proto);
    if (!this.fields.has(proto)) this.fields.set(proto, new Map());
  }

  declareExtern(proto: string): void {
    if (!this.fields.has(proto)) this.extern.add(proto);
  }

  /** In the body of `proto`, `nodeField` of a node IS `field`. */
  connect(proto: string, field: string, node: string, nodeField: string): void {
    const named = this.named(node, nodeField);
    if (named?.kind && !named.isGuess) this.fields.get(proto)?.set(field, named.kind);
  }

  /** What a field of a node, or of an instance of a prototype, names; null: no files. */
  named(node: string, field: string): Named | null {
    const own = this.fields.get(node);
    if (own) {
      const kind = own.get(field);
      return kind ? { kind, isGuess: false } : null;
    }
    const kind = kindOfField(node, field);
    if (kind) return { kind, isGuess: false };
    const isUnknown = this.extern.has(node) || (nodeType(node) === undefined && !statements.has(node));
    return isUnknown && /^url$|Url$/.test(field) ? { kind: null, isGuess: true } : null;
  }
}

/** How a reference is listed where a field names it. */
export const listed = (named: Named, written: string): Pick<Reference, 'kind' | 'uncertain'> => ({
  kind: named.kind ?? kindOfPath(written, 'other'),
  ...(named.isGuess ? { uncertain: true } : {}),
});

/** True for values that are no path: source text in a script's or shader's url, embedded data, a name in this document. */
export function isInline(value: string): boolean {
  return (
    value.trim() === '' ||
    /^\s*(ecmascript|javascript|vrmlscript|castlescript|data|urn):/i.test(value) ||
    value.startsWith('#') ||
    value.includes('\n')
  );
}

/** Adds one list of alternatives: the first that loads is used. */
export function addChoices(reading: Reading, list: readonly Reference[], choice: number): void {
  for (const r of list) reading.references.push(list.length > 1 ? { ...r, choice } : r);
}
