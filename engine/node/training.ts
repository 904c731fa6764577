import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { Worker, workerData } from 'node:worker_threads';
import type { TrainingInput } from '@/core/learn';
import { placesOf, setsOf } from '@/core/learn';
import type { Kernels } from '@/kernels';
import type { Report } from '../training';
import { Session, partner, sharedBytes, sharedStep } from '../training';
import { makeKernels } from '../wasm';
import { nodeKernels } from './host';

/** Kernels that fuse multiply and add, where this Node.js knows how. */
export async function learningKernels(): Promise<Kernels> {
  try {
    setFlagsFromString('--experimental-wasm-relaxed-simd');
    const file = join(process.env.OSTRACON_ROOT ?? process.cwd(), 'kernels/build/kernels-relaxed.wasm');
    return await makeKernels(await WebAssembly.compile(await readFile(file)));
  } catch {
    return nodeKernels();
  }
}

interface PartnerData {
  training: { input: TrainingInput; shared: SharedArrayBuffer; length: number };
}

/** Works out the second half of each step: what a process does that was started as a training's second worker. */
export async function serveTraining(): Promise<void> {
  const { input, shared, length } = (workerData as PartnerData).training;
  partner(await learningKernels(), input, sharedStep(shared, length));
}

export const isPartner = (data: unknown): boolean => typeof data === 'object' && data !== null && 'training' in data;

/**
 * Trains until `enough` says so; `told` hears a few times a second. With `entry`, a second worker is started there, which must call
 * `serveTraining`. The session is the caller's to end.
 */
export async function trainInNode(
  input: TrainingInput,
  enough: (r: Report) => boolean,
  told: (r: Report) => void = () => undefined,
  entry?: URL,
  started: (s: Session) => void = () => undefined,
): Promise<{ session: Session; stop(): Promise<void> }> {
  const kernels = await learningKernels();
  const { length } = placesOf(setsOf(input.teaches));
  const buffer = entry ? new SharedArrayBuffer(sharedBytes(length)) : null;
  const worker = entry && new Worker(entry, { workerData: { training: { input, shared: buffer!, length } } satisfies PartnerData });
  const session = new Session(kernels, input, buffer && sharedStep(buffer, length));
  started(session);
  let report = session.report();
  while (!enough(report)) {
    report = session.slice(250);
    told(report);
    await new Promise((done) => setImmediate(done));
  }
  return {
    session,
    stop: async () => {
      session.end();
      await worker?.terminate();
    },
  };
}
