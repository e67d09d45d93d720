// Compiles src/core/formats/jsonScan.as into jsonScan.wasm.ts, so that every build holds it; run after changing it. With --check
// it writes nothing and ends with status 1 when the two do not belong together.

import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';

const project = path.resolve(import.meta.dirname, '..');
const target = path.join(project, 'src/core/formats/jsonScan.wasm.ts');
const dir = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-wasm-'));
const out = path.join(dir, 'scan.wasm');
// The compiler takes only its own ending; under that one the project's own type check would take the file for its own.
const source = path.join(dir, 'jsonScan.ts');
fs.copyFileSync(path.join(project, 'src/core/formats/jsonScan.as'), source);
execFileSync(
  process.execPath,
  [
    path.join(project, 'node_modules/assemblyscript/bin/asc.js'),
    source,
    '--outFile',
    out,
    '-O3',
    '--noAssert',
    '--runtime',
    'stub',
    '--enable',
    'simd',
    '--initialMemory',
    '21',
    '--maximumMemory',
    '21',
  ],
  { cwd: project, stdio: ['ignore', 2, 2] },
);
const bytes = fs.readFileSync(out);
fs.rmSync(dir, { recursive: true });
const lines = [];
for (let at = 0; at < bytes.length; at += 40) lines.push(`  ${[...bytes.subarray(at, at + 40)].join(', ')},`);
const text = `// Made by scripts/wasm.mjs from jsonScan.as; do not edit.\n\nexport const jsonScanModule = new Uint8Array([\n${lines.join('\n')}\n]);\n`;
if (!process.argv.includes('--check')) fs.writeFileSync(target, text);
else if (fs.readFileSync(target, 'utf8') !== text) {
  console.error('jsonScan.wasm.ts is not what jsonScan.as compiles to; run node scripts/wasm.mjs.');
  process.exit(1);
}
