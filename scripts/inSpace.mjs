// node scripts/inSpace.mjs [folder …]: how many real scene files can be seen in space, beside what independent readers find in them: Assimp
// (assimpjs), X_ITE for X3D and VRML, in the same browser. Without folders: the real files of scripts/samples.mjs and our fixtures.
// The table goes to docs/in-space.md with --table; what cannot be seen is listed with its reason.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { spawnSync } from 'node:child_process';
import { pathToFileURL } from 'node:url';
import { chromiumOptions } from './chromium.mjs';
import { buildApp, buildCli, freePort, install, project, serve } from './setup.mjs';

const endings = /\.(gltf|glb|obj|dae|zae|ply|3mf|x3d|x3dv|wrl|usda|usdc|usdz|mtlx)$/i;
const isTable = process.argv.includes('--table');
const given = process.argv.slice(2).filter((a) => !a.startsWith('--'));
const cache = path.join(project, '.cache');
const from =
  given.length > 0
    ? given
    : ['samples', 'vrml', 'materialx', 'openusd']
        .map((f) => path.join(cache, f))
        .concat(path.join(project, 'fixtures'))
        .filter((f) => fs.existsSync(f));

await install({ tools: true });
await buildCli();
await buildApp();
const scratch = fs.mkdtempSync(path.join(os.tmpdir(), 'in-space-'));
const root = path.join(scratch, 'real files');
from.forEach((folder, n) =>
  fs.cpSync(folder, path.join(root, `${n + 1} ${path.basename(folder)}`), {
    recursive: true,
    dereference: true,
    filter: (f) => !/\/(node_modules|\.git|invalid|SchemaFailures|ParsingFiles)(\/|$)/.test(f),
  }),
);
for (const f of fs.readdirSync(root, { recursive: true }))
  if (/\.(wrl|x3dv?)\.gz$/i.test(f)) {
    const full = path.join(root, f);
    fs.writeFileSync(full.slice(0, -3), gunzipSync(fs.readFileSync(full)));
    fs.rmSync(full);
  }
const files = fs
  .readdirSync(root, { recursive: true })
  .map((f) => f.replaceAll('\\', '/'))
  .filter((f) => endings.test(f) && fs.statSync(path.join(root, f)).isFile())
  .sort();

/** Whether Assimp finds faces; null: it has no reader for it, or fails. */
async function byAssimp(file) {
  if (!/\.(gltf|glb|obj|dae|zae|ply|3mf)$/i.test(file)) return null;
  const { default: load } = await import('assimpjs');
  // One that stumbled is not used again.
  const assimp = await load({ print: () => undefined, printErr: () => undefined });
  const list = new assimp.FileList();
  list.AddFile(path.basename(file), fs.readFileSync(path.join(root, file)));
  const beside = path.dirname(path.join(root, file));
  for (const other of fs.readdirSync(beside))
    if (/\.(bin|mtl)$/i.test(other)) list.AddFile(other, fs.readFileSync(path.join(beside, other)));
  try {
    const done = assimp.ConvertFileList(list, 'assjson');
    if (!done.IsSuccess() || done.FileCount() === 0) return null;
    const { meshes = [] } = JSON.parse(Buffer.from(done.GetFile(0).GetContent()).toString());
    return meshes.some((m) => m.vertices?.length > 0);
  } catch {
    return null;
  }
}

/** Whether X_ITE finds a shape with geometry in X3D or VRML; null: it fails. It runs in a page of its own, from its npm package. */
async function byXite(browser) {
  const folder = path.join(cache, 'x_ite');
  if (!fs.existsSync(folder)) {
    const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';
    spawnSync(npm, ['pack', '--silent', 'x_ite@15.0.1'], { cwd: cache, shell: process.platform === 'win32' });
    fs.mkdirSync(folder);
    spawnSync('tar', ['xzf', '../x_ite-15.0.1.tgz', '--strip-components=1'], { cwd: folder });
    fs.rmSync(path.join(cache, 'x_ite-15.0.1.tgz'), { force: true });
  }
  fs.writeFileSync(
    path.join(folder, 'page.html'),
    '<script src="dist/x_ite.min.js"></script><x3d-canvas style="width:200px;height:200px"></x3d-canvas>',
  );
  const context = await browser.newContext();
  const fresh = async () => {
    const page = await context.newPage();
    await page.goto(pathToFileURL(path.join(folder, 'page.html')).href);
    await page.waitForFunction(() => globalThis.X3D);
    await page.waitForTimeout(1000);
    return page;
  };
  let page = await fresh();
  return async (file) => {
    const text = fs.readFileSync(path.join(root, file)).toString('latin1');
    const found = await Promise.race([
      page
        .evaluate(async (said) => {
          const scene = await globalThis.X3D.getBrowser().createX3DFromString(said);
          const seen = new Set();
          const has = (value, depth) => {
            let node = value?.getValue ? value.getValue() : value;
            node = node?.getInnerNode ? node.getInnerNode() : node;
            if (!node || depth > 60 || seen.has(node)) return false;
            seen.add(node);
            if (node.getTypeName() === 'Shape' && node._geometry?.getValue()) return true;
            return [...node.getFieldDefinitions()].some(({ name }) => {
              const field = node.getField(name);
              const type = field?.getTypeName?.();
              if (type === 'SFNode') return field.getValue() && has(field.getValue(), depth + 1);
              return type === 'MFNode' && [...field].some((n) => n && has(n, depth + 1));
            });
          };
          return [...scene.rootNodes].some((n) => n && has(n, 0));
        }, text)
        .catch(() => null),
      new Promise((r) => setTimeout(r, 15_000, 'slow')),
    ]);
    if (found !== 'slow') return found;
    await page.close({ runBeforeUnload: false });
    page = await fresh();
    return null;
  };
}

const { address, entry, key, child, ended } = await serve(await freePort(4690), {
  SATCHEL_DATA: path.join(scratch, 'app'),
  HOME: scratch,
});
process.once('exit', () => child.kill('SIGTERM'));
const ask = async (at, body) => {
  const answer = await fetch(`${address}/api${at}`, {
    method: body ? 'POST' : 'GET',
    headers: { 'x-satchel-key': key, 'x-satchel': '1', 'content-type': 'application/json' },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  if (!answer.ok) throw new Error(`${at}: ${await answer.text()}`);
  return answer.json();
};
fs.writeFileSync(path.join(root, 'none.txt'), '');
spawnSync(process.execPath, [path.join(project, 'dist/satchel.mjs'), 'adopt', root, '--yes'], {
  stdio: 'inherit',
});
await ask('/allowed', { path: root });
const { id } = await ask('/workspaces/open', { path: root });
for (;;) {
  const jobs = await ask('/jobs');
  if (jobs.length > 0 && jobs.every((j) => j.ended)) break;
  await new Promise((r) => setTimeout(r, 500));
}
const { chromium } = await import('playwright/test');
const browser = await chromium.launch(chromiumOptions('--allow-file-access-from-files'));
const context = await browser.newContext({ viewport: { width: 480, height: 420 } });
const first = await context.newPage();
await first.goto(entry);
await first.close();

const seen = new Map();
const left = [...files];
async function look() {
  const page = await context.newPage();
  for (let file = left.shift(); file !== undefined; file = left.shift()) {
    await page.goto(`${address}/references?w=${id}&see=${encodeURIComponent(file)}`);
    const stage = page.getByTestId('stage');
    const end = Date.now() + 60_000;
    let said = null;
    while (said === null && Date.now() < end) {
      const drawn = await stage.getAttribute('data-drawn', { timeout: 20_000 }).catch(() => null);
      if (drawn !== null) said = { drawn: Number(drawn), says: '' };
      else if (await stage.getByText('Its references are listed beside').count())
        said = { drawn: 0, says: (await stage.locator('.said').innerText()).split('\n')[0] };
      else await page.waitForTimeout(60);
    }
    seen.set(file, said ?? { drawn: 0, says: 'nothing within a minute' });
  }
  await page.close();
}
await Promise.all([look(), look()]);

const xite = await byXite(browser);
const rows = [];
for (const file of files)
  rows.push({
    file,
    format: file.split('.').at(-1).toLowerCase(),
    found: /\.(x3dv?|wrl)$/i.test(file) ? await xite(file) : await byAssimp(file),
    ...seen.get(file),
  });
const lines = [
  '| format | files | seen | with geometry by another reader | of these seen |',
  '|---|---:|---:|---:|---:|',
];
const counted = (own, name) => {
  const has = own.filter((r) => r.found);
  const both = has.filter((r) => r.drawn > 0).length;
  const share = has.length === 0 ? '' : ` (${Math.floor((100 * both) / has.length)} %)`;
  lines.push(
    `| ${name} | ${own.length} | ${own.filter((r) => r.drawn > 0).length} | ${has.length} | ${both}${share} |`,
  );
};
for (const format of [...new Set(rows.map((r) => r.format))].sort())
  counted(
    rows.filter((r) => r.format === format),
    `.${format}`,
  );
counted(rows, '**all**');
console.log(lines.join('\n'));
for (const r of rows.filter((r) => r.drawn === 0))
  console.log(r.found ? 'geometry' : r.found === null ? '-' : 'none', r.file, r.says);
if (isTable) {
  const page = path.join(project, 'docs', 'in-space.md');
  const [before, after] = fs.readFileSync(page, 'utf8').split(/<!-- table -->[^]*<!-- end -->/);
  fs.writeFileSync(page, `${before}<!-- table -->\n\n${lines.join('\n')}\n\n<!-- end -->${after}`);
}
await browser.close();
child.kill('SIGTERM');
await ended;
fs.rmSync(scratch, { recursive: true, force: true });
process.exit(0);
