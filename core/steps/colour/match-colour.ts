import type { Lattice } from '../../colour/histogram-transport';
import { histogramTransport, throughLattice } from '../../colour/histogram-transport';
import { statisticsOfColour, transportOf } from '../../colour/transport';
import type { Rect } from '../../geometry/rect';
import { EMPTY, area, height, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import { box, choice, integer, number } from '../../param';
import { COLOUR, RGBA } from '../../picture';
import type { Tile } from '../../picture';
import type { StepIo } from '../../step';
import { defineStep } from '../../step';
import { MOST_FRAME } from '../time/frames';

interface Values {
  when: 'each' | 'one';
  frame: number;
  ownBox: readonly [number, number, number, number];
  likeBox: readonly [number, number, number, number];
}

/** Light is looked at by its logarithm, as the eye does: log₂(v + this). */
const FLOOR = 0.004;
const toLog = (v: number): number => Math.log2(Math.max(0, v) + FLOOR);
const toLight = (v: number): number => 2 ** v - FLOOR;
/** Pixels that are looked at, about, at most. */
const MOST = 120_000;
/** Pixels that a place needs. */
const FEW = 16;

interface Sampled {
  planes: readonly Float32Array[];
  alpha: Float32Array;
}

/** Colours that are asked how often they are, at most: more say no more, and are sorted often. */
const ASKED = 12_000;

/** The lattice that takes the colours of one place to the whole distribution of another's. */
function latticeOf(here: Sampled, there: Sampled, picture: Tile['planes']): Lattice {
  const solid = ({ planes, alpha }: Sampled): Float32Array[] => {
    const where = [...alpha.keys()].filter((i) => alpha[i]! >= 0.5);
    const stride = Math.max(1, Math.floor(where.length / ASKED));
    const some = where.filter((_, i) => i % stride === 0);
    return planes.map((p) => Float32Array.from(some, (i) => p[i]!));
  };
  const extent = COLOUR.map((c): readonly [number, number] => {
    let most = 0;
    for (const v of picture[c]!) if (v > most && v < 1e6) most = v;
    return [toLog(0), Math.max(toLog(0) + 1, toLog(most))];
  });
  return histogramTransport(solid(here), solid(there), extent);
}

const at = (p: Values, frame: number): number => (p.when === 'each' ? frame : p.frame);

/** A box of a picture; all of it where none is drawn. */
function placeOf([x0, y0, x1, y1]: Values['ownBox'], bounds: Rect): Rect {
  const r = rect(Math.floor(Math.min(x0, x1)), Math.floor(Math.min(y0, y1)), Math.ceil(Math.max(x0, x1)), Math.ceil(Math.max(y0, y1)));
  return isEmpty(r) ? bounds : intersect(r, bounds);
}

const boundsAt = (io: StepIo<unknown>, input: string, frame: number): Rect =>
  (io.info(input, frame) ?? (frame === io.frame ? io.inputs[input] : undefined))?.bounds ?? EMPTY;

export const matchColour = defineStep({
  type: 'matchColour',
  title: 'Match colour',
  family: 'Colour',
  summary: 'Makes the colours of one place those of a place in another picture: their mean, their spread, how they hang together.',
  params: {
    method: choice('Match', 'full', [
      { value: 'mean', title: 'The mean' },
      { value: 'spread', title: 'Mean and spread, by channel' },
      { value: 'full', title: 'Mean and spread of all colours', help: 'Channels together: hues turn, too.' },
      {
        value: 'all',
        title: 'The whole distribution',
        help: 'Every tone and hue as often as there: strong, and only between like pictures.',
      },
    ]),
    ownBox: box('Place here', [0, 0, 0, 0], { animatable: false, help: 'All of it where the box is empty.' }),
    likeBox: box('Place there', [0, 0, 0, 0], { animatable: false }),
    when: choice('Looked at', 'each', [
      { value: 'each', title: 'On every frame' },
      { value: 'one', title: 'On one frame', help: 'Nothing changes from frame to frame.' },
    ]),
    frame: integer('Frame', 1, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, animatable: false, when: { when: ['one'] } }),
    amount: number('Amount', 1, [0, 1], { min: 0, max: 1 }),
  },
  feeds: [{ name: 'like', title: 'Like', help: 'The picture whose colours are wanted.', required: true }],
  frames: (p, io) => ({ main: [...new Set([io.frame, at(p as Values, io.frame)])], like: [at(p as Values, io.frame)] }),
  neutral: (p) => p.amount === 0,
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'whole',
  needs: (p, want, io) => {
    const v = p as Values;
    const f = at(v, io.frame);
    return [
      { input: 'main', frame: io.frame, region: want.region, channels: RGBA },
      {
        input: 'main',
        frame: f,
        region: union(f === io.frame ? want.region : EMPTY, placeOf(v.ownBox, boundsAt(io, 'main', f))),
        channels: RGBA,
      },
      { input: 'like', frame: f, region: placeOf(v.likeBox, boundsAt(io, 'like', f)), channels: RGBA },
    ];
  },
  render(ctx, p, out) {
    const v = p as Values;
    const f = at(v, ctx.frame);
    const main = ctx.tile('main')!;
    const [own, like] = [ctx.tile('main', f)!, ctx.tile('like', f)!];
    for (const [c, plane] of Object.entries(out.planes)) plane.set(main.planes[c]!);
    if (isEmpty(out.region)) return;
    const of = (tile: Tile, place: Rect) => {
      // A place of many pixels says no more than some of them.
      const stride = Math.max(1, Math.floor(Math.sqrt(area(place) / MOST)));
      const [w, h] = [Math.ceil(width(place) / stride), Math.ceil(height(place) / stride)];
      const planes = COLOUR.map(() => new Float32Array(w * h));
      const alpha = new Float32Array(w * h);
      const tw = width(tile.region);
      for (let y = 0, i = 0; y < h; y++) {
        for (let x = 0; x < w; x++, i++) {
          const j = (place.y0 + y * stride - tile.region.y0) * tw + place.x0 + x * stride - tile.region.x0;
          const a = tile.planes.A![j]!;
          alpha[i] = a;
          for (let k = 0; k < 3; k++) planes[k]![i] = a > 0 ? toLog(tile.planes[COLOUR[k]!]![j]! / a) : 0;
        }
      }
      return { ...statisticsOfColour(planes, alpha), planes, alpha };
    };
    const here = of(own, placeOf(v.ownBox, boundsAt(ctx, 'main', f)));
    const there = of(like, placeOf(v.likeBox, boundsAt(ctx, 'like', f)));
    if (here.pixels < FEW || there.pixels < FEW) return;
    const spread = (k: number): number => Math.sqrt((there.covariance[4 * k]! + 1e-6) / (here.covariance[4 * k]! + 1e-6));
    const m =
      p.method === 'full'
        ? transportOf(here.covariance, there.covariance)
        : [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => (r !== c ? 0 : p.method === 'spread' ? spread(r) : 1)));
    const n = area(out.region);
    const given = [...COLOUR, 'A'].map((c) => main.planes[c]!);
    const planes = COLOUR.map((c) => out.planes[c]);
    const lattice = p.method === 'all' ? latticeOf(here, there, main.planes) : null;
    const moved = new Float64Array(3);
    const [r, g, b_, alpha] = given as [Float32Array, Float32Array, Float32Array, Float32Array];
    const [m0, m1, m2] = here.mean;
    for (let i = 0; i < n; i++) {
      if (i % 65536 === 0) ctx.poll();
      const a = alpha[i]!;
      if (!(a > 0)) continue;
      const [d0, d1, d2] = [toLog(r[i]! / a) - m0, toLog(g[i]! / a) - m1, toLog(b_[i]! / a) - m2];
      if (lattice) throughLattice(lattice, d0 + m0, d1 + m1, d2 + m2, moved);
      for (let k = 0; k < 3; k++) {
        const plane = planes[k];
        if (!plane) continue;
        const log = lattice ? moved[k]! : there.mean[k]! + m[3 * k]! * d0 + m[3 * k + 1]! * d1 + m[3 * k + 2]! * d2;
        const was = given[k]![i]!;
        plane[i] = was + p.amount * (a * toLight(Math.min(40, log)) - was);
      }
    }
  },
});
