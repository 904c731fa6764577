import { chromium } from '@playwright/test';
import type { Kernels } from '@/kernels';
import { area, rect } from '@/core/geometry/rect';
import { shapeMatte } from '@/core/shape/coverage';
import { cornersToPoints, toggleSmooth } from '@/core/shape/edit';
import { flatten } from '@/core/shape/outline';
import type { Posed } from '@/core/shape/pose';
import { POINT_SIZE } from '@/core/shape/shapes';
import { pathOf } from '@/core/shape/svg';
import { random } from '@/demo/noise';
import { chromiumOptions } from '@/scripts/chromium.mjs';
import { ms, table, timeOf, times } from './timing';

const HD = rect(0, 0, 1920, 1080);

/** Shapes of 30 points each, of 60 to 240 px, over an HD frame. */
function outlines(count: number, feather = 0, scale = 1): Posed[] {
  const next = random(17);
  return Array.from({ length: count }, () => {
    const [cx, cy, r] = [120 + 1680 * next(), 120 + 840 * next(), 30 + 90 * next()];
    const line = Array.from({ length: 30 }, (_, i) => {
      const a = (2 * Math.PI * i) / 30;
      const k = r * (0.8 + 0.4 * next());
      return [cx + k * Math.cos(a), cy + k * Math.sin(a)];
    }).flat();
    const smooth = toggleSmooth(cornersToPoints(line), new Set(Array.from({ length: 30 }, (_, i) => i)), true);
    const points = smooth.map((v, i) => scale * (i % POINT_SIZE === 6 ? feather : v));
    return { operation: 'add', opacity: 1, falloff: 'smooth', closed: true, width: 0, spline: 'bezier', points };
  });
}

/** Again as new objects: nothing that was worked out for them before is known. */
const fresh = (list: readonly Posed[]): Posed[] => list.map((s) => ({ ...s }));

/** What the browser's own canvas makes of the same shapes: milliseconds a fill of all, and its coverage as bytes. */
async function canvasFill(paths: readonly string[]): Promise<{ time: number; alpha: Uint8Array }> {
  const browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage();
    const got = await page.evaluate((list) => {
      const canvas = new OffscreenCanvas(1920, 1080);
      const c = canvas.getContext('2d', { willReadFrequently: true })!;
      const shapes = list.map((d) => new Path2D(d));
      const runs: number[] = [];
      let data = new Uint8ClampedArray();
      for (let k = 0; k < 15; k++) {
        c.clearRect(0, 0, 1920, 1080);
        const t = performance.now();
        for (const s of shapes) c.fill(s);
        data = c.getImageData(0, 0, 1920, 1080).data;
        runs.push(performance.now() - t);
      }
      runs.sort((a, b) => a - b);
      let text = '';
      for (let i = 3; i < data.length; i += 4) text += String.fromCharCode(data[i]!);
      return { time: runs[2]!, alpha: btoa(text) };
    }, paths);
    return { time: got.time, alpha: Uint8Array.from(Buffer.from(got.alpha, 'base64')) };
  } finally {
    await browser.close();
  }
}

/** Shapes to mattes: 100 of 30 points at HD, and the browser's canvas beside it. */
export async function benchShapeMattes(kernels: Kernels): Promise<string> {
  const to = kernels.take(area(HD));
  const draw = (list: readonly Posed[], region = HD): number => timeOf(() => shapeMatte(kernels, [fresh(list)], region, to));
  const plain = outlines(100);
  const hard = draw(plain);
  const half = outlines(100, 0, 0.5);
  /** One of them moves by a pixel each time, as while a point of it is dragged: the others are what they were. */
  const dragged = (list: readonly Posed[], region: typeof HD): number => {
    let now = [...list];
    shapeMatte(kernels, [now], region, to);
    return timeOf(() => {
      now = now.map((s, i) => (i === 50 ? { ...s, points: s.points.map((v, k) => (k === 0 ? v + 1 : v)) } : s));
      shapeMatte(kernels, [now], region, to);
    });
  };
  const part = rect(900, 400, 1060, 560);
  const rows: [string, number][] = [
    ['100 shapes of 30 points, HD, hard edges', hard],
    ['the same with feathers of 10 px', draw(outlines(100, 10))],
    ['the same with feathers of 40 px', draw(outlines(100, 40))],
    ['hard, at half size', draw(half, rect(0, 0, 960, 540))],
    ['a point of one of the 100 is dragged, HD', dragged(plain, HD)],
    ['the same at half size', dragged(half, rect(0, 0, 960, 540))],
    ['hard, only a part of 160×160 px', draw(plain, part)],
  ];
  const one = outlines(1)[0]!;
  shapeMatte(kernels, [plain], HD, to);
  const ours = Float32Array.from(to);
  const canvas = await canvasFill(plain.map(pathOf));
  rows.push(["the browser's canvas, 8 bits, no feather, filled and read back", canvas.time]);
  let [sum, most, edges] = [0, 0, 0];
  for (let i = 0; i < ours.length; i++) {
    if (!(ours[i]! > 0 && ours[i]! < 1)) continue;
    const d = Math.abs(ours[i]! - canvas.alpha[i]! / 255);
    sum += d;
    most = Math.max(most, d);
    edges++;
  }
  kernels.give(to);
  return [
    table(
      ['mattes', 'ms', 'to the first'],
      rows.map(([name, t]) => [name, ms(t), times(t / hard)]),
    ),
    `An outline of 30 points is ${flatten(one).length / 3} straight pieces. On the ${edges} edge pixels the canvas differs from exact areas by ${(sum / edges).toFixed(4)} on average and ${most.toFixed(3)} at most.`,
  ].join('\n\n');
}
