// The number a file name ends in: name_01, name_001, name_v007, name.3. The next one keeps its padding and what stands before it.

/** A name taken apart: 'harbour_v007.gltf' → stem 'harbour', separator '_v', number 7, width 3, extension '.gltf'. */
export interface NumberedName {
  stem: string;
  separator: string;
  number: number;
  /** Digits as written; a longer number grows beyond it. */
  width: number;
  extension: string;
}

const numbered = /^(.*?)([._-]?v|[._ -]|)(\d{1,9})$/is;

/** Takes a file name apart; null when it ends in no number set off from its stem. */
export function parseNumbered(name: string): NumberedName | null {
  const dot = name.lastIndexOf('.');
  // 'name.3' has a number where an extension would be; 'name.3.gltf' has both.
  const numberIsExtension = dot > 0 && /^\d+$/.test(name.slice(dot + 1));
  const extension = dot > 0 && !numberIsExtension ? name.slice(dot) : '';
  const bare = name.slice(0, name.length - extension.length);
  const match = numbered.exec(bare);
  if (!match || match[1] === '' || match[2] === '') return null;
  return {
    stem: match[1]!,
    separator: match[2]!,
    number: Number(match[3]),
    width: match[3]!.length,
    extension,
  };
}

/** The name with another number, padded as before. */
export function withNumber(name: NumberedName, number: number): string {
  return `${name.stem}${name.separator}${String(number).padStart(name.width, '0')}${name.extension}`;
}

/** What a first version is called when the name has no number yet: three digits after '_v' (common practice, no source). */
export function firstNumbered(fileName: string): NumberedName {
  const dot = fileName.lastIndexOf('.');
  const extension = dot > 0 ? fileName.slice(dot) : '';
  return {
    stem: fileName.slice(0, fileName.length - extension.length),
    separator: '_v',
    number: 0,
    width: 3,
    extension,
  };
}

/** True when two names differ only in their number and its padding. */
export function sameSeries(a: NumberedName, b: NumberedName): boolean {
  return (
    a.stem === b.stem &&
    a.separator.toLowerCase() === b.separator.toLowerCase() &&
    a.extension.toLowerCase() === b.extension.toLowerCase()
  );
}

/** The name without its number: 'boat_v007.gltf' → 'boat.gltf'; also of a path. */
export function plainName(path: string): string {
  const at = path.lastIndexOf('/') + 1;
  const parsed = parseNumbered(path.slice(at));
  return parsed ? `${path.slice(0, at)}${parsed.stem}${parsed.extension}` : path;
}
