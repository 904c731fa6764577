import type { Kernels } from '@/kernels';
import { makeKernels } from '../wasm';

export const compile = async (url: URL): Promise<WebAssembly.Module> => WebAssembly.compile(await (await fetch(url)).arrayBuffer());

let kernels: Promise<Kernels> | undefined;

/** The kernels of this worker, with a memory of their own; made at the first call. */
export function workerKernels(): Promise<Kernels> {
  kernels ??= compile(new URL('../../kernels/build/kernels.wasm', import.meta.url)).then((module) => makeKernels(module));
  return kernels;
}
