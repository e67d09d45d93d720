// Where the files of an older state of a scene come from: the state's own, as they were then.

import { folderOf } from '@/core/files/treePath';
import type { PreviewView, ReferenceView } from '@/wire/views';
import { query } from '../kit/api';
import { decode, Sources, tidyPath } from './sources';

const isPicture = (path: string) => /\.(?:png|jpe?g|webp|avif|tga|exr|hdr|tiff?|ktx2|gif)$/i.test(path);

export class StateSources extends Sources {
  constructor(
    workspace: string,
    view: PreviewView,
    /** The state, as a route takes it. */
    readonly state: string,
  ) {
    super(workspace, view);
  }

  private of(uri?: string): string {
    const asked = { scene: this.view.scene, state: this.state, ...(uri === undefined ? {} : { uri }) };
    return `/api/workspaces/${this.workspace}/state${query(asked)}`;
  }

  override file(path: string): string {
    return path === this.view.scene ? this.of() : super.file(path);
  }

  override again(): null {
    return null;
  }

  /** Pictures that the present scene names in the same words are where that found them; what else the state names stands for itself. */
  override find(path: string, from?: string): ReferenceView | undefined {
    const known = super.find(path, from);
    const isSame = known && [path, decode(path)].includes(known.written);
    if (known && (isSame || (from ?? this.view.scene) !== this.view.scene) && known.kind === 'texture')
      return known;
    const kind = isPicture(path) ? 'texture' : 'buffer';
    return { ...this.view.references[0], at: '', target: path, written: path, kind } as ReferenceView;
  }

  override address(r: ReferenceView): string {
    if (r.kind !== 'texture') return this.of(r.written);
    if (r.at !== '') return super.address(r);
    const path = tidyPath(`${folderOf(this.view.scene)}/${decode(r.written)}`);
    return `/api/workspaces/${this.workspace}/picture${query({ path })}`;
  }
}
