// What is used of modules of three.js that come without types.
declare module 'three/examples/jsm/loaders/usd/USDAParser.js' {
  export class USDAParser {
    parseData(text: string): object;
  }
}
declare module 'three/examples/jsm/loaders/usd/USDCParser.js' {
  export class USDCParser {
    parseData(bytes: ArrayBuffer): object;
  }
}
declare module 'three/examples/jsm/loaders/usd/USDComposer.js' {
  import type { Group, LoadingManager } from 'three';
  export class USDComposer {
    constructor(manager: LoadingManager);
    compose(layer: object, assets: Record<string, unknown>): Group;
  }
}
