// Writes docs/layout.schema.json from the schema the code checks by. Run after a change of src/wire/layout.ts.

import fs from 'node:fs';
import path from 'node:path';
import { build } from 'esbuild';
import { project } from './setup.mjs';

const out = path.join(project, 'dist', 'schema.mjs');
await build({
  entryPoints: [path.join(project, 'src/wire/layout.ts')],
  bundle: true,
  platform: 'node',
  format: 'esm',
  outfile: out,
  alias: { '@': path.join(project, 'src') },
  logLevel: 'error',
});
const { layoutSchema } = await import(out);
fs.writeFileSync(
  path.join(project, 'docs', 'layout.schema.json'),
  `${JSON.stringify(layoutSchema(), null, 2)}\n`,
);
