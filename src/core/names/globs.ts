// Patterns over paths and names, as shells have them (common practice, no source). A pattern is matched by all its states at once, so that a match takes
// time in proportion to pattern times path; a regular expression can take exponential time (`*a*a*a*a*b`), and patterns come from other people's files.

type Node =
  | { is: 'text'; char: string }
  /** Any one character but '/'. */
  | { is: 'one' }
  /** Any number of characters but '/'. */
  | { is: 'name' }
  /** Any number of characters. */
  | { is: 'all' }
  /** Nothing, or any number of characters with a '/' at the end: 'maybe-folders' decides, 'folders' follows it. */
  | { is: 'maybe-folders' }
  | { is: 'folders' };

function nodesOf(glob: string): Node[] {
  const nodes: Node[] = [];
  const folders: Node[] = [{ is: 'maybe-folders' }, { is: 'folders' }];
  if (!glob.includes('/')) nodes.push(...folders);
  for (const [part] of glob.matchAll(/\*\*\/?|[^]/gu))
    if (part === '**/') nodes.push(...folders);
    else if (part === '**') nodes.push({ is: 'all' });
    else if (part === '*') nodes.push({ is: 'name' });
    else if (part === '?') nodes.push({ is: 'one' });
    else nodes.push({ is: 'text', char: part });
  return nodes;
}

/** `*` within a folder, `**` across folders, `?` one character; compared with '\' read as '/'. A bare name matches at any depth. */
export function globTest(glob: string): (path: string) => boolean {
  const nodes = nodesOf(glob.replaceAll('\\', '/'));
  const end = nodes.length;
  return (path) => {
    let at = new Set<number>();
    const reach = (to: Set<number>, n: number): void => {
      if (to.has(n)) return;
      to.add(n);
      const is = nodes[n]?.is;
      if (is === 'name' || is === 'all') reach(to, n + 1);
      if (is === 'maybe-folders') {
        reach(to, n + 1);
        reach(to, n + 2);
      }
    };
    reach(at, 0);
    for (const char of path.replaceAll('\\', '/')) {
      const next = new Set<number>();
      for (const n of at) {
        const node = nodes[n];
        if (!node) continue;
        if (node.is === 'text' ? node.char === char : node.is === 'one' && char !== '/') reach(next, n + 1);
        if (node.is === 'all' || node.is === 'folders' || (node.is === 'name' && char !== '/'))
          reach(next, n);
        if (node.is === 'folders' && char === '/') reach(next, n + 1);
      }
      if (next.size === 0) return false;
      at = next;
    }
    return at.has(end);
  };
}
