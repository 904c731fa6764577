import { meanThrough } from '../../filters/mean-through';
import type { Homography } from '../../geometry/homography';
import { intersect, union } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { choice, number, place, placeIn } from '../../param';
import type { ParamSchema, ParamValues } from '../../param';
import type { Format } from '../../picture';
import { formatRect } from '../../picture';
import type { StepDefinition, StepIo } from '../../step';
import { defineStep } from '../../step';
import { channelSet } from '../channel-set';

/** Pictures that are laid together at most: longer ways are stepped over in pieces of more than a pixel. */
const MOST = 64;
const degrees = Math.PI / 180;

interface Way<S extends ParamSchema> {
  type: string;
  title: string;
  summary: string;
  params: S;
  /** Pixels of the longest way that a point of the format goes. */
  length(p: ParamValues<S>, format: Format): number;
  /** Where a place of what is made is looked for at a time of −½ to ½. */
  map(p: ParamValues<S>, time: number, format: Format): Homography;
  /** Pixels to all sides that it reaches; all of the picture where it does not say. */
  reach?(p: ParamValues<S>): number;
}

const when = choice('Opens', 'middle', [
  { value: 'middle', title: 'To both sides' },
  { value: 'ahead', title: 'To one side' },
]);

/** A blur along a way that a map tells of: the mean of the picture seen from places along it. */
function alongAWay<S extends ParamSchema>(way: Way<S>): StepDefinition {
  const params = { ...way.params, when, channels: choice('Channels', 'all', channelSet.options) };
  type Own = ParamValues<S> & { when: 'middle' | 'ahead'; channels: 'all' };
  const domain = (io: StepIo<unknown>): Rect => union(io.inputs.main!.bounds, formatRect(io.inputs.main!.format));
  const region = (p: Own, want: Rect, io: StepIo<unknown>): Rect => {
    const { bounds } = io.inputs.main!;
    const reach = way.reach?.(p);
    return reach === undefined
      ? bounds
      : intersect({ x0: want.x0 - reach, y0: want.y0 - reach, x1: want.x1 + reach, y1: want.y1 + reach }, bounds);
  };
  return defineStep({
    type: way.type,
    title: way.title,
    family: 'Filter',
    summary: way.summary,
    params,
    feeds: [],
    neutral: (p, io) => way.length(p as unknown as Own, io.inputs.main!.format) < 0.05,
    bounds: (_, io) => domain(io as StepIo<unknown>),
    writes: (p, channels) => channelSet.pick((p as unknown as Own).channels, channels),
    locality: way.reach ? 'region' : 'whole',
    needs: (p, want, io) => [
      { input: 'main', region: region(p as unknown as Own, want.region, io as StepIo<unknown>), channels: want.channels },
    ],
    render(ctx, values, out) {
      const p = values as unknown as Own;
      const from = ctx.tile('main')!;
      const count = Math.max(2, Math.min(MOST, Math.ceil(way.length(p, ctx.inputs.main!.format)) + 1));
      const shift = p.when === 'ahead' ? 0.5 : 0;
      const maps = Array.from({ length: count }, (_, k) => way.map(p, (k + 0.5) / count - 0.5 + shift, ctx.inputs.main!.format));
      const channels = Object.keys(out.planes);
      meanThrough(
        ctx.kernels,
        channels.map((c) => from.planes[c]!),
        from.region,
        channels.map((c) => out.planes[c]!),
        out.region,
        maps,
        domain(ctx as StepIo<unknown>),
        () => ctx.poll(),
      );
    },
  });
}

/** About a middle: first there, then the map, then back. */
const about = ([x, y]: readonly [number, number], a: number, b: number, c: number, d: number): Homography => [
  a,
  b,
  x - a * x - b * y,
  c,
  d,
  y - c * x - d * y,
  0,
  0,
  1,
];

const corners = ({ width, height }: Format): [number, number][] => [
  [0, 0],
  [width, 0],
  [0, height],
  [width, height],
];
const farthest = (middle: readonly [number, number], format: Format): number =>
  Math.max(...corners(format).map(([x, y]) => Math.hypot(x - middle[0], y - middle[1])));

const middle = place('Middle', [0, 0]);

export const directionalBlur = alongAWay({
  type: 'directionalBlur',
  title: 'Directional blur',
  summary: 'Blurs along a line, as what moves straight past a shutter.',
  params: {
    length: number('Length', 20, [0, 100], { unit: 'px', min: 0, max: 1000, pixels: true }),
    angle: number('Angle', 0, [-180, 180], { unit: '°', help: '0° is to the right, 90° down.' }),
  },
  length: (p) => p.length,
  reach: (p) => Math.ceil(p.length) + 2,
  map: (p, t) => [1, 0, -t * p.length * Math.cos(p.angle * degrees), 0, 1, -t * p.length * Math.sin(p.angle * degrees), 0, 0, 1],
});

export const radialBlur = alongAWay({
  type: 'radialBlur',
  title: 'Radial blur',
  summary: 'Blurs around a point, as what turns past a shutter.',
  params: { middle, angle: number('Angle', 10, [0, 90], { unit: '°', min: 0, max: 360 }) },
  length: (p, format) => p.angle * degrees * farthest(placeIn(p.middle, format), format),
  map: (p, t, format) => {
    const [c, s] = [Math.cos(-t * p.angle * degrees), Math.sin(-t * p.angle * degrees)];
    return about(placeIn(p.middle, format), c, -s, s, c);
  },
});

export const zoomBlur = alongAWay({
  type: 'zoomBlur',
  title: 'Zoom blur',
  summary: 'Blurs towards a point, as what is zoomed or comes nearer past a shutter.',
  params: {
    middle,
    amount: number('Amount', 10, [0, 100], { unit: '%', min: 0, max: 400, help: 'By so much the picture grows meanwhile.' }),
  },
  length: (p, format) => (p.amount / 100) * farthest(placeIn(p.middle, format), format),
  map: (p, t, format) => {
    const s = (1 + p.amount / 100) ** -t;
    return about(placeIn(p.middle, format), s, 0, 0, s);
  },
});
