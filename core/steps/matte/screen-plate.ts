import type { Plane } from '@/kernels';
import { gaussianBlur } from '../../filters/gaussian';
import { growGrey, morphologyPad } from '../../filters/morphology';
import { copyInto, copyShared, placeIn } from '../../filters/copy';
import { pushPull } from '../../filters/push-pull';
import { boxReduced, enlargedRect, reducedRect } from '../../filters/reduce';
import type { Rect } from '../../geometry/rect';
import { area, grow, height, sameRect, union, width } from '../../geometry/rect';
import { colour, integer, number } from '../../param';
import { COLOUR } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import { LightSamples } from '../../keying/light-field';
import { screenOrder } from './screen-key';

/** Smoothness in pixels from which half the size is enough. */
const COARSE = 3;

/** Of the first fit, which knows the screen only as one colour: uneven light must not be taken for the subject. */
const FIRST_TOLERANCE = 0.55;

const offsetsOf = (frames: number, apart: number): number[] =>
  Array.from({ length: frames }, (_, i) => (i - Math.floor(frames / 2)) * apart);

export const screenPlate = defineStep({
  type: 'screenPlate',
  title: 'Screen plate',
  family: 'Matte',
  summary: 'Makes a clean screen of the plate itself: the subject goes, and the screen’s colour is filled in from around it.',
  params: {
    screenColour: colour('Screen colour', [0.045, 0.254, 0.073], { pick: true, group: 'Screen' }),
    tolerance: number('Counts as screen', 0.18, [0, 0.6], {
      min: 0.01,
      max: 0.95,
      group: 'Screen',
      help: 'Coverage up to which a pixel is taken to be screen, measured against the screen around it.',
    }),
    away: number('Away from subject', 6, [0, 40], {
      unit: 'px',
      min: 0,
      max: 400,
      pixels: true,
      group: 'Screen',
      help: 'Screen this near to the subject is not trusted: it carries blur and soft shadow.',
    }),
    calm: number('Calm the noise', 2, [0, 10], {
      unit: 'px',
      min: 0,
      max: 100,
      pixels: true,
      group: 'Screen',
      help: 'For telling screen and subject apart only.',
    }),
    smooth: number('Smoothness', 4, [0, 60], { unit: 'px', min: 0, max: 500, pixels: true, group: 'Filling' }),
    frames: integer('Frames', 1, [1, 9], {
      min: 1,
      max: 15,
      animatable: false,
      group: 'Filling',
      help: 'The median over several frames sees the screen behind a subject that moves. For a camera that stands still.',
    }),
    apart: integer('Frames apart', 6, [1, 24], { min: 1, max: 240, animatable: false, group: 'Filling' }),
  },
  feeds: [{ name: 'subject', title: 'Subject', help: 'A matte of what is no screen, in the place of telling by colour alone.' }],
  writes: (_, channels) => channels.filter((c) => c === 'A' || (COLOUR as readonly string[]).includes(c)),
  frames: (p, { frame }) => ({ main: offsetsOf(p.frames, p.apart).map((d) => frame + d) }),
  locality: 'whole',
  needs: (p, want, io) => {
    const region = union(io.inputs.main!.bounds, want.region);
    return [
      ...offsetsOf(p.frames, p.apart).map((d) => ({ input: 'main', frame: io.frame + d, region, channels: COLOUR })),
      { input: 'subject', region, channels: ['A'] },
    ];
  },
  render(ctx, p, out) {
    const region = union(ctx.inputs.main!.bounds, out.region);
    // A plate that is smoothed anyhow is worked out at half its size.
    const factor = p.smooth >= COARSE ? 2 : 1;
    const at = { ...p, away: p.away / factor, calm: p.calm / factor };
    const small = reducedRect(region, factor);
    const reduced = (plane: Plane): Plane => {
      if (factor === 1) return plane;
      const to = boxReduced(ctx.kernels, plane, region, factor);
      const kept = ctx.scratch(to.length);
      kept.set(to);
      ctx.kernels.give(to);
      return kept;
    };
    const looks = offsetsOf(p.frames, p.apart).flatMap((d) => {
      const tile = ctx.tile('main', ctx.frame + d);
      if (!tile) return [];
      const fed = d === 0 ? ctx.tile('subject')?.planes.A : undefined;
      return [
        lookAt(
          ctx,
          at,
          COLOUR.map((c) => reduced(tile.planes[c]!)),
          small,
          fed && reduced(fed),
        ),
      ];
    });
    const { planes, weight } = looks.length === 1 ? looks[0]! : medianOf(ctx, looks, area(small));
    pushPull(ctx.kernels, planes, weight, width(small), height(small));
    COLOUR.forEach((c, k) => {
      const to = out.planes[c];
      if (!to) return;
      const filled = planes[k]!;
      if (factor > 1) smoothUp(ctx, filled, small, to, out.region, p.smooth);
      else if (p.smooth > 0) gaussianBlur(ctx.kernels, filled, small, to, out.region, p.smooth, p.smooth, small);
      else copyShared(ctx.kernels, filled, small, to, out.region);
    });
    out.planes.A?.fill(1);
  },
});

/** Variance, in pixels², that halving and bilinear doubling bring with them: of a box of 2 and of a triangle of 4 px. */
const DOUBLED = 3 / 12 + 4 / 6;

/** A plane of half size, blurred by a deviation that is given in whole pixels, over a region of whole pixels. */
function smoothUp<P>(ctx: RenderContext<P>, plane: Plane, have: Rect, to: Plane, want: Rect, sigma: number): void {
  const { kernels } = ctx;
  const wide = grow(reducedRect(want, 2), 2);
  const soft = ctx.scratch(area(wide));
  const rest = Math.sqrt(sigma * sigma - DOUBLED) / 2;
  gaussianBlur(kernels, plane, have, soft, wide, rest, rest, have);
  const even = enlargedRect(reducedRect(want, 2), 2);
  const whole = sameRect(even, want) ? to : ctx.scratch(area(even));
  const first = placeIn(soft, wide, even.x0 / 2, even.y0 / 2);
  kernels.fn.doubled(first, whole.byteOffset, width(even) / 2, height(even) / 2, width(wide));
  if (whole !== to) copyShared(ctx.kernels, whole, even, to, want);
}

interface Look {
  /** Colour times weight. */
  planes: Plane[];
  weight: Plane;
}

interface Settings {
  screenColour: readonly number[];
  tolerance: number;
  away: number;
  calm: number;
}

/** What of a frame is screen, measured against smooth light on it. */
function lookAt<P>(ctx: RenderContext<P>, p: Settings, given: readonly Plane[], region: Rect, subject: Plane | undefined): Look {
  const { kernels } = ctx;
  const n = area(region);
  const calm = given.map((plane) => {
    const to = ctx.scratch(n);
    if (p.calm > 0) gaussianBlur(kernels, plane, region, to, region, p.calm, p.calm, region);
    else to.set(plane);
    return to;
  });
  const weight = screenShare(ctx, calm, evenLight(ctx, calm, subject, p, region), p, region);
  if (subject) for (let i = 0; i < n; i++) weight[i]! *= 1 - Math.min(1, Math.max(0, subject[i]!));
  ctx.poll();
  if (p.away > 0) shrink(ctx, weight, region, p.away);
  const planes = given.map((plane) => {
    const to = ctx.scratch(n);
    kernels.fn.multiply(plane.byteOffset, weight.byteOffset, to.byteOffset, n);
    return to;
  });
  return { planes, weight };
}

/** Samples that are taken for the light on the screen, about. */
const SAMPLES = 6000;
/** How often samples that turn out to be no bare screen are left out and the light is fitted again. */
const ROUNDS = 5;

/**
 * The screen as smooth light on one colour, through whatever stands before it: fitted to what may be screen, and again to what
 * the fit does not find covered. A thin cloth takes away from the screen what no light adds, so it falls out on one side.
 */
function evenLight<P>(ctx: RenderContext<P>, calm: readonly Plane[], subject: Plane | undefined, p: Settings, region: Rect): Plane[] {
  const [w, h] = [width(region), height(region)];
  const [k, q, r] = screenOrder(p.screenColour);
  const least = (1 - FIRST_TOLERANCE) * (p.screenColour[k]! - Math.max(p.screenColour[q]!, p.screenColour[r]!));
  const [primary, second, third] = [calm[k]!, calm[q]!, calm[r]!];
  const stands = (i: number): number => primary[i]! - Math.max(second[i]!, third[i]!);
  const apart = Math.max(1, Math.round(Math.sqrt((w * h) / SAMPLES)));
  const places = new Int32Array(Math.ceil(w / apart) * Math.ceil(h / apart));
  let count = 0;
  for (let y = apart >> 1; y < h; y += apart) {
    for (let x = apart >> 1; x < w; x += apart) {
      const i = y * w + x;
      if (stands(i) >= least && !(subject && subject[i]! > 0.05)) places[count++] = i;
    }
  }
  const at = places.subarray(0, count);
  const valuesOf = (value: (i: number) => number): Float64Array => {
    const values = new Float64Array(count);
    for (let k = 0; k < count; k++) values[k] = value(at[k]!);
    return values;
  };
  const difference = valuesOf(stands);
  const samples = new LightSamples(
    valuesOf((i) => (2 * (i % w) + 1) / w - 1),
    valuesOf((i) => (2 * Math.floor(i / w) + 1) / h - 1),
  );
  const weights = new Float64Array(count).fill(1);
  for (let round = 0; round < ROUNDS; round++) {
    ctx.poll();
    const light = samples.values(samples.fit([difference], weights)[0]!);
    let changed = false;
    for (let k = 0; k < count; k++) {
      const weight = difference[k]! < (1 - p.tolerance) * light[k]! ? 0 : 1;
      if (weight !== weights[k]) changed = true;
      weights[k] = weight;
    }
    if (!changed) break;
  }
  const lists = calm.map((plane) => valuesOf((i) => plane[i]!));
  return samples.fit(lists, weights).map((fit) => {
    const to = ctx.scratch(w * h);
    fit.fill(ctx.kernels, to, w, h);
    return to;
  });
}

/** 1 where a pixel is screen, falling to 0 at the tolerance. */
function screenShare<P>(
  ctx: RenderContext<P>,
  planes: readonly Plane[],
  screen: readonly Plane[],
  { screenColour, tolerance }: Settings,
  region: Rect,
): Plane {
  const { fn } = ctx.kernels;
  const n = area(region);
  const share = ctx.scratch(n);
  const raw = ctx.scratch(n);
  const order = screenOrder(screenColour);
  const [a, b, c] = order.map((k) => planes[k]!.byteOffset) as [number, number, number];
  const [d, e, f] = order.map((k) => screen[k]!.byteOffset) as [number, number, number];
  fn.colourDifference(a, b, c, d, e, f, share.byteOffset, raw.byteOffset, n, 1, 0.6 * tolerance, tolerance, 0, 0, 1, -Infinity, 0);
  fn.affine(share.byteOffset, share.byteOffset, n, -1, 1);
  return share;
}

/** Changes the plane in place. */
function shrink<P>(ctx: RenderContext<P>, plane: Plane, region: Rect, radius: number): void {
  const { kernels } = ctx;
  const reach = grow(region, morphologyPad(radius));
  const wide = copyInto(kernels, plane, region, reach);
  const small = growGrey(kernels, wide, reach, region, -radius, region, () => ctx.poll());
  plane.set(small);
  [wide, small].forEach((p) => kernels.give(p));
}

/** The median of what is known, channel by channel. */
function medianOf<P>(ctx: RenderContext<P>, looks: readonly Look[], n: number): Look {
  const weight = ctx.scratch(n).fill(0);
  const planes = COLOUR.map(() => ctx.scratch(n).fill(0));
  const known: number[] = [];
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < planes.length; k++) {
      known.length = 0;
      for (const l of looks) if (l.weight[i]! > 0.5) known.push(l.planes[k]![i]! / l.weight[i]!);
      if (known.length === 0) continue;
      known.sort((a, b) => a - b);
      const m = known.length >> 1;
      planes[k]![i] = known.length % 2 ? known[m]! : (known[m - 1]! + known[m]!) / 2;
      weight[i] = 1;
    }
  }
  return { planes, weight };
}
