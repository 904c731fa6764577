import { spawnSync } from 'node:child_process';
import type { Kernels } from '@/kernels';
import { positionPlanes } from '@/core/filters/position-planes';
import { FILTERS, tapsOf } from '@/core/filters/resample';
import { Packed, mapRegion, sampleThrough } from '@/core/filters/sample';
import { area, rect } from '@/core/geometry/rect';
import { detectChart } from '@/core/lens/chart/detect';
import { lensJob } from '@/core/lens/apply';
import type { Lens } from '@/core/lens/lens';
import { solveCharts } from '@/core/lens/solve-charts';
import type { Gray } from '@/core/readings/gray';
import { SRGB } from '@/core/colour/transfer';
import { filmedAt } from '@/demo/wide-lens';
import { ms, table, timeOf, times } from './timing';

const HD = rect(0, 0, 1920, 1080);
const LENS: Lens = {
  model: 'brown',
  coefficients: { k1: -0.236, k2: 0.072, k3: -0.009, p1: 0.0007, p2: -0.0005 },
  centre: [969, 532.6],
  focal: 1208,
  squeeze: 1,
  format: { width: 1920, height: 1080 },
};

/** OpenCV's own remap of four channels of floats at HD by two planes of positions, one thread, ms; null where it is not installed. */
function openCvRemap(): Record<string, number> | null {
  const code = `
import cv2, json, time, numpy as np
cv2.setNumThreads(1)
a = np.random.rand(1080, 1920, 4).astype(np.float32)
K = np.float64([[1208, 0, 968.5], [0, 1208, 532.1], [0, 0, 1]])
x, y = cv2.initUndistortRectifyMap(K, np.float64([-.236, .072, .0007, -.0005, -.009]), None, K, (1920, 1080), cv2.CV_32FC1)
def of(flag):
    t = []
    for i in range(9):
        s = time.perf_counter(); cv2.remap(a, x, y, flag); t.append(time.perf_counter() - s)
    return sorted(t)[2] * 1000
s = time.perf_counter(); cv2.initUndistortRectifyMap(K, np.float64([-.236, .072, .0007, -.0005, -.009]), None, K, (1920, 1080), cv2.CV_32FC1); m = (time.perf_counter() - s) * 1000
print(json.dumps({'nearest': of(cv2.INTER_NEAREST), 'bilinear': of(cv2.INTER_LINEAR), 'catmullRom': of(cv2.INTER_CUBIC), 'lanczos3': of(cv2.INTER_LANCZOS4), 'map': m}))`;
  const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8' });
  return status === 0 ? (JSON.parse(stdout) as Record<string, number>) : null;
}

/** A checkerboard of so many crossings as the wide lens would film it from in front, in code values; a little noise. */
function board(width: number, height: number, columns: number, rows: number): Gray {
  const data = new Float32Array(width * height);
  const k = width / 960;
  const size = Math.min(1.5 / (columns + 3), 0.84 / (rows + 3));
  // Where each place of the board lands, on a lattice fine enough: then each pixel takes its square by scanning.
  const hits = new Float32Array(width * height);
  const fine = 2;
  for (let v = -0.45 * fine * height; v < 0.45 * fine * height; v++) {
    for (let u = -0.8 * fine * width; u < 0.8 * fine * width; u++) {
      const [dx, dy] = [u / (fine * width), v / (fine * height)];
      const [x, y] = filmedAt(dx, dy).map((c) => c * k) as [number, number];
      if (x < 0 || y < 0 || x >= width || y >= height) continue;
      const [a, b] = [Math.floor(dx / size + (columns + 1) / 2), Math.floor(dy / size + (rows + 1) / 2)];
      const on = a >= 0 && b >= 0 && a <= columns && b <= rows;
      const i = Math.floor(y) * width + Math.floor(x);
      data[i]! += on && (a + b) % 2 === 0 ? 0.04 : 0.7;
      hits[i]!++;
    }
  }
  return { width, height, data: data.map((v, i) => SRGB.encode(hits[i]! > 0 ? v / hits[i]! : 0.2) + 0.01 * Math.sin(i * 12.9898)) };
}

export function benchLens(kernels: Kernels): string {
  const format = { width: 1920, height: 1080, pixelAspect: 1 };
  const { mapping } = lensJob(LENS, format, 'straighten');
  const planes = [0, 1, 2, 3].map((c) => kernels.copy(Float32Array.from({ length: area(HD) }, (_, i) => Math.sin(i * (c + 1)))));
  const outs = planes.map(() => kernels.take(area(HD)));
  const theirs = openCvRemap();
  const map = timeOf(() => {
    const { xs, ys } = positionPlanes(kernels, mapping, HD);
    [xs, ys].forEach((p) => kernels.give(p));
  });
  const at = positionPlanes(kernels, mapping, mapRegion(HD));
  const rows = FILTERS.map(({ value, title }) => {
    const t = timeOf(() => {
      const packed = Packed.of(kernels, planes, HD);
      sampleThrough(kernels, packed, outs, HD, at, tapsOf(value), { most: 4 });
      packed.give();
    });
    const cv = theirs?.[value];
    return [title, ms(t), cv ? ms(cv) : '', cv ? times(cv / t) : ''];
  });
  rows.push(['positions by the lens', ms(map), theirs ? ms(theirs.map!) : '', theirs ? times(theirs.map! / map) : '']);
  [at.xs, at.ys, ...planes, ...outs].forEach((p) => kernels.give(p));
  const found = (
    [
      [9, 6],
      [30, 20],
    ] as const
  ).map(([c, r]) => {
    const gray = board(1920, 1080, c, r);
    const crossings = detectChart(gray, 'checker')?.crossings ?? [];
    const t = timeOf(() => void detectChart(gray, 'checker'), 400, 3);
    const s = timeOf(() => void solveCharts({ charts: [crossings, crossings], format, model: 'brown' }), 400, 3);
    return [`${c} by ${r} crossings, HD`, String(crossings.length), ms(t), ms(s)];
  });
  return [
    'Straightening HD RGBA floats by planes of positions, one core; OpenCV’s own remap (Debian’s python3-opencv, one thread; its Lanczos has 8 taps, ours 6):',
    table(['filter', 'ms', 'OpenCV ms', 'OpenCV against ours'], rows),
    'A chart found, and a lens solved from two of it (radial and decentring):',
    table(['chart', 'crossings found', 'finding, ms', 'solving, ms'], found),
  ].join('\n\n');
}
