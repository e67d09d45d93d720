// Steps that every task begins or ends with.

import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page } from 'playwright/test';

/** Errors of the page, and anything its policy had to stop, fail the test. */
export function watch(page: Page): void {
  page.on('pageerror', (cause) => {
    throw cause;
  });
  page.on('console', (m) => {
    if (m.type() === 'error' && m.text().includes('Content Security Policy')) throw new Error(m.text());
  });
}

/** Opens the demo's workspace from the list; returns the address' search part that names it. */
export async function openDemo(page: Page, address: string): Promise<string> {
  await page.goto(address);
  await page
    .getByRole('link', { name: /Harbour Lantern/ })
    .first()
    .click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/travel/);
  return new URL(page.url()).search;
}

/** What the page and the server say, for an error of a step that did not go on. */
async function said(page: Page): Promise<string> {
  const jobs = await page.request.get(new URL('/api/jobs', page.url()).href);
  return `${page.url()}\n${(await page.getByRole('main').innerText()).slice(0, 2000)}\n${(await jobs.text()).slice(-3000)}`;
}

/** Applies the plan that is shown, and waits until the page has gone back; where it does not, the error says what the page or the server says. */
export async function apply(page: Page): Promise<void> {
  await page
    .getByRole('button', { name: 'Apply the plan' })
    .click({ timeout: 60_000 })
    .catch(async () => {
      throw new Error(`no plan is shown after a minute: ${await said(page)}`);
    });
  const back = page
    .waitForURL((url) => !url.pathname.startsWith('/plan'), { timeout: 60_000 })
    .then(
      () => null,
      async () => `the plan is not applied after a minute: ${await said(page)}`,
    );
  const alert = page.getByRole('main').getByRole('alert').first();
  const refused = alert.waitFor({ timeout: 60_000 }).then(
    () => alert.innerText(),
    () => back,
  );
  const wrong = await Promise.race([back, refused]);
  if (wrong !== null) throw new Error(wrong);
}

const ofColour = ['color-contrast', 'link-in-text-block'];

/** Waits until the page shows data, not that it is being read. */
export async function settled(page: Page): Promise<void> {
  await expect(page.getByText(/^(Reading|Measuring) …$|^(Rehearsing|Looking) |^being read …/)).toHaveCount(0);
}

/**
 * Expects no accessibility fault on what is shown, in both themes; `name` is the view's in the report. The short run (npm test) looks at main views only,
 * and in one theme.
 */
export async function axe(page: Page, name: string, isMainView = false): Promise<void> {
  const isShort = process.env.SATCHEL_DEPTH === 'short';
  if (isShort && !isMainView) return;
  // A page that is reached by a link has its title a moment after its content.
  await expect(page).toHaveTitle(/./);
  for (const colorScheme of isShort ? (['light'] as const) : (['light', 'dark'] as const)) {
    await page.emulateMedia({ colorScheme });
    await page.evaluate(
      () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))),
    );
    // What differs between themes is colour: the rest is looked at once.
    const look = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
    const { violations } = await (colorScheme === 'dark' ? look.withRules(ofColour) : look).analyze();
    expect([name, colorScheme, violations.map((v) => `${v.id}: ${v.nodes[0]?.html.slice(0, 160)}`)]).toEqual([
      name,
      colorScheme,
      [],
    ]);
  }
}

/** Presses Tab until what has the focus has this name, as one would without a pointer. */
export async function tabTo(page: Page, name: RegExp, most = 90): Promise<void> {
  for (let n = 0; n < most; n++) {
    await page.keyboard.press('Tab');
    const focused = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null;
      const label = e?.getAttribute('aria-labelledby');
      return (
        e?.getAttribute('aria-label') ??
        (label ? document.getElementById(label)?.textContent : null) ??
        (e as HTMLInputElement | null)?.labels?.[0]?.textContent ??
        e?.textContent ??
        ''
      );
    });
    if (name.test(focused)) return;
  }
  throw new Error(`Tab never reached ${name}`);
}

/** Chooses one of a few from the list that opens at a field. */
export async function choose(page: Page, field: string, option: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`${field}$`) }).click();
  await page.getByRole('option', { name: option }).click();
}
