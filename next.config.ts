// Next.js build settings. The server's own code is built elsewhere (scripts/setup.mjs) and loaded at run time (src/server/built).
import type { NextConfig } from 'next';

// 'release': files as small as they get. Otherwise a start should not wait: large files load as quickly from one's own machine.
// 'again': the build before this one left a cache worth reading; a first build would only pay for writing it.
const build = process.env.SATCHEL_BUILD ?? 'again';
const isRelease = build === 'release';

const config: NextConfig = {
  compiler: { styledComponents: true },
  poweredByHeader: false,
  // On one machine packing costs more than it saves; in a studio the proxy in front does it.
  compress: false,
  reactStrictMode: true,
  devIndicators: false,
  // Types are checked by `npm test` over the whole project; a start does not wait for that.
  typescript: { ignoreBuildErrors: true },
  experimental: {
    turbopackMinify: isRelease,
    turbopackScopeHoisting: isRelease,
    turbopackSourceMaps: false,
    turbopackInputSourceMaps: false,
    turbopackFileSystemCacheForBuild: build === 'again',
  },
};
export default config;
