// Bundles a TypeScript entry with esbuild (packages stay outside) and runs it: node scripts/run.mjs cli/main.ts ... With --build before it, only says where it is.
import { execFileSync, spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { constants } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const onlyBuild = process.argv[2] === '--build';
const [entry, ...args] = process.argv.slice(onlyBuild ? 3 : 2);
if (!existsSync(join(root, 'node_modules/esbuild'))) {
  execFileSync(process.execPath, [join(root, 'scripts/install.mjs')], { stdio: ['ignore', 2, 2] });
}
execFileSync(process.execPath, [join(root, 'scripts/build-kernels.mjs')], { stdio: ['ignore', 2, 2] });
const { build } = await import('esbuild');
const out = join(root, 'dist', `${entry.replace(/[/\\]/g, '-').replace(/\.ts$/, '')}.mjs`);
await build({
  entryPoints: [join(root, entry)],
  outfile: out,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  tsconfig: join(root, 'tsconfig.json'),
  logLevel: 'error',
});
if (onlyBuild) {
  process.stdout.write(`${out}\n`);
  process.exit();
}
// Frames are made by a worker a core: helpers of the garbage collector would only take turns with them.
const run = spawn(process.execPath, ['--no-warnings', '--single-threaded-gc', out, ...args], {
  stdio: 'inherit',
  env: { ...process.env, OSTRACON_ROOT: root },
});
// The command tidies up by itself; this process ends when it has.
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => run.kill(signal));
run.on('exit', (code, signal) => process.exit(code ?? 128 + (constants.signals[signal] ?? 0)));
