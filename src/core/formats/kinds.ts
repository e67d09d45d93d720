// What kind of file a written path speaks of, told by its extension, where its place in the scene does not tell (common practice, no source).

import { extensionOf } from '../files/treePath';
import type { ReferenceKind } from './format';

const byKind: [ReferenceKind, string][] = [
  [
    'scene',
    '.gltf .glb .usd .usda .usdc .usdz .dae .zae .x3d .x3dz .x3dv .x3dvz .wrl .wrz .obj .ply .stl .off .3mf .otio .otioz',
  ],
  ['material', '.mtl .mtlx'],
  [
    'texture',
    '.png .jpg .jpeg .tga .tif .tiff .exr .hdr .bmp .webp .avif .ktx .ktx2 .dds .psd .gif .svg .tx .tex .pic .dpx .jp2',
  ],
  ['cache', '.abc .vdb .f3d .mdd .pc2 .bgeo'],
  ['buffer', '.bin'],
  ['audio', '.wav .mp3 .ogg .flac .aac .m4a .aiff .aif .opus'],
  ['video', '.mp4 .mov .mkv .webm .avi .mxf .mpg .mpeg'],
  ['font', '.ttf .otf .woff .woff2'],
];
const kinds = new Map(byKind.flatMap(([kind, list]) => list.split(' ').map((e) => [e, kind] as const)));

/** Whether a file of this name is of a format of which a small picture can be made (server/facts/thumbnail.ts). */
export function mayHavePicture(path: string): boolean {
  return /\.(png|jpe?g|webp|gif|tiff?|avif|exr|hdr|tga|ktx2)$/i.test(path);
}

/** The kind that an extension (lower case, with its dot) tells; undefined where it tells nothing. */
export function kindOfExtension(extension: string): ReferenceKind | undefined {
  return kinds.get(extension);
}

/** The kind by the extension of the path part; `otherwise` where that tells nothing. */
export function kindOfPath(written: string, otherwise: ReferenceKind = 'other'): ReferenceKind {
  return (
    kinds.get(
      extensionOf(
        written
          .replace(/[?#[].*$/s, '')
          .replace(/:SDF_FORMAT_ARGS:.*$/s, '')
          .replaceAll('\\', '/'),
      ),
    ) ?? otherwise
  );
}
