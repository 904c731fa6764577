import { LUMA } from '../../colour/transfer';
import { number, toggle } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

type Matrix = readonly [number, number, number, number, number, number, number, number, number];

const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 9 }, (_, i) =>
    [0, 1, 2].reduce((s, k) => s + a[3 * Math.floor(i / 3) + k]! * b[3 * k + (i % 3)]!, 0),
  ) as unknown as Matrix;

/**
 * A turn of all hues about grey that keeps luma (Haeberli 1993): grey is laid along an axis, planes of luma are sheared upright to it, then
 * turned and laid back.
 */
function hueTurn(degrees: number): Matrix {
  const a = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(a), Math.sin(a)];
  // An orthonormal base whose last axis is grey.
  const [i2, i3, i6] = [1 / Math.sqrt(2), 1 / Math.sqrt(3), 1 / Math.sqrt(6)];
  const to: Matrix = [2 * i6, -i6, -i6, 0, i2, -i2, i3, i3, i3];
  const back: Matrix = [to[0], to[3], to[6], to[1], to[4], to[7], to[2], to[5], to[8]];
  const [lx, ly, lz] = [0, 1, 2].map((k) => back[k]! * LUMA[0] + back[3 + k]! * LUMA[1] + back[6 + k]! * LUMA[2]) as [
    number,
    number,
    number,
  ];
  // Luma is lx·u + ly·v + lz·w: w is made to carry it alone.
  const shear: Matrix = [1, 0, 0, 0, 1, 0, lx / lz, ly / lz, 1];
  const unshear: Matrix = [1, 0, 0, 0, 1, 0, -lx / lz, -ly / lz, 1];
  const turn: Matrix = [c, -s, 0, s, c, 0, 0, 0, 1];
  return [back, unshear, turn, shear, to].reduce((m, n) => times(m, n));
}

/** The hue of a colour in degrees, red at 0, green at 120; by the angle about grey. */
const hueOf = (r: number, g: number, b: number): number => {
  const h = (Math.atan2(Math.sqrt(3) * (g - b), 2 * r - g - b) * 180) / Math.PI;
  return h < 0 ? h + 360 : h;
};

export const hueSaturation = defineStep({
  type: 'hueSaturation',
  title: 'Hue & saturation',
  family: 'Colour',
  summary: 'Turns hues, strengthens or takes away colour, of all of the picture or of one range of hues.',
  colour: true,
  params: {
    hue: number('Hue', 0, [-180, 180], { unit: '°', min: -720, max: 720 }),
    saturation: number('Saturation', 1, [0, 2], { min: 0, max: 100 }),
    light: number('Light', 0, [-2, 2], { unit: 'stops', min: -32, max: 32 }),
    some: toggle('Limit to some hues', false, { animatable: false, group: 'Hues' }),
    middle: number('Middle', 0, [0, 360], {
      unit: '°',
      min: 0,
      max: 360,
      group: 'Hues',
      when: { some: [true] },
      help: 'Red 0, yellow 60, green 120, cyan 180, blue 240.',
    }),
    width: number('Width', 60, [0, 180], { unit: '°', min: 0, max: 360, group: 'Hues', when: { some: [true] } }),
    softness: number('Softness', 30, [0, 90], { unit: '°', min: 0, max: 180, group: 'Hues', when: { some: [true] } }),
  },
  feeds: [],
  neutral: (p) => p.hue % 360 === 0 && p.saturation === 1 && p.light === 0,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: COLOUR }],
  render(ctx, p, out) {
    const n = pixelsOf(out);
    const from = COLOUR.map((c) => ctx.tile('main')!.planes[c]!);
    const planes = COLOUR.map((c) => out.planes[c] ?? ctx.scratch(n));
    const [r, g, b] = from.map((f) => f.byteOffset) as [number, number, number];
    const [x, y, z] = planes.map((f) => f.byteOffset) as [number, number, number];
    const gain = 2 ** p.light;
    ctx.kernels.fn.matrix3(r, g, b, x, y, z, n, ...(hueTurn(p.hue).map((v) => v * gain) as unknown as Matrix));
    if (p.saturation !== 1) ctx.kernels.fn.saturate(x, y, z, n, p.saturation);
    if (!p.some) return;
    const [r0, g0, b0] = from as [Float32Array, Float32Array, Float32Array];
    const [r1, g1, b1] = planes as [Float32Array, Float32Array, Float32Array];
    for (let i = 0; i < n; i++) {
      const away = Math.abs(((hueOf(r0[i]!, g0[i]!, b0[i]!) - p.middle + 540) % 360) - 180) - p.width / 2;
      const t = p.softness > 0 ? Math.min(1, Math.max(0, 1 - away / p.softness)) : +(away <= 0);
      const w = t * t * (3 - 2 * t);
      if (w >= 1) continue;
      r1[i] = r0[i]! + w * (r1[i]! - r0[i]!);
      g1[i] = g0[i]! + w * (g1[i]! - g0[i]!);
      b1[i] = b0[i]! + w * (b1[i]! - b0[i]!);
    }
  },
});
