// X3D in XML ↔ in its classic form: both say the same scene. Numbers stay the words they are, strings their characters; what only one of the two has is named.

import type { Refusal } from '../../documents/gltfText';
import { NotConvertible } from './model';
import { readClassic } from './readClassic';
import { readXml } from './readXml';
import { writeClassic } from './writeClassic';
import { writeXml } from './writeXml';

/** The scene in its classic form; `left`: what has no place in it (attributes for style sheets and documentation). */
export function classicOf(bytes: Uint8Array): { content: Uint8Array; left: string[] } | Refusal {
  return attempt(() => {
    const { scene, left } = readXml(bytes);
    return { content: writeClassic(scene), left };
  });
}

/** The scene in XML. */
export function xmlOf(bytes: Uint8Array): { content: Uint8Array; left: string[] } | Refusal {
  return attempt(() => ({ content: writeXml(readClassic(bytes)), left: [] }));
}

function attempt<T>(run: () => T): T | Refusal {
  try {
    return run();
  } catch (cause) {
    if (cause instanceof NotConvertible) return { refused: cause.message };
    // Nodes in nodes without end.
    if (cause instanceof RangeError) return { refused: 'Its nodes are nested too deeply.' };
    throw cause;
  }
}
