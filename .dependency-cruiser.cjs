/** Imports run downward only: app → ui → store → engine → core → kernels; cli → engine → core; demo → core. */
const ABOVE = {
  kernels: ['core', 'engine', 'store', 'ui', 'app', 'cli', 'demo', 'bench'],
  core: ['engine', 'store', 'ui', 'app', 'cli', 'demo', 'bench'],
  engine: ['store', 'ui', 'app', 'cli', 'demo', 'bench'],
  store: ['ui', 'app', 'cli', 'demo', 'bench'],
  ui: ['app', 'cli', 'demo', 'bench'],
  app: ['store', 'engine', 'cli', 'demo', 'bench'],
  cli: ['store', 'ui', 'app', 'demo', 'bench'],
  demo: ['store', 'ui', 'app', 'cli', 'engine', 'bench'],
};

module.exports = {
  forbidden: [
    ...Object.entries(ABOVE).map(([from, to]) => ({
      name: `${from}-imports-downward`,
      severity: 'error',
      from: { path: `^${from}/`, pathNot: '(\\.test\\.ts$|^core/testing/)' },
      to: { path: `^(${to.join('|')})/` },
    })),
    {
      name: 'core-is-plain',
      severity: 'error',
      from: { path: '^(core|kernels)/', pathNot: '(\\.test\\.ts$|^core/testing/)' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-has-no-react',
      severity: 'error',
      from: { path: '^(core|kernels|engine|store)/' },
      to: { path: 'node_modules/(react|react-dom|@mui|next)/' },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^kernels/(assembly|build)/' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.mjs', '.js', '.wasm'] },
  },
};
