// Strips types for Jest with esbuild, which the command line is bundled with too.
import { transformSync } from 'esbuild';

export default {
  process: (source, path) => {
    const { code, map } = transformSync(source, {
      loader: path.endsWith('x') ? 'tsx' : 'ts',
      format: 'esm',
      target: 'node20',
      sourcefile: path,
      sourcemap: 'inline',
    });
    return { code, map };
  },
};
