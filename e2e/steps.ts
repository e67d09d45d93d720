// Steps that every task begins or ends with.

import { expect, type Page } from '@playwright/test';

/** Errors of the page, and anything its policy had to stop, fail the test. */
export function watch(page: Page): void {
  page.on('pageerror', (cause) => { throw cause; });
  page.on('console', (m) => { if (m.type() === 'error' && m.text().includes('Content Security Policy')) throw new Error(m.text()); });
}

/** Opens the demo's workspace from the list; returns the address' search part that names it. */
export async function openDemo(page: Page, address: string): Promise<string> {
  await page.goto(address);
  await page.getByRole('link', { name: /Harbour Lantern/ }).first().click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/travel/);
  return new URL(page.url()).search;
}

/** Applies the plan that is shown, and waits until the page has gone back. */
export async function apply(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Apply the plan' }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/plan'));
}
