/** Unit tests run as ES modules; esbuild strips the types. */
export default {
  testEnvironment: 'node',
  // No test is timed: this only ends one that hangs, on the slowest of machines.
  testTimeout: 120_000,
  // Both of a small machine's cores: Jest by itself leaves one alone.
  maxWorkers: '100%',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  testMatch: ['<rootDir>/**/*.test.ts', '<rootDir>/**/*.test.tsx'],
  testPathIgnorePatterns: ['/node_modules/', '/.next/', '/dist/', '/out/'],
  modulePathIgnorePatterns: ['<rootDir>/.next/', '<rootDir>/dist/', '<rootDir>/out/'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/$1' },
  // What a browser has and a page under test lacks; there already where tests have no page.
  setupFiles: ['<rootDir>/ui/testing/missing.ts'],
  transform: { '^.+\\.tsx?$': '<rootDir>/scripts/jest-transform.mjs' },
};
