// TypeScript to JavaScript, as both runners of unit tests load it.
import { transformSync } from 'esbuild';

/** `banner` is put before what comes out. Its source map is inline. */
export const stripTypes = (source, path, banner = '') =>
  transformSync(source, {
    loader: path.endsWith('x') ? 'tsx' : 'ts',
    format: 'esm',
    jsx: 'automatic',
    target: 'node20',
    sourcefile: path,
    sourcemap: 'inline',
    banner,
  });
