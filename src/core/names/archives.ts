// Which names are those of archives, and which of them are opened here.

const opened = /\.zip$/i;
const packed = /\.(zip|7z|rar|tar|tgz|tbz2?|txz|gz|bz2|xz|zst)$/i;

/** True for the name of an archive of any usual kind. */
export function isArchive(name: string): boolean {
  return packed.test(name);
}

/** True for the name of an archive that is opened here: a ZIP. */
export function isOpenedArchive(name: string): boolean {
  return opened.test(name);
}
