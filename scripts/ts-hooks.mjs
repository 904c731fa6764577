// How Node.js imports TypeScript (see ts-loader.mjs): types are stripped by esbuild; `@/` is this folder.
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { transformSync } from 'esbuild';

const root = new URL('../', import.meta.url);
const ENDINGS = ['.ts', '.tsx', '/index.ts', '.mjs'];

export function resolve(specifier, context, next) {
  const ours = specifier.startsWith('@/') ? new URL(specifier.slice(2), root) : null;
  const url =
    ours ?? (/^\.\.?(\/|$)/.test(specifier) && context.parentURL?.startsWith('file:') ? new URL(specifier, context.parentURL) : null);
  // Next.js says nothing of what its package shows: a bundler finds its files without their endings.
  if (/^next\/.*(?<!\.js)$/.test(specifier)) return next(`${specifier}.js`, context);
  if (!url || url.pathname.includes('/node_modules/') || /\.(tsx?|[cm]?js|json)$/.test(url.pathname))
    return next(ours?.href ?? specifier, context);
  const path = fileURLToPath(url).replace(/\/$/, '');
  const ending = ENDINGS.find((e) => existsSync(path + e));
  return ending ? { url: pathToFileURL(path + ending).href + url.search, shortCircuit: true } : next(url.href, context);
}

export function load(url, context, next) {
  const path = url.startsWith('file:') ? fileURLToPath(url.replace(/\?.*/, '')) : '';
  if (!/\.tsx?$/.test(path)) return next(url, context);
  const { code } = transformSync(readFileSync(path, 'utf8'), {
    loader: path.endsWith('x') ? 'tsx' : 'ts',
    format: 'esm',
    jsx: 'automatic',
    target: 'node20',
    sourcefile: path,
    sourcemap: 'inline',
  });
  return { format: 'module', source: code, shortCircuit: true };
}
