// The structure of JSON text by vector instructions: jsonScan.as in WebAssembly, fed in parts. Where the engine has no WebAssembly
// (or a page's policy forbids it), nothing is scanned and the caller walks the text in the plain way.

import { jsonScanModule } from './jsonScan.wasm';

/** Where a string ended: the brackets open there, outermost first. Valid only during the call it is given to. */
export interface OpenLevels {
  depth: number;
  /** Offset of the bracket. */
  offset(level: number): number;
  isList(level: number): boolean;
  /** Commas passed directly inside it: in a list, the index reached. */
  commas(level: number): number;
}

interface Scanner {
  memory: { buffer: ArrayBuffer };
  start(): void;
  scan(length: number, base: number): number;
  end(): number;
}

interface Engine {
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: object };
}

// As in jsonScan.as.
const reportsAt = 128 * 1024;
const textAt = 1024 * 1024;
const partSize = 256 * 1024;

class Reports implements OpenLevels {
  depth = 0;
  at = 0;
  private readonly words: Uint32Array;
  private readonly text: Uint8Array;

  constructor(private readonly scanner: Scanner) {
    this.words = new Uint32Array(scanner.memory.buffer);
    this.text = new Uint8Array(scanner.memory.buffer, textAt, partSize);
  }

  scan(
    b: Uint8Array,
    start: number,
    end: number,
    stringEnded: (close: number, levels: OpenLevels) => boolean,
  ): number | null {
    this.scanner.start();
    for (let base = start; base < end; base += partSize) {
      const part = b.subarray(base, Math.min(end, base + partSize));
      this.text.set(part);
      const length = Math.ceil(part.length / 64) * 64;
      this.text.fill(0x20, part.length, length);
      const reportsEnd = this.scanner.scan(length, base);
      if (reportsEnd < 0) return null;
      for (let at = reportsAt / 4; at < reportsEnd; at = this.at + 2 * this.depth) {
        this.depth = this.words[at + 1]!;
        this.at = at + 2;
        if (!stringEnded(this.words[at]!, this)) return null;
      }
      const closed = this.scanner.end();
      if (closed >= 0) return closed;
    }
    return null;
  }

  offset(level: number): number {
    return this.words[this.at + 2 * level]! >>> 1;
  }

  isList(level: number): boolean {
    return (this.words[this.at + 2 * level]! & 1) === 1;
  }

  commas(level: number): number {
    return this.words[this.at + 2 * level + 1]!;
  }
}

let reports: Reports | null | undefined;

function makeReports(): Reports | null {
  const engine = (globalThis as { WebAssembly?: Engine }).WebAssembly;
  if (!engine) return null;
  try {
    return new Reports(new engine.Instance(new engine.Module(jsonScanModule), {}).exports as Scanner);
  } catch {
    return null;
  }
}

/**
 * Follows JSON text at [start, end) and calls `stringEnded` with the offset of each closing quote of a string that ends in `i` or
 * holds a backslash (some others too). Returns the offset of the bracket that closes the outermost one; null when `stringEnded`
 * answers false, brackets do not match, the text ends early, is longer than 2 GB or deeper than 8,192 levels.
 */
export function scanStructure(
  b: Uint8Array,
  start: number,
  end: number,
  stringEnded: (close: number, levels: OpenLevels) => boolean,
): number | null {
  if (end >= 2 ** 31) return null;
  reports = reports === undefined ? makeReports() : reports;
  return reports?.scan(b, start, end, stringEnded) ?? null;
}
