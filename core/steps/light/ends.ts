import { padTo } from '../../filters/pad';
import { tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';
import { grow, intersect, isEmpty } from '../../geometry/rect';
import { choice, number, place, placeIn, toggle } from '../../param';
import { COLOUR, domainOf } from '../../picture';
import { defineStep } from '../../step';

/** Far beyond the corners the power would have no end. */
const MOST_STOPS = 24;

const centred = { middle: place('Middle', [0, 0]) };

/** Natural falloff: cos⁴ of the angle to the axis; by hand: a power of the distance, where the corner is 1. */
export const vignette = defineStep({
  type: 'vignette',
  title: 'Vignette',
  family: 'Light & air',
  summary: 'Darkens towards the corners as a lens does, or takes such darkening out.',
  params: {
    by: choice('Given by', 'stops', [
      { value: 'stops', title: 'Stops in the corner' },
      { value: 'lens', title: 'A focal length', help: 'The natural falloff of a lens, cos⁴.' },
    ]),
    corner: number('Corner', -1, [-4, 2], { unit: 'stops', min: -20, max: 8, when: { by: ['stops'] } }),
    power: number('Power', 2.5, [1, 6], { min: 0.2, max: 20, when: { by: ['stops'] }, help: 'Higher leaves more of the middle as it is.' }),
    focal: number('Focal length', 28, [12, 100], { unit: 'mm', min: 1, max: 2000, when: { by: ['lens'] } }),
    filmWidth: number('Film width', 36, [4, 70], { unit: 'mm', min: 1, max: 500, when: { by: ['lens'] } }),
    remove: toggle('Remove instead', false),
    ...centred,
  },
  feeds: [],
  colour: true,
  neutral: (p) => p.by === 'stops' && p.corner === 0,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  // Of where the pixel lies, and of nothing else.
  needs: (_, want) => [{ input: 'main', region: want.region, channels: want.channels }],
  render(ctx, p, out) {
    const { format } = ctx.inputs.main!;
    const [cx, cy] = placeIn(p.middle, format);
    const corner = Math.hypot(format.width, format.height) / 2;
    const focal = (p.focal / p.filmWidth) * format.width;
    const { x0, x1, y0, y1 } = out.region;
    const [w, h] = [x1 - x0, y1 - y0];
    const main = ctx.tile('main')!;
    // The gain goes by the square of the distance: by table up to the farthest corner.
    const farthest = Math.max(Math.abs(x0 - cx), Math.abs(x1 - cx)) ** 2 + Math.max(Math.abs(y0 - cy), Math.abs(y1 - cy)) ** 2;
    const table = Float32Array.from({ length: TABLE + 2 }, (_, i) => {
      const d = Math.sqrt((farthest * i) / TABLE);
      const stops = Math.max(-MOST_STOPS, Math.min(MOST_STOPS, p.corner * (d / corner) ** p.power));
      const gain = p.by === 'lens' ? (1 + (d / focal) ** 2) ** -2 : 2 ** stops;
      return p.remove ? 1 / Math.max(1e-6, gain) : gain;
    });
    const { kernels } = ctx;
    const [gains, tabled] = [ctx.scratch(w * h), kernels.copy(table)];
    kernels.fn.radialPlane(tabled.byteOffset, TABLE / farthest, x0 + 0.5 - cx, y0 + 0.5 - cy, w, h, gains.byteOffset);
    kernels.give(tabled);
    for (const [c, to] of Object.entries(out.planes))
      kernels.fn.multiply(main.planes[c]!.byteOffset, gains.byteOffset, to.byteOffset, w * h);
  },
});

/** Entries of the table of gains. */
const TABLE = 8192;

/** Lateral chromatic aberration: a lens draws each colour at a size of its own. */
export const colourFringe = defineStep({
  type: 'colourFringe',
  title: 'Colour fringe',
  family: 'Light & air',
  summary: 'Draws red and blue a little larger or smaller than green, as a lens does, or takes that out.',
  params: {
    red: number('Red', 1.5, [-5, 5], {
      unit: 'px',
      min: -100,
      max: 100,
      pixels: true,
      help: 'Farther out in the corner; below 0 farther in.',
    }),
    blue: number('Blue', -1.5, [-5, 5], { unit: 'px', min: -100, max: 100, pixels: true }),
    ...centred,
  },
  feeds: [],
  neutral: (p) => p.red === 0 && p.blue === 0,
  writes: (_, channels) => channels.filter((c) => c === 'R' || c === 'B'),
  locality: 'region',
  needs: (p, { region, channels }, io) => {
    const { bounds, format } = io.inputs.main!;
    const [x, y] = placeIn(p.middle, format);
    const { x0, y0, x1, y1 } = region;
    const far = Math.hypot(Math.max(Math.abs(x0 - x), Math.abs(x1 - x)), Math.max(Math.abs(y0 - y), Math.abs(y1 - y)));
    const share = Math.max(Math.abs(p.red), Math.abs(p.blue)) / Math.max(1, Math.hypot(format.width, format.height) / 2);
    return [
      {
        input: 'main',
        region: intersect(grow(region, Math.ceil(far * Math.min(9, share / Math.max(0.1, 1 - share))) + 4), bounds),
        channels,
      },
    ];
  },
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    const { bounds, format } = ctx.inputs.main!;
    const [x, y] = placeIn(p.middle, format);
    const far = Math.hypot(format.width, format.height) / 2;
    for (const [c, px] of [
      ['R', p.red],
      ['B', p.blue],
    ] as const) {
      const plane = out.planes[c];
      if (!plane) continue;
      if (isEmpty(main.region)) {
        plane.fill(0);
        continue;
      }
      const s = 1 / Math.max(0.1, 1 + px / far);
      // What lies beyond the frame is not known: its edge goes on.
      const wide = grow(main.region, 4);
      const held = ctx.scratch((wide.x1 - wide.x0) * (wide.y1 - wide.y0));
      padTo(main.planes[c]!, main.region, held, wide, domainOf({ bounds, format }));
      const packed = Packed.of(ctx.kernels, [held], wide);
      sampleThrough(ctx.kernels, packed, [plane], out.region, [s, 0, x - s * x, 0, s, y - s * y, 0, 0, 1], tapsOf('catmullRom'), {
        poll: () => ctx.poll(),
      });
      packed.give();
    }
  },
});

/** Light beyond which film is white, whatever its curve. */
const MOST_LIGHT = 1e4;
/** Middle grey. */
const GREY = 0.18;

/**
 * A characteristic curve of film, straight in the middle by logarithms, with a toe and a shoulder: f(x) = w·xᵃ/(xᵃ + k), k so that middle grey stays and a so that
 * the slope there is the contrast. The dyes of one layer take some of the light of the others.
 */
export const filmResponse = defineStep({
  type: 'filmResponse',
  title: 'Film response',
  family: 'Light & air',
  summary: 'Bends light as a print does: a toe, a shoulder that never clips, dyes that mix a little.',
  params: {
    exposure: number('Exposure', 0, [-3, 3], { unit: 'stops', min: -20, max: 20 }),
    contrast: number('Contrast', 1.15, [0.6, 2], { min: 0.1, max: 6, help: 'Slope at middle grey, by logarithms.' }),
    white: number('White', 1.2, [0.5, 4], { min: 0.2, max: 1000, help: 'What the brightest light comes near to.' }),
    dyes: number('Dyes mix', 0.03, [0, 0.2], { min: 0, max: 0.33 }),
  },
  feeds: [],
  colour: true,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: [...new Set([...want.channels, ...COLOUR])] }],
  render(ctx, p, out) {
    const main = ctx.tile('main')!;
    const a = p.contrast / Math.max(0.05, 1 - GREY / p.white);
    const k = GREY ** a * (p.white / GREY - 1);
    const gain = 2 ** p.exposure;
    const { fn } = ctx.kernels;
    COLOUR.forEach((c, i) => {
      const plane = out.planes[c];
      if (!plane) return;
      const n = plane.length;
      ctx.poll();
      fn.affine(main.planes[c]!.byteOffset, plane.byteOffset, n, gain * (1 - 2 * p.dyes), 0);
      for (const other of [1, 2]) {
        fn.addScaled(plane.byteOffset, main.planes[COLOUR[(i + other) % 3]!]!.byteOffset, plane.byteOffset, n, gain * p.dyes);
      }
      // Powers of very large light would have no end: the shoulder is reached long before.
      fn.clampPlane(plane.byteOffset, plane.byteOffset, n, 0, MOST_LIGHT);
      fn.powerPlane(plane.byteOffset, plane.byteOffset, n, a, 1);
      for (let j = 0; j < n; j++) plane[j] = p.white * (plane[j]! / (plane[j]! + k));
    });
  },
});
