import type { Rect } from '../geometry/rect';
import { EMPTY, intersect, isEmpty, rect, union, width } from '../geometry/rect';
import { box, choice, number, toggle } from '../param';
import type { StepIo } from '../step';
import { defineStep, pixelsOf } from '../step';

interface Place {
  within: 'all' | 'box';
  box: readonly [number, number, number, number];
  feather: number;
  invert: boolean;
}

const inBox = { within: ['box'] } as const;

/** Left, top, right, bottom, whichever corners are given. */
function sides({ box: [x0, y0, x1, y1] }: Place): [number, number, number, number] {
  return [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1), Math.max(y0, y1)];
}

/** Where it can change anything; null where that is everywhere. */
function reachOf(p: Place): Rect | null {
  if (p.within === 'all' || p.invert) return null;
  const [x0, y0, x1, y1] = sides(p);
  const f = Math.max(0, p.feather);
  return rect(Math.floor(x0 - f), Math.floor(y0 - f), Math.ceil(x1 + f), Math.ceil(y1 + f));
}

/** Of the pixel whose low edge is at x: its share between two edges, or a smooth fall beyond them over `feather`. */
function coverage(x: number, low: number, high: number, feather: number): number {
  if (feather <= 0) return Math.max(0, Math.min(x + 1, high) - Math.max(x, low));
  const t = Math.min(1, Math.max(0, Math.min(x + 0.5 - low, high - x - 0.5) / feather + 1));
  return t * t * (3 - 2 * t);
}

/**
 * A zone: what its steps make of the picture, where it is. out = in + M·(steps(in) − in); mix and mask act as on any step. The planner
 * puts it after a zone's last step, with what stood before the first as its picture.
 */
export const zone = defineStep({
  type: 'zone',
  title: 'Zone',
  family: 'Join',
  summary: 'Lets a run of steps act in one place.',
  internal: true,
  params: {
    within: choice('Where', 'all', [
      { value: 'all', title: 'Everywhere' },
      { value: 'box', title: 'In a box' },
    ]),
    box: box('Box', [240, 135, 720, 405], { when: inBox }),
    feather: number('Feather', 0, [0, 200], {
      unit: 'px',
      min: 0,
      max: 8192,
      pixels: true,
      when: inBox,
      help: 'Falls off outside the box.',
    }),
    invert: toggle('Outside the box', false, { when: inBox, animatable: false }),
  },
  feeds: [{ name: 'changed', title: 'Changed', help: 'What the steps make of the picture.', required: true }],
  bounds: (p, io) => {
    const [before, after] = [io.inputs.main!.bounds, io.inputs.changed!.bounds];
    const reach = reachOf(p);
    return union(before, reach ? intersect(after, reach) : after);
  },
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...io.inputs.changed!.channels])],
  locality: 'pixel',
  needs: (p, want, io: StepIo<unknown>) => {
    const reach = reachOf(p);
    const region = reach ? intersect(want.region, reach) : want.region;
    return [
      { input: 'main', ...want },
      { input: 'changed', channels: want.channels, region: isEmpty(region) ? EMPTY : intersect(region, io.inputs.changed!.bounds) },
    ];
  },
  render(ctx, p, out) {
    const [before, after] = [ctx.tile('main')!, ctx.tile('changed')!];
    const n = pixelsOf(out);
    const { fn } = ctx.kernels;
    if (p.within === 'all') {
      for (const [c, plane] of Object.entries(out.planes)) plane.set(after.planes[c]!);
      return;
    }
    const [x0, y0, x1, y1] = sides(p);
    const { region } = out;
    const w = width(region);
    const across = Float32Array.from({ length: w }, (_, x) => coverage(region.x0 + x, x0, x1, p.feather));
    const mask = ctx.scratch(n);
    for (let y = region.y0, i = 0; y < region.y1; y++) {
      const down = coverage(y, y0, y1, p.feather);
      for (let x = 0; x < w; x++, i++) {
        const m = down * across[x]!;
        mask[i] = p.invert ? 1 - m : m;
      }
    }
    for (const [c, plane] of Object.entries(out.planes)) {
      fn.mixMasked(before.planes[c]!.byteOffset, after.planes[c]!.byteOffset, mask.byteOffset, plane.byteOffset, n, 1);
    }
  },
});
