import type { KernelExports } from '@/kernels';
import { Kernels } from '@/kernels';

/** Kernels with a memory of their own; it is shared memory so that growing keeps views valid. */
export async function makeKernels(module: WebAssembly.Module, maximumPages = 65536): Promise<Kernels> {
  const memory = new WebAssembly.Memory({ initial: 256, maximum: maximumPages, shared: true });
  const env = {
    memory,
    abort: () => {
      throw new Error('a kernel stopped');
    },
  };
  const instance = await WebAssembly.instantiate(module, { env });
  return new Kernels(instance.exports as unknown as KernelExports, memory);
}
