// npm run icons: writes src/ui/kit/icons.ts, which holds the icons the interface uses, out of lucide-react (a development package: it comes with
// some two thousand icons, and a start should install none of the others). Run it after importing a new one from there.

import fs from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { project, say } from './children.mjs';

const target = path.join(project, 'src', 'ui', 'kit', 'icons.ts');

/** The names that files below `dir` import from src/ui/kit/icons. */
function usedBelow(dir) {
  const names = new Set();
  for (const entry of fs.readdirSync(dir, { withFileTypes: true, recursive: true })) {
    if (!entry.isFile() || !/\.tsx?$/.test(entry.name)) continue;
    const text = fs.readFileSync(path.join(entry.parentPath, entry.name), 'utf8');
    for (const [, list] of text.matchAll(/import \{([^}]*)\} from '(?:@\/ui\/kit|[./]+(?:\/kit)?)\/icons'/g))
      for (const item of list.split(',')) {
        const name = item.trim().split(' as ')[0];
        if (name && !name.startsWith('type ')) names.add(name);
      }
  }
  return [...names].sort();
}

/** The file of each name in the package's list: an icon may have several. */
function filesByName(list) {
  const files = new Map();
  for (const [, names, file] of list.matchAll(/export \{([^}]*)\} from '(\.\/icons\/[^']+)'/g))
    for (const name of names.split(',')) files.set(name.replace('default as', '').trim(), file);
  return files;
}

/** The text of src/ui/kit/icons.ts for the present source. */
export async function iconsText() {
  const from = path.join(project, 'node_modules', 'lucide-react');
  const modules = path.join(from, 'dist', 'esm');
  const { version } = JSON.parse(fs.readFileSync(path.join(from, 'package.json'), 'utf8'));
  const files = filesByName(fs.readFileSync(path.join(modules, 'lucide-react.mjs'), 'utf8'));
  const lines = [];
  for (const name of usedBelow(path.join(project, 'src'))) {
    const file = files.get(name);
    if (file === undefined) throw new Error(`lucide-react has no icon named ${name}.`);
    const { __iconData: data } = await import(pathToFileURL(path.join(modules, file)));
    const shapes = data.node.map(([element, { key: _, ...attributes }]) => [element, attributes]);
    lines.push(`export const ${name} = icon(${JSON.stringify(shapes)});`);
  }
  return `// Written by scripts/icons.mjs out of lucide-react ${version}; not edited by hand.
// Icons: Copyright (c) Lucide Icons and Contributors, ISC License; those from Feather: Copyright (c) Cole Bemis, MIT License.
// Both licenses are in docs/licenses/lucide.txt.

import { icon } from './icon';

export type { IconType } from './icon';
${lines.join('\n')}
`;
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) {
  fs.writeFileSync(target, await iconsText());
  say(`Written: ${path.relative(project, target)}`);
}
