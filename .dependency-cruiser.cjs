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

/** What others see of a house: an `index.ts` for each of its folders. Parts that load when they are wanted are asked for by name. */
const DOORS = {
  core: { inside: '^core/[^/]+/', doors: '^core/[^/]+/index\\.ts$' },
  engine: { inside: '^engine/', doors: '^engine/((browser|node)/)?index\\.ts$' },
  store: { inside: '^store/', doors: '^store/index\\.ts$' },
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
    ...Object.entries(DOORS).map(([house, { inside, doors }]) => ({
      name: `${house}-by-its-doors`,
      severity: 'error',
      from: { path: '^(app|ui|store|engine|cli|demo)/', pathNot: `(^${house}/|\\.test\\.tsx?$|/testing/)` },
      to: { path: inside, pathNot: doors, dependencyTypesNot: ['dynamic-import'] },
    })),
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
