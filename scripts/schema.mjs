// npm run docs: writes docs/layout.schema.json and docs/openapi.json from the schemas the code checks by. Run after a change of src/wire.

import fs from 'node:fs';
import path from 'node:path';
import { build } from 'esbuild';
import { bundled, project } from './setup.mjs';

const out = path.join(project, 'dist', 'schema.mjs');
await build({
  ...bundled,
  banner: {},
  external: [],
  packages: 'external',
  stdin: {
    contents: `export { layoutSchema } from '@/wire/layout';
export { passListSchema } from '@/wire/passes';
export { handInSchema } from '@/wire/handIn';
export { placesSchema } from '@/wire/places';
export { collectPresetSchema, collectReportSchema } from '@/wire/collect';
export { endpoints } from '@/server/http/endpoints';
export { openApiOf } from '@/server/http/openapi';`,
    resolveDir: project,
    loader: 'ts',
  },
  outfile: out,
});
const {
  layoutSchema,
  passListSchema,
  handInSchema,
  placesSchema,
  collectPresetSchema,
  collectReportSchema,
  endpoints,
  openApiOf,
} = await import(out);
const write = (name, content) =>
  fs.writeFileSync(path.join(project, 'docs', name), `${JSON.stringify(content, null, 2)}\n`);
write('layout.schema.json', layoutSchema());
write('passes.schema.json', passListSchema());
write('hand-in.schema.json', handInSchema());
write('places.schema.json', placesSchema());
write('collect-preset.schema.json', collectPresetSchema());
write('collect-report.schema.json', collectReportSchema());
write('openapi.json', openApiOf(endpoints));
