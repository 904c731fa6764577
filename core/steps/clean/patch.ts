import { betweenFrames, carryParams, mappedRect } from '../../cleaning/carry';
import type { Carried } from '../../cleaning/carry';
import { fitLight } from '../../cleaning/fit-light';
import { fillMembrane, holeOf } from '../../cleaning/membrane';
import { copyOver } from '../../filters/copy';
import { gaussianBlur } from '../../filters/gaussian';
import { tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';
import type { Homography } from '../../geometry/homography';
import { multiply } from '../../geometry/fit';
import type { Rect } from '../../geometry/rect';
import { EMPTY, area, height, intersect, isEmpty, rect, width } from '../../geometry/rect';
import { choice, integer, number, point, shapes, triple } from '../../param';
import { COLOUR, RGBA } from '../../picture';
import { reachOfShapes, shapeMatte } from '../../shape/coverage';
import type { Posed, ShapesValue } from '../../shape/pose';
import { POINT_SIZE } from '../../shape/shapes';
import type { RenderContext, StepIo } from '../../step';
import { defineStep } from '../../step';
import { MOST_FRAME } from '../time/frames';

interface Values extends Carried {
  shapes: ShapesValue;
  frame: number;
  shift: readonly [number, number];
  light: 'none' | 'gain' | 'both' | 'membrane' | 'keys';
  gain: readonly [number, number, number];
  lift: readonly [number, number, number];
  ring: number;
  output: 'over' | 'alone';
}

/** Coverage below this is none. */
const NONE = 0.004;
/** Pixels that the filter reads beyond its own. */
const PAD = 3;

/** From positions on the frame to those that are copied. */
const lookOf = (p: Values, frame: number): Homography | null => {
  const map = betweenFrames(p, frame, p.frame);
  return map && multiply([1, 0, p.shift[0], 0, 1, p.shift[1], 0, 0, 1], map);
};

/** The shapes with a feather more, to find the ring around them. */
const widened = (list: readonly Posed[], by: number): readonly Posed[] =>
  list.map((s) => ({ ...s, points: s.points.map((v, i) => (i % POINT_SIZE === 6 ? Math.max(0, v) + by : v)) }));

/** Pixels that the region that is taken from is rounded out to. */
const STEP = 64;
const coarse = (r: Rect | null): Rect | null =>
  r && rect(STEP * Math.floor(r.x0 / STEP), STEP * Math.floor(r.y0 / STEP), STEP * Math.ceil(r.x1 / STEP), STEP * Math.ceil(r.y1 / STEP));

/** The patch and the ring around it, inside the frame. */
function placeOf(p: Values, io: StepIo<unknown>): Rect {
  const reach = reachOfShapes(widened(p.shapes.list, p.ring));
  return reach ? intersect(reach, io.inputs.main!.bounds) : io.inputs.main!.bounds;
}

export const patch = defineStep({
  type: 'patch',
  title: 'Patch',
  family: 'Shape & touch-up',
  summary: 'Lays a piece of one frame over every frame: it goes along, and takes the light of what lies around it.',
  params: {
    shapes: shapes('Shapes', { help: 'Where the patch lies; let them follow what it goes with.' }),
    ...carryParams,
    frame: integer('Taken from frame', 1, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, animatable: false }),
    shift: point('Sample offset', [0, 0], { unit: 'px', pixels: true, help: 'How far from its own place, on that frame.' }),
    light: choice('Light', 'gain', [
      { value: 'gain', title: 'Matched by a gain', help: 'To the ring around it, on every frame.' },
      { value: 'both', title: 'By gain and lift' },
      { value: 'membrane', title: 'Seamless', help: 'The difference at its edge is spread over it.' },
      { value: 'keys', title: 'By the keys below', help: 'As measured: seen, smoothed and changed in Curves.' },
      { value: 'none', title: 'As it is' },
    ]),
    gain: triple('Gain', 1, [0, 2], { min: 0, max: 100, when: { light: ['keys'] } }),
    lift: triple('Lift', 0, [-0.2, 0.2], { min: -10, max: 10, when: { light: ['keys'] } }),
    ring: number('Ring', 14, [3, 60], {
      unit: 'px',
      min: 1,
      max: 500,
      pixels: true,
      animatable: false,
      help: 'How far around it the light is looked at.',
    }),
    output: choice('Gives', 'over', [
      { value: 'over', title: 'The patched picture' },
      { value: 'alone', title: 'The patch alone', help: 'To be given grain, and joined over.' },
    ]),
  },
  feeds: [
    { name: 'from', title: 'Taken from', help: 'A clean plate or a filled frame; the picture itself without.' },
    { name: 'front', title: 'In front', help: 'Where its alpha is, the patch lies behind.', matte: true },
  ],
  frames: (p, io) => ({ main: [...new Set([io.frame, p.frame])], from: [p.frame] }),
  neutral: (p) => p.shapes.list.length === 0 && p.output === 'over',
  bounds: (p, io) =>
    p.output === 'over'
      ? io.inputs.main!.bounds
      : intersect(reachOfShapes(p.shapes.list) ?? io.inputs.main!.bounds, io.inputs.main!.bounds),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (p, channels) => (p.output === 'alone' ? channels : channels.filter((c) => (RGBA as readonly string[]).includes(c))),
  // The ring is looked at as a whole, whichever part of the patch is asked for.
  locality: 'whole',
  needs: (p, want, io) => {
    const v = p as unknown as Values;
    const place = placeOf(v, io);
    const input = io.inputs.from ? 'from' : 'main';
    const look = lookOf(v, io.frame);
    const bounds = (io.info(input, v.frame) ?? io.inputs[input])?.bounds ?? EMPTY;
    // By coarse steps, so that what is found for one frame does for the next: the place is the same but for its rounding.
    const there = look && coarse(mappedRect(look, place, PAD));
    return [
      {
        input: 'main',
        frame: io.frame,
        region: p.output === 'over' ? want.region : place,
        channels: [...new Set([...RGBA, ...want.channels])],
      },
      { input, frame: v.frame, region: intersect(there ?? bounds, bounds), channels: RGBA },
      ...(io.inputs.front ? [{ input: 'front', region: place, channels: ['A'] }] : []),
    ];
  },
  render(ctx, p, out) {
    const v = p as unknown as Values;
    const own = ctx.tile('main')!;
    for (const [c, plane] of Object.entries(out.planes)) {
      if (p.output === 'over') plane.set(own.planes[c]!);
      else plane.fill(0);
    }
    const place = placeOf(v, ctx);
    const look = lookOf(v, ctx.frame);
    const from = ctx.tile(ctx.inputs.from ? 'from' : 'main', v.frame)!;
    if (isEmpty(place) || !look || isEmpty(from.region)) return;
    const n = area(place);
    const piece = RGBA.map(() => ctx.scratch(n));
    const packed = Packed.of(
      ctx.kernels,
      RGBA.map((c) => from.planes[c]!),
      from.region,
    );
    try {
      sampleThrough(ctx.kernels, packed, piece, place, look, tapsOf('catmullRom'), { most: 2, poll: () => ctx.poll() });
    } finally {
      packed.give();
    }
    ctx.poll();
    const coverage = ctx.scratch(n);
    shapeMatte(ctx.kernels, [v.shapes.list], place, coverage);
    const ring = ctx.scratch(n);
    shapeMatte(ctx.kernels, [widened(v.shapes.list, v.ring)], place, ring);
    const front = ctx.inputs.front ? ctx.tile('front')!.planes.A! : null;
    // Around it, not behind what is in front, and where both pictures have anything.
    const plate = COLOUR.map((c) => copyOver(ctx.kernels, own.planes[c]!, own.region, place, ctx.scratch));
    const alpha = copyOver(ctx.kernels, own.planes.A!, own.region, place, ctx.scratch);
    for (let i = 0; i < n; i++) {
      ring[i] = ring[i]! > NONE && coverage[i]! < NONE && !(front && front[i]! > NONE) && alpha[i]! > 0.99 && piece[3]![i]! > 0.99 ? 1 : 0;
    }
    matchLight(ctx, v, { piece: piece.slice(0, 3), plate, ring, place });
    // What it was taken from ends somewhere: there is no patch beyond.
    for (let i = 0; i < n; i++)
      coverage[i]! *= Math.min(1, Math.max(0, piece[3]![i]!)) * (front ? 1 - Math.min(1, Math.max(0, front[i]!)) : 1);
    const inside = intersect(place, out.region);
    const [w, ow] = [width(place), width(out.region)];
    for (const [c, plane] of Object.entries(out.planes)) {
      const k = (RGBA as readonly string[]).indexOf(c);
      if (k < 0) continue;
      for (let y = inside.y0; y < inside.y1; y++) {
        let i = (y - place.y0) * w + inside.x0 - place.x0;
        let o = (y - out.region.y0) * ow + inside.x0 - out.region.x0;
        for (let x = inside.x0; x < inside.x1; x++, i++, o++)
          plane[o] = plane[o]! * (1 - coverage[i]!) + coverage[i]! * (k === 3 ? 1 : piece[k]![i]!);
      }
    }
  },
});

/** R, G, B of the patch and of the plate over a place, and the ring in which they should be alike: 1 or 0. */
interface Laid {
  piece: Float32Array[];
  plate: Float32Array[];
  ring: Float32Array;
  place: Rect;
}

/** Makes the piece's light that of the plate, in place. */
function matchLight(ctx: RenderContext<unknown>, v: Values, laid: Laid): void {
  if (v.light === 'none') return;
  if (v.light === 'membrane') return seamless(ctx, v, laid);
  const { piece, plate, ring } = laid;
  const { gain, lift } = v.light === 'keys' ? v : fitLight(piece, plate, ring, { lift: v.light === 'both' });
  piece.forEach((plane, c) => ctx.kernels.fn.affine(plane.byteOffset, plane.byteOffset, plane.length, gain[c]!, lift[c]!));
}

/** The difference on the ring, calmed against noise and spread inward (Pérez et al. 2003, for a picture that is light itself). */
function seamless(ctx: RenderContext<unknown>, v: Values, { piece, plate, ring, place }: Laid): void {
  const n = ring.length;
  const sigma = Math.max(1, v.ring / 3);
  const [weight, calm, smooth] = [ctx.scratch(n), ctx.scratch(n), ctx.scratch(n)];
  gaussianBlur(ctx.kernels, ring, place, weight, place, sigma, sigma);
  const open = new Uint8Array(n);
  for (let i = 0; i < n; i++) open[i] = ring[i]! > 0 ? 0 : 1;
  const hole = holeOf(open, width(place), height(place));
  if (hole.open.length === n) return;
  // A gain first: what differs by a factor is no matter of a membrane.
  const { gain } = fitLight(piece, plate, ring);
  piece.forEach((plane, c) => {
    ctx.kernels.fn.affine(plane.byteOffset, plane.byteOffset, n, gain[c]!, 0);
    for (let i = 0; i < n; i++) calm[i] = ring[i]! * (plate[c]![i]! - plane[i]!);
    gaussianBlur(ctx.kernels, calm, place, smooth, place, sigma, sigma);
    for (let i = 0; i < n; i++) smooth[i] = weight[i]! > 1e-6 ? smooth[i]! / weight[i]! : 0;
    fillMembrane(smooth, hole, undefined, () => ctx.poll());
    for (let i = 0; i < n; i++) plane[i]! += smooth[i]!;
  });
}
