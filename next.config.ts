// Next.js build settings. Native and WebAssembly packages stay outside the bundle.
import type { NextConfig } from 'next';

const config: NextConfig = {
  compiler: { styledComponents: true },
  serverExternalPackages: [
    '@electric-sql/pglite',
    'pg',
    '@napi-rs/blake-hash',
    'yazl',
    'yauzl',
    'sharp',
    'mediainfo.js',
    'fontkit',
    'piscina',
    'graphile-worker',
  ],
  poweredByHeader: false,
  // On one machine packing costs more than it saves; in a studio the proxy in front does it.
  compress: false,
  reactStrictMode: true,
  devIndicators: false,
  // Types are checked by `npm test` over the whole project; a start does not wait for that.
  typescript: { ignoreBuildErrors: true },
};
export default config;
