// How Node.js imports TypeScript (see ts-loader.mjs): types are stripped by esbuild; `@/` is this folder.
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { stripTypes } from './strip-types.mjs';

const root = new URL('../', import.meta.url);
const ENDINGS = ['.ts', '.tsx', '/index.ts', '.mjs'];

export function resolve(specifier, context, next) {
  const ours = specifier.startsWith('@/') ? new URL(specifier.slice(2), root) : null;
  const url =
    ours ?? (/^\.\.?(\/|$)/.test(specifier) && context.parentURL?.startsWith('file:') ? new URL(specifier, context.parentURL) : null);
  if (!url || url.pathname.includes('/node_modules/') || /\.(tsx?|[cm]?js|json)$/.test(url.pathname))
    return next(ours?.href ?? specifier, context);
  const path = fileURLToPath(url).replace(/\/$/, '');
  const ending = ENDINGS.find((e) => existsSync(path + e));
  return ending ? { url: pathToFileURL(path + ending).href + url.search, shortCircuit: true } : next(url.href, context);
}

export function load(url, context, next) {
  const path = url.startsWith('file:') ? fileURLToPath(url.replace(/\?.*/, '')) : '';
  if (!/\.tsx?$/.test(path)) return next(url, context);
  const { code } = stripTypes(readFileSync(path, 'utf8'), path);
  return { format: 'module', source: code, shortCircuit: true };
}
