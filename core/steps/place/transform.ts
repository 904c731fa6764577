import { FILTERS } from '../../filters/resample';
import type { Affine } from '../../geometry/affine';
import { IDENTITY, compose, translation } from '../../geometry/affine';
import { Mapping } from '../../geometry/mapping';
import { choice, integer, number, point } from '../../param';
import type { Format } from '../../picture';
import { defineStep } from '../../step';
import { placing } from './placing';

export interface Placement {
  translate: readonly [number, number];
  rotate: number;
  scale: readonly [number, number];
  uniform: number;
  shear: readonly [number, number];
  pivot: readonly [number, number];
}

/** Where a placement puts source positions: scale, then shear, then a clockwise turn about the pivot, then the shift. */
export function placementMatrix(p: Placement, format: Format): Affine {
  const a = (p.rotate * Math.PI) / 180;
  const [cos, sin] = [Math.cos(a), Math.sin(a)];
  const [px, py] = [format.width / 2 + p.pivot[0], format.height / 2 + p.pivot[1]];
  const turn: Affine = [cos, -sin, 0, sin, cos, 0];
  const shear: Affine = [1, p.shear[0], 0, p.shear[1], 1, 0];
  const scale: Affine = [p.scale[0] * p.uniform, 0, 0, 0, p.scale[1] * p.uniform, 0];
  const about = [translation(px + p.translate[0], py + p.translate[1]), turn, shear, scale, translation(-px, -py)];
  return about.reduce((m, n) => compose(m, n), IDENTITY);
}

const same = (a: Affine, b: Affine): boolean => a.every((v, i) => Math.abs(v - b[i]!) < 1e-9);

export const transform = defineStep({
  type: 'transform',
  title: 'Transform',
  family: 'Place & warp',
  summary: 'Moves, turns, scales and shears the picture in one resample, with motion blur from its own movement.',
  params: {
    translate: point('Move', [0, 0], { unit: 'px', pixels: true, group: 'Place' }),
    rotate: number('Turn', 0, [-180, 180], { unit: '°', group: 'Place', help: 'Degrees, clockwise.' }),
    uniform: number('Scale', 1, [0, 4], { min: -100, max: 100, group: 'Place' }),
    scale: point('Scale x, y', [1, 1], { min: -100, max: 100, group: 'Place' }),
    shear: point('Shear x, y', [0, 0], { min: -10, max: 10, group: 'Place' }),
    pivot: point('Pivot', [0, 0], { unit: 'px', pixels: true, group: 'Place', help: "From the frame's centre." }),
    filter: choice('Filter', 'catmullRom', FILTERS, { group: 'Quality' }),
    shutter: number('Shutter angle', 0, [0, 360], { unit: '°', min: 0, max: 720, group: 'Motion blur' }),
    samples: integer('Samples', 16, [2, 64], { group: 'Motion blur', animatable: false }),
  },
  feeds: [],
  samples: (p, frame) =>
    p.shutter > 0 ? Array.from({ length: p.samples }, (_, i) => frame + (p.shutter / 360) * ((i + 0.5) / p.samples - 0.5)) : [],
  neutral: (p, io) => matrices(p, io).every((m) => same(m, IDENTITY)),
  placements: (p, io) => matrices(p, io).map((m) => Mapping.by(m)),
  ...placing,
});

/** One matrix, or one for each time of the shutter; a picture that stands still has one. */
function matrices(
  p: Placement,
  io: { inputs: Readonly<Record<string, { format: Format } | undefined>>; samples: readonly Placement[] },
): Affine[] {
  const { format } = io.inputs.main!;
  const all = (io.samples.length ? io.samples : [p]).map((s) => placementMatrix(s, format));
  return all.every((m) => same(m, all[0]!)) ? [all[0]!] : all;
}
