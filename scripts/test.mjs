// npm test: installs what is missing, then types, lint, rules, unit tests, and the interface in Chromium.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { headlessShell } from './chromium.mjs';
import { install } from './install.mjs';
import { seconds, stage, together, tool } from './stages.mjs';

/** Folders whose imports are looked through. */
const HOUSES = ['app', 'ui', 'store', 'engine', 'core', 'kernels', 'cli', 'demo', 'bench'];

/** Installs Debian packages that are needed for the tests alone. */
function debian(what, present, ...packages) {
  if (present.every((path) => existsSync(path))) return;
  const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const apt = (...args) => {
    const [command, ...rest] = [...sudo, 'apt-get', ...args];
    return (
      spawnSync(command, rest, { stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } })
        .status === 0
    );
  };
  if (apt('update', '-qq') && apt('install', '-y', '-qq', '--no-install-recommends', ...packages)) return;
  process.stderr.write(`${what} is needed for the tests: install Debian's packages ${packages.join(', ')}.\n`);
  process.exit(1);
}

stage('Install', install);
stage('Chromium', () => debian('Chromium', [headlessShell], 'chromium-headless-shell'));
stage('Other readers of pictures', () =>
  debian('OpenEXR and OpenImageIO', ['/usr/bin/exrmultipart', '/usr/bin/oiiotool'], 'openexr', 'openimageio-tools'),
);
// None of these needs what another makes.
await together(
  ['Kernels', [process.execPath, 'scripts/build-kernels.mjs']],
  ['Lint', tool('oxlint/bin/oxlint')],
  ['Format', tool('oxfmt/bin/oxfmt', '--check', '.')],
  ['Types', tool('typescript7/bin/tsc', '--noEmit')],
  ['Types of the core', tool('typescript7/bin/tsc', '--noEmit', '-p', 'core/tsconfig.json')],
  ['Import rules', tool('dependency-cruiser/bin/dependency-cruise.mjs', '--config', '.dependency-cruiser.cjs', ...HOUSES)],
);
stage('Unit tests', [process.execPath, 'scripts/unit.mjs']);
stage('Build', tool('next/dist/bin/next', 'build'));
stage('Interface tests', tool('@playwright/test/cli.js', 'test'));
process.stdout.write(`\nAll is well after ${seconds()}.\n`);
