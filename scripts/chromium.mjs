// Debian's Chromium as the tests, the pictures and the benches start it.

import fs from 'node:fs';

const places = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'];

/** Where it is: named by SATCHEL_CHROMIUM, else the one without a window of its own (a fifth less work), else the whole one. */
export const chromiumFile = () =>
  process.env.SATCHEL_CHROMIUM ?? places.find((at) => fs.existsSync(at)) ?? places[1];

/** How it is started; `more`: further flags. */
export const chromiumOptions = (...more) => ({
  executablePath: chromiumFile(),
  args: [
    '--no-sandbox',
    '--disable-dev-shm-usage',
    '--disable-quic',
    '--disable-background-networking',
    // WebGL by software.
    '--use-gl=angle',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    ...more,
  ],
});
