import type { Crop, Example, LessonFile, Look, Losses, Occluder, Sheet, Teaches, TrainingInput } from '@/core/learn';
import { Applied, Varied, checkExamples, featuresOf, lookOf, meanSpread, readLesson } from '@/core/learn';
import type { Kernels } from '@/kernels';
import { shownOf } from '../lesson-input';
import type { Report } from '../training';
import { Session, partner, sharedStep } from '../training';
import { makeKernels } from '../wasm';
import { compile, onceMade, workerKernels } from './kernels';
import type { Seen } from './reading.worker';
import { serve } from './protocol';

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
/** What is judged at the moment. */
let judged: Applied | null = null;

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

  /** What a file holds; a page would be held up by its half a million numbers. Throws MediaError. */
  read: (bytes: Uint8Array, name: string): LessonFile => readLesson(bytes, name),

  /** What speaks against teaching by some frames. Throws ShotError. */
  check: (examples: readonly Example[], teaches: Teaches): string[] => checkExamples(examples, teaches),

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
  file: (name: string): Uint8Array => session!.file(name),

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

  /** Makes ready what is to be judged by `sureness`. */
  async judge(bytes: Uint8Array): Promise<void> {
    judged?.dispose();
    judged = new Applied(await learningKernels(), readLesson(bytes, 'what was learnt').learnt);
  },

  /** How far looks at a frame differ on average. */
  sureness(seen: Seen): number {
    const { width, height, input } = shownOf(seen);
    return meanSpread(judged!, input, width, height);
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

export type TrainWorker = typeof api;
serve(api);
