// Which fields of X3D and VRML nodes hold lists of URLs, and what kind of file they name. Shared by the XML and the classic form.
// Source: X3D Architecture (Web3D, ISO/IEC 19775-1:2023) node reference; VRML97 (ISO/IEC 14772-1).

import type { Reading, Reference, ReferenceKind } from './format';

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
