// Writes src/server/database/migrations.ts from the numbered SQL files, so that every build holds them; run after adding one.

import fs from 'node:fs';
import path from 'node:path';

const folder = path.resolve(import.meta.dirname, '../src/server/database');
const files = fs.readdirSync(path.join(folder, 'sql')).sort();
const texts = files.map(
  (f) => `  // ${f}\n  ${JSON.stringify(fs.readFileSync(path.join(folder, 'sql', f), 'utf8'))},`,
);
fs.writeFileSync(
  path.join(folder, 'migrations.ts'),
  `// Made by scripts/sql.mjs from sql/; do not edit.\n\nexport const migrations: readonly string[] = [\n${texts.join('\n')}\n];\n`,
);
