import { LUMA } from '../../colour/transfer';
import { copyShared } from '../../filters/copy';
import type { Rect } from '../../geometry/rect';
import { area, grow, height, width } from '../../geometry/rect';
import { alongFlow } from '../../flow/along';
import { flowOf, seenLuma } from '../../flow/pair';
import { choice, integer, number } from '../../param';
import type { Tile } from '../../picture';
import { COLOUR, RGBA } from '../../picture';
import type { Need, RenderContext } from '../../step';
import { defineStep } from '../../step';
import { boundsOver } from '../time/frames';
import { followAlpha, matteWrites } from './follow-alpha';

/** Pixels of a block's side: all of them are taken to move alike. */
const BLOCK = 16;
const PARTIAL = { least: 0.004, most: 0.996 };

/** What blocks are compared by: brightness as the eye sees it. */
function looks({ planes }: Tile): Float32Array {
  const [r, g, b] = [planes.R!, planes.G!, planes.B!];
  const out = new Float32Array(r.length);
  for (let i = 0; i < out.length; i++) out[i] = Math.sqrt(Math.max(0, LUMA[0]! * r[i]! + LUMA[1]! * g[i]! + LUMA[2]! * b[i]!));
  return out;
}

/** The shift, as an offset in the plane, that makes a block of one frame most like another; the nearest of equals. */
function shiftOf(now: Float32Array, other: Float32Array, w: number, block: Rect, reach: number): number {
  let [least, best] = [Infinity, 0];
  const spiral = [...Array(2 * reach + 1).keys()].map((k) => (k % 2 ? (k + 1) / 2 : -k / 2));
  for (const v of spiral) {
    for (const u of spiral) {
      let d = 0;
      for (let y = block.y0; y < block.y1 && d < least; y++) {
        for (let i = y * w + block.x0, end = y * w + block.x1; i < end; i++) d += Math.abs(now[i]! - other[i + v * w + u]!);
      }
      if (d < least) [least, best] = [d, v * w + u];
    }
  }
  return best;
}

const median = (a: number, b: number, c: number): number => Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));

const THREE = [-1, 0, 1];
const aroundNow = (frame: number, region: Rect): Need[] =>
  THREE.flatMap((d) => [
    { input: 'main', frame: frame + d, region, channels: [...COLOUR, 'A'] },
    { input: 'plate', frame: frame + d, region, channels: COLOUR },
  ]);

/** Each pixel's alpha becomes the median of what it is on three frames where its own motion leads, with the colour that belongs to it. */
function calmByMotion(ctx: RenderContext<unknown>, amount: number, out: Tile): void {
  const { kernels } = ctx;
  const now = ctx.tile('main', ctx.frame)!;
  const { region } = now;
  const [w, h] = [width(region), height(region)];
  const at = (d: number): Tile => {
    const plate = ctx.tile('plate', ctx.frame + d);
    return plate && area(plate.region) === area(region) ? plate : ctx.tile('main', ctx.frame + d)!;
  };
  const seen = THREE.map((d) => seenLuma(at(d).planes.R!, at(d).planes.G!, at(d).planes.B!));
  const carried = [0, 2].map((k) => {
    ctx.poll();
    const flow = flowOf(kernels, seen[1]!, seen[k]!, w, h, () => ctx.poll());
    const planes = Object.fromEntries(RGBA.map((c) => [c, ctx.scratch(w * h)]));
    alongFlow(
      kernels,
      RGBA.map((c) => ctx.tile('main', ctx.frame + THREE[k]!)!.planes[c]!),
      RGBA.map((c) => planes[c]!),
      region,
      flow,
      () => ctx.poll(),
    );
    [flow.u, flow.v].forEach((p) => kernels.give(p));
    return planes;
  }) as [Tile['planes'], Tile['planes']];
  const a = now.planes.A!;
  for (const [c, plane] of Object.entries(out.planes)) {
    const calmed = ctx.scratch(w * h);
    calmed.set(now.planes[c]!);
    for (let i = 0; i < a.length; i++) {
      const [first, last] = [carried[0].A![i]!, carried[1].A![i]!];
      const calm = median(a[i]!, first, last);
      if (calm !== a[i]!) calmed[i]! += amount * ((calm === first ? carried[0] : carried[1])[c]![i]! - now.planes[c]![i]!);
    }
    copyShared(kernels, calmed, region, plane, out.region);
  }
}

export const steadyMatte = defineStep({
  type: 'steadyMatte',
  title: 'Steady matte',
  family: 'Matte',
  summary: 'Calms an edge that chatters: the median of three frames, each taken from where the edge was.',
  params: {
    amount: number('Amount', 1, [0, 1], { min: 0, max: 1 }),
    by: choice('Follows', 'blocks', [
      { value: 'blocks', title: 'Blocks that move as one' },
      { value: 'motion', title: 'The motion of each pixel', help: 'Optical flow: for what turns and bends; slower.' },
    ]),
    search: integer('Search', 6, [0, 24], {
      unit: 'px',
      min: 0,
      max: 64,
      pixels: true,
      when: { by: ['blocks'] },
      help: 'How far an edge may move from frame to frame.',
    }),
    follow: followAlpha,
  },
  feeds: [
    {
      name: 'plate',
      title: 'Plate',
      help: 'What motion is seen in: the picture before it was keyed. An edge that chatters looks as if it moved.',
    },
  ],
  neutral: (p) => p.amount === 0,
  writes: (p, channels) => matteWrites(p.follow, channels),
  frames: (_, { frame }) => ({ main: [frame - 1, frame, frame + 1], plate: [frame - 1, frame, frame + 1] }),
  locality: (p) => (p.by === 'motion' ? 'whole' : 'region'),
  needs: (p, want, io) => {
    if (p.by === 'motion')
      return aroundNow(
        io.frame,
        boundsOver(
          THREE.map((d) => io.frame + d),
          io,
        ),
      );
    // Blocks stand on a grid of the picture's own, so that any region gives the same pixels as the whole.
    const snap = (v: number, up: number): number => (Math.floor(v / BLOCK) + up) * BLOCK;
    const { x0, y0, x1, y1 } = want.region;
    const region = grow({ x0: snap(x0, 0), y0: snap(y0, 0), x1: snap(x1 - 1, 1), y1: snap(y1 - 1, 1) }, Math.round(p.search));
    return aroundNow(io.frame, region);
  },
  render(ctx, p, out) {
    if (p.by === 'motion') return calmByMotion(ctx, p.amount, out);
    const now = ctx.tile('main')!;
    const others = [-1, 1].map((d) => ctx.tile('main', ctx.frame + d)!);
    const { region } = now;
    const reach = Math.round(p.search);
    const w = width(region);
    const [look, ...around] = [0, -1, 1].map((d) => looks(ctx.tile('plate', ctx.frame + d) ?? ctx.tile('main', ctx.frame + d)!)) as [
      Float32Array,
      Float32Array,
      Float32Array,
    ];
    const a = now.planes.A!;
    /** What is delivered, as it is now until a block is calmed: coverage, and the premultiplied colour that belongs to it. */
    const calmed = Object.fromEntries(
      Object.keys(out.planes).map((c) => {
        const to = ctx.scratch(area(region));
        to.set(now.planes[c]!);
        return [c, to];
      }),
    );
    for (let y0 = reach; y0 < height(region) - reach; y0 += BLOCK) {
      ctx.poll();
      for (let x0 = reach; x0 < w - reach; x0 += BLOCK) {
        const block = { x0, y0, x1: Math.min(w - reach, x0 + BLOCK), y1: Math.min(height(region) - reach, y0 + BLOCK) };
        if (!hasEdge(a, w, block)) continue;
        const [before, after] = around.map((o) => shiftOf(look, o, w, block, reach)) as [number, number];
        for (let y = block.y0; y < block.y1; y++) {
          for (let i = y * w + block.x0, end = y * w + block.x1; i < end; i++) {
            const [j, k] = [i + before, i + after];
            const [was, first, last] = [a[i]!, others[0]!.planes.A![j]!, others[1]!.planes.A![k]!];
            const calm = median(was, first, last);
            if (calm === was) continue;
            const [from, at] = calm === first ? [others[0]!, j] : [others[1]!, k];
            for (const c in calmed) calmed[c]![i]! += p.amount * (from.planes[c]![at]! - now.planes[c]![i]!);
          }
        }
      }
    }
    for (const [c, plane] of Object.entries(out.planes)) copyShared(ctx.kernels, calmed[c]!, region, plane, out.region);
  },
});

function hasEdge(a: Float32Array, w: number, { x0, y0, x1, y1 }: Rect): boolean {
  for (let y = y0; y < y1; y++) {
    for (let i = y * w + x0, end = y * w + x1; i < end; i++) if (a[i]! > PARTIAL.least && a[i]! < PARTIAL.most) return true;
  }
  return false;
}
