// Which address in the server stands for a path written in a scene. The preview asks for nothing else, so that what is seen is what the
// workspace's own resolution found: a missing file stays missing, though a browser could fetch one of that name elsewhere.

import { folderOf, nameOf } from '@/core/files/treePath';
import type { PreviewView, ReferenceView } from '@/wire/views';
import { query } from '../kit/api';

/** '.' and '..' taken out; what leads above the top keeps its '..'. */
export function tidyPath(path: string): string {
  const out: string[] = [];
  for (const part of path.split('/')) {
    if (part === '' || part === '.') continue;
    if (part === '..' && out.length > 0 && out.at(-1) !== '..') out.pop();
    else out.push(part);
  }
  return (path.startsWith('/') ? '/' : '') + out.join('/');
}

const isRelative = (path: string) => !/^([a-z][a-z0-9+.-]*:|\/|\\)/i.test(path);

/** The references of a scene's chain, found by how they are written. */
export class Sources {
  private readonly byWritten = new Map<string, ReferenceView>();
  private readonly byPlace = new Map<string, ReferenceView>();
  private readonly byName = new Map<string, ReferenceView>();

  constructor(
    readonly workspace: string,
    readonly view: PreviewView,
  ) {
    for (const r of view.references) {
      const written = r.written.replace(/^\.\//, '');
      this.keep(this.byWritten, `${r.scene}\n${written}`, r);
      if (isRelative(written)) this.keep(this.byPlace, tidyPath(`${folderOf(r.scene)}/${written}`), r);
      this.keep(this.byName, nameOf(written.replaceAll('\\', '/')).toLowerCase(), r);
    }
  }

  private keep(map: Map<string, ReferenceView>, key: string, r: ReferenceView): void {
    if (!map.has(key)) map.set(key, r);
  }

  /** The reference that is meant by a path as a loader hands it on; `from`: the file it stands in. */
  find(path: string, from: string = this.view.scene): ReferenceView | undefined {
    const tries = [path, decode(path)].map((p) => p.replace(/^\.\//, ''));
    for (const t of tries) {
      const found =
        this.byWritten.get(`${from}\n${t}`) ??
        (isRelative(t) ? this.byPlace.get(tidyPath(`${folderOf(from)}/${t}`)) : undefined);
      if (found) return found;
    }
    for (const t of tries) {
      const found = this.byName.get(nameOf(t.replaceAll('\\', '/')).toLowerCase());
      if (found) return found;
    }
    return undefined;
  }

  /** Where the bytes of a file of the workspace come from. */
  file(path: string): string {
    return `/api/workspaces/${this.workspace}/content${query({ scene: path })}`;
  }

  /** Where the scene comes from as binary glTF, by the server's second reader; null: nowhere. */
  again(): string | null {
    return `/api/workspaces/${this.workspace}/content${query({ scene: this.view.scene, as: 'glb' })}`;
  }

  /** Where what a reference leads to comes from: pictures as small ones that any browser shows, others as they are. */
  address(r: ReferenceView): string {
    return r.kind === 'texture'
      ? `/api/workspaces/${this.workspace}/preview${query({ scene: r.scene, at: r.at, side: 1024, blank: 'yes' })}`
      : `/api/workspaces/${this.workspace}/content${query({ scene: r.scene, at: r.at })}`;
  }

  /** The reference whose picture came from this address. */
  ofAddress(address: string): ReferenceView | undefined {
    const params = new URL(address, 'http://x/').searchParams;
    return this.view.references.find((r) => r.scene === params.get('scene') && r.at === params.get('at'));
  }
}

/** As it is where it is no escaped text. */
export function decode(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return path;
  }
}

/** Whether a reference leads to nothing that could be shown. */
export function isLost(r: ReferenceView): boolean {
  return r.target === null && r.state !== 'remote';
}
