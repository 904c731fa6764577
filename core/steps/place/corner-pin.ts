import { ShotError } from '../../errors';
import type { Homography, Quad } from '../../geometry/homography';
import { applyHomography, homographyBetween } from '../../geometry/homography';
import type { Rect } from '../../geometry/rect';
import { height, isEmpty, rect, width } from '../../geometry/rect';
import { choice, point, toggle } from '../../param';
import type { Format } from '../../picture';
import { formatRect } from '../../picture';
import { defineStep } from '../../step';

type Point = readonly [number, number];

export interface Pins {
  topLeft: Point;
  topRight: Point;
  bottomRight: Point;
  bottomLeft: Point;
}

export const CORNERS = ['topLeft', 'topRight', 'bottomRight', 'bottomLeft'] as const satisfies readonly (keyof Pins)[];

/** The frame's own corners, in the order of CORNERS. */
export const frameCorners = ({ width: w, height: h }: Format): Quad => [
  [0, 0],
  [w, 0],
  [w, h],
  [0, h],
];

/** Where the corners are pinned, in pixels of the frame. */
export const pinnedCorners = (p: Pins, format: Format): Quad =>
  frameCorners(format).map(([x, y], i) => [x + p[CORNERS[i]!][0], y + p[CORNERS[i]!][1]]) as unknown as Quad;

/** From positions of the step's picture to those of the picture it is given. */
function backward(p: Pins & { unwrap: boolean }, format: Format): Homography {
  const [frame, pins] = [frameCorners(format), pinnedCorners(p, format)];
  const map = p.unwrap ? homographyBetween(frame, pins) : homographyBetween(pins, frame);
  if (!map) throw new ShotError('its corners cross or lie on a line: move one so that they make a four-sided shape again');
  return map;
}

const corner = (title: string) =>
  point(title, [0, 0], { unit: 'px', pixels: true, group: 'Corners', help: "How far the corner is moved from the frame's." });

/** Samples across a pixel, at most: more than that much reduction is rare, and shimmers little. */
const MOST = 4;

export const cornerPin = defineStep({
  type: 'cornerPin',
  title: 'Corner pin',
  family: 'Place & warp',
  summary: "Pins the frame's four corners to four points, or unwraps what lies between four points to a flat frame.",
  params: {
    topLeft: corner('Top left'),
    topRight: corner('Top right'),
    bottomRight: corner('Bottom right'),
    bottomLeft: corner('Bottom left'),
    unwrap: toggle('Unwrap', false, { animatable: false, help: 'The other way about: what lies between the four points fills the frame.' }),
    filter: choice('Filter', 'cubic', [
      { value: 'cubic', title: 'Catmull–Rom' },
      { value: 'linear', title: 'Bilinear' },
    ]),
  },
  feeds: [],
  neutral: (p) => CORNERS.every((c) => p[c][0] === 0 && p[c][1] === 0),
  bounds: (p, io) => {
    const { format, bounds } = io.inputs.main!;
    const frame = formatRect(format);
    // Also what cannot be pinned is told here, before a pixel is asked for.
    backward(p, format);
    if (p.unwrap) return frame;
    const map = homographyBetween(frameCorners(format), pinnedCorners(p, format))!;
    const { x0, y0, x1, y1 } = bounds;
    const all = (
      [
        [x0, y0],
        [x1, y0],
        [x1, y1],
        [x0, y1],
      ] as const
    ).map(([x, y]) => applyHomography(map, x, y));
    // What reaches over the horizon has no end; the frame is enough of it.
    if (all.some(([, , w]) => w <= 1e-6)) return frame;
    const [xs, ys] = [all.map(([x]) => x), all.map(([, y]) => y)];
    const limit = (v: number, size: number): number => Math.min(3 * size, Math.max(-2 * size, v));
    return rect(
      Math.floor(limit(Math.min(...xs), format.width)) - 1,
      Math.floor(limit(Math.min(...ys), format.height)) - 1,
      Math.ceil(limit(Math.max(...xs), format.width)) + 1,
      Math.ceil(limit(Math.max(...ys), format.height)) + 1,
    );
  },
  needs: (_, want, io) => [{ input: 'main', region: io.inputs.main!.bounds, channels: want.channels }],
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    if (isEmpty(from.region)) return Object.values(out.planes).forEach((plane) => void plane.fill(0));
    const map = backward(p, ctx.inputs.main!.format);
    const planes = Object.keys(out.planes).map((c) => [from.planes[c]!, out.planes[c]!] as const);
    const w = width(out.region);
    const values = new Float64Array(planes.length);
    for (let y = out.region.y0, o = 0; y < out.region.y1; y++) {
      if (y % 16 === 0) ctx.poll();
      for (let x = out.region.x0; x < out.region.x0 + w; x++, o++) {
        values.fill(0);
        const n = samplesAt(map, x, y);
        for (let j = 0; j < n; j++) {
          for (let i = 0; i < n; i++) {
            const [u, v, horizon] = applyHomography(map, x + (i + 0.5) / n, y + (j + 0.5) / n);
            if (horizon > 1e-9) sample(planes, from.region, u, v, p.filter === 'cubic', values);
          }
        }
        for (let k = 0; k < planes.length; k++) planes[k]![1][o] = values[k]! / (n * n);
      }
    }
  },
});

/** How many samples across a pixel its share of the picture asks for. */
function samplesAt(map: Homography, x: number, y: number): number {
  const [u, v] = applyHomography(map, x, y);
  const [a, b] = applyHomography(map, x + 1, y);
  const [c, d] = applyHomography(map, x, y + 1);
  const stretch = Math.max(Math.hypot(a - u, b - v), Math.hypot(c - u, d - v));
  return Math.min(MOST, Math.max(1, Math.round(stretch)));
}

/** Weights of four neighbours for a fraction: Catmull and Rom's cubic, or a straight line between the inner two. */
function weightsOf(t: number, cubic: boolean, to: Float64Array): void {
  if (cubic) {
    to[0] = t * (-0.5 + t * (1 - 0.5 * t));
    to[1] = 1 + t * t * (-2.5 + 1.5 * t);
    to[2] = t * (0.5 + t * (2 - 1.5 * t));
    to[3] = t * t * (-0.5 + 0.5 * t);
  } else {
    to[0] = to[3] = 0;
    to[1] = 1 - t;
    to[2] = t;
  }
}

const WX = new Float64Array(4);
const WY = new Float64Array(4);

/** Adds the planes' values at a position; there is nothing beyond the picture. */
function sample(
  planes: readonly (readonly [Float32Array, Float32Array])[],
  region: Rect,
  u: number,
  v: number,
  cubic: boolean,
  to: Float64Array,
): void {
  const [w, h] = [width(region), height(region)];
  const [x, y] = [u - 0.5 - region.x0, v - 0.5 - region.y0];
  const [x0, y0] = [Math.floor(x) - 1, Math.floor(y) - 1];
  if (x0 + 3 < 0 || y0 + 3 < 0 || x0 >= w || y0 >= h) return;
  weightsOf(x - Math.floor(x), cubic, WX);
  weightsOf(y - Math.floor(y), cubic, WY);
  for (let j = 0; j < 4; j++) {
    const row = y0 + j;
    if (row < 0 || row >= h || WY[j] === 0) continue;
    for (let i = 0; i < 4; i++) {
      const column = x0 + i;
      if (column < 0 || column >= w || WX[i] === 0) continue;
      const weight = WX[i]! * WY[j]!;
      const at = row * w + column;
      for (let k = 0; k < planes.length; k++) to[k]! += weight * planes[k]![0][at]!;
    }
  }
}
