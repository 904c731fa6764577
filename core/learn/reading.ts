import type { Tap } from '../document/tap';
import type { Teaches, Variation } from './lesson';
import { variationFor } from './lesson';

/** A frame that a lesson is shown, and the lane that is right there. */
export interface LessonExample {
  readonly frame: number;
  readonly target: Tap;
  /** Not taught: how well the lesson does is measured on it. */
  readonly held: boolean;
}

/** How sure the lesson is of a frame, 0 to 1. */
export interface LessonFrame {
  readonly frame: number;
  readonly confidence: number;
  /** Mean spread between looks at the same frame. */
  readonly error: number;
  readonly flag?: 'doubtful';
}

/** A file by its contents, or by its path beside the shot file. */
export interface WeightsFile {
  /** SHA-256 of the file's bytes, hex. */
  readonly hash: string;
  readonly name: string;
  readonly path?: string;
}

/** Where a training stood. */
export interface LessonSnapshot {
  readonly id: string;
  readonly steps: number;
  /** Loss on the frames that are held back, or of the training where none is. */
  readonly loss: number;
  readonly file: WeightsFile;
}

/** How a training went: each a step, its loss, and the loss on what is held back, −1 where that was not measured. */
export type Losses = readonly (readonly [step: number, loss: number, held: number])[];

/** What a training has come to. */
export interface LearntSoFar {
  readonly weights: WeightsFile;
  readonly steps: number;
  readonly seconds: number;
  readonly losses: Losses;
}

export interface LessonParts {
  readonly teaches: Teaches;
  readonly settings: {
    readonly seed: number;
    /** The training stops by itself after so many minutes. */
    readonly minutes: number;
    readonly variation: Variation;
  };
  readonly examples: readonly LessonExample[];
  /** Lanes whose pictures may pass in front of others, by their own coverage. */
  readonly passers: readonly Tap[];
  /** What was learnt, with all that a training goes on from. */
  readonly weights: WeightsFile | null;
  readonly steps: number;
  readonly seconds: number;
  readonly losses: Losses;
  readonly snapshots: readonly LessonSnapshot[];
  readonly frames: readonly LessonFrame[];
}

export const newLesson = (teaches: Teaches): LessonParts => ({
  teaches,
  settings: { seed: 1, minutes: 2, variation: variationFor(teaches) },
  examples: [],
  passers: [],
  weights: null,
  steps: 0,
  seconds: 0,
  losses: [],
  snapshots: [],
  frames: [],
});

/** Every file that a lesson names: what is applied, and its snapshots. */
export const filesOfLesson = (lesson: Pick<LessonParts, 'weights' | 'snapshots'>): WeightsFile[] => [
  ...(lesson.weights ? [lesson.weights] : []),
  ...lesson.snapshots.map((s) => s.file),
];

/** What a step gets of a lesson; its pixels depend on the weights. */
export class LessonData {
  constructor(
    readonly teaches: Teaches,
    private readonly key: string,
  ) {}

  toJSON(): string {
    return `${this.teaches} ${this.key}`;
  }
}
