import type { Plane } from '@/kernels';
import { copyShared } from '../../filters/copy';
import { LOOKS, raiseSpread } from '../../learn/apply';
import { enlarge, halve } from '../../learn/proxy';
import type { LessonData } from '../../learn/reading';
import { rect, union } from '../../geometry/rect';
import { choice, lesson, toggle } from '../../param';
import { COLOUR, formatRect } from '../../picture';
import { defineStep } from '../../step';

/** Channels that it can deliver besides: how sure the lesson is, and where a change acts. */
export const SURENESS = 'lesson.sureness';
export const ACTS = 'lesson.acts';

const isMatte = (data: LessonData | null): boolean => data?.teaches === 'matte';

export const learn = defineStep({
  type: 'learn',
  title: 'Learn from frames',
  family: 'Matte',
  summary: 'Does on every frame what a lesson was taught by a few: a matte, a change, or the light of others.',
  params: {
    lesson: lesson('Lesson', { help: 'Made and taught under Readings.' }),
    output: choice(
      'Colour out',
      'matte',
      [
        { value: 'matte', title: 'Plate unchanged', help: 'The matte is the alpha, the colour is left as it is.' },
        { value: 'multiply', title: 'Multiplied by matte' },
      ],
      { group: 'A matte' },
    ),
    within: toggle('Within the alpha', false, { group: 'A matte', help: 'The matte covers at most what was covered before.' }),
    sureness: toggle('Sureness', false, {
      group: 'Besides',
      help: 'A channel that is 1 where three looks at the frame agree; it takes three times as long.',
    }),
    acts: toggle('Where it acts', false, { group: 'Besides', help: 'Of a change: a channel that is 1 where the picture is changed.' }),
  },
  feeds: [],
  idle: (params, readings) => {
    const lesson = readings.find((r) => r.id === params.lesson);
    return lesson?.kind !== 'lesson' ? [] : lesson.teaches === 'matte' ? ['acts'] : ['output', 'within'];
  },
  neutral: (p) => p.lesson === null,
  remark: (p) => (p.lesson === null ? 'its lesson has learnt nothing yet: choose one, or train it under Readings' : null),
  channels: (p, io) => [
    ...new Set([
      ...io.inputs.main!.channels,
      ...(isMatte(p.lesson) ? ['A'] : COLOUR),
      ...(p.sureness ? [SURENESS] : []),
      ...(p.acts && !isMatte(p.lesson) ? [ACTS] : []),
    ]),
  ],
  writes: (p, channels) =>
    channels.filter(
      (c) =>
        c === SURENESS ||
        c === ACTS ||
        (isMatte(p.lesson)
          ? c === 'A' || (p.output === 'multiply' && (COLOUR as readonly string[]).includes(c))
          : (COLOUR as readonly string[]).includes(c)),
    ),
  locality: 'whole',
  needs: (_, { region }, io) => {
    const whole = formatRect(io.inputs.main!.format);
    return [{ input: 'main', region: union(whole, region), channels: [...COLOUR, 'A'] }];
  },
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const main = ctx.tile('main')!;
    const applied = ctx.lesson('lesson')!;
    const { width: w, height: h } = ctx.inputs.main!.format;
    const n = w * h;
    const frame = rect(0, 0, w, h);
    // The frame's own pixels, whatever lies around it.
    const own = (c: string): Plane => {
      const plane = ctx.scratch(n);
      copyShared(ctx.kernels, main.planes[c]!, main.region, plane, frame);
      return plane;
    };
    const rgb = COLOUR.map(own);
    const matte = isMatte(p.lesson);
    const results = (matte ? [0] : [0, 1, 2, 3]).map(() => ctx.scratch(n));
    const poll = (): void => ctx.poll();
    // What is seen at a quarter of the size is too unlike what was taught: it is looked at twice as large.
    const large = ctx.scale < 0.5 ? rgb.map(() => ctx.scratch(4 * n)) : null;
    large?.forEach((plane, c) => enlarge(rgb[c]!, w, h, plane));
    const soft =
      large && !matte
        ? large.map((plane) => {
            const half = ctx.scratch(n);
            halve(plane, w, h, half);
            return half;
          })
        : null;
    const largeResults = large && results.map(() => ctx.scratch(4 * n));
    const lookInto = (to: readonly Plane[], look: (typeof LOOKS)[number]): void => {
      if (!large || !largeResults) return applied.run(rgb, w, h, to, poll, look);
      applied.run(large, 2 * w, 2 * h, largeResults, poll, look);
      to.forEach((plane, k) => halve(largeResults[k]!, w, h, plane));
      // Of a picture only the change is taken: the rest keeps its detail.
      if (!matte) for (let c = 0; c < 3; c++) for (let i = 0; i < n; i++) to[c]![i] = to[c]![i]! - soft![c]![i]! + rgb[c]![i]!;
    };
    lookInto(results, LOOKS[0]);
    /** A plane of the frame into one of what is written; `outside` where that reaches further. */
    const put = (plane: Float32Array, channel: string, outside: (i: number) => number): void => {
      const to = out.planes[channel];
      if (!to) return;
      const { region } = out;
      let i = 0;
      for (let y = region.y0; y < region.y1; y++)
        for (let x = region.x0; x < region.x1; x++, i++)
          to[i] = x >= frame.x0 && x < frame.x1 && y >= frame.y0 && y < frame.y1 ? plane[y * w + x]! : outside(i);
    };
    if (p.sureness && out.planes[SURENESS]) {
      const spread = ctx.scratch(n).fill(0);
      const other = results.map(() => ctx.scratch(n));
      for (const look of LOOKS.slice(1)) {
        lookInto(other, look);
        raiseSpread(spread, other.slice(0, matte ? 1 : 3), results);
      }
      for (let i = 0; i < n; i++) spread[i] = Math.max(0, 1 - 4 * spread[i]!);
      put(spread, SURENESS, () => 1);
    }
    if (!matte) {
      COLOUR.forEach((c, k) => put(results[k]!, c, (i) => main.planes[c]![i]!));
      put(results[3]!, ACTS, () => 0);
      return;
    }
    const a = results[0]!;
    if (p.within) fn.multiply(a.byteOffset, own('A').byteOffset, a.byteOffset, n);
    put(a, 'A', () => 0);
    if (p.output === 'multiply')
      COLOUR.forEach((c, k) => {
        fn.multiply(rgb[k]!.byteOffset, a.byteOffset, rgb[k]!.byteOffset, n);
        put(rgb[k]!, c, () => 0);
      });
  },
});
