// Compiles kernels/assembly to kernels/build/kernels.wasm when a source is newer than it.
import { mkdirSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { execFileSync } from 'node:child_process';

const root = fileURLToPath(new URL('..', import.meta.url));
const sources = readdirSync(join(root, 'kernels/assembly')).map((f) => join(root, 'kernels/assembly', f));
const out = join(root, 'kernels/build/kernels.wasm');
const newest = Math.max(...sources.map((f) => statSync(f).mtimeMs));
const built = statSync(out, { throwIfNoEntry: false })?.mtimeMs ?? 0;

if (newest > built || process.argv.includes('--force')) {
  mkdirSync(join(root, 'kernels/build'), { recursive: true });
  execFileSync(
    process.execPath,
    [
      join(root, 'node_modules/assemblyscript/bin/asc.js'),
      join(root, 'kernels/assembly/index.ts'),
      '-o',
      out,
      '-O3',
      '--enable',
      'simd',
      '--enable',
      'threads',
      '--importMemory',
      '--sharedMemory',
      '--initialMemory',
      '256',
      '--maximumMemory',
      '65536',
      '--runtime',
      'stub',
      '--noAssert',
    ],
    { cwd: root, stdio: 'inherit' },
  );
}
