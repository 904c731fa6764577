import type { Plane } from '@/kernels';
import { gaussianBlur, gaussianRegion } from '../../filters/gaussian';
import { padTo } from '../../filters/pad';
import { EDGES, pushPixels } from '../../filters/push';
import { FILTERS } from '../../filters/resample';
import { mapRegion } from '../../filters/sample';
import { area, grow, height, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { choice, number, point, toggle } from '../../param';
import { RGBA, domainOf } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import type { DriverChannel as Channel } from '../over-frame';
import { DRIVER_CHANNELS, overFrame, sameSize } from '../over-frame';

const channels = { by: ['channels'] } as const;
const driven = { by: ['channels', 'slope'] } as const;

/** Pixels around what is made of which slopes are taken. */
const AROUND = 2;

/**
 * Displacement: out(x) = main(x + d(x)). d is amount·(driver − centre), by channels; amount·∇driver, by slope, as a height over the water bends what is
 * mirrored in it; or, of a picture's own edge, towards the inside along the slope of its alpha, so that colour is pushed outwards.
 */
export const displace = defineStep({
  type: 'displace',
  title: 'Displace',
  family: 'Place & warp',
  summary: 'Pushes pixels by another picture, or colour outwards over its own edge.',
  params: {
    by: choice('Pushed by', 'channels', [
      { value: 'channels', title: 'Channels of the driver', help: 'One says how far along x, one along y.' },
      { value: 'slope', title: 'Slopes of the driver', help: 'Its brightness is a height: pixels are pushed downhill.' },
      { value: 'edge', title: 'Its own edge, outwards', help: 'Colour fills a matte that is some pixels too wide.' },
    ]),
    x: choice('Along x', 'R', DRIVER_CHANNELS, { when: channels }),
    y: choice('Along y', 'G', DRIVER_CHANNELS, { when: channels }),
    centre: number('Neutral value', 0.5, [0, 1], { when: channels, help: 'This value of the driver pushes nowhere.' }),
    amount: point('Amount x, y', [20, 20], { unit: 'px', pixels: true, when: driven }),
    soften: number('Soften driver', 0, [0, 30], { unit: 'px', min: 0, max: 500, pixels: true, when: driven }),
    outwards: number('Outwards by', 4, [0, 30], { unit: 'px', min: 0, max: 200, pixels: true, when: { by: ['edge'] } }),
    filter: choice('Filter', 'catmullRom', FILTERS),
    edge: choice('Beyond the edges', 'hold', EDGES, { when: driven }),
    alpha: toggle('Alpha too', true, { animatable: false, when: driven }),
    folds: toggle('Show folds', false, {
      animatable: false,
      help: 'Red where pixels are pushed past their neighbours, so that the picture folds over.',
    }),
  },
  feeds: [
    { name: 'driver', title: 'Driver', help: 'The picture that pushes.', data: true },
    { name: 'reach', title: 'How far', help: 'Its alpha says how far pixels are pushed: not at all where 0.', matte: true },
  ],
  remark: (p, io) => (p.by !== 'edge' && !io.inputs.driver ? 'connect the picture that pushes' : null),
  neutral: (p, io) => (p.by === 'edge' ? p.outwards === 0 : !io.inputs.driver || (p.amount[0] === 0 && p.amount[1] === 0)),
  bounds: (p, io) => (p.by === 'edge' ? io.inputs.main!.bounds : domainOf(io.inputs.main!)),
  writes: (p, list) => (p.alpha && p.by !== 'edge' ? list : list.filter((c) => c !== 'A')),
  locality: 'region',
  needs(p, { region, channels: list }, io) {
    const main = io.inputs.main!;
    const wide = grow(mapRegion(region), AROUND);
    if (p.by === 'edge') {
      const far = Math.ceil(p.outwards) + 4;
      return [
        { input: 'main', region: grow(gaussianRegion(wide, spreadOf(p.outwards), spreadOf(p.outwards)), far), channels: [...list, 'A'] },
      ];
    }
    const driver = io.inputs.driver!;
    const soften = Math.min(p.soften, Math.max(main.format.width, main.format.height) / 2);
    const whole = sameSize(main.format, driver.format) ? gaussianRegion(wide, soften, soften) : driver.bounds;
    return [
      { input: 'main', region: main.bounds, channels: list },
      { input: 'driver', region: whole, channels: RGBA },
      ...(io.inputs.reach ? [{ input: 'reach', region: io.inputs.reach.bounds, channels: ['A'] as readonly string[] }] : []),
    ];
  },
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    const { bounds, format } = ctx.inputs.main!;
    const all = mapRegion(out.region);
    const n = area(all);
    const [dx, dy] = [ctx.scratch(n), ctx.scratch(n)];
    if (p.by === 'edge') ownEdge(ctx, p.outwards, all, dx, dy);
    else {
      const [ax, ay] = p.amount;
      const d = driverOver(ctx, Math.min(p.soften, Math.max(format.width, format.height) / 2), grow(all, AROUND));
      if (p.by === 'slope') slopes(d.of('luma'), all, dx, dy, -ax, -ay);
      else {
        const [fx, fy] = [d.of(p.x as Channel), d.of(p.y as Channel)];
        const w = width(all);
        for (let i = 0; i < n; i++) {
          const o = (Math.floor(i / w) + AROUND) * (w + 2 * AROUND) + (i % w) + AROUND;
          dx[i] = ax * (fx[o]! - p.centre);
          dy[i] = ay * (fy[o]! - p.centre);
        }
      }
      const reach = overFrame(ctx, 'reach', 'A', all);
      if (reach) for (let i = 0; i < n; i++) [dx[i], dy[i]] = [dx[i]! * reach[i]!, dy[i]! * reach[i]!];
    }
    const folded = p.folds ? foldsOf(dx, dy, all, out.region) : null;
    const names = Object.keys(out.planes);
    const outs = names.map((c) => out.planes[c]!);
    const options = {
      filter: p.filter,
      edge: p.by === 'edge' ? ('hold' as const) : p.edge,
      domain: p.by === 'edge' ? bounds : domainOf({ bounds, format }),
      poll: () => ctx.poll(),
    };
    if (p.by === 'edge') {
      // Colour without coverage is moved, and laid under the coverage that is there.
      const moved = ctx.scratch(area(out.region));
      const planes = [...names.map((c) => main.planes[c]!), main.planes.A!];
      pushPixels(ctx.kernels, planes, main.region, [...outs, moved], out.region, [dx, dy], options);
      const own = ctx.scratch(area(out.region)).fill(0);
      padTo(main.planes.A!, main.region, own, out.region, bounds);
      for (const o of outs) for (let i = 0; i < o.length; i++) o[i] = moved[i]! > 1e-4 ? (o[i]! / moved[i]!) * own[i]! : 0;
    } else {
      pushPixels(
        ctx.kernels,
        names.map((c) => main.planes[c]!),
        main.region,
        outs,
        out.region,
        [dx, dy],
        options,
      );
    }
    if (folded) for (const c of ['R', 'G', 'B']) folded.forEach((f, i) => f && out.planes[c] && (out.planes[c][i] = c === 'R' ? 1 : 0));
  },
});

const spreadOf = (outwards: number): number => Math.max(1, outwards / 2);

type Context = RenderContext<unknown>;

/** The driver's channels over a region, softened. */
function driverOver(ctx: Context, soften: number, region: Rect): { of(c: Channel): Plane } {
  const wide = gaussianRegion(region, soften, soften);
  return {
    of(c) {
      const plane = overFrame(ctx, 'driver', c, wide)!;
      if (soften === 0) return plane;
      const to = ctx.scratch(area(region));
      gaussianBlur(ctx.kernels, plane, wide, to, region, soften, soften);
      return to;
    },
  };
}

/** Slopes of a plane that is `AROUND` wider than the region, times an amount. */
function slopes(plane: Plane, region: Rect, dx: Plane, dy: Plane, ax: number, ay: number): void {
  const [w, h] = [width(region), height(region)];
  const stride = w + 2 * AROUND;
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0, o = (y + AROUND) * stride + AROUND; x < w; x++, i++, o++) {
      dx[i] = (ax * (plane[o + 1]! - plane[o - 1]!)) / 2;
      dy[i] = (ay * (plane[o + stride]! - plane[o - stride]!)) / 2;
    }
  }
}

/** Inwards along the slope of alpha, as far as asked for where that is as steep as a straight edge's. */
function ownEdge(ctx: Context, outwards: number, region: Rect, dx: Plane, dy: Plane): void {
  const main = ctx.tile('main')!;
  const sigma = spreadOf(outwards);
  const wide = grow(region, AROUND);
  const from = gaussianRegion(wide, sigma, sigma);
  const alpha = ctx.scratch(area(from));
  padTo(main.planes.A!, main.region, alpha, from, domainOf(ctx.inputs.main!));
  const soft = ctx.scratch(area(wide));
  gaussianBlur(ctx.kernels, alpha, from, soft, wide, sigma, sigma);
  slopes(soft, region, dx, dy, 1, 1);
  const steepest = 1 / (sigma * Math.sqrt(2 * Math.PI));
  for (let i = 0; i < dx.length; i++) {
    const length = Math.hypot(dx[i]!, dy[i]!);
    const k = length > 1e-6 ? (outwards * Math.min(1, (2 * length) / steepest)) / length : 0;
    dx[i]! *= k;
    dy[i]! *= k;
  }
}

/** Where a displacement turns the order of neighbours round: its Jacobian is not above 0. */
function foldsOf(dx: Plane, dy: Plane, all: Rect, region: Rect): Uint8Array {
  const [w, ow] = [width(all), width(region)];
  const out = new Uint8Array(area(region));
  for (let y = 0, i = 0; y < height(region); y++) {
    for (let x = 0; x < ow; x++, i++) {
      const o = y * w + x;
      const [a, b] = [1 + dx[o + 1]! - dx[o]!, dx[o + w]! - dx[o]!];
      const [c, d] = [dy[o + 1]! - dy[o]!, 1 + dy[o + w]! - dy[o]!];
      out[i] = Number(a * d - b * c <= 0);
    }
  }
  return out;
}
