import { grow, width } from '../../geometry/rect';
import { blurRadius, focusByDepth } from '../../passes/depth-of-field';
import type { FocusOptions } from '../../passes/depth-of-field';
import { focalPixels, onlyChannel, takeFromSolid, viewParams } from '../../passes/depth';
import { choice, integer, layer, number } from '../../param';
import type { Format } from '../../picture';
import { RGBA } from '../../picture';
import { defineStep } from '../../step';
import { NO_DEPTH, depthIn, distanceOf } from './data';

interface LensValues {
  by: 'lens' | 'px';
  focus: number;
  stop: number;
  metre: number;
  infinity: number;
  most: number;
  blades: number;
  turn: number;
  squeeze: number;
  focal: number;
  filmWidth: number;
}

/** What the parameters say of the blur, in pixels of a format. */
export function focusOptions(p: LensValues, format: Format): FocusOptions {
  // An entrance pupil of focal / stop is seen from the focus as so much of the frame.
  const pupil = (p.focal / 1000 / p.stop) * p.metre;
  const infinity = p.by === 'px' ? p.infinity : (pupil / 2 / Math.max(1e-6, p.focus)) * focalPixels(p, format);
  return { focus: p.focus, infinity, most: p.most, aperture: { blades: p.blades, turn: p.turn, squeeze: p.squeeze } };
}

export const depthOfField = defineStep({
  type: 'depthOfField',
  title: 'Depth of field',
  family: 'Passes',
  summary: 'Puts what is at one distance in focus and blurs the rest as a lens does, what is hidden filled in, edges clean.',
  readsData: true,
  params: {
    depth: layer('Depth', { role: 'depth' }),
    focus: number('Focus', 5, [0.1, 20], {
      min: 1e-4,
      max: 1e6,
      help: 'Distance, in the units of the scene. Click the picture to set it.',
    }),
    by: choice('Blur by', 'lens', [
      { value: 'lens', title: 'The lens: f-number and focal length' },
      { value: 'px', title: 'Pixels of what is endlessly far' },
    ]),
    stop: number('f-number', 2.8, [0.7, 22], { min: 0.05, max: 1000, when: { by: ['lens'] } }),
    metre: number('Units a metre', 1, [1, 100], {
      min: 1e-4,
      max: 1e6,
      when: { by: ['lens'] },
      help: '100 where the scene is in centimetres.',
    }),
    infinity: number('Radius far away', 12, [0, 60], { unit: 'px', min: 0, max: 1000, pixels: true, when: { by: ['px'] } }),
    most: number('At most', 40, [2, 100], { unit: 'px', min: 0.5, max: 400, pixels: true, help: 'No blur has a greater radius.' }),
    blades: integer('Blades', 0, [0, 11], { min: 0, max: 16, group: 'Aperture', animatable: false, help: 'Below 3 it is round.' }),
    turn: number('Turn', 0, [-90, 90], { unit: '°', group: 'Aperture' }),
    squeeze: number('Squeeze', 1, [0.3, 2], {
      min: 0.1,
      max: 4,
      group: 'Aperture',
      help: 'Width over height: 0.5 of a 2× anamorphic lens.',
    }),
    ...viewParams,
  },
  feeds: [],
  remark: (p, io) => (depthIn(io.inputs.main, p.depth) ? null : NO_DEPTH),
  neutral: (p, io) => !depthIn(io.inputs.main, p.depth) || focusOptions(p, io.inputs.main!.format).infinity < 1e-3,
  bounds: (p, io) => grow(io.inputs.main!.bounds, Math.ceil(1.3 * p.most * Math.max(1, p.squeeze))),
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  locality: 'whole',
  needs: (p, _, io) => [
    { input: 'main', region: io.inputs.main!.bounds, channels: [...RGBA, onlyChannel(depthIn(io.inputs.main, p.depth)!)] },
  ],
  render(ctx, p, out) {
    const { kernels } = ctx;
    const { format } = ctx.inputs.main!;
    const { region, planes } = ctx.tile('main')!;
    const distance = distanceOf(ctx, depthIn(ctx.inputs.main, p.depth)!, p);
    takeFromSolid([distance], planes.A!, width(region));
    const picture = RGBA.map((c) => planes[c]!) as [Float32Array, Float32Array, Float32Array, Float32Array];
    const made = focusByDepth(kernels, picture, distance, region, out.region, reachOf(focusOptions(p, format), distance, planes.A!), () =>
      ctx.poll(),
    );
    RGBA.forEach((c, i) => {
      out.planes[c]?.set(made[i]!);
      kernels.give(made[i]!);
    });
  },
});

/** Slices only as far as anything is blurred. */
function reachOf(o: FocusOptions, distance: Float32Array, alpha: Float32Array): FocusOptions {
  let most = 0;
  for (let i = 0; i < distance.length; i++) if (alpha[i]! > 0) most = Math.max(most, Math.abs(blurRadius(distance[i]!, o)));
  return { ...o, most: Math.max(0.5, most) };
}
