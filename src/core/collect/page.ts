// The report as a page: one file that opens in any browser, without a network and without this application. Everything in it is text; nothing runs.

import { bytes as bytesText, count } from '../text/figures';
import { byFolder, scenesIn, type Report, type ReportFile } from './report';

const escapes: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};
/** Text as markup. */
export const markup = (text: string) => text.replace(/[&<>"']/g, (c) => escapes[c]!);

const e = markup;

const reasons: Record<Report['left'][number]['why'], string> = {
  missing: 'missing when it was collected',
  offline: 'on a drive that was not connected',
  remote: 'a web address, left as one',
  'not-allowed': 'in a folder that could not be looked into',
  excluded: 'in an excluded folder: to be found where it always lies',
  unticked: 'left out by choice',
  'not-used': 'not used: outside the frames or tiles that the scenes show',
};

/** How the pages look that lie in what is handed over. */
export const pageStyle = `
:root { color-scheme: light dark; --paper: #f6f2ea; --sheet: #fffdf8; --ink: #1d2a2f; --soft: #56646a; --line: #ddd5c6; --green: #145c4e; --amber: #8a5a00; }
@media (prefers-color-scheme: dark) { :root { --paper: #15191a; --sheet: #1e2323; --ink: #efe9dd; --soft: #b3bab7; --line: #3b4140; --green: #7cc9b3; --amber: #e0b15c; } }
* { box-sizing: border-box; }
body { margin: 0; background: var(--paper); color: var(--ink); font: 16px/1.5 system-ui, sans-serif; }
main { max-width: 70rem; margin: 0 auto; padding: 2rem 1.5rem 4rem; }
h1 { font: 600 2rem/1.2 Georgia, serif; margin: 0 0 .5rem; }
h2 { font-size: 1.1rem; margin: 2rem 0 .5rem; }
section { background: var(--sheet); border: 1px solid var(--line); border-radius: 10px; padding: 1rem 1.25rem; margin: 1rem 0; }
section h2 { margin-top: 0; }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; padding: .35rem .6rem .35rem 0; border-bottom: 1px solid var(--line); vertical-align: top; }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap; }
code { font-family: ui-monospace, monospace; font-size: .92em; overflow-wrap: anywhere; }
.soft { color: var(--soft); } .left { color: var(--amber); } .sum { font-size: .62em; color: var(--soft); white-space: nowrap; }
img { width: 40px; height: 40px; object-fit: contain; border-radius: 4px; vertical-align: middle; margin-right: .5rem; background: var(--paper); }
@media print { body { background: none; } section { break-inside: avoid-page; border: none; padding: 0; } tr { break-inside: avoid; } }
`;

/** The page. `pictures`: small ones as data URIs, by path. */
export function reportPage(report: Report, pictures: ReadonlyMap<string, string>): string {
  const size = report.files.reduce((sum, f) => sum + f.size, 0);
  // What others need is opened with them.
  const opened = report.files.filter((f) => f.chosen && f.neededBy.length === 0);
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${e(report.name)}: what is in here</title><style>${pageStyle}</style></head><body><main>
<h1>${e(report.name)}</h1>
<p><strong>${count(report.files.length, 'file')}</strong>, ${bytesText(size)}, collected on ${e(report.made.slice(0, 10))}. ${
    report.left.length === 0
      ? 'Everything that is needed is here.'
      : `<span class="left">${report.left.length === 1 ? 'One thing that is needed is not here.' : `${report.left.length} things that are needed are not here.`}</span>`
  }</p>
${
  opened.length === 0
    ? ''
    : `<p>Open ${opened.length === 1 ? 'this' : 'these'}: ${opened
        .slice(0, 30)
        .map((f) => `<code>${e(f.path)}</code>`)
        .join(
          ', ',
        )}${opened.length > 30 ? ` and ${opened.length - 30} more` : ''}. Paths in them lead to files in this folder; keep it together, and put it where you like.</p>`
}
${leftSection(report)}
${needsSection(report)}
<h2>Files</h2>
${filesSection(report, pictures)}
<p class="soft">Checksums are BLAKE3 and can be checked with b3sum. Beside this page lie the same facts as JSON and as a table (CSV).</p>
</main></body></html>
`;
}

/** All files by folder. `pictures`: small ones as data URIs, by path. */
export const filesSection = (report: Report, pictures: ReadonlyMap<string, string>) =>
  byFolder(report.files)
    .map(([folder, files]) => folderSection(folder, files, pictures))
    .join('\n');

/** What is needed and is not there. */
export function leftSection({ left }: Report): string {
  if (left.length === 0) return '';
  const rows = left.map(
    (l) =>
      `<tr><td>${l.files === 1 ? '' : `${l.files} of `}<code>${e(l.what)}</code></td><td>${e(reasons[l.why])}</td><td>${needed(l.neededBy)}</td><td class="n">${l.size > 0 ? bytesText(l.size) : ''}</td></tr>`,
  );
  return `<section><h2 class="left">Not here</h2><table><tr><th>What</th><th>Why</th><th>Needed by</th><th class="n">Size</th></tr>${rows.join('')}</table></section>`;
}

const needed = (needs: Report['left'][number]['neededBy']) => {
  const scenes = scenesIn(needs);
  const shown = scenes.slice(0, 3).map((s) => `<code>${e(s)}</code>`);
  return `${shown.join(', ')}${scenes.length > 3 ? ` and ${scenes.length - 3} more` : ''}`;
};

/** What it takes to open the scenes. */
export function needsSection({ scenes }: Report): string {
  const rows = scenes.map((s) => {
    const cells = [
      `<code>${e(s.path)}</code>`,
      e([s.format, s.version].filter(Boolean).join(' ')),
      e(s.programs.join(', ')),
      s.required
        .map((r) => `<strong>${e(r)}</strong>`)
        .concat(s.used.map(e))
        .join(', '),
      e(s.fonts.join(', ')),
      e(s.unit ?? ''),
    ];
    return `<tr>${cells.map((c) => `<td>${c}</td>`).join('')}</tr>`;
  });
  if (rows.length === 0) return '';
  return `<section><h2>What it takes to open them</h2><table><tr><th>Scene</th><th>Format</th><th>Written by</th><th>Extensions and plug-ins (<strong>required</strong>)</th><th>Fonts</th><th>Units</th></tr>${rows.join('')}</table></section>`;
}

const aboutPicture = ({ programs, fonts }: ReportFile) =>
  [
    programs.length > 0 ? `by ${programs.join(', ')}` : '',
    fonts.length > 0 ? `typefaces: ${fonts.join(', ')}` : '',
  ]
    .filter(Boolean)
    .map((said) => `<br><span class="soft">${e(said)}</span>`)
    .join('');

function folderSection(
  folder: string,
  files: readonly ReportFile[],
  pictures: ReadonlyMap<string, string>,
): string {
  const rows = files.map((f) => {
    const picture = pictures.get(f.path);
    const name = f.path.slice(f.path.lastIndexOf('/') + 1);
    return `<tr><td>${picture ? `<img alt="" src="${e(picture)}">` : ''}<code>${e(name)}</code><br><code class="sum">${e(f.blake3 ?? '')}</code></td><td>${e(f.kind)}${aboutPicture(f)}</td><td>${f.chosen ? 'asked for' : needed(f.neededBy)}</td><td class="soft">${f.was === f.path ? '' : e(f.was)}</td><td class="n">${bytesText(f.size)}</td></tr>`;
  });
  return `<section><h2><code>${e(folder === '' ? 'at the top' : `${folder}/`)}</code></h2><table><tr><th>File</th><th>Kind</th><th>Needed by</th><th>Came from</th><th class="n">Size</th></tr>${rows.join('')}</table></section>`;
}
