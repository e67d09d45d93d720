// X3D in either encoding, VRML97, and what they take in by Inline, as objects in space.

import * as THREE from 'three';
import { expand, type Plain3d } from '@/core/convert/x3d/expand';
import { NotConvertible, type SceneOf3d } from '@/core/convert/x3d/model';
import { readClassicToSee } from '@/core/convert/x3d/readClassic';
import { readXml } from '@/core/convert/x3d/readXml';
import { unwrapped } from '@/core/formats/packed';
import { isLost } from '../sources';
import { NotShown, type Given, type Shown } from './reader';
import { build } from './x3d/build';
import { nodes, strings } from './x3d/fields';
import { textPlane } from './x3d/text';

const mostInlines = 200;

function read(bytes: Uint8Array): SceneOf3d {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 64));
  if (/^#VRML V1/.test(head)) throw new NotConvertible('Scenes in VRML 1 cannot be shown in space.');
  return /^(?:\xef\xbb\xbf)?#(?:X3D|VRML) /.test(head) ? readClassicToSee(bytes) : readXml(bytes).scene;
}

export async function readX3d(given: Given): Promise<Shown> {
  try {
    return await shown(given);
  } catch (cause) {
    if (cause instanceof NotConvertible) throw new NotShown(cause.message, { cause });
    throw cause;
  }
}

async function shown({ sources, bytes, manager, fetch, notes }: Given): Promise<Shown> {
  const { nodes: top, outside } = expand(read(bytes));
  const inlines = new Map<string, readonly Plain3d[] | null>();
  const found = (urls: readonly string[]) => {
    for (const url of urls) {
      const r = sources.find(url);
      if (r && !isLost(r)) return { url, r };
    }
    return null;
  };
  const waiting = inlinesIn(top);
  for (let urls = waiting.shift(); urls && inlines.size < mostInlines; urls = waiting.shift()) {
    const is = found(urls);
    if (!is || inlines.has(is.url) || !/\.(?:x3dv?|wrl|x3dv?z|wrz)$/i.test(is.url)) continue;
    inlines.set(is.url, null);
    try {
      const own = await unwrapped('x3d', await fetch(sources.address(is.r)));
      const inner = own ? expand(read(own.bytes)).nodes : [];
      inlines.set(is.url, inner);
      waiting.push(...inlinesIn(inner));
    } catch (cause) {
      if (!(cause instanceof NotConvertible)) throw cause;
      notes.push(`${is.url} is left out: ${cause.message}`);
    }
  }
  const loader = new THREE.TextureLoader(manager);
  const { object, unseen } = build(top, {
    load: (urls) => (urls.length === 0 ? null : loader.load(found(urls)?.url ?? urls[0]!)),
    text: textPlane,
    scene: (urls) => inlines.get(found(urls)?.url ?? '') ?? null,
  });
  if (unseen.length > 0) notes.push(`Not shown: ${unseen.sort().join(', ')}.`);
  if (outside.length > 0) notes.push(`Left out: ${outside.sort().join(', ')}, declared in other files.`);
  return { object, isUnscaled: true };
}

/** Addresses of the Inline nodes in what is shown. */
function inlinesIn(top: readonly Plain3d[]): (readonly string[])[] {
  const out: (readonly string[])[] = [];
  const seen = new Set<Plain3d>();
  const waiting = [...top];
  for (let node = waiting.pop(); node; node = waiting.pop()) {
    if (seen.has(node)) continue;
    seen.add(node);
    if (node.type === 'Inline') out.push(strings(node, 'url'));
    for (const field of node.fields.keys()) waiting.push(...nodes(node, field));
  }
  return out;
}
