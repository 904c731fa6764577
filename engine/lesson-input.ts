import type { Tap } from '@/core/document';
import { ShotError } from '@/core/errors';
import type { Example, Occluder, Shown, Teaches, TrainingInput } from '@/core/learn';
import { checkExamples, sizeProblem } from '@/core/learn';
import type { Rect } from '@/core/geometry';
import type { LessonReading } from '@/core/readings';

interface Seen {
  readonly pixels: Float32Array;
  readonly region: Rect;
  readonly format: { readonly width: number; readonly height: number };
}

/** A rendered frame as lessons take it: R, G, B one after the other, and its alpha; in memory that workers share, where that is wished. */
export function shownOf({ pixels, region, format }: Seen, shared = false): Occluder {
  const { width, height } = format;
  const n = width * height;
  const floats = (count: number): Float32Array => new Float32Array(shared ? new SharedArrayBuffer(4 * count) : new ArrayBuffer(4 * count));
  const [input, alpha] = [floats(3 * n), floats(n)];
  const stride = region.x1 - region.x0;
  for (let y = Math.max(0, region.y0); y < Math.min(height, region.y1); y++)
    for (let x = Math.max(0, region.x0); x < Math.min(width, region.x1); x++) {
      const from = 4 * ((y - region.y0) * stride + x - region.x0);
      const to = y * width + x;
      for (let c = 0; c < 3; c++) input[c * n + to] = pixels[from + c]!;
      alpha[to] = pixels[from + 3]!;
    }
  return { width, height, input, alpha };
}

/** Frames whose light is lent, and on which passers are seen. */
const SAMPLES = 6;

/** What a lesson is taught by, of pictures that somebody brings. `said` is what is unwise of it. Throws ShotError where it cannot be taught. */
export async function lessonInput(
  lesson: LessonReading,
  shown: (tap: Tap, frame: number) => Promise<Occluder>,
  check: (examples: readonly Example[], teaches: Teaches) => string[] | Promise<string[]> = checkExamples,
  told: (done: number, of: number) => void = () => undefined,
): Promise<{ input: Omit<TrainingInput, 'look' | 'seed'>; said: string[] }> {
  const { teaches, range, settings } = lesson;
  const examples: Example[] = [];
  for (const { frame, target, held } of lesson.examples) {
    const [picture, right] = [await shown(lesson.from, frame), await shown(target, frame)];
    const problem = sizeProblem(frame, picture, right);
    if (problem) throw new ShotError(problem);
    const { width, height, input } = picture;
    examples.push({ frame, width, height, input, target: teaches === 'matte' ? right.alpha : right.input, held });
    told(examples.length, lesson.examples.length);
  }
  const said = await check(examples, teaches);
  const spread = [
    ...new Set(Array.from({ length: SAMPLES }, (_, i) => Math.round(range.first + ((range.last - range.first) * (i + 0.5)) / SAMPLES))),
  ];
  const others: Shown[] = [];
  if (settings.variation.light > 0) for (const f of spread) others.push(await shown(lesson.from, f));
  const occluders: Occluder[] = [];
  for (const tap of lesson.passers) for (const f of spread) occluders.push(await shown(tap, f));
  return { input: { teaches, variation: settings.variation, examples, others, occluders }, said };
}
