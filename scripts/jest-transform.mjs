// Strips types for Jest with esbuild, which the command line is bundled with too.
import { createHash } from 'node:crypto';
import { stripTypes } from './strip-types.mjs';

/** Jest runs modules in a context in which every look at a global is slow: hot loops ask for these all the time. */
const HOT = ['Math', 'Number', 'Array', 'Object', 'Float32Array', 'Float64Array', 'Uint8Array', 'Int32Array'];
const banner = `const { ${HOT.join(', ')} } = globalThis;`;

export default {
  // Part of the key by which Jest keeps transformed files.
  getCacheKey: (source, path) => createHash('sha256').update(`${banner}\nv2\n${path}\n${source}`).digest('hex'),
  process: (source, path) => {
    const { code, map } = stripTypes(source, path, banner);
    return { code, map };
  },
};
