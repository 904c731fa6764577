import { build, stop } from 'esbuild';

/** Packages, and folders of the application, that a worker loads before it does anything; what it imports when wanted is not among them. */
async function loads(entry: string): Promise<Set<string>> {
  const { metafile } = await build({
    entryPoints: [entry],
    bundle: true,
    splitting: true,
    write: false,
    metafile: true,
    format: 'esm',
    outdir: 'out',
    tsconfig: 'tsconfig.json',
    external: ['*.wasm', 'node:*'],
    logLevel: 'error',
  });
  const { outputs } = metafile;
  const loaded = new Set<string>();
  const open = [Object.keys(outputs).find((o) => outputs[o]!.entryPoint === entry)!];
  const seen = new Set<string>();
  for (let o = open.pop(); o !== undefined; o = open.pop()) {
    if (seen.has(o)) continue;
    seen.add(o);
    for (const [path, { bytesInOutput }] of Object.entries(outputs[o]!.inputs)) {
      if (bytesInOutput === 0) continue;
      const pack = /node_modules\/((@[^/]+\/)?[^/]+)/.exec(path)?.[1];
      loaded.add(pack ?? path.split('/').slice(0, 2).join('/'));
    }
    for (const i of outputs[o]!.imports) if (i.kind === 'import-statement' && !i.external) open.push(i.path);
  }
  return loaded;
}

afterAll(() => stop());

describe('what a worker loads before it works', () => {
  test('the one that draws: what it draws with', async () => {
    expect([...(await loads('ui/stage/draw.worker.ts'))].sort()).toEqual(['core/colour', 'kernels/index.ts', 'ui/stage']);
  });

  test.each(['engine/browser/picture.worker.ts', 'engine/browser/reading.worker.ts', 'engine/browser/scopes.worker.ts'])(
    '%s: nothing of pages, and no readers of what few shots have',
    async (entry) => {
      const loaded = await loads(entry);
      for (const name of ['react', 'react-dom', '@mui/material', 'three', 'konva', 'mediabunny', '@gltf-transform/core'])
        expect(loaded).not.toContain(name);
      expect([...loaded].filter((name) => /^(ui|store|app)\//.test(name))).toEqual([]);
    },
  );
});
