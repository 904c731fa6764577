// Compiles kernels/assembly when a source is newer than what was built: kernels.wasm, and kernels-relaxed.wasm, whose layers of nets
// fuse multiply and add where the engine knows relaxed SIMD.
import { mkdirSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { execFileSync } from 'node:child_process';

const root = fileURLToPath(new URL('..', import.meta.url));
const sources = readdirSync(join(root, 'kernels/assembly')).map((f) => join(root, 'kernels/assembly', f));
const builds = [
  { out: join(root, 'kernels/build/kernels.wasm'), extra: [] },
  { out: join(root, 'kernels/build/kernels-relaxed.wasm'), extra: ['--enable', 'relaxed-simd'] },
];
const newest = Math.max(...sources.map((f) => statSync(f).mtimeMs));

for (const { out, extra } of builds) {
  const built = statSync(out, { throwIfNoEntry: false })?.mtimeMs ?? 0;
  if (newest <= built && !process.argv.includes('--force')) continue;
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
      ...extra,
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
