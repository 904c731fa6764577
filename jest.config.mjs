const shared = {
  // Modules are loaded once by each worker, not by each test file, and run outside of a sandbox: half the time.
  runner: 'jest-light-runner',
  transform: {},
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
      testMatch: ['core', 'engine', 'kernels', 'cli', 'demo', 'bench', 'store'].map((folder) => `<rootDir>/${folder}/**/*.test.ts`),
    },
    {
      ...shared,
      displayName: 'pages',
      setupFiles: ['<rootDir>/ui/testing/page.ts'],
      setupFilesAfterEnv: ['<rootDir>/ui/testing/between.ts'],
      testMatch: ['<rootDir>/{ui,app}/**/*.test.ts', '<rootDir>/{ui,app}/**/*.test.tsx'],
    },
  ],
};
