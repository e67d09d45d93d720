// The structure of JSON text, sixteen bytes at a time, in WebAssembly (AssemblyScript; `node scripts/wasm.mjs` compiles it into
// jsonScan.wasm.ts). It follows strings and brackets and reports where a string ends that may be a wanted key: one whose last letter
// is `i`, or that holds a backslash. Everything it does not understand it hands back, and the plain walk of json.ts does the file.
//
//     {"images":[{"name":"a","uri":"a.png"}]}
//     ^         ^^               ^ reported, with the open brackets and the commas passed in each
//
// Memory, in bytes: [1024, +64 Ki) open brackets, two words each: offset, commas passed; [128 Ki, +768 Ki) reports, in words: offset
// of the closing quote, number of open brackets, then the two words of each; [1 Mi, +256 Ki) the text.

const stackAt: usize = 1024; // with room for a level below the first, which is none
const deepest: i32 = 8192;
const reportsAt: usize = 128 * 1024;
const reportsEnd: usize = 896 * 1024;
const textAt: usize = 1024 * 1024;

let depth: i32 = -1;
let commas: u32 = 0; // passed in the innermost open bracket
let inString: u64 = 0; // all ones where the text stands inside a string
let escapes: u64 = 0; // 1 where the next byte is escaped
let afterI: u64 = 0; // 1 where the last byte was 'i'
let backslashSeen: bool = false; // since the string began, roughly: too often rather than too seldom
let closedAt: i32 = -1;

/** Forgets the text before. */
export function start(): void {
  depth = -1;
  commas = 0;
  inString = 0;
  escapes = 0;
  afterI = 0;
  backslashSeen = false;
  closedAt = -1;
}

/** Offset of the bracket that closes the outermost one; -1 while it is open. */
export function end(): i32 {
  return closedAt;
}

// A bit for each of 64 bytes, from four vectors of truth values.
// @ts-ignore: decorator
@inline
function bits(a: v128, b: v128, c: v128, d: v128): u64 {
  return <u64>(<u32>i8x16.bitmask(a) | (<u32>i8x16.bitmask(b) << 16)) | (<u64>(<u32>i8x16.bitmask(c) | (<u32>i8x16.bitmask(d) << 16)) << 32);
}

// @ts-ignore: decorator
@inline
function where(a: v128, b: v128, c: v128, d: v128, char: v128): u64 {
  return bits(i8x16.eq(a, char), i8x16.eq(b, char), i8x16.eq(c, char), i8x16.eq(d, char));
}

// Brackets and braces differ in one bit: [ ] are 0x5b 0x5d, { } are 0x7b 0x7d.
// @ts-ignore: decorator
@inline
function isBracket(a: v128): v128 {
  const folded = v128.or(a, i8x16.splat(0x20));
  return v128.or(i8x16.eq(folded, i8x16.splat(0x7b)), i8x16.eq(folded, i8x16.splat(0x7d)));
}

/** Which bytes a backslash escapes; sets `escapes` for the next block. */
function escapedBy(backslashes: u64): u64 {
  let escaped = escapes;
  escapes = 0;
  let m = backslashes & ~escaped;
  while (m != 0) {
    const i = ctz(m);
    if (i == 63) escapes = 1;
    else escaped |= (<u64>2) << i;
    m &= ~((<u64>3) << i);
  }
  return escaped;
}

/**
 * Goes on with `length` bytes at [1 Mi, …), a multiple of 64, that stand at `base` of the text. Returns the offset in words of the end
 * of the reports; -1 when the text is to be walked in the plain way. Stops where the outermost bracket closes.
 */
export function scan(length: i32, base: i32): i32 {
  let report = reportsAt;
  let bad: u32 = 0; // its lowest bit: a bracket closed what another kind opened
  for (let at: i32 = 0; at < length; at += 64) {
    const p = textAt + at;
    const a = v128.load(p);
    const b = v128.load(p, 16);
    const c = v128.load(p, 32);
    const d = v128.load(p, 48);
    const backslashes = where(a, b, c, d, i8x16.splat(0x5c));
    let quotes = where(a, b, c, d, i8x16.splat(0x22));
    if (inString != 0 && quotes == 0 && backslashes == 0) {
      escapes = 0;
      afterI = <u64>(load<u8>(p, 63) == 0x69);
      continue;
    }
    if ((backslashes | escapes) != 0) {
      quotes &= ~escapedBy(backslashes);
      backslashSeen = true;
    }
    // Each bit: the number of quotes up to and with it, modulo 2; so opening quotes count as inside, closing ones as outside.
    let inside = quotes;
    inside ^= inside << 1;
    inside ^= inside << 2;
    inside ^= inside << 4;
    inside ^= inside << 8;
    inside ^= inside << 16;
    inside ^= inside << 32;
    inside ^= inString;
    inString = <u64>(<i64>inside >> 63);
    if ((backslashes & ~inside) != 0) return -1; // no JSON has one outside its strings

    const letters = where(a, b, c, d, i8x16.splat(0x69));
    const closing = quotes & ~inside;
    let stops = closing & ((letters << 1) | afterI);
    afterI = letters >> 63;
    if (backslashSeen) {
      stops |= closing;
      if (closing != 0 && backslashes == 0) backslashSeen = false;
    }
    const brackets = bits(isBracket(a), isBracket(b), isBracket(c), isBracket(d));
    let events = (brackets & ~inside) | stops;
    let between = where(a, b, c, d, i8x16.splat(0x2c)) & ~inside;
    while (events != 0) {
      const bit = events & (0 - events);
      const i = <i32>ctz(events);
      events ^= bit;
      const passed = between & (bit - 1);
      commas += <u32>popcnt(passed);
      between ^= passed;
      const char = <u32>load<u8>(p + i);
      if (char == 0x22) {
        if (depth < 0 || report + 8 + ((<usize>(depth + 1)) << 3) > reportsEnd) return -1;
        store<u32>(stackAt + (<usize>depth << 3), commas, 4);
        store<u32>(report, base + at + i);
        store<u32>(report, depth + 1, 4);
        memory.copy(report + 8, stackAt, <usize>(depth + 1) << 3);
        report += 8 + (<usize>(depth + 1) << 3);
        continue;
      }
      // Opening and closing without a branch between them, which no processor could foretell. A slot below the first level takes what
      // is stored for none. The lowest bit of an offset's word tells a list from an object.
      const isClose = (char >> 2) & 1; // 0x5b 0x7b 011, 0x5d 0x7d 101
      const isObject = (char >> 5) & 1;
      const slot = stackAt + (<usize>depth << 3);
      bad |= isClose & (load<u32>(slot) ^ isObject ^ 1);
      store<u32>(slot, commas, 4);
      store<u32>(slot + 8, ((base + at + i) << 1) | (isObject ^ 1));
      depth += 1 - <i32>(isClose << 1);
      commas = load<u32>(slot - 8, 4) & (0 - isClose);
      if (<u32>depth >= <u32>deepest) {
        if (depth >= 0 || bad != 0) return -1;
        closedAt = base + at + i;
        return <i32>(report >> 2);
      }
    }
    commas += <u32>popcnt(between);
    if (bad != 0) return -1;
  }
  return <i32>(report >> 2);
}
