import { expose } from 'comlink';
import { Applied, LOOKS } from '@/core/learn/apply';
import type { Learnt } from '@/core/learn/apply';
import { featuresOf } from '@/core/learn/choose';
import type { Example, Shown, Teaches } from '@/core/learn/lesson';
import { setsOf } from '@/core/learn/lesson';
import type { LessonNote } from '@/core/learn/lesson-file';
import { readLesson, writeLesson } from '@/core/learn/lesson-file';
import type { Losses } from '@/core/learn/reading';
import type { Look } from '@/core/learn/look';
import { lookOf } from '@/core/learn/look';
import type { Sheet, TrainingInput } from '@/core/learn/trainer';
import type { Crop, Occluder } from '@/core/learn/variation';
import { Varied } from '@/core/learn/variation';
import type { Kernels } from '@/kernels';
import { shownOf } from '../lesson-input';
import type { Report } from '../training';
import { Session, partner, sharedStep } from '../training';
import { makeKernels } from '../wasm';
import { compile, onceMade, workerKernels } from './kernels';
import type { Seen } from './reading.worker';

/** Kernels that fuse multiply and add, where the browser knows how. What is applied to a shot does without, so that it is the same everywhere. */
const learningKernels: () => Promise<Kernels> = onceMade(async () => {
  try {
    return await makeKernels(await compile(new URL('../../kernels/build/kernels-relaxed.wasm', import.meta.url)));
  } catch {
    return workerKernels();
  }
});

export interface TrainingStart {
  readonly input: TrainingInput;
  /** Memory that is shared with a partner, where there is one. */
  readonly shared: SharedArrayBuffer | null;
  readonly length: number;
  readonly seconds: number;
  readonly losses: Losses;
}

/** Milliseconds of steps between two looks at what was asked meanwhile. */
const SLICE = 120;

let session: Session | null = null;
let paused = true;

const breathe = (): Promise<void> =>
  new Promise((done) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => done();
    port2.postMessage(null);
  });

const api = {
  /** A frame of the page as lessons take it, in memory that both workers see; with its alpha. */
  shown: (seen: Seen): Occluder => shownOf(seen, true),

  look: (examples: readonly Example[], teaches: Teaches): Look => lookOf(examples, teaches),

  sheet: (count: number): Sheet[] => session?.trainer.sheet(count) ?? [],

  /** Which kernels it has. */
  fuses: async (): Promise<boolean> => (await learningKernels()).fn.fusesMultiplyAdd() === 1,

  async begin({ input, shared, length, seconds, losses }: TrainingStart): Promise<Report> {
    session?.end();
    session = new Session(await learningKernels(), input, shared && sharedStep(shared, length), seconds, losses);
    return session.report();
  },

  /** Steps until it is paused or as many seconds were trained; `told` gets what came of it a few times a second. */
  async run(until: number, told: (r: Report) => void): Promise<Report> {
    paused = false;
    let report = session!.report();
    let last = 0;
    while (!paused && report.seconds < until) {
      report = session!.slice(SLICE);
      if (performance.now() - last > 800) {
        told(report);
        last = performance.now();
      }
      await breathe();
    }
    return report;
  },

  pause(): void {
    paused = true;
  },

  /** What is learnt by now, as a file. */
  file(note: Omit<LessonNote, 'steps' | 'seconds'>): Uint8Array {
    const { trainer, input } = session!;
    const state = trainer.state();
    const { seconds } = session!.report();
    return writeLesson({
      note: { ...note, steps: state.step, seconds },
      learnt: { teaches: input.teaches, weights: state.means, look: input.look },
      state,
    });
  },

  /** Crops as they are fed: some of those that come next. */
  fed: (count: number): Crop[] => {
    const { trainer, input } = session!;
    return Array.from({ length: count }, (_, i) => trainer.varied.crop(input.seed, trainer.step * 4 + i));
  },

  /** The same of frames that are not trained with. */
  vary: (
    { teaches, examples, variation, others, occluders }: Omit<TrainingInput, 'look' | 'seed'>,
    seed: number,
    count: number,
  ): Crop[] => {
    const varied = new Varied(teaches, examples, variation, others, occluders);
    return Array.from({ length: count }, (_, i) => varied.crop(seed, i));
  },

  /** How far looks at a frame differ on average, and what it is like. */
  async sureness(bytes: Uint8Array, seen: Seen): Promise<number> {
    const learnt = readLesson(bytes, 'what was learnt').learnt;
    return spreadOf(await learningKernels(), learnt, shownOf(seen));
  },

  features: (seen: Seen): Float32Array => featuresOf(shownOf(seen)),

  end(): void {
    session?.end();
    session = null;
  },

  /** The second half of each step, until it is ended: blocks this worker. */
  async help({ input, shared, length }: TrainingStart): Promise<void> {
    partner(await learningKernels(), input, sharedStep(shared!, length));
  },
};

/** Mean difference between looks at a frame, where any of them sees something in doubt. */
function spreadOf(kernels: Kernels, learnt: Learnt, { width, height, input }: Shown): number {
  const n = width * height;
  const applied = new Applied(kernels, learnt);
  try {
    const rgb = [0, 1, 2].map((c) => input.subarray(c * n, (c + 1) * n));
    const count = setsOf(learnt.teaches);
    const [first, ...others] = LOOKS.map((look) => {
      const out = Array.from({ length: count }, () => new Float32Array(n));
      applied.run(rgb, width, height, out, () => undefined, look);
      return out[count - 1]!;
    });
    let sum = 0;
    for (let i = 0; i < n; i++) sum += Math.max(...others.map((o) => Math.abs(o[i]! - first![i]!)));
    return sum / n;
  } finally {
    applied.dispose();
  }
}

export type TrainWorker = typeof api;
expose(api);
