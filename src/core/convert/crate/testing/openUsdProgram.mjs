// OpenUSD 22 (WebAssembly in three-usdz-loader 1.0.9, fetched by scripts/samples.mjs) as a program of its own: it reads layers and prints each, or writes its stage as
// a crate. Standard input: {program, jobs: [{name, bytes (base64), beside?, to: 'text' | 'crate' | 'stage'}], version?}; standard output: the same list as base64, null where it could not.

import fs from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';

const { program, jobs, version } = JSON.parse(fs.readFileSync(0, 'utf8'));
const at = (name) => path.join(program, name);
// What the program loads beside it asks for a page's address.
globalThis.location = { pathname: '/' };
const load = createRequire(import.meta.url)(at('emHdBindings.js'));
const data = fs.readFileSync(at('emHdBindings.data'));
const usd = await load({
  mainScriptUrlOrBlob: at('emHdBindings.js'),
  wasmBinary: fs.readFileSync(at('emHdBindings.wasm')),
  locateFile: (name) => at(name === 'emHdBindings.worker.js' ? 'thread.cjs' : name),
  getPreloadedPackage: () => data.buffer.slice(data.byteOffset, data.byteOffset + data.length),
  environment: version ? { USD_WRITE_NEW_USDC_FILES_AS_VERSION: version } : {},
  print() {},
  printErr() {},
});
usd.FS.mkdir('/w');
const out = jobs.map(({ name, bytes, beside, to }, n) => {
  usd.FS.mkdir(`/w/${n}`);
  for (const [file, held] of [[name, bytes], ...Object.entries(beside ?? {})])
    usd.FS.writeFile(`/w/${n}/${file}`, Buffer.from(held, 'base64'));
  try {
    const stage = usd.UsdStage.Open(`/w/${n}/${name}`);
    if (to === 'text') return Buffer.from(stage.GetRootLayer().ExportToString()).toString('base64');
    if (to === 'stage') return Buffer.from(stage.ExportToString()).toString('base64');
    stage.Export(`/w/${n}.usdc`, false);
    return Buffer.from(usd.FS.readFile(`/w/${n}.usdc`)).toString('base64');
  } catch {
    return null;
  }
});
// Its threads are not waited for: once in a while two of them wait for each other for ever.
process.stdout.write(JSON.stringify(out), () => process.kill(process.pid, 'SIGKILL'));
