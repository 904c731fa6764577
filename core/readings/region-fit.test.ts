import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import type { PlaneModel } from '../geometry/fit';
import { invert } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import { DirectRegion } from './region-fit';

const [W, H] = [160, 120];
const BOX = { x0: 50, y0: 40, x1: 110, y1: 84 };
const CORNERS = [
  [50, 40],
  [110, 40],
  [110, 84],
  [50, 84],
] as const;
const SAME: Homography = [1, 0, 0, 0, 1, 0, 0, 0, 1];

let kernels: Kernels;
const planes: Plane[] = [];
beforeAll(async () => {
  kernels = await nodeKernels();
});
afterEach(() => planes.splice(0).forEach((p) => kernels.give(p)));

/** A wall of soft spots, known everywhere, so that any picture of it is exact. */
const wall = (x: number, y: number): number =>
  0.5 +
  0.16 * Math.sin(x * 0.31 + 1.2 * Math.sin(y * 0.11)) +
  0.14 * Math.sin(y * 0.27 + 0.9 * Math.sin(x * 0.13)) +
  0.08 * Math.sin((x + y) * 0.55);

/** The wall as a camera sees it through a map from the reference. */
function picture(map: Homography, light: (v: number, x: number, y: number) => number = (v) => v) {
  const back = invert(map)!;
  const data = kernels.take(W * H);
  planes.push(data);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const [u, v] = applyHomography(back, x + 0.5, y + 0.5);
      data[y * W + x] = light(wall(u, v), x, y);
    }
  return { width: W, height: H, data };
}

function fitted(model: PlaneModel, of: ReturnType<typeof picture>, start = SAME, visible?: (x: number, y: number) => boolean) {
  const region = new DirectRegion(kernels, picture(SAME), (x, y) => x > 50 && x < 110 && y > 40 && y < 84, BOX, model);
  const fit = region.register(of, start, visible);
  region.close();
  return fit;
}

/** How far the corners of the region lie from where they should, at worst, in pixels. */
const off = (got: Homography, right: Homography): number =>
  Math.max(
    ...CORNERS.map(([x, y]) => {
      const [[a, b], [c, d]] = [applyHomography(got, x, y), applyHomography(right, x, y)];
      return Math.hypot(a - c, b - d);
    }),
  );

const MOVED: Record<PlaneModel, Homography> = {
  shift: [1, 0, 1.3, 0, 1, -0.7, 0, 0, 1],
  similarity: [1.01, -0.015, 1.4, 0.015, 1.01, -1.2, 0, 0, 1],
  affine: [1.012, 0.006, -0.8, -0.009, 0.99, 1.1, 0, 0, 1],
  perspective: [1.01, 0.008, -0.6, -0.006, 1.004, 0.5, 6e-5, -5e-5, 1],
};

test.each(Object.entries(MOVED) as [PlaneModel, Homography][])('a %s is found to a fiftieth of a pixel at every corner', (model, map) => {
  const fit = fitted(model, picture(map))!;
  expect(off(fit.map, map)).toBeLessThan(0.02);
  expect(fit.match).toBeGreaterThan(0.999);
  expect(fit.explained).toBeGreaterThan(0.95);
});

test('neither a lamp nor an exposure moves it', () => {
  const map = MOVED.affine;
  const fit = fitted(
    'affine',
    picture(map, (v) => 0.6 * v + 0.1),
  )!;
  expect(off(fit.map, map)).toBeLessThan(0.02);
});

test('what covers a fifth of it counts for nothing, and is told by what is explained', () => {
  const map = MOVED.affine;
  const covered = (x: number): boolean => x > 98;
  const arm = picture(map, (v, x) => (covered(x) ? 0.95 : v));
  const fit = fitted('affine', arm)!;
  expect(off(fit.map, map)).toBeLessThan(0.05);
  expect(fit.explained).toBeLessThan(0.88);
  // A matte says where the arm is: then none of what is left is unexplained.
  const known = fitted('affine', arm, SAME, (x) => !covered(x - 1))!;
  expect(off(known.map, map)).toBeLessThan(0.03);
  expect(known.explained).toBeGreaterThan(0.95);
});

test('a simpler model than the motion explains less of it', () => {
  const seen = picture(MOVED.perspective);
  const [shift, whole] = (['shift', 'perspective'] as const).map((m) => fitted(m, seen)!);
  expect(whole!.match).toBeGreaterThan(shift!.match);
  expect(off(whole!.map, MOVED.perspective)).toBeLessThan(off(shift!.map, MOVED.perspective));
});

test('is none where the picture is empty, turned to its negative, or the region has too few pixels; nothing is left behind', () => {
  const before = kernels.used;
  expect(
    fitted(
      'affine',
      picture(SAME, () => 0.5),
    ),
  ).toBeNull();
  expect(
    fitted(
      'affine',
      picture(SAME, (v) => 1 - v),
    ),
  ).toBeNull();
  const few = new DirectRegion(kernels, picture(SAME), (x, y) => x > 50 && x < 54 && y > 40 && y < 44, BOX, 'affine');
  expect(few.register(picture(SAME), SAME)).toBeNull();
  few.close();
  planes.splice(0).forEach((p) => kernels.give(p));
  expect(kernels.used).toBe(before);
});
