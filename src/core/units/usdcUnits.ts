// metersPerUnit and upAxis of a USD crate file. Values as they stand in files that OpenUSD wrote: a double that a float can hold stands in the
// value itself, as a float (type 9, inlined); a token as its number (type 11). The numbers of types agree with the reader of three.js.

import type { ByteRange } from '../files/fileTree';
import { BadCrate } from '../formats/crate';
import { Blocks, readTables, repOf, tokenOf } from '../formats/crateTables';
import { usdUnits, type SceneUnits } from './sceneUnits';

const double = 9;
const token = 11;

/** What a crate file declares; USD's defaults where it says nothing, or is broken. */
export async function readUsdcUnits(
  read: (range: ByteRange) => Promise<Uint8Array>,
  size: number,
): Promise<SceneUnits> {
  let metres: number | null = null;
  let upAxis: string | null = null;
  try {
    const b = new Blocks(read, size);
    const tables = await readTables(b);
    const reps = new DataView(tables.reps.buffer, tables.reps.byteOffset, tables.reps.byteLength);
    for (let n = 0; n < tables.fieldNames.length; n++) {
      const name = tokenOf(tables, tables.fieldNames[n]!);
      if (name !== 'metersPerUnit' && name !== 'upAxis') continue;
      const rep = repOf(reps, 8 * n);
      if (name === 'upAxis' && rep.type === token && rep.inlined) upAxis = tokenOf(tables, rep.payload);
      else if (name === 'metersPerUnit' && rep.type === double)
        metres = rep.inlined
          ? reps.getFloat32(8 * n, true)
          : (await b.view(rep.payload, 8)).getFloat64(0, true);
    }
  } catch (cause) {
    if (!(cause instanceof BadCrate) && !(cause instanceof RangeError)) throw cause;
  }
  // 0.01 as a float is not 0.01 as a double.
  return usdUnits(metres === null ? null : Number(metres.toPrecision(7)), upAxis);
}
