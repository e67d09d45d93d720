// USD as text, as crate, as package.

import { folderOf } from '@/core/files/treePath';
import { tidyPath } from '../sources';
import { bufferOf, textIn, type Given, type Shown } from './reader';

/** A USD layer with the layers it references; sublayers are not woven in. */
export async function readUsd({ sources, bytes, manager, fetch }: Given): Promise<Shown> {
  const [{ USDLoader }, { USDAParser }, { USDCParser }, { USDComposer }] = await Promise.all([
    import('three/examples/jsm/loaders/USDLoader.js'),
    import('three/examples/jsm/loaders/usd/USDAParser.js'),
    import('three/examples/jsm/loaders/usd/USDCParser.js'),
    import('three/examples/jsm/loaders/usd/USDComposer.js'),
  ]);
  if (sources.view.scene.toLowerCase().endsWith('.usdz'))
    return { object: new USDLoader(manager).parse(bufferOf(bytes), '') };
  const parse = (b: Uint8Array<ArrayBuffer>): object =>
    textIn(b.subarray(0, 8)) === 'PXR-USDC'
      ? new USDCParser().parseData(bufferOf(b))
      : new USDAParser().parseData(textIn(b));
  const layers = new Map<string, object>();
  for (const file of sources.view.files.slice(1))
    if (/\.usd[ac]?$/i.test(file)) layers.set(file, parse(await fetch(sources.file(file))));
  const folder = folderOf(sources.view.scene);
  // Paths are asked for from the scene's folder, as they come: `models/../textures/x.png`.
  const assets = new Proxy({} as Record<string, unknown>, {
    get(_, path) {
      if (typeof path !== 'string') return undefined;
      const at = tidyPath(`${folder}/${path}`);
      const layer = layers.get(at);
      if (layer) return layer;
      const r = sources.find(path);
      return r && r.kind === 'texture' ? sources.address(r) : undefined;
    },
  });
  return { object: new USDComposer(manager).compose(parse(bytes), assets) };
}
