// A verb that a server does for somebody: as the server starts it, in a process of its own, against everything that is not theirs. Every verb stands here with what it
// writes to, by a table written by hand.

import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { readCall } from './call';
import { verbs } from './verbs';

// What is written to: nothing (-), only with --yes (?), always (!); for those who manage (m), or not done by a server at all (x). The words are of a call.
const table = `
new ? P N --layout L: P
adopt ? D: D
rename ? P N: P
bring ? F G --into D: D
repath ? P Q --relative: P Q
relink ? D: D
save ? S T: S T
habit ? D numbered: D
compact ? V W: V W
restore ? S 3: S
convert ? F --to G: F G
collect ? S --to E: E
collect ! S --to E --report-only: E
carry ? A --from D --to E: E
carry-nodes ? S N --into T: T
compare - A B:
embed ? S --to F: F
extract ? F --into D: D
outputs - D:
clip ! P --to F: F
complete - D --list L:
complete ! D --list L --from P: D L
checkpoint ! D N: D
checkpoints - D:
back ? D I: D
net - D:
net ! D --once: D
store ? D --sweep: D
put-back ? D: D
undo ? D I: D
refs - P Q:
versions - S:
ledger - D:
pack ! D --to B: B
verify - B:
unpack ! B --to D: D
rehearse - D:
backup ! D --to F: F
snapshots ?m F --keep 2d: F
give-back ! F I --to D: D
prove ! F: F
archive ?m D --to F: D F
bring-back ! D: D
worker x:
hand-in - D --list L:
hand-in ! D --list L --to B: B
hand-in ! F --list L --each --csv C: C
arrive ! B --to D: D
`
  .trim()
  .split('\n')
  .map((line) => {
    const [call, writes] = line.split(/:(?= |$)/) as [string, string];
    const [name, how, ...args] = call.split(' ') as [string, string, ...string[]];
    return { name, how, args, writes: writes.trim() === '' ? [] : writes.trim().split(' ') };
  });

describe('what a verb writes to', () => {
  test('every verb stands in the table', () => {
    expect([...new Set(table.map((t) => t.name))].sort()).toEqual(Object.keys(verbs).sort());
  });
  test.each(table.filter((t) => t.how !== 'x'))('$name $how $args', ({ name, how, args, writes }) => {
    const verb = verbs[name]!;
    const asked = verb.writes(readCall(verb, args));
    const applied = verb.writes(readCall(verb, [...args, '--yes']));
    expect(how === '-' ? [asked, applied] : how === '!' ? asked : applied).toEqual(
      how === '-' ? [[], []] : writes,
    );
    if (how.startsWith('?')) expect(asked).toEqual([]);
    expect([verb.manages ?? false, verb.stays ?? false]).toEqual([how.endsWith('m'), false]);
  });
  test('what goes on until it is stopped is for no server', () => {
    expect(Object.keys(verbs).filter((name) => verbs[name]!.stays)).toEqual(['worker']);
  });
});

describe('in a process of its own', () => {
  const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-held-')));
  const project = path.resolve('.');
  const [mine, seen, secret] = ['mine', 'seen', 'secret'].map((f) => `${base}/${f}`) as [
    string,
    string,
    string,
  ];
  const show = `${mine}/show`;
  beforeAll(() => {
    const built = spawnSync(
      process.execPath,
      ['-e', "import('./scripts/setup.mjs').then((m) => m.buildCli())"],
      {
        cwd: project,
      },
    );
    expect(built.status).toBe(0);
  }, 60_000);
  afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
  const png = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGNgYGD4DwABBAEAX+XDSwAAAABJRU5ErkJggg==',
    'base64',
  );
  const marker = JSON.stringify({
    format: 1,
    name: 'Show',
    created: '2026-11-28T00:00:00.000Z',
    layout: '',
    folders: [],
    homes: {},
    libraries: [],
    places: [],
  });
  const gltf = (...uris: string[]) =>
    JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
  beforeEach(() => {
    for (const f of [mine, seen, secret]) fs.rmSync(f, { recursive: true, force: true });
    for (const f of [`${show}/scenes`, `${show}/textures`, `${seen}/lib`, secret])
      fs.mkdirSync(f, { recursive: true });
    for (const f of [`${show}/textures/a.png`, `${seen}/lib/s.png`, `${secret}/x.png`])
      fs.writeFileSync(f, png);
    fs.writeFileSync(`${secret}/s.gltf`, gltf('x.png'));
    fs.writeFileSync(
      `${show}/scenes/boat.gltf`,
      gltf('../textures/a.png', `${secret}/x.png`, '../textures/way/x.png', `${seen}/lib/s.png`),
    );
    fs.mkdirSync(`${show}/.satchel`);
    fs.writeFileSync(`${show}/.satchel/workspace.json`, marker);
    fs.symlinkSync(secret, `${show}/textures/way`);
    fs.symlinkSync(secret, `${mine}/door`);
  });

  function satchel(args: string[], held: object = {}) {
    const { status, stdout, stderr } = spawnSync(
      process.execPath,
      [path.join(project, 'dist', 'satchel.mjs'), ...args],
      {
        cwd: base,
        encoding: 'utf8',
        env: {
          ...process.env,
          NODE_OPTIONS: '',
          SATCHEL_DATA: `${base}/data`,
          SATCHEL_HELD_TO: JSON.stringify({
            see: [mine, seen, `${base}/data/shelves`],
            change: [mine, `${base}/data/shelves`],
            role: 'change',
            by: 'the farm',
            ...held,
          }),
        },
      },
    );
    return { status, out: stdout, said: stderr };
  }
  /** All there is, but for what is mine. */
  const others = () =>
    fs
      .readdirSync(base, { recursive: true, withFileTypes: true })
      .map((e) => path.join(e.parentPath, e.name))
      .filter((p) => !p.startsWith(`${mine}/`) && !p.startsWith(`${base}/data`))
      .sort();

  test('the work itself goes on as for anybody, and says who did it', () => {
    const refs = satchel(['refs', `${show}/scenes`, '--json']);
    expect(refs.status).toBe(1);
    const { scenes } = JSON.parse(refs.out) as {
      scenes: { references: { written: string; target: string }[] }[];
    };
    // What lies where one may not look is found nowhere; what one may only look at is.
    expect(scenes[0]!.references.map((r) => r.target)).toEqual([
      'textures/a.png',
      null,
      null,
      `${seen}/lib/s.png`,
    ]);
    expect(satchel(['save', `${show}/scenes/boat.gltf`, '--yes']).status).toBe(0);
    const ledger = satchel(['ledger', show, '--json']);
    expect((JSON.parse(ledger.out) as { entries: { by: string }[] }).entries[0]!.by).toBe('the farm');
  });

  const out = (...more: string[]) => `${mine}/${more.join('/') || 'out'}`;
  test.each([
    ['a path elsewhere', ['refs', '/etc']],
    ['a file elsewhere among one’s own', ['refs', 'SHOW', 'SECRET/s.gltf']],
    ['a link that leads out', ['refs', 'MINE/door']],
    ['a file through a link', ['refs', 'MINE/door/s.gltf']],
    ['above what is allowed', ['refs', 'MINE/..']],
    ['the folder beside, whose name only begins so', ['refs', 'MINE-not']],
    ['a root elsewhere', ['refs', 'SHOW/scenes/boat.gltf', '--root', 'BASE']],
    ['a folder to search elsewhere', ['relink', 'SHOW', '--search', 'SECRET']],
    ['a list elsewhere', ['hand-in', 'SHOW', '--list', 'SECRET/list.json']],
    ['a file of path heads elsewhere', ['repath', 'SHOW', '--map', 'SECRET/map.json']],
    ['a layout elsewhere', ['new', 'MINE', 'N', '--layout', 'SECRET/layout.txt']],
    ['places elsewhere', ['rehearse', 'SHOW', '--as', 'SECRET/places.json']],
    ['a bag elsewhere', ['verify', 'SECRET/b.zip']],
    ['another workspace elsewhere', ['compare', 'SHOW', 'SECRET']],
    ['what is brought from elsewhere', ['bring', 'SECRET/s.gltf', '--into', 'SHOW']],
    ['what is carried over from elsewhere', ['carry', 's.gltf', '--from', 'SECRET', '--to', 'SHOW']],
    ['frames elsewhere', ['clip', 'SECRET/x.####.png', '--to', 'MINE/c.webp']],
    ['copies to heal from elsewhere', ['prove', 'MINE/backups', '--heal', '--from', 'SECRET']],
    ['no whole path', ['refs', 'mine/show']],
  ])('%s is not looked at', (_, args) => {
    const whole = args.map((a) =>
      a.replace(
        /^(SHOW|SECRET|MINE|BASE)/,
        (name) => ({ SHOW: show, SECRET: secret, MINE: mine, BASE: base })[name]!,
      ),
    );
    fs.mkdirSync(`${mine}-not`, { recursive: true });
    if (args.includes('MINE/backups')) satchel(['backup', show, '--to', `${mine}/backups`]);
    const { status, out, said } = satchel(whole);
    fs.rmdirSync(`${mine}-not`);
    expect([status, out]).toEqual([2, '']);
    expect(said).toMatch(/no folder that you have allowed|leads out of|whole ones|not allowed/i);
  });

  test('what scenes lead to elsewhere is neither collected nor packed nor put inside one file', () => {
    const was = others();
    expect(satchel(['collect', `${show}/scenes/boat.gltf`, '--to', out(), '--yes']).status).toBe(1);
    satchel(['pack', show, '--to', out('bag'), '--with-libraries']);
    satchel(['embed', `${show}/scenes/boat.gltf`, '--to', out('boat.glb'), '--yes']);
    satchel(['backup', show, '--to', out('backups')]);
    const copied = fs
      .readdirSync(mine, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && e.name === 'x.png');
    expect(copied).toEqual([]);
    expect(others()).toEqual(was);
  });

  test.each([
    ['change', ['save', 'SEEN/lib/boat.gltf', '--yes'], 'not yours to change'],
    ['change', ['pack', 'SHOW', '--to', 'SEEN/b.zip'], 'not yours to change'],
    ['change', ['collect', 'SHOW/scenes/boat.gltf', '--to', 'SEEN/c', '--yes'], 'not yours to change'],
    ['change', ['backup', 'SHOW', '--to', 'MINE/door/b'], 'not yours to change'],
    ['change', ['unpack', 'MINE/b.zip', '--to', 'SECRET/n'], 'not yours to change'],
    ['change', ['snapshots', 'MINE/backups', '--keep', '2d', '--yes'], 'those who manage'],
    ['change', ['archive', 'SHOW', '--to', 'MINE/backups', '--yes'], 'those who manage'],
    ['look', ['save', 'SHOW/scenes/boat.gltf', '--yes'], 'change nothing'],
    ['look', ['checkpoint', 'SHOW', 'now'], 'change nothing'],
    ['look', ['pack', 'SHOW', '--to', 'MINE/b.zip'], 'change nothing'],
    ['manage', ['worker'], 'goes on until'],
    ['manage', ['net', 'SHOW', '--every', '5'], 'goes on until'],
  ] as const)('as one who may %s: %s', (role, args, why) => {
    const whole = args.map((a) =>
      a.replace(
        /^(SHOW|SEEN|SECRET|MINE)/,
        (name) => ({ SHOW: show, SEEN: seen, SECRET: secret, MINE: mine })[name]!,
      ),
    );
    const was = [...others(), ...fs.readdirSync(mine, { recursive: true }).map(String)];
    fs.writeFileSync(`${seen}/lib/boat.gltf`, gltf('s.png'));
    const { status, said } = satchel(whole, { role });
    fs.rmSync(`${seen}/lib/boat.gltf`);
    expect(status).toBe(2);
    expect(said).toMatch(new RegExp(why));
    expect([...others(), ...fs.readdirSync(mine, { recursive: true }).map(String)]).toEqual(was);
  });

  test('a workspace around a folder that is allowed is not changed, nor read', () => {
    satchel(['new', mine, 'Around', '--yes'], { see: [base], change: [base] });
    const inner = `${mine}/Around/scenes`;
    fs.mkdirSync(inner, { recursive: true });
    fs.writeFileSync(`${inner}/a.gltf`, gltf('../x.png'));
    const { status, said } = satchel(['save', `${inner}/a.gltf`, '--yes'], { see: [inner], change: [inner] });
    expect([status, /allowed|yours/.test(said)]).toEqual([2, true]);
    expect(fs.readdirSync(inner)).toEqual(['a.gltf']);
  });
});
