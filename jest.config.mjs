// Unit tests as ES modules, compiled by swc; no DOM: what needs a browser is tested in one (e2e/).
// How thorough a run is: src/core/files/testing/depth.ts.
const isDeep = process.env.SATCHEL_DEPTH === 'deep';

const config = {
  testEnvironment: 'node',
  testPathIgnorePatterns: ['/node_modules/', ...(isDeep ? [] : ['\\.deep\\.test\\.ts$'])],
  // Not scripts/test.mjs, which Jest would take for a test, and which runs Jest.
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  roots: ['<rootDir>/src', '<rootDir>/demo', '<rootDir>/scripts'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } }, module: { type: 'es6' } },
    ],
  },
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  globalSetup: '<rootDir>/scripts/threads.mjs',
  testSequencer: '<rootDir>/scripts/longFirst.mjs',
  // Jest leaves one core to itself; on two that is half of them.
  maxWorkers: '100%',
  testTimeout: 60000,
};
export default config;
