// Rewrites every reference of a file, as plans do.

import { applyPieces, piecesOf } from '../../text/edits';
import { fullPath, type Format } from '../format';

/** New content with each reference written as `to` says. */
export function rewriteAll(
  format: Format,
  content: Uint8Array,
  to: (written: string, index: number) => string,
): Uint8Array {
  const head = content.subarray(0, format.needs?.(content, content.length) ?? content.length);
  const edits = format.read(head, content.length).references.flatMap((r, i) => {
    const value = to(fullPath(r), i);
    return value === fullPath(r) ? [] : [{ span: r.span!, bytes: format.encode(value, r)! }];
  });
  return applyPieces(content, piecesOf([...edits, ...(format.settle?.(head, edits) ?? [])], content.length));
}
