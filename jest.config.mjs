const shared = {
  testPathIgnorePatterns: ['/node_modules/', '/.next/', '/dist/', '/out/'],
  modulePathIgnorePatterns: ['<rootDir>/.next/', '<rootDir>/dist/', '<rootDir>/out/'],
};

/** Unit tests run as ES modules; esbuild strips the types. */
export default {
  // No test is timed: this only ends one that hangs, on the slowest of machines.
  testTimeout: 120_000,
  // Both of a small machine's cores: Jest by itself leaves one alone.
  maxWorkers: '100%',
  projects: [
    {
      ...shared,
      displayName: 'core',
      // Modules are loaded once by each worker, not by each test file, and numbers run outside of a sandbox: half the time.
      runner: 'jest-light-runner',
      transform: {},
      testMatch: ['core', 'engine', 'kernels', 'cli', 'demo', 'bench'].map((folder) => `<rootDir>/${folder}/**/*.test.ts`),
    },
    {
      ...shared,
      displayName: 'pages',
      extensionsToTreatAsEsm: ['.ts', '.tsx'],
      moduleNameMapper: { '^@/(.*)$': '<rootDir>/$1' },
      // What a browser has and a page under test lacks; there already where tests have no page.
      setupFiles: ['<rootDir>/ui/testing/missing.ts'],
      transform: { '^.+\\.tsx?$': '<rootDir>/scripts/jest-transform.mjs' },
      testMatch: ['<rootDir>/{store,ui,app}/**/*.test.ts', '<rootDir>/{store,ui,app}/**/*.test.tsx'],
    },
  ],
};
