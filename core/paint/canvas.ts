import type { Kernels } from '@/kernels';
import { mappedRect } from '../cleaning/carry';
import { fillMembrane, holeOf } from '../cleaning/membrane';
import { LUMA } from '../colour/transfer';
import { tapsOf } from '../filters/resample';
import { Packed, sampleThrough } from '../filters/sample';
import { atScale } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import type { Rect } from '../geometry/rect';
import { area, grow, intersect, isEmpty, width } from '../geometry/rect';
import type { Tile } from '../picture';
import { RGBA } from '../picture';
import type { Covered } from './lay-strokes';
import { strokeCoverage } from './lay-strokes';
import type { LaidStroke } from './pose';

/** What is painted on: R, G, B, A over a region, changed in place, and what there is to copy from. */
export interface Canvas {
  readonly kernels: Kernels;
  readonly scale: number;
  readonly region: Rect;
  readonly planes: readonly Float32Array[];
  /** The picture as it came in, over the same region. */
  readonly before: readonly Float32Array[];
  /** Another frame or another picture; undefined where it is not there. */
  picture(frame: number | undefined, other: boolean): Tile | undefined;
  poll(): void;
}

/** Pixels that the filter reads beyond its own. */
const REACH = 3;
/** Coverage from which a pixel is healed. */
const HEALED = 0.02;
/** Radius of the brush in which a dab of smearing lies, as a share: close enough that none is seen by itself. */
const DAB = 0.2;

/** Lays a stroke on. */
export function brush(canvas: Canvas, one: LaidStroke): void {
  const covered = strokeCoverage(one, canvas.scale, canvas.region);
  if (!covered) return;
  const { tool } = one.stroke;
  if (tool === 'smear') return smear(canvas, one);
  if (tool === 'clone' || tool === 'reveal' || tool === 'heal') return copy(canvas, one, covered);
  if (tool === 'blur' || tool === 'sharpen') return soften(canvas, one, covered);
  const [r, g, b, a] = canvas.planes as [Float32Array, Float32Array, Float32Array, Float32Array];
  const { before } = canvas;
  const [cr, cg, cb] = one.stroke.colour as [number, number, number];
  const light = LUMA[0] * cr + LUMA[1] * cg + LUMA[2] * cb;
  const gain = 2 ** ((tool === 'burn' ? -1 : 1) * (one.stroke.amount ?? 1));
  over(canvas, covered, (i, k) => {
    if (tool === 'paint') {
      r[i]! += k * (cr - r[i]!);
      g[i]! += k * (cg - g[i]!);
      b[i]! += k * (cb - b[i]!);
      a[i]! += k * (1 - a[i]!);
    } else if (tool === 'tint') {
      // The brush's colour at the picture's luminance; it is multiplied by alpha as the picture is.
      if (!(light > 0)) return;
      const own = (LUMA[0] * r[i]! + LUMA[1] * g[i]! + LUMA[2] * b[i]!) / light;
      r[i]! += k * (own * cr - r[i]!);
      g[i]! += k * (own * cg - g[i]!);
      b[i]! += k * (own * cb - b[i]!);
    } else if (tool === 'erase') for (let c = 0; c < 4; c++) canvas.planes[c]![i]! += k * (before[c]![i]! - canvas.planes[c]![i]!);
    else for (const plane of [r, g, b]) plane[i]! *= 1 + k * (gain - 1);
  });
}

/** For each pixel that a stroke covers: its place in the planes, how much, and its place in the coverage. */
function over({ region }: Canvas, { box, data }: Covered, pixel: (i: number, k: number, at: number) => void): void {
  const w = width(region);
  for (let y = box.y0, at = 0; y < box.y1; y++) {
    let i = (y - region.y0) * w + box.x0 - region.x0;
    for (let x = box.x0; x < box.x1; x++, i++, at++) if (data[at]! > 0) pixel(i, data[at]!, at);
  }
}

/** A part of planes of a region, in planes of its own. */
function part(canvas: Canvas, from: readonly Float32Array[], box: Rect): Float32Array[] {
  const [w, bw] = [width(canvas.region), width(box)];
  return from.map((plane) => {
    const to = new Float32Array(area(box));
    for (let y = box.y0; y < box.y1; y++) {
      const at = (y - canvas.region.y0) * w + box.x0 - canvas.region.x0;
      to.set(plane.subarray(at, at + bw), (y - box.y0) * bw);
    }
    return to;
  });
}

/** Clone, reveal and heal: what lies elsewhere, as it is or in the light of its new place. */
function copy(canvas: Canvas, { stroke, look }: LaidStroke, covered: Covered): void {
  if (!look) return;
  const { scale, region } = canvas;
  const heals = stroke.tool === 'heal';
  // What is healed also looks at its rim.
  const box = heals ? intersect(grow(covered.box, 2), region) : covered.box;
  const elsewhere = stroke.other || stroke.from !== undefined;
  const tile = elsewhere ? canvas.picture(stroke.from, stroke.other ?? false) : null;
  if (tile === undefined || (tile && isEmpty(tile.region))) return;
  const [planes, have] = tile ? [RGBA.map((c) => tile.planes[c]!), tile.region] : [canvas.planes, region];
  const source = lookThrough(canvas.kernels, planes, have, box, atScale(look, scale));
  if (heals) light(canvas, source, box, covered);
  const bw = width(box);
  const w = width(covered.box);
  over(canvas, covered, (i, k, at) => {
    const [x, y] = [at % w, Math.floor(at / w)];
    const j = (y + covered.box.y0 - box.y0) * bw + x + covered.box.x0 - box.x0;
    for (let c = 0; c < 4; c++) canvas.planes[c]![i]! += k * (source[c]![j]! - canvas.planes[c]![i]!);
  });
}

/** Copies a part of planes of a rectangle; what lies beyond it is 0. */
function cut(from: Float32Array, have: Rect, want: Rect, dx: number, dy: number, to: Float32Array): void {
  const [fw, w] = [width(have), width(want)];
  const there = intersect(have, { x0: want.x0 + dx, y0: want.y0 + dy, x1: want.x1 + dx, y1: want.y1 + dy });
  to.fill(0);
  for (let v = there.y0; v < there.y1; v++) {
    const at = (v - have.y0) * fw - have.x0;
    to.set(from.subarray(at + there.x0, at + there.x1), (v - dy - want.y0) * w + there.x0 - dx - want.x0);
  }
}

/** Planes seen through a map over a box; by whole pixels they are copied as they are. */
function lookThrough(kernels: Kernels, planes: readonly Float32Array[], have: Rect, box: Rect, map: Homography): Float32Array[] {
  const n = area(box);
  const out = planes.map(() => new Float32Array(n));
  const [dx, dy] = [Math.round(map[2]), Math.round(map[5])];
  const bends = Math.abs(map[0] - 1) + Math.abs(map[4] - 1) + Math.abs(map[1]) + Math.abs(map[3]) + Math.abs(map[6]) + Math.abs(map[7]);
  if (bends < 1e-9 && Math.abs(map[2] - dx) < 1e-4 && Math.abs(map[5] - dy) < 1e-4) {
    planes.forEach((plane, c) => cut(plane, have, box, dx, dy, out[c]!));
    return out;
  }
  const need = intersect(mappedRect(map, box, REACH) ?? have, have);
  if (isEmpty(need)) return out;
  kernels.guard(() => {
    const own = planes.map((plane) => {
      const to = kernels.take(area(need));
      cut(plane, have, need, 0, 0, to);
      return to;
    });
    const seen = planes.map(() => kernels.take(n));
    const packed = Packed.of(kernels, own, need);
    sampleThrough(kernels, packed, seen, box, map, tapsOf('catmullRom'));
    packed.give();
    seen.forEach((plane, c) => out[c]!.set(plane));
    [...own, ...seen].forEach((plane) => kernels.give(plane));
  });
  return out;
}

/** Fits a source's light to its surroundings on the canvas: Pérez et al. 2003, in place. */
function light(canvas: Canvas, source: readonly Float32Array[], box: Rect, covered: Covered): void {
  const [bw, cw] = [width(box), width(covered.box)];
  const open = new Uint8Array(area(box));
  covered.data.forEach((k, at) => {
    if (k > HEALED) open[(Math.floor(at / cw) + covered.box.y0 - box.y0) * bw + (at % cw) + covered.box.x0 - box.x0] = 1;
  });
  const hole = holeOf(open, bw, area(box) / bw);
  if (hole.open.length === open.length) return;
  const there = part(canvas, canvas.planes, box);
  for (let c = 0; c < 3; c++) {
    fillMembrane(there[c]!, hole, source[c]!, canvas.poll);
    source[c]!.set(there[c]!);
  }
}

/** Blur and sharpen: a Gaussian of so many px under the stroke. */
function soften(canvas: Canvas, { stroke }: LaidStroke, covered: Covered): void {
  const sigma = Math.max(0.3, (stroke.amount ?? 2) * canvas.scale);
  const reach = Math.ceil(3 * sigma);
  const box = intersect(grow(covered.box, reach), canvas.region);
  const [w, h] = [width(box), area(box) / width(box)];
  const taps = Float32Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-((i - reach) ** 2) / (2 * sigma * sigma)));
  const sum = taps.reduce((s, v) => s + v, 0);
  const across = new Float32Array(w * h);
  const soft = new Float32Array(w * h);
  const cw = width(covered.box);
  part(canvas, canvas.planes, box).forEach((plane, c) => {
    canvas.poll();
    const pass = (from: Float32Array, to: Float32Array, step: number, size: number, along: (i: number) => number): void => {
      for (let i = 0; i < w * h; i++) {
        const at = along(i);
        let total = 0;
        for (let k = -reach; k <= reach; k++) total += taps[k + reach]! * from[i + (Math.min(size - 1, Math.max(0, at + k)) - at) * step]!;
        to[i] = total / sum;
      }
    };
    pass(plane, across, 1, w, (i) => i % w);
    pass(across, soft, w, h, (i) => Math.floor(i / w));
    const to = canvas.planes[c]!;
    const sign = stroke.tool === 'blur' ? 1 : -1;
    over(canvas, covered, (i, k, at) => {
      const j = (Math.floor(at / cw) + covered.box.y0 - box.y0) * w + (at % cw) + covered.box.x0 - box.x0;
      to[i]! += sign * k * (soft[j]! - plane[j]!);
    });
  });
}

/** Colour that the brush takes up and lays down again along its way, a dab at a time. */
function smear(canvas: Canvas, { stroke, points, size }: LaidStroke): void {
  const { scale, region, planes } = canvas;
  const r = Math.max(1, (size * scale) / 2);
  const reach = Math.ceil(r);
  const side = 2 * reach + 1;
  const dab = new Float32Array(side * side);
  for (let i = 0; i < dab.length; i++) {
    const d = Math.hypot((i % side) - reach, Math.floor(i / side) - reach);
    const t = Math.min(1, Math.max(0, (r + 0.5 - d) / (r + 0.5 - Math.min(stroke.hardness * r, r - 0.5))));
    dab[i] = stroke.flow * t * t * (3 - 2 * t);
  }
  const carried = planes.map(() => new Float32Array(side * side));
  let first = true;
  const w = width(region);
  const press = (cx: number, cy: number): void => {
    const [x0, y0] = [Math.floor(cx) - reach, Math.floor(cy) - reach];
    for (let v = 0; v < side; v++) {
      const y = y0 + v;
      if (y < region.y0 || y >= region.y1) continue;
      for (let u = 0; u < side; u++) {
        const x = x0 + u;
        if (x < region.x0 || x >= region.x1) continue;
        const [i, j] = [(y - region.y0) * w + x - region.x0, v * side + u];
        for (let c = 0; c < 4; c++) {
          const plane = planes[c]!;
          if (!first) plane[i]! += dab[j]! * (carried[c]![j]! - plane[i]!);
          carried[c]![j] = plane[i]!;
        }
      }
    }
    first = false;
  };
  const step = Math.max(1, DAB * r);
  let left = 0;
  press(points[0]! * scale, points[1]! * scale);
  for (let k = 2; k < points.length; k += 2) {
    canvas.poll();
    const [ax, ay, bx, by] = [points[k - 2]!, points[k - 1]!, points[k]!, points[k + 1]!].map((v) => v * scale) as [
      number,
      number,
      number,
      number,
    ];
    const length = Math.hypot(bx - ax, by - ay);
    let at = step - left;
    for (; at <= length; at += step) press(ax + ((bx - ax) * at) / length, ay + ((by - ay) * at) / length);
    left = length - (at - step);
  }
}
