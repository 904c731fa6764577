import type { Kernels, Plane } from '@/kernels';
import type { Losses, TrainingInput } from '@/core/learn';
import { Trainer, withLoss, writeLesson } from '@/core/learn';

/** Memory that both workers of a training see: gradients of both halves, and at which step each stands. */
export interface SharedStep {
  readonly control: Int32Array;
  readonly first: Float32Array;
  readonly second: Float32Array;
}
const [GO, DONE] = [0, 1];

export function sharedStep(buffer: SharedArrayBuffer, length: number): SharedStep {
  return {
    control: new Int32Array(buffer, 0, 16),
    first: new Float32Array(buffer, 64, length),
    second: new Float32Array(buffer, 64 + 4 * length, length),
  };
}
export const sharedBytes = (length: number): number => 64 + 8 * length;

/** Milliseconds after which a partner that does not answer is done without. */
const PATIENCE = 30_000;

/** The second worker of a training: works out the second half of each step until it is ended. Blocks. */
export function partner(kernels: Kernels, input: TrainingInput, shared: SharedStep): void {
  const trainer = new Trainer(kernels, input);
  const gradients = kernels.zeros(trainer.length);
  const { control } = shared;
  let at = 0;
  for (;;) {
    Atomics.wait(control, GO, at);
    at = Atomics.load(control, GO);
    if (at < 0) return;
    // The step before is made here as it was there.
    if (at > 1) trainer.update(shared.first, shared.second);
    trainer.half(1, gradients);
    shared.second.set(gradients);
    Atomics.store(control, DONE, at);
    Atomics.notify(control, DONE);
  }
}

export interface Report {
  readonly step: number;
  readonly loss: number;
  /** Null where nothing is held back. */
  readonly held: number | null;
  /** Of training, pauses left out. */
  readonly seconds: number;
  readonly perSecond: number;
  readonly losses: Losses;
  /** Loss of each frame that is taught. */
  readonly hard: readonly (readonly [frame: number, loss: number])[];
}

/** Steps between two measurements of what is held back, and two entries of the history. */
const MEASURED = 40;

/** A training as it goes on: steps are made in slices, so that what is asked meanwhile can be answered. */
export class Session {
  readonly trainer: Trainer;
  private readonly halves: readonly [Plane, Plane];
  private turn = 0;
  private loss = 0;
  private held: number | null = null;
  private rate = 0;
  private alone: boolean;

  constructor(
    private readonly kernels: Kernels,
    readonly input: TrainingInput,
    private readonly shared: SharedStep | null,
    private seconds = 0,
    private losses: Losses = [],
  ) {
    this.trainer = new Trainer(kernels, input);
    this.halves = [kernels.zeros(this.trainer.length), kernels.zeros(this.trainer.length)];
    this.alone = !shared;
    this.held = this.trainer.heldLoss();
    const last = losses[losses.length - 1];
    if (last) this.loss = last[1];
  }

  /** Steps for about so many milliseconds. Blocks meanwhile. */
  slice(milliseconds: number): Report {
    const started = performance.now();
    let made = 0;
    while (performance.now() - started < milliseconds) {
      this.stepOnce();
      made++;
    }
    const spent = (performance.now() - started) / 1000;
    this.seconds += spent;
    this.rate = this.rate === 0 ? made / spent : 0.8 * this.rate + (0.2 * made) / spent;
    return this.report();
  }

  private stepOnce(): void {
    const { trainer, shared } = this;
    const [a, b] = this.halves;
    let loss: number;
    if (shared && !this.alone) {
      this.turn++;
      Atomics.store(shared.control, GO, this.turn);
      Atomics.notify(shared.control, GO);
      loss = 2 * trainer.half(0, a);
      if (this.answered(shared)) b.set(shared.second);
      else {
        this.alone = true;
        trainer.half(1, b);
      }
      shared.first.set(a);
    } else loss = trainer.half(0, a) + trainer.half(1, b);
    trainer.update(a, b);
    this.loss = this.loss === 0 ? loss : 0.97 * this.loss + 0.03 * loss;
    if (trainer.step % MEASURED !== 0) return;
    this.held = trainer.heldLoss();
    this.losses = withLoss(this.losses, [trainer.step, round(this.loss), this.held === null ? -1 : round(this.held)]);
  }

  private answered({ control }: SharedStep): boolean {
    for (;;) {
      const done = Atomics.load(control, DONE);
      if (done === this.turn) return true;
      if (Atomics.wait(control, DONE, done, PATIENCE) === 'timed-out') return false;
    }
  }

  report(): Report {
    const { step } = this.trainer;
    const hard = [...this.trainer.hard].sort(([a], [b]) => a - b);
    return { step, loss: this.loss, held: this.held, seconds: this.seconds, perSecond: this.rate, losses: this.losses, hard };
  }

  /** What is learnt by now as a file; `toApply` leaves out what only a training needs. */
  file(name: string, toApply = false): Uint8Array {
    const { teaches, examples, look } = this.input;
    const state = this.trainer.state();
    const framesOf = (held: boolean): number[] => examples.filter((e) => e.held === held).map((e) => e.frame);
    const note = { name, teaches, steps: state.step, seconds: this.seconds, about: { frames: framesOf(false), heldBack: framesOf(true) } };
    return writeLesson({ note, learnt: { teaches, weights: state.means, look }, state }, toApply);
  }

  /** Lets the partner go. */
  end(): void {
    if (this.shared) {
      Atomics.store(this.shared.control, GO, -1);
      Atomics.notify(this.shared.control, GO);
    }
    this.halves.forEach((p) => this.kernels.give(p));
    this.trainer.dispose();
  }
}

const round = (v: number): number => Number(v.toPrecision(5));
