// docs/studio.md, tried as it is written: `node scripts/try-studio.mjs`. Needs root, the archive for this system (npm run release -- linux-x64), and Debian's
// postgresql, nginx, openssl and Chromium. Everything is done in a mount namespace of its own, over copies of /etc, /opt, /mnt and /var/lib that go with it.
// Ends with how long each step took, and the status of what did not go as written.

import { spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromiumOptions } from './chromium.mjs';
import { project, say, stop } from './setup.mjs';

const inside = process.env.SATCHEL_TRIES;
const over = ['/etc', '/opt', '/mnt', '/var/lib', '/var/log'];

function sh(text, { env = {}, cwd = '/', input } = {}) {
  const done = spawnSync('bash', ['-e', '-c', text], {
    ...{ cwd, input, encoding: 'utf8', env: { ...process.env, ...env } },
  });
  if (done.status !== 0) throw new Error(`${text}\nended with ${done.status}: ${done.stdout}${done.stderr}`);
  return done.stdout;
}

if (inside === undefined) {
  if (process.platform !== 'linux' || process.getuid() !== 0) stop('This needs Linux, and root.');
  const archives = fs.existsSync(path.join(project, 'release'))
    ? fs.readdirSync(path.join(project, 'release')).filter((f) => f.endsWith('-linux-x64.tar.gz'))
    : [];
  if (archives.length !== 1) stop('Make the archive first: npm run release -- linux-x64');
  const wanted = ['postgresql', 'nginx', 'openssl', 'chromium'];
  spawnSync('apt-get', ['install', '-y', '-qq', ...wanted], {
    ...{ stdio: 'ignore', env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } },
  });
  const scratch = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-tries-'));
  const own = ['--mount', '--pid', '--fork', '--kill-child', '--mount-proc', '--propagation', 'private'];
  const { status } = spawnSync(
    'unshare',
    [...own, process.execPath, ...process.argv.slice(1), path.join(project, 'release', archives[0])],
    { stdio: 'inherit', env: { ...process.env, SATCHEL_TRIES: scratch } },
  );
  fs.rmSync(scratch, { recursive: true, force: true });
  process.exit(status ?? 1);
}

// In here what is written goes to memory, and is gone at the end.
sh(`mount -t tmpfs tmpfs ${inside}`);
for (const at of over) {
  const [upper, work] = ['upper', 'work'].map((k) => `${inside}/${k}${at.replaceAll('/', '_')}`);
  sh(
    `mkdir -p ${upper} ${work} && mount -t overlay overlay -o lowerdir=${at},upperdir=${upper},workdir=${work} ${at}`,
  );
}
const home = `${inside}/home`;
fs.mkdirSync(home);
fs.copyFileSync(process.argv.at(-1), path.join(home, path.basename(process.argv.at(-1))));

const text = fs.readFileSync(path.join(project, 'docs', 'studio.md'), 'utf8');
const [password, passwordOf] = [randomBytes(9).toString('hex'), (name) => `${name} looks at the sea`];
const filled = (of) => of.replaceAll('CHOOSE-A-PASSWORD', password);
const blocks = (language) =>
  [...text.matchAll(new RegExp(`^\`\`\`${language}\\n([\\s\\S]*?)^\`\`\``, 'gm'))].map((m) => filled(m[1]));
const [database, unpack, start, proxy, worker, pipeline] = blocks('sh');
const [config] = blocks('nginx');
const origin = 'https://satchel.studio.example';

const begun = performance.now();
let last = begun;
const told = (what) => {
  const now = performance.now();
  say(`${((now - last) / 1000).toFixed(1).padStart(6)} s  ${what}`);
  last = now;
};
const expect = (holds, what) => {
  if (!holds) throw new Error(`Not so: ${what}`);
};
const clean = { HOME: home, PATH: '/usr/sbin:/usr/bin:/sbin:/bin', NODE_OPTIONS: '' };
const spoken = [];
/** Something that goes on, as typed at a prompt of its own; resolves once it has said `until`. */
function goesOn(block, until, env = clean) {
  const child = spawn('bash', ['-e', '-c', block], {
    cwd: home,
    env,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  spoken.push(() => said);
  return new Promise((resolve, reject) => {
    for (const out of [child.stdout, child.stderr])
      out.on('data', (part) => {
        said += part;
        const found = until.exec(said);
        if (found) resolve(found);
      });
    child.on('exit', (status) => reject(new Error(`${block}\nended with ${status}: ${said}`)));
    setTimeout(() => reject(new Error(`${block}\nsaid nothing of ${until}: ${said}`)), 60_000).unref();
  });
}

let failed = false;
try {
  sh('echo "127.0.0.1 satchel.studio.example database.studio.example" >> /etc/hosts');
  sh(database, { env: { ...clean, DEBIAN_FRONTEND: 'noninteractive' } });
  told('1. the database');
  sh(unpack, { cwd: home, env: clean });
  expect((fs.statSync('/etc/loyal-satchel.env').mode & 0o777) === 0o600, 'the settings are for one account');
  const [, link] = await goesOn(start, /(https:\/\/\S+\/join#\S+)/);
  told('2. the server: unpacked, started, its link printed');
  sh(
    'openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=satchel.studio.example -keyout /etc/ssl/own.key -out /etc/ssl/own.crt -addext subjectAltName=DNS:satchel.studio.example',
  );
  const certificate = 'ssl_certificate /etc/ssl/own.crt; ssl_certificate_key /etc/ssl/own.key;';
  expect(config.includes('# ssl_certificate …; ssl_certificate_key …;'), 'a place for the certificate');
  fs.mkdirSync('/etc/nginx/conf.d', { recursive: true });
  fs.writeFileSync(
    '/etc/nginx/conf.d/loyal-satchel.conf',
    config.replace('# ssl_certificate …; ssl_certificate_key …;', certificate),
  );
  sh(proxy, { env: { ...clean, DEBIAN_FRONTEND: 'noninteractive' } });
  told('3. the way in from outside');

  const { chromium } = await import('playwright-core');
  const browser = await chromium.launch(chromiumOptions());
  const window = async () => {
    const context = await browser.newContext({ ignoreHTTPSErrors: true });
    const page = await context.newPage();
    page.setDefaultTimeout(30_000);
    return page;
  };
  const comeIn = async (name, at) => {
    const page = await window();
    await page.goto(at);
    await page.getByLabel('Your name').fill(name);
    await page.getByLabel('E-mail address').fill(`${name.toLowerCase()}@studio.example`);
    await page.getByLabel('Password').fill(passwordOf(name));
    await page.getByRole('button', { name: 'Come in' }).click();
    await page.getByRole('button', { name: new RegExp(`^${name}, who`) }).waitFor();
    return page;
  };
  const marit = await comeIn('Marit', link);
  const ask = async (page, method, at, data) => {
    const answered = await page.request.fetch(`${origin}${at}`, {
      ...{ method, data, headers: { 'x-satchel': '1', origin } },
    });
    expect(answered.ok(), `${method} ${at}: ${answered.status()} ${await answered.text()}`);
    return answered.json().catch(() => null);
  };
  const ended = async (page, { id }) => {
    for (let n = 0; n < 300; n++) {
      const job = await ask(page, 'GET', `/api/jobs/${id}`);
      if (job.ended !== null) {
        expect(job.state === 'done', `${job.title}: ${JSON.stringify(job.error)}`);
        return job.result;
      }
      await new Promise((wait) => setTimeout(wait, 200));
    }
    const all = await ask(page, 'GET', '/api/jobs');
    throw new Error(`A job came to no end: ${JSON.stringify(all.filter((j) => j.ended === null))}`);
  };
  // The share, with one scene and what it leads to.
  fs.mkdirSync('/mnt/show');
  await ask(marit, 'POST', '/api/allowed', { path: '/mnt/show' });
  const workspace = await ask(marit, 'POST', '/api/workspaces', {
    ...{ parent: '/mnt/show', name: 'harbour', layout: { id: 'game-environment' } },
  });
  fs.writeFileSync('/mnt/show/harbour/textures/plank.png', 'plank');
  fs.writeFileSync(
    '/mnt/show/harbour/scenes/boat_v001.gltf',
    JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: '../textures/plank.png' }] }),
  );
  const artists = [];
  await marit.goto(`${origin}/people`);
  for (const name of ['Aya', 'Lena', 'Tomas']) {
    await marit.getByLabel('Whom').fill(name);
    await marit.getByRole('button', { name: /Role/ }).first().click();
    await marit.getByRole('option', { name: 'looks and changes', exact: true }).click();
    await marit.getByRole('button', { name: 'Make a link' }).click();
    const dialog = marit.getByRole('alertdialog');
    const at = (await dialog.getByText('/join#').innerText()).trim();
    expect(at.startsWith(`${origin}/join#`), `a link of the outside: ${at}`);
    await dialog.getByRole('button', { name: 'Done' }).click();
    artists.push(await comeIn(name, at));
  }
  told('4. one who manages, and three artists');

  // Each has a home of its own, as on a machine of its own.
  for (const name of ['render-3', 'render-4'])
    await goesOn(worker.replace('render-3', name), new RegExp(`${name} is at work`), {
      ...{ ...clean, HOME: `${home}/${name}` },
    });
  await marit.goto(`${origin}/people`);
  for (const name of ['render-3', 'render-4'])
    await marit.getByLabel('Machines that do the work').getByText(name).first().waitFor();
  told('5. two more machines');

  for (const [i, page] of artists.entries()) {
    const order = { kind: 'save', scenes: [`scenes/boat_v00${i + 1}.gltf`], note: `the ${i + 1}.` };
    const { plan } = await ended(
      page,
      await ask(page, 'POST', `/api/workspaces/${workspace.id}/plans`, order),
    );
    await ended(page, await ask(page, 'POST', `/api/plans/${plan}/apply`, {}));
    expect(
      fs.existsSync(`/mnt/show/harbour/scenes/boat_v00${i + 2}.gltf`),
      `version ${i + 2} is on the disk`,
    );
  }
  const ledger = await ask(marit, 'GET', `/api/workspaces/${workspace.id}/ledger`);
  const by = ledger.map((e) => e.by ?? null);
  expect(
    ['Aya', 'Lena', 'Tomas'].every((n) => by.includes(n)),
    `the ledger has all three: ${JSON.stringify(by)}`,
  );
  const workers = sh(
    `su postgres -c "psql -At satchel -c \\"SELECT count(*) FROM work WHERE ended IS NOT NULL\\""`,
  );
  expect(Number(workers) > 0, 'work went through the queue');
  told('   three versions, by three artists');

  await marit.goto(`${origin}/`);
  await marit.getByText('Side by side').first().click();
  await marit.getByText('harbour').first().waitFor();
  told('6. seen from above');

  await marit.goto(`${origin}/pipelines`);
  await marit.getByRole('textbox', { name: 'For what' }).first().fill('the render farm');
  await marit.getByRole('button', { name: /Role/ }).click();
  await marit.getByRole('option', { name: 'looks and changes', exact: true }).click();
  await marit.getByRole('button', { name: 'Make a key' }).click();
  const key = (
    await marit
      .getByRole('alertdialog')
      .getByText(/^satchel_/)
      .innerText()
  ).trim();
  const done = sh(pipeline.replace('CHOOSE-A-KEY', key), {
    ...{ cwd: home, env: { ...clean, NODE_EXTRA_CA_CERTS: '/etc/ssl/own.crt' } },
  });
  expect(done.includes('plank.png'), `the references are told: ${done}`);
  told('7. a pipeline: read and saved from the command line');
  await browser.close();
  const minutes = (performance.now() - begun) / 60_000;
  say(`All as written, in ${minutes.toFixed(1)} minutes (of a machine, without reading).`);
  expect(minutes < 10, 'within ten minutes');
} catch (cause) {
  failed = true;
  say(`FAILED: ${cause.stack ?? cause}`);
  for (const said of spoken) say(said().slice(-2000));
} finally {
  sh('service nginx stop || true; service postgresql stop || true');
}
process.exit(failed ? 1 : 0);
