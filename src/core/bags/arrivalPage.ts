// The page that a bag brings with it: what it is, what to do with it, what is missing, how to check it without this application. One file that opens
// in any browser, without a network; nothing in it runs.

import { filesSection, leftSection, markup as e, needsSection, pageStyle } from '../collect/page';
import type { Report } from '../collect/report';
import { bytes as bytesText, count } from '../text/figures';
import type { Broken, TravelClass } from './travelling';
import { classNames } from './travelling';

/** The names of the tag files that tell of a bag. */
export const arrivalNames = { page: 'arrival.html', data: 'report.json', table: 'report.csv' } as const;

export interface Arrival {
  name: string;
  /** ISO day. */
  day: string;
  report: Report;
  files: number;
  bytes: number;
  /** Where the scenes to open lie, below the root; the latest first. */
  open: readonly string[];
  /** Classes that were left out, with how much of each. */
  without: readonly { class: TravelClass; files: number; bytes: number }[];
  broken: readonly Broken[];
  /** Of a set of volumes. */
  isSet: boolean;
}

/** The page. */
export function arrivalPage(a: Arrival): string {
  const lost = a.report.left.length + new Set(a.broken.map((b) => b.target)).size;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${e(a.name)}: arrived</title><style>${pageStyle}</style></head><body><main>
<h1>${e(a.name)}</h1>
<p>A 3D workspace, packed on ${e(a.day)}${a.isSet ? ' in several volumes' : ''}: <strong>${count(a.files, 'file')}</strong>, ${bytesText(a.bytes)}. ${
    lost === 0
      ? 'Everything that its scenes need is here.'
      : `<span class="left">${lost === 1 ? 'One thing that its scenes need is not here.' : `${lost} things that its scenes need are not here.`}</span>`
  }</p>
${whatToDo(a)}
${withoutSection(a)}
${brokenSection(a)}
${leftSection(a.report)}
${checkSection(a)}
${needsSection(a.report)}
<h2>Files that its scenes need</h2>
${filesSection(a.report, new Map())}
<p class="soft">Beside this page the same facts lie as data (${arrivalNames.data}) and as a table (${arrivalNames.table}). The bag is laid out after RFC 8493 (BagIt 1.0).</p>
</main></body></html>
`;
}

function whatToDo({ open, isSet }: Arrival): string {
  const first = open[0];
  const steps = [
    isSet
      ? 'Put all volumes into one folder. With Loyal Satchel: Travel, “Something arrived”, choose any of them.'
      : 'With Loyal Satchel: Travel, “Something arrived”, choose the bag. It is checked, unpacked and given its root.',
    `Without it: ${isSet ? 'unpack every volume, and put what lies in their folders <code>data</code> together into one' : 'unpack it; the folder <code>data</code> is the workspace. Call it what you like'}, and work in a copy of it, not in the bag.`,
    ...(first === undefined
      ? []
      : [
          `Then open <code>${e(first)}</code> from that folder${open.length > 1 ? ` (and ${count(open.length - 1, 'other scene')})` : ''}: a scene that is opened inside the archive, or from a download folder, saves into the wrong place.`,
        ]),
  ];
  return `<section><h2>What to do</h2><ol>${steps.map((s) => `<li>${s}</li>`).join('')}</ol></section>`;
}

function withoutSection({ without }: Arrival): string {
  if (without.length === 0) return '';
  const rows = without.map(
    (w) =>
      `<tr><td>${e(classNames[w.class])}</td><td class="n">${count(w.files, 'file')}</td><td class="n">${bytesText(w.bytes)}</td></tr>`,
  );
  return `<section><h2>Left out by choice</h2><table>${rows.join('')}</table></section>`;
}

const shownAtMost = 200;

function brokenSection({ broken }: Arrival): string {
  if (broken.length === 0) return '';
  const rows = broken
    .slice(0, shownAtMost)
    .map((b) => `<tr><td><code>${e(b.target)}</code></td><td><code>${e(b.scene)}</code></td></tr>`);
  const more =
    broken.length > shownAtMost ? `<p class="soft">and ${broken.length - shownAtMost} more</p>` : '';
  return `<section><h2 class="left">Left out, and needed</h2><table><tr><th>What</th><th>Needed by</th></tr>${rows.join('')}</table>${more}</section>`;
}

function checkSection({ isSet }: Arrival): string {
  return `<section><h2>To check it without Loyal Satchel</h2><p>In the bag's folder, where this page lies${isSet ? ', for each volume' : ''}:</p>
<p><code>sha512sum -c manifest-sha512.txt</code> (Linux) · <code>shasum -a 512 -c manifest-sha512.txt</code> (macOS) · on Windows <code>Get-FileHash -Algorithm SHA512</code> gives the sum of one file.</p>
<p class="soft">Every line has to say OK. Names in which a percent sign or a line end stands are written with %25, %0A, %0D in that list.</p></section>`;
}
