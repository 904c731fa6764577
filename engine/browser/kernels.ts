import type { Kernels } from '@/kernels';
import { makeKernels } from '../wasm';

export async function compile(url: URL): Promise<WebAssembly.Module> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`a part of the application does not load (${response.status}); load the page again`);
  return WebAssembly.compile(await response.arrayBuffer());
}

/** Made at the first call, and again where that failed: what does not load now may load later. */
export function onceMade<T>(make: () => Promise<T>): () => Promise<T> {
  let made: Promise<T> | undefined;
  return () => {
    made ??= make().catch((e: unknown) => {
      made = undefined;
      throw e;
    });
    return made;
  };
}

/** The kernels of this worker, with a memory of their own. */
export const workerKernels: () => Promise<Kernels> = onceMade(async () =>
  makeKernels(await compile(new URL('../../kernels/build/kernels.wasm', import.meta.url))),
);
