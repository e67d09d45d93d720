// The checksum of ZIP and of the store's packs.

const crcTable = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

function goneOver(c: number, b: Uint8Array): number {
  for (let i = 0; i < b.length; i++) c = crcTable[(c ^ b[i]!) & 255]! ^ (c >>> 8);
  return c;
}

/** CRC-32 as ZIP has it (ISO 3309; APPNOTE §4.4.7). */
export function crc32(b: Uint8Array): number {
  return (goneOver(0xffffffff, b) ^ 0xffffffff) >>> 0;
}

/** The same, of parts as they come. */
export class Crc {
  private state = 0xffffffff;

  update(part: Uint8Array): void {
    this.state = goneOver(this.state, part);
  }

  value(): number {
    return (this.state ^ 0xffffffff) >>> 0;
  }
}

/** The same of a stream. */
export async function crc32Of(parts: AsyncIterable<Uint8Array>): Promise<number> {
  const crc = new Crc();
  for await (const part of parts) crc.update(part);
  return crc.value();
}
