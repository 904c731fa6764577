import type { Plane } from '@/kernels';
import { LUMA } from '../../colour/transfer';
import { gaussianBlur, gaussianPad } from '../../filters/gaussian';
import { copyShared } from '../../filters/copy';
import { padTo } from '../../filters/pad';
import { tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';
import { invert, multiply } from '../../geometry/fit';
import type { Homography } from '../../geometry/homography';
import { applyHomography } from '../../geometry/homography';
import { area, grow, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { choice, colour, number, place, placeIn } from '../../param';
import { COLOUR, formatRect } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';

interface Cast {
  left: readonly [number, number];
  right: readonly [number, number];
  angle: number;
  length: number;
  narrow: number;
  softness: number;
  growth: number;
  contact: number;
}

/** Blurs between which a shadow's softness is mixed, from its foot to its end. */
const BLURS = 4;
const cast = { from: ['cast'] } as const;
const plate = { from: ['plate'] } as const;

/**
 * A shadow that is laid on a background: light · (1 − density·S), with what is left tinted. Cast: the alpha of an element, mirrored about the line on which it
 * stands, sheared to where the light sends it, softer with its distance from the foot as an area light makes it. Of the plate: by how much the filmed screen
 * is darker than the clean screen, so that the subject's own shadow is kept.
 */
export const shadow = defineStep({
  type: 'shadow',
  title: 'Shadow',
  family: 'Light & air',
  summary: 'Lays the shadow of an element on the background it stands on: cast from its matte, or kept from the filmed screen.',
  params: {
    from: choice('From', 'cast', [
      { value: 'cast', title: "The element's matte" },
      { value: 'plate', title: 'The filmed screen', help: 'What is darker on the plate than on the clean screen.' },
    ]),
    density: number('Density', 0.6, [0, 1], { min: 0, max: 1 }),
    tint: colour('Colour', [0, 0, 0], { help: 'Of the light that is left in it, beside that of the picture.' }),
    left: place('Foot left', [-60, 120], { when: cast }),
    right: place('Foot right', [60, 120], { when: cast }),
    angle: number('Falls to', 60, [-180, 180], {
      unit: '°',
      when: cast,
      help: '0° is right, 90° towards the camera, below 0 away from it.',
    }),
    length: number('Length', 0.6, [0.05, 3], { min: 0.01, max: 20, when: cast, help: 'Beside the height of the element.' }),
    narrow: number('Narrows', 0, [-1, 1], { min: -4, max: 4, when: cast, help: 'Towards its end, by perspective; below 0 it widens.' }),
    softness: number('Soft at the foot', 1, [0, 20], { unit: 'px', min: 0, max: 200, pixels: true, when: cast }),
    growth: number('Soft at the end', 14, [0, 60], { unit: 'px', min: 0, max: 400, pixels: true, when: cast }),
    contact: number('Contact', 8, [0, 40], {
      unit: 'px',
      min: 0,
      max: 200,
      pixels: true,
      when: cast,
      help: 'Width of the dark under the foot.',
    }),
    low: number('Ignore below', 0.03, [0, 0.3], { min: 0, max: 1, when: plate, help: 'Darker by less than this part is noise.' }),
    calm: number('Smoothing', 2, [0, 20], { unit: 'px', min: 0, max: 200, pixels: true, when: plate }),
  },
  feeds: [
    {
      name: 'element',
      title: 'Element',
      help: 'What throws the shadow: its alpha. With a filmed screen, the subject, under which nothing is taken.',
      matte: true,
    },
    { name: 'plate', title: 'Plate', help: 'The filmed screen with the subject.' },
    { name: 'clean', title: 'Clean screen', help: 'The screen without the subject: filmed, or made by a screen plate.' },
  ],
  remark: (p, io) => {
    if (p.from === 'cast') return io.inputs.element ? null : 'connect the element that throws it';
    return io.inputs.plate && io.inputs.clean ? null : 'connect the filmed plate and the clean screen';
  },
  neutral: (p, io) => p.density === 0 || (p.from === 'cast' ? !io.inputs.element : !io.inputs.plate || !io.inputs.clean),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'whole',
  needs: (p, want, io) => {
    const whole = (input: string, channels: readonly string[]) =>
      io.inputs[input] ? [{ input, region: io.inputs[input].bounds, channels }] : [];
    const main = { input: 'main', region: want.region, channels: want.channels };
    if (p.from === 'cast') return [main, ...whole('element', ['A'])];
    return [main, ...whole('plate', COLOUR), ...whole('clean', COLOUR), ...whole('element', ['A'])];
  },
  render(ctx, p, out) {
    const n = area(out.region);
    // No softness is wider than the picture.
    const most = Math.max(ctx.inputs.main!.format.width, ctx.inputs.main!.format.height) / 4;
    const soft = { softness: Math.min(p.softness, most), growth: Math.min(p.growth, most), contact: Math.min(p.contact, most) };
    const dark =
      p.from === 'cast' ? castShadow(ctx, { ...p, ...soft }, out.region) : plateShadow(ctx, p.low, Math.min(p.calm, most), out.region);
    const main = ctx.tile('main')!;
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      const from = main.planes[c]!;
      for (let i = 0; i < n; i++) plane[i] = from[i]! * (1 - p.density * dark[i]! * (1 - p.tint[k]!));
    });
  },
});

type Context = RenderContext<unknown>;

/** From places of a shadow to those of the element that throw it; null where the foot is no line. */
export function castMap(
  p: Pick<Cast, 'left' | 'right' | 'angle' | 'length' | 'narrow'>,
  format: { width: number; height: number },
): Homography | null {
  const [a, b] = [placeIn(p.left, format), placeIn(p.right, format)];
  const [ux, uy] = [b[0] - a[0], b[1] - a[1]];
  const foot = Math.hypot(ux, uy);
  if (foot < 1) return null;
  // The foot's own axes: along it, and up from it.
  const [ex, ey] = [ux / foot, uy / foot];
  const [upX, upY] = [ey, -ex];
  const way = (p.angle * Math.PI) / 180;
  // Straight to the side it would be seen from its edge: a little of it always falls towards the camera.
  const down = Math.sin(way);
  const [sx, sy] = [p.length * Math.cos(way), -p.length * (Math.abs(down) < 0.02 ? 0.02 : down)];
  // (s along, t up) of the element → (s + sx·t, sy·t)/(1 + narrow·t/foot) of the ground, about the middle of the foot.
  const k = p.narrow / foot;
  const toGround: Homography = [1, sx, 0, 0, sy, 0, 0, k, 1];
  const [mx, my] = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  const frame: Homography = [ex, upX, mx, ey, upY, my, 0, 0, 1];
  const back = invert(frame);
  const ground = back && multiply(frame, multiply(toGround, back));
  return ground && invert(ground);
}

function castShadow(ctx: Context, p: Cast, region: Rect): Plane {
  const { kernels } = ctx;
  const { format } = ctx.inputs.main!;
  const element = ctx.tile('element')!;
  const n = area(region);
  const dark = ctx.scratch(n).fill(0);
  const map = castMap(p, format);
  if (!map || isEmpty(element.region)) return dark;
  const most = Math.max(p.softness, p.growth);
  const wide = grow(region, gaussianPad(most));
  const matte = ctx.scratch(area(wide)).fill(0);
  const packed = Packed.of(kernels, [element.planes.A!], element.region);
  sampleThrough(kernels, packed, [matte], wide, map, tapsOf('bilinear'), { most: 4, poll: () => ctx.poll() });
  packed.give();
  // How far up the element each place of the shadow comes from, beside the element's height over its foot.
  const [a, b] = [placeIn(p.left, format), placeIn(p.right, format)];
  const foot = Math.max(1, Math.hypot(b[0] - a[0], b[1] - a[1]));
  const [upX, upY] = [(b[1] - a[1]) / foot, -(b[0] - a[0]) / foot];
  const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as const;
  const { x0, y0, x1, y1 } = element.region;
  const tall = Math.max(
    1,
    ...[
      [x0, y0],
      [x1, y0],
      [x0, y1],
      [x1, y1],
    ].map(([x, y]) => (x! - middle[0]) * upX + (y! - middle[1]) * upY),
  );
  const blurred = Array.from({ length: BLURS }, (_, k) => {
    const sigma = p.softness + ((p.growth - p.softness) * k) / (BLURS - 1);
    const to = ctx.scratch(n);
    ctx.poll();
    if (sigma < 0.1) copyShared(kernels, matte, wide, to, region);
    else gaussianBlur(kernels, matte, wide, to, region, sigma, sigma);
    return to;
  });
  const w = width(region);
  for (let i = 0; i < n; i++) {
    const [x, y] = [region.x0 + (i % w) + 0.5, region.y0 + Math.floor(i / w) + 0.5];
    const [u, v, d] = applyHomography(map, x, y);
    // Beyond the horizon and before the foot a shadow is only what its blur brings there.
    const up = d > 1e-6 ? ((u - middle[0]) * upX + (v - middle[1]) * upY) / tall : 0;
    const t = Math.max(0, Math.min(0.9999, up)) * (BLURS - 1);
    const k = t | 0;
    dark[i] = blurred[k]![i]! + (t - k) * (blurred[k + 1]![i]! - blurred[k]![i]!);
  }
  if (p.contact > 0) addContact(ctx, p, element, region, dark);
  return dark;
}

/** The dark right under an element: its alpha near the foot, flattened and soft. */
function addContact(
  ctx: Context,
  p: Cast,
  element: { region: Rect; planes: Readonly<Record<string, Plane>> },
  region: Rect,
  dark: Plane,
): void {
  const { format } = ctx.inputs.main!;
  const [a, b] = [placeIn(p.left, format), placeIn(p.right, format)];
  const sigma = p.contact / 2;
  const reach = gaussianPad(sigma) + Math.ceil(p.contact);
  const box = intersect(
    rect(
      Math.floor(Math.min(a[0], b[0])) - reach,
      Math.floor(Math.min(a[1], b[1])) - reach,
      Math.ceil(Math.max(a[0], b[0])) + reach,
      Math.ceil(Math.max(a[1], b[1])) + reach,
    ),
    union(region, element.region),
  );
  if (isEmpty(box)) return;
  const alpha = ctx.scratch(area(box)).fill(0);
  copyShared(ctx.kernels, element.planes.A!, element.region, alpha, box);
  const foot = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const [nx, ny] = [-(b[1] - a[1]) / foot, (b[0] - a[0]) / foot];
  const w = width(box);
  // Only what is close to the foot touches the ground.
  for (let i = 0; i < alpha.length; i++) {
    const d = (box.x0 + (i % w) + 0.5 - a[0]) * nx + (box.y0 + Math.floor(i / w) + 0.5 - a[1]) * ny;
    alpha[i]! *= Math.max(0, 1 - Math.abs(d) / p.contact);
  }
  const soft = ctx.scratch(area(region));
  gaussianBlur(ctx.kernels, alpha, box, soft, region, Math.max(0.3, sigma), Math.max(0.3, sigma / 2));
  for (let i = 0; i < dark.length; i++) dark[i] = 1 - (1 - dark[i]!) * (1 - Math.min(1, 1.6 * soft[i]!));
}

/** By how much the plate is darker than the clean screen, without the subject; under it, filled from around. */
function plateShadow(ctx: Context, low: number, calm: number, region: Rect): Plane {
  const { kernels } = ctx;
  const frame = formatRect(ctx.inputs.main!.format);
  const wide = grow(region, gaussianPad(calm));
  const n = area(wide);
  const over = (input: string, c: string): Plane => {
    const tile = ctx.tile(input)!;
    const to = ctx.scratch(n).fill(0);
    padTo(tile.planes[c]!, tile.region, to, wide, union(tile.region, frame));
    return to;
  };
  const luma = (input: string): Plane => {
    const to = ctx.scratch(n).fill(0);
    COLOUR.forEach((c, k) => kernels.fn.addScaled(to.byteOffset, over(input, c).byteOffset, to.byteOffset, n, LUMA[k]!));
    return to;
  };
  const [now, clean] = [luma('plate'), luma('clean')];
  const dark = ctx.scratch(n);
  const open = ctx.scratch(n).fill(1);
  if (ctx.tile('element')) {
    const subject = over('element', 'A');
    kernels.fn.affineClamped(subject.byteOffset, open.byteOffset, n, -1, 1, 0, 1);
  }
  for (let i = 0; i < n; i++) {
    const lost = clean[i]! > 1e-5 ? 1 - now[i]! / clean[i]! : 0;
    dark[i] = open[i]! * Math.max(0, Math.min(1, (lost - low) / Math.max(1e-3, 1 - low)));
  }
  const [soft, share] = [ctx.scratch(area(region)), ctx.scratch(area(region))];
  const sigma = Math.max(0.3, calm);
  gaussianBlur(kernels, dark, wide, soft, region, sigma, sigma);
  gaussianBlur(kernels, open, wide, share, region, sigma, sigma);
  for (let i = 0; i < soft.length; i++) soft[i] = share[i]! > 0.02 ? soft[i]! / share[i]! : 0;
  return soft;
}
