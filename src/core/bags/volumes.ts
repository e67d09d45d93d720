// A bag in several volumes: each a whole bag by itself, told to belong together by Bag-Count and Bag-Group-Identifier (RFC 8493 §2.2.2). Files stay
// whole, and in path order as far as that fills the volumes.

import { AppError } from '../errors';
import { bytes as bytesText } from '../text/figures';

/** What the rest of a volume takes beside its payload: tag files, and of a ZIP the entries' headers. Bytes, no less than it is. */
export const overheadOf = (files: readonly { at: string }[], perBag: number): number =>
  perBag + files.reduce((sum, f) => sum + fileOverhead(f), 0);

// A manifest line (128 digits), a line of times, a local and a central header with Zip64 and times, and four times the folder's and file's name in UTF-8.
const fileOverhead = ({ at }: { at: string }) => 128 + 4 + 30 + 30 + 46 + 24 + 64 + 4 * (3 * at.length + 300);

/**
 * Shares files out: every volume takes at most `limit` bytes. `perBag`: what each needs beside its files. Throws AppError('bad-request') for a
 * file that fits into none.
 */
export function volumesFor<F extends { at: string; size: number }>(
  files: readonly F[],
  limit: number,
  perBag: number,
): F[][] {
  const volumes: { files: F[]; room: number }[] = [];
  const tooLarge = files.filter((f) => f.size + fileOverhead(f) + perBag > limit);
  if (tooLarge.length > 0)
    throw new AppError(
      'bad-request',
      `${tooLarge[0]!.at} has ${bytesText(tooLarge[0]!.size)} and fits into no volume of ${bytesText(limit)}.`,
      'No bag was made.',
      tooLarge.map((f) => `${f.at} has ${bytesText(f.size)}.`),
    );
  for (const f of files) {
    const needs = f.size + fileOverhead(f);
    // The last few only: what lies together should travel together, and trying all would take long.
    const into = volumes.slice(-8).find((v) => v.room >= needs);
    if (into) {
      into.files.push(f);
      into.room -= needs;
    } else volumes.push({ files: [f], room: limit - perBag - needs });
  }
  return volumes.map((v) => v.files);
}

/** The name of a volume: 'harbour.zip', 2 of 12 → 'harbour 02 of 12.zip'. */
export function volumeName(name: string, n: number, of: number): string {
  const width = String(of).length;
  const [stem, zip] = /\.zip$/i.test(name) ? [name.slice(0, -4), name.slice(-4)] : [name, ''];
  return `${stem} ${String(n).padStart(width, '0')} of ${of}${zip}`;
}
