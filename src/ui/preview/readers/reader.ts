// What a reader of scenes is given, and what it gives.

import * as THREE from 'three';
import { wideEncoding } from '@/core/text/bytes';
import type { Sources } from '../sources';

/** Why a scene cannot be shown, as a sentence. */
export class NotShown extends Error {}

export interface Given {
  sources: Sources;
  /** The scene's bytes, out of their wrapping. */
  bytes: Uint8Array<ArrayBuffer>;
  format: string;
  /** Answers what the scene asks for. */
  manager: THREE.LoadingManager;
  /** The same for what another file asks for. */
  managerOf: (file: string) => THREE.LoadingManager;
  /** The bytes behind an address of `sources`. */
  fetch: (address: string) => Promise<Uint8Array<ArrayBuffer>>;
  /** What is to be said of the picture. */
  notes: string[];
}

export interface Shown {
  object: THREE.Object3D;
  /** The key of the reference a texture came from, where its address does not tell. */
  keyOfTexture?: (texture: THREE.Texture) => string | undefined;
  /** The number of the node that a mesh belongs to. */
  nodeOf?: (mesh: THREE.Object3D) => string | null;
  /** Keys of the references that belong to a material by more than its textures. */
  keysOf?: ReadonlyMap<THREE.Material, readonly string[]>;
  /** Whether its lengths are the file's own numbers, and no metres yet. */
  isUnscaled?: boolean;
}

export type Reader = (given: Given) => Promise<Shown>;

/** The text of a file, in UTF-16 where it begins with its mark, else UTF-8. */
export function textIn(bytes: Uint8Array): string {
  return new TextDecoder(wideEncoding(bytes) ?? 'utf-8').decode(bytes);
}

/** Bytes as a buffer of their own, as three.js' readers take them. */
export const bufferOf = (bytes: Uint8Array<ArrayBuffer>): ArrayBuffer =>
  bytes.byteOffset === 0 && bytes.byteLength === bytes.buffer.byteLength
    ? bytes.buffer
    : bytes.slice().buffer;
