import { spansOfLine } from '../../filters/aperture';
import { tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';
import { copyShared } from '../../filters/copy';
import type { Plane } from '@/kernels';
import type { Homography } from '../../geometry/homography';
import type { Rect } from '../../geometry/rect';
import { area, grow, intersect, isEmpty } from '../../geometry/rect';
import { choice, number, place, placeIn } from '../../param';
import type { ParamSchema, ParamValues } from '../../param';
import type { Format } from '../../picture';
import { domainOf } from '../../picture';
import type { StepDefinition } from '../../step';
import { defineStep } from '../../step';
import { channelSet } from '../channel-set';
import { around, blurBySpans } from './spread';

const degrees = Math.PI / 180;

const when = choice('Direction', 'middle', [
  { value: 'middle', title: 'To both sides' },
  { value: 'ahead', title: 'To one side' },
]);
const channels = choice('Channels', 'all', channelSet.options);

/** A line longer than the picture leaves nothing to be seen. */
const lengthIn = (length: number, { width, height }: Format): number => Math.min(length, 2 * Math.max(width, height));

export const directionalBlur = defineStep({
  type: 'directionalBlur',
  title: 'Directional blur',
  family: 'Filter',
  summary: 'Blurs along a line, as what moves straight past a shutter.',
  params: {
    length: number('Length', 20, [0, 100], { unit: 'px', min: 0, max: 1000, pixels: true }),
    angle: number('Angle', 0, [-180, 180], { unit: '°', help: '0° is to the right, 90° down.' }),
    when,
    channels,
  },
  feeds: [],
  neutral: (p) => p.length < 0.05,
  bounds: (_, io) => domainOf(io.inputs.main!),
  writes: (p, list) => channelSet.pick(p.channels, list),
  locality: 'region',
  needs: (p, want, io) => {
    const { bounds, format } = io.inputs.main!;
    return [
      { input: 'main', region: intersect(grow(want.region, Math.ceil(lengthIn(p.length, format)) + 3), bounds), channels: want.channels },
    ];
  },
  render(ctx, p, out) {
    const length = lengthIn(p.length, ctx.inputs.main!.format);
    blurBySpans(ctx, out, spansOfLine(length, p.angle * degrees, p.when === 'ahead'));
  },
});

interface Way<S extends ParamSchema> {
  type: string;
  title: string;
  summary: string;
  params: S;
  /** Pixels of the longest way that a point of the format goes. */
  length(p: ParamValues<S>, format: Format): number;
  /** Where a place of what is made is looked for at a part of the way, 1 all of it: maps of parts that add up follow each other. */
  map(p: ParamValues<S>, part: number, format: Format): Homography;
}

/** Looks along a way: 2 to this, at most. */
const DOUBLINGS = 7;
/** Pixels beyond the frame over which its edge goes on. */
const MARGIN = 192;

/**
 * A blur along a way that a group of maps tells of, by doubling: the mean of two looks at what is there, half a step to each side; then of two at that, twice
 * as far apart, and so on.
 */
function alongAWay<S extends ParamSchema>(way: Way<S>): StepDefinition {
  const params = { ...way.params, when, channels };
  type Own = ParamValues<S> & { when: 'middle' | 'ahead'; channels: 'all' };
  return defineStep({
    type: way.type,
    title: way.title,
    family: 'Filter',
    summary: way.summary,
    params,
    feeds: [],
    neutral: (p, io) => way.length(p as unknown as Own, io.inputs.main!.format) < 0.05,
    bounds: (_, io) => domainOf(io.inputs.main!),
    writes: (p, list) => channelSet.pick((p as unknown as Own).channels, list),
    locality: 'whole',
    needs: (_, want, io) => [{ input: 'main', region: io.inputs.main!.bounds, channels: want.channels }],
    render(ctx, values, out) {
      const p = values as unknown as Own;
      const { kernels } = ctx;
      const { format } = ctx.inputs.main!;
      const names = Object.keys(out.planes);
      if (isEmpty(ctx.tile('main')!.region)) return names.forEach((c) => void out.planes[c]!.fill(0));
      const length = way.length(p, format);
      // To both sides, half of it is the farthest that is looked at.
      const reach = p.when === 'ahead' ? length : length / 2;
      /** What is needed where the steps that are left take a share of the way. */
      const needed = (share: number): Rect => grow(out.region, Math.min(MARGIN, Math.ceil(reach * share) + 3));
      let have = needed(1);
      let planes = around(ctx as never, names, have);
      let spare = names.map(() => ctx.scratch(area(have)));
      const doublings = Math.max(1, Math.min(DOUBLINGS, Math.ceil(Math.log2(length + 1))));
      // Once it is soft, what lies between pixels is told well enough by a straight line.
      const [sharp, soft] = [tapsOf('catmullRom'), tapsOf('bilinear')];
      for (let k = 0; k < doublings; k++) {
        // Steps of the k-th pass are 2ᵏ of the 2ⁿ that the way has.
        const step = 2 ** (k - doublings);
        const packed = Packed.of(kernels, planes, have);
        have = needed(1 - 2 * step);
        const made = spare.map((m) => m.subarray(0, area(have)) as Plane);
        made.forEach((m) => m.fill(0));
        try {
          for (const side of p.when === 'ahead' ? [0, 1] : [-0.5, 0.5]) {
            sampleThrough(kernels, packed, made, have, way.map(p, side * step, format), k < 1 ? sharp : soft, {
              gain: 0.5,
              lays: 'add',
              poll: () => ctx.poll(),
            });
          }
        } finally {
          packed.give();
        }
        [planes, spare] = [made, planes];
      }
      names.forEach((c, i) => copyShared(kernels, planes[i]!, have, out.planes[c]!, out.region));
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

export const radialBlur = alongAWay({
  type: 'radialBlur',
  title: 'Radial blur',
  summary: 'Blurs around a point, as what turns past a shutter.',
  params: { middle, angle: number('Angle', 10, [0, 90], { unit: '°', min: 0, max: 360 }) },
  length: (p, format) => p.angle * degrees * farthest(placeIn(p.middle, format), format),
  map: (p, part, format) => {
    const [c, s] = [Math.cos(-part * p.angle * degrees), Math.sin(-part * p.angle * degrees)];
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
  map: (p, part, format) => {
    const s = (1 + p.amount / 100) ** -part;
    return about(placeIn(p.middle, format), s, 0, 0, s);
  },
});
