// End-to-end tests: the production build in Debian's Chromium, as a user would; the disk is checked afterwards.
import { randomBytes } from 'node:crypto';
import { defineConfig } from 'playwright/test';
import { chromiumOptions } from './scripts/chromium.mjs';

// One key for all servers of a run, known to its worker processes by their environment. How a browser gets it is tried in door.spec.ts.
process.env.SATCHEL_KEY ??= randomBytes(24).toString('base64url');

export default defineConfig({
  testDir: 'e2e',
  workers: 2,
  timeout: 120_000,
  expect: { timeout: 20_000 },
  retries: 0,
  reporter: [['line'], ['json', { outputFile: process.env.SATCHEL_E2E_REPORT ?? 'test-results/e2e.json' }]],
  outputDir: 'test-results/files',
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    // What moves costs a processor each frame, where there is no graphics card.
    contextOptions: { reducedMotion: 'reduce' },
    extraHTTPHeaders: { 'x-satchel-key': process.env.SATCHEL_KEY },
    // Pages are drawn without WebGL's software, which costs a fifth less.
    launchOptions: chromiumOptions('--disable-gpu-rasterization', '--disable-gpu-compositing'),
  },
});
