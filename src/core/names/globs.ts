// Patterns over paths and names, as shells have them (common practice, no source).

/** `*` within a folder, `**` across folders, `?` one character; compared with '\' read as '/'. A bare name matches at any depth. */
export function globTest(glob: string): (path: string) => boolean {
  const source = glob
    .replaceAll('\\', '/')
    .replace(/[.+^${}()|[\]]/g, '\\$&')
    .replace(/\*\*\/?|\*|\?/g, (m) =>
      m === '?' ? '[^/]' : m === '*' ? '[^/]*' : m === '**' ? '.*' : '(?:.*/)?',
    );
  const test = new RegExp(glob.includes('/') ? `^${source}$` : `(^|/)${source}$`);
  return (path) => test.test(path.replaceAll('\\', '/'));
}
