// What is used of a module of three.js that comes without types.
declare module 'three/examples/jsm/libs/ktx-parse.module.js' {
  export interface Ktx2 {
    vkFormat: number;
    pixelWidth: number;
    pixelHeight: number;
    supercompressionScheme: number;
    levels: { levelData: Uint8Array; uncompressedByteLength: number }[];
  }
  export function read(bytes: Uint8Array): Ktx2;
  export function write(file: Ktx2): Uint8Array;
  export function createDefaultContainer(): Ktx2;
}
