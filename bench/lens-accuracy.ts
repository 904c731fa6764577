import { spawnSync } from 'node:child_process';
import sharp from 'sharp';
import { join } from 'node:path';
import { REC709 } from '@/core/colour/transfer';
import type { ResampleFilter } from '@/core/filters/resample';
import { FILTERS } from '@/core/filters/resample';
import { positionPlanes } from '@/core/filters/position-planes';
import { fitMap } from '@/core/geometry/fit';
import type { Pair } from '@/core/geometry/fit';
import { applyHomography, homographyBetween } from '@/core/geometry/homography';
import { Mapping } from '@/core/geometry/mapping';
import { rect } from '@/core/geometry/rect';
import { lensJob, throughLens } from '@/core/lens/apply';
import { detectChart } from '@/core/lens/chart/detect';
import { followEdge } from '@/core/lens/edges';
import type { Lens } from '@/core/lens/lens';
import { lensMapOf } from '@/core/lens/lens';
import { solveLines } from '@/core/lens/plumb';
import type { Crossing } from '@/core/lens/reading';
import { solveCharts } from '@/core/lens/solve-charts';
import type { Picture } from '@/core/picture';
import type { Gray } from '@/core/readings/gray';
import { writePlate } from '@/demo/plate-file';
import { CRATES, slipwayCamera } from '@/demo/sg050';
import type { ChartOptions } from '@/demo/sg070';
import { SG070, chartTruth, renderChart } from '@/demo/sg070';
import { directionAt, filmedAt } from '@/demo/wide-lens';
import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import { table } from './timing';

const root = process.env.OSTRACON_ROOT ?? '.';
const [W, H] = [960, 540];

async function grayOf(path: string): Promise<Gray> {
  const { data, info } = await sharp(path).raw().toBuffer({ resolveWithObject: true });
  const n = info.width * info.height;
  return {
    width: info.width,
    height: info.height,
    data: Float32Array.from({ length: n }, (_, i) => (0.2126 * data[3 * i]! + 0.7152 * data[3 * i + 1]! + 0.0722 * data[3 * i + 2]!) / 255),
  };
}

/** A chart as its file has it. */
async function filmedChart(frame: number, o: ChartOptions, name: string): Promise<Gray> {
  const path = join('/tmp', `saltgate-chart-${name}-${frame}.jpg`);
  await writePlate(renderChart(frame, o), W, H, path);
  return grayOf(path);
}

/** How far from where they were filmed a lens has the frame's places, px, with the freedom that a lens leaves open (a homography) taken out. */
function againstTruth(lens: Lens): { mean: number; most: number } {
  const map = lensMapOf(lens);
  const to = new Float64Array(2);
  const places: [number, number][] = [];
  const pairs: Pair[] = [];
  for (let y = 0; y <= H; y += 20) {
    for (let x = 0; x <= W; x += 20) {
      map.straighten(x, y, to);
      if (!Number.isFinite(to[0])) continue;
      const [u, v] = directionAt(x, y);
      places.push([x, y]);
      pairs.push([u, v, to[0]!, to[1]!]);
    }
  }
  const fit = fitMap('perspective', pairs)!;
  const far = pairs.map(([u, v], i) => {
    const [x, y] = applyHomography(fit, u, v);
    map.bend(x, y, to);
    return Math.hypot(to[0]! - places[i]![0], to[1]! - places[i]![1]);
  });
  return { mean: far.reduce((s, d) => s + d, 0) / far.length, most: Math.max(...far) };
}

/** OpenCV's calibration (Debian's python3-opencv) of crossings with k1 to k3, p1, p2, and of those that it finds itself in a file. Null where it is not installed. */
function openCvCalibration(
  charts: readonly (readonly Crossing[])[],
  files: readonly string[],
  across: number,
  down: number,
): { same: number; own: number | null; found: string } | null {
  const code = `
import cv2, json, sys, numpy as np
d = json.load(sys.stdin)
size = (${W}, ${H})
def solve(obj, img):
    return cv2.calibrateCamera([np.float32(o) for o in obj], [np.float32(i) for i in img], size, np.eye(3), None, flags=cv2.CALIB_FIX_ASPECT_RATIO)[0]
same = solve([[[c['column'], c['row'], 0] for c in k] for k in d['charts']], [[[c['x'] - .5, c['y'] - .5] for c in k] for k in d['charts']])
obj, img, found = [], [], 0
grid = [[i, j, 0] for j in range(${down}) for i in range(${across})]
for f in d['files']:
    g = cv2.imread(f, 0)
    ok, c = cv2.findChessboardCorners(g, (${across}, ${down}), flags=cv2.CALIB_CB_ADAPTIVE_THRESH | cv2.CALIB_CB_NORMALIZE_IMAGE)
    if not ok: continue
    found += 1
    c = cv2.cornerSubPix(g, c, (5, 5), (-1, -1), (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 40, 0.001))
    obj.append(grid); img.append(c.reshape(-1, 2))
print(json.dumps({'same': same, 'own': solve(obj, img) if obj else None, 'found': '%d of %d boards' % (found, len(d['files']))}))`;
  const input = JSON.stringify({ charts: charts.map((c) => c.filter((k) => k.used)), files });
  const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8', input });
  return status === 0 ? (JSON.parse(stdout) as { same: number; own: number | null; found: string }) : null;
}

async function charts(): Promise<string> {
  const kinds: [string, ChartOptions][] = [
    ['as filmed (SG070)', SG070],
    ['blur ×2', { ...SG070, blur: 2 * SG070.blur, corners: 2 * SG070.corners }],
    ['noise ×3', { ...SG070, noise: 3 * SG070.noise }],
    ['30 % covered', { ...SG070, covered: 0.3 }],
    ['30 % covered, other stickers', { ...SG070, covered: 0.3, seed: 99 }],
    ['grid of lines', { ...SG070, pattern: 'grid' }],
    ['all of the board seen', { ...SG070, away: 1.55 }],
  ];
  const rows: string[][] = [];
  const against: string[][] = [];
  for (const [name, o] of kinds) {
    const boards: Crossing[][] = [];
    const files: string[] = [];
    let [seen, hit, wrong] = [0, 0, 0];
    let sum = 0;
    for (const frame of [1, 2, 3]) {
      const slug = name.replace(/\W+/g, '-');
      files.push(join('/tmp', `saltgate-chart-${slug}-${frame}.jpg`));
      const found = detectChart(await filmedChart(frame, o, slug), 'auto')?.crossings ?? [];
      boards.push(found);
      const truth = chartTruth(frame, o);
      const near = (x: number, y: number, list: readonly { x: number; y: number }[]): number =>
        Math.min(...list.map((q) => Math.hypot(q.x - x, q.y - y)));
      const visible = truth.filter((q) => !q.hidden && q.x > 3 && q.y > 3 && q.x < W - 3 && q.y < H - 3);
      seen += visible.length;
      hit += visible.filter((q) => near(q.x, q.y, found) < 1.5).length;
      for (const c of found) if (near(c.x, c.y, truth) < 1.5) sum += near(c.x, c.y, truth) ** 2;
    }
    const solved = solveCharts({ charts: boards, format: { width: W, height: H }, model: 'auto' });
    const kept = boards.map((b, i) => b.map((c, k) => ({ ...c, used: !solved.out[i]![k] })));
    // What is still wrong once those that do not fit are out.
    for (const [i, frame] of [1, 2, 3].entries()) {
      const truth = chartTruth(frame, o);
      for (const c of kept[i]!) if (c.used && Math.min(...truth.map((q) => Math.hypot(q.x - c.x, q.y - c.y))) > 1.5) wrong++;
    }
    const count = boards.flat().length;
    const { mean, most } = againstTruth(solved.lens);
    rows.push([
      name,
      `${hit} of ${seen} (${((100 * hit) / seen).toFixed(1)} %)`,
      String(wrong),
      Math.sqrt(sum / count).toFixed(3),
      solved.lens.model,
      `${solved.rms.toFixed(3)} / ${solved.max.toFixed(2)}`,
      `${mean.toFixed(3)} / ${most.toFixed(3)}`,
    ]);
    if (o.pattern !== 'checker' || o.covered > 0) continue;
    const brown = solveCharts({ charts: kept.map((b) => b.filter((c) => c.used)), format: { width: W, height: H }, model: 'brown' });
    const cv = openCvCalibration(kept, files, 15, 9);
    against.push([
      name,
      brown.rms.toFixed(4),
      cv ? cv.same.toFixed(4) : '',
      cv?.own ? cv.own.toFixed(4) : '–',
      cv?.found ?? 'not installed',
    ]);
  }
  return [
    table(
      [
        'chart, three tilts',
        'crossings found',
        'wrong ones used',
        'crossings off truth, rms px',
        'model',
        'residual rms / max, px',
        'lens off truth over the frame, mean / max px',
      ],
      rows,
    ),
    'The same terms (k1 to k3, p1, p2) by OpenCV’s own calibration, on our crossings and on those that it finds itself (it finds none of a board that leaves the frame), residual rms in px:',
    table(['chart', 'ours', 'OpenCV, same crossings', 'OpenCV, its own', 'boards it found'], against),
  ].join('\n\n');
}

/** Edges of the slipway that are straight: ends in the world, in metres. */
function worldLines(): [readonly number[], readonly number[]][] {
  const out: [readonly number[], readonly number[]][] = [
    [
      [-3.9, -3.66, 9.59],
      [4.7, -3.66, 9.59],
    ],
    [
      [-3.9, -3.44, 9.59],
      [4.7, -3.44, 9.59],
    ],
    [
      [-8, -2.6, 11.5],
      [8.5, -2.6, 11.5],
    ],
    [
      [-0.57, -0.1, 2.2],
      [-0.57, -0.1, 8],
    ],
    [
      [1.57, -0.1, 2.2],
      [1.57, -0.1, 8],
    ],
  ];
  for (const c of CRATES) {
    const [k, s] = [Math.cos(c.yaw), Math.sin(c.yaw)];
    const at = (u: number, v: number): number[] => {
      const [x, y, z] = [u * c.half[0], v * c.half[1], -c.half[2]];
      return [c.at[0] + k * x + s * z, c.at[1] + y, c.at[2] - s * x + k * z];
    };
    for (const u of [-1, 1]) out.push([at(u, -1), at(u, 1)], [at(-1, u), at(1, u)]);
  }
  return out;
}

async function plumb(): Promise<string> {
  const lines: { found: number[]; onEdge: boolean }[] = [];
  for (const frame of [1, 40, 70, 96]) {
    const gray = await grayOf(join(root, `demo/media/sg050/slipway.${String(frame).padStart(4, '0')}.jpg`));
    const m = slipwayCamera(frame).pose;
    for (const [a, b] of worldLines()) {
      const drawn = [0, 0.25, 0.5, 0.75, 1].flatMap((t, i) => {
        const p = a.map((v, k) => v + t * (b[k]! - v));
        const [x, y, z] = [0, 1, 2].map((r) => m[4 * r]! * p[0]! + m[4 * r + 1]! * p[1]! + m[4 * r + 2]! * p[2]! + m[4 * r + 3]!) as [
          number,
          number,
          number,
        ];
        const [u, v] = filmedAt(x / z, y / z);
        // As a hand draws: a pixel or two beside it.
        return z > 0.5 && u > 4 && v > 4 && u < W - 4 && v < H - 4 ? [u + (i % 2 ? 1.5 : -1.5), v + (i % 3 ? -1 : 1.5)] : [];
      });
      const found = drawn.length >= 4 ? followEdge(gray, drawn) : [];
      if (found.length > 0) lines.push({ found, onEdge: staysBy(found, drawn, 3) });
    }
  }
  const kinds = [true, false].flatMap((looked) => (['auto', 'radial2', 'brown'] as const).map((model) => ({ looked, model })));
  const rows = kinds.map(({ looked, model }) => {
    const used = lines.filter((l) => l.onEdge || !looked).map((l) => l.found);
    const made = solveLines(used, { width: W, height: H }, model, 604);
    const { mean, most } = againstTruth(made.lens);
    return [
      looked ? 'those beside their edge deleted' : 'all, unseen',
      `${model}${model === 'auto' ? ` (${made.lens.model})` : ''}`,
      `${made.out.filter((o) => !o).length} of ${used.length}`,
      `${made.rms.toFixed(3)} / ${made.max.toFixed(2)}`,
      `${mean.toFixed(3)} / ${most.toFixed(2)}`,
    ];
  });
  return `Straight edges of SG050 (the beam, the wall, rails, crates; many are hidden in part, and are to be thrown out), drawn a pixel or two beside, on four frames:\n\n${table(['lines', 'model', 'lines used', 'residual rms / max, px', 'lens off truth over the frame, mean / max px'], rows)}`;
}

/** Whether what was found stays within so many px of what was drawn. */
function staysBy(found: readonly number[], drawn: readonly number[], px: number): boolean {
  for (let i = 0; i < found.length; i += 2) {
    let near = Infinity;
    for (let k = 0; k + 3 < drawn.length; k += 2) {
      const [ax, ay, bx, by] = drawn.slice(k, k + 4) as [number, number, number, number];
      const t = Math.min(
        1,
        Math.max(0, ((found[i]! - ax) * (bx - ax) + (found[i + 1]! - ay) * (by - ay)) / Math.max(1e-9, (bx - ax) ** 2 + (by - ay) ** 2)),
      );
      near = Math.min(near, Math.hypot(found[i]! - ax - t * (bx - ax), found[i + 1]! - ay - t * (by - ay)));
    }
    if (near > px) return false;
  }
  return true;
}

const psnr = (a: Plane, b: Plane, keep: (i: number) => boolean): number => {
  let [sum, n] = [0, 0];
  a.forEach((v, i) => {
    if (!keep(i)) return;
    sum += (v - b[i]!) ** 2;
    n++;
  });
  return 10 * Math.log10(n / sum);
};

/** Swing of a plane about its mean where `keep` says, as a share of that of another. */
const swing = (a: Plane, b: Plane, keep: (i: number) => boolean): number => {
  const spread = (p: Plane): number => {
    let [sum, square, n] = [0, 0, 0];
    p.forEach((v, i) => {
      if (!keep(i)) return;
      [sum, square, n] = [sum + v, square + v * v, n + 1];
    });
    return Math.sqrt(square / n - (sum / n) ** 2);
  };
  return spread(a) / spread(b);
};

async function roundTrip(kernels: Kernels, lens: Lens): Promise<string> {
  const format = { width: W, height: H, pixelAspect: 1 };
  const there = lensJob(lens, format, 'straighten');
  const back = lensJob(lens, format, 'bend');
  const at = positionPlanes(kernels, there.mapping, there.bounds);
  const map = lensMapOf(lens);
  const to = new Float64Array(2);
  let most = 0;
  const w = there.bounds.x1 - there.bounds.x0;
  at.xs.forEach((x, i) => {
    const [px, py] = [there.bounds.x0 + (i % w) + 0.5, there.bounds.y0 + Math.floor(i / w) + 0.5];
    if (!(x >= 0 && x <= W && at.ys[i]! >= 0 && at.ys[i]! <= H)) return;
    map.straighten(x, at.ys[i]!, to);
    most = Math.max(most, Math.hypot(to[0]! - px, to[1]! - py));
  });
  [at.xs, at.ys].forEach((p) => kernels.give(p));
  const { data } = await sharp(join(root, 'demo/media/sg050/slipway.0060.jpg')).raw().toBuffer({ resolveWithObject: true });
  const n = W * H;
  const plate = kernels.copy(Float32Array.from({ length: n }, (_, i) => REC709.decode(data[3 * i + 1]! / 255)));
  // Stripes of four pixels: half of the finest that pixels can hold.
  const stripes = kernels.copy(Float32Array.from({ length: n }, (_, i) => 0.5 + 0.4 * Math.sin((Math.PI / 2) * ((i % W) + 0.5))));
  const picture: Picture = { format, bounds: rect(0, 0, W, H), channels: ['R', 'G'], planes: { R: plate, G: stripes } };
  const inside = (i: number): boolean => i % W > 40 && i % W < W - 40 && i / W > 40 && i / W < H - 40;
  const give = (p: Picture): void => Object.values(p.planes).forEach((x) => kernels.give(x));
  // A picture that is placed, and bent: by two resamples, and by one.
  const pin = Mapping.by(
    homographyBetween(
      [
        [0, 0],
        [W, 0],
        [W, H],
        [0, H],
      ],
      [
        [60, 30],
        [900, 60],
        [880, 510],
        [80, 500],
      ],
    )!,
  );
  const rows = FILTERS.map(({ value: filter, title }) => {
    const straight = throughLens(kernels, picture, there, filter);
    const again = throughLens(kernels, straight, back, filter);
    const placed = throughLens(kernels, picture, { mapping: pin, format, bounds: rect(0, 0, W, H) }, filter);
    const twice = throughLens(kernels, placed, back, filter);
    const once = throughLens(kernels, picture, { mapping: pin.then(back.mapping), format, bounds: rect(0, 0, W, H) }, filter);
    const middle = (i: number): boolean => i % W > 200 && i % W < 760 && i / W > 150 && i / W < 400;
    const row = [
      title,
      filter === ('nearest' as ResampleFilter) ? '–' : psnr(again.planes.R!, plate, inside).toFixed(1),
      swing(again.planes.G!, stripes, inside).toFixed(2),
      swing(twice.planes.G!, stripes, middle).toFixed(2),
      swing(once.planes.G!, stripes, middle).toFixed(2),
    ];
    [straight, again, placed, twice, once].forEach(give);
    return row;
  });
  give(picture);
  return `Straightened and bent back: positions come back within ${most.toExponential(1)} px. Of SG050’s plate when both are done as steps of their own (in the application a plate with nothing between is passed on to the bit), and of stripes of four pixels (½ Nyquist): what is left of their swing; and the same of a picture that is pinned and then bent, by two resamples and by the one that it is:\n\n${table(['filter', 'plate, PSNR dB', 'stripes, there and back', 'pinned, then bent', 'in one'], rows)}`;
}

export async function lensAccuracy(): Promise<string> {
  const kernels = await nodeKernels();
  const boards = await Promise.all(
    [1, 2, 3].map(async (f) => detectChart(await grayOf(join(root, `demo/media/sg070/chart.000${f}.jpg`)), 'auto')!.crossings),
  );
  const { lens } = solveCharts({ charts: boards, format: { width: W, height: H }, model: 'auto' });
  return [await charts(), await plumb(), await roundTrip(kernels, lens)].join('\n\n');
}
