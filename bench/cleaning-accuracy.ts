import { join } from 'node:path';
import { produce } from 'immer';
import { deltaE2000, labOf } from '@/core/colour/delta-e';
import { SRGB } from '@/core/colour/transfer';
import type { Shot, Step, Tap } from '@/core/document/types';
import { mapPoint } from '@/core/geometry/homography';
import { RGBA } from '@/core/picture';
import { evaluate } from '@/core/testing/evaluate';
import { CABLE_BOX, SG040, renderCleanWall, renderEmptyWall, wallAt } from '@/demo/sg040';
import { SG060, renderMooring } from '@/demo/sg060';
import { nodeHost, openShotFile } from '@/engine/node/host';
import { newLane, newStep } from '@/core/commands/make';
import { grainAccuracy } from './grain-accuracy';
import { denoiseByOpenCv } from './opencv';
import { table } from './timing';

const root = process.env.OSTRACON_ROOT ?? '.';
const [W, H] = [960, 540];
type Host = Awaited<ReturnType<typeof nodeHost>>;
type Rgb = [number, number, number];

const rgbAt = (pixels: Float32Array, i: number, size: 3 | 4): Rgb => [pixels[size * i]!, pixels[size * i + 1]!, pixels[size * i + 2]!];
const apart = (a: Rgb, b: Rgb): number => deltaE2000(labOf(...a), labOf(...b));
const mean = (list: readonly number[]): number => list.reduce((s, v) => s + v, 0) / list.length;

async function look(host: Host, shot: Shot, tap: Tap, frame: number): Promise<Float32Array> {
  return (await host.render(shot, { tap, frame, scale: 1, channels: RGBA })).pixels;
}

const known = new Map<number, [bare: Float32Array, noisy: Float32Array]>();
/** The true wall on a frame, without noise and with it. */
function walls(frame: number): [bare: Float32Array, noisy: Float32Array] {
  let made = known.get(frame);
  if (!made) known.set(frame, (made = [renderCleanWall(frame, { ...SG040, noise: 0 }), renderCleanWall(frame, SG040)]));
  return made;
}

/** The box of SG040, taken out as the command does it, against the wall that the generator has there. */
async function removedBox(host: Host, shot: Shot): Promise<string> {
  const patchLane = shot.lanes.find((l) => l.steps.some((s) => s.type === 'patch'))!;
  const join_ = shot.lanes.find((l) => l.id === 'wall')!.steps.find((s) => s.feeds.front?.lane === patchLane.id)!;
  const patch = patchLane.steps.find((s) => s.type === 'patch')!;
  const lights: [name: string, light: string][] = [
    ['measured keys, as the demo has it', 'keys'],
    ['a gain on each frame', 'gain'],
    ['seamless', 'membrane'],
    ['as it is, no light', 'none'],
  ];
  // Cells of the wall under the box, 12 px each, in the steady scene: what grain does is gone in their means.
  const [[l, t], , [r, b]] = CABLE_BOX;
  const cells: [number, number][] = [];
  for (let y = t + 6; y < b - 6; y += 12) for (let x = l + 6; x < r - 6; x += 12) cells.push([x, y]);
  const cellOf = (pixels: Float32Array, size: 3 | 4, frame: number, at: readonly [number, number]): Rgb | null => {
    const [x, y] = mapPoint(wallAt(frame), at[0], at[1]).map(Math.round) as [number, number];
    if (x < 5 || y < 5 || x > W - 6 || y > H - 6) return null;
    const sum: Rgb = [0, 0, 0];
    for (let v = -5; v <= 5; v++)
      for (let u = -5; u <= 5; u++) rgbAt(pixels, (y + v) * W + x + u, size).forEach((p, c) => (sum[c]! += p / 121));
    return sum;
  };
  const rows: string[][] = [];
  for (const [name, light] of lights) {
    const lit = produce(
      shot,
      (d) => void (d.lanes.find((x) => x.id === patchLane.id)!.steps.find((s) => s.id === patch.id)!.params.light = light),
    );
    const pixel: number[] = [];
    const colour: number[] = [];
    const [steps, trueSteps]: [number[], number[]] = [[], []];
    let before: { made: (Rgb | null)[]; truth: (Rgb | null)[] } | null = null;
    for (let frame = 1; frame <= 48; frame++) {
      const made = await look(host, lit, { lane: 'wall', after: join_.id }, frame);
      const alone = await look(host, lit, { lane: patchLane.id }, frame);
      const [bare, noisy] = walls(frame);
      let [sum, n] = [0, 0];
      const [a, c]: [Rgb, Rgb] = [
        [0, 0, 0],
        [0, 0, 0],
      ];
      for (let i = 0; i < W * H; i++) {
        if (alone[4 * i + 3]! < 0.99) continue;
        const [x, y] = [rgbAt(made, i, 4), rgbAt(bare, i, 3)];
        sum += apart(x, y);
        n++;
        for (let k = 0; k < 3; k++) {
          a[k]! += x[k]!;
          c[k]! += y[k]!;
        }
      }
      pixel.push(sum / n);
      colour.push(apart(a.map((v) => v / n) as Rgb, c.map((v) => v / n) as Rgb));
      const hidden = cells.map((at) => {
        const [x, y] = mapPoint(wallAt(frame), at[0], at[1]).map(Math.round) as [number, number];
        return (alone[4 * (y * W + x) + 3] ?? 0) < 0.99;
      });
      const now = {
        made: cells.map((at, k) => (hidden[k] ? null : cellOf(made, 4, frame, at))),
        truth: cells.map((at, k) => (hidden[k] ? null : cellOf(noisy, 3, frame, at))),
      };
      if (before) {
        now.made.forEach((v, k) => {
          const [w, x, y] = [before!.made[k], now.truth[k], before!.truth[k]];
          if (!v || !w || !x || !y) return;
          steps.push(apart(v, w));
          trueSteps.push(apart(x, y));
        });
      }
      before = now;
    }
    rows.push([
      name,
      mean(colour).toFixed(2),
      Math.max(...colour).toFixed(2),
      mean(pixel).toFixed(2),
      Math.max(...pixel).toFixed(2),
      mean(steps).toFixed(2),
      mean(trueSteps).toFixed(2),
      `${(mean(steps) / mean(trueSteps)).toFixed(2)}×`,
    ]);
  }
  return [
    "The cable box of SG040 under its patch, 48 frames. ΔE2000 of the mean colour under the matte (the light), and pixel by pixel against the noiseless wall that the box hides: stones that nobody saw cannot be found again, only their like. Flicker: ΔE from frame to frame of 12 px cells of the wall, beside the true wall's.",
    '',
    table(['light', 'mean colour', 'worst frame', 'by pixel', 'worst frame', 'flicker', 'true', 'ratio'], rows),
  ].join('\n');
}

/** A clean plate of SG040 for frame 24, against the same frame with nobody in it. */
async function cleanPlates(host: Host, shot: Shot): Promise<string> {
  const truth = renderEmptyWall(24, { ...SG040, noise: 0 });
  const rows: string[][] = [];
  for (const [name, keeps, matte] of [
    ['median, passers marked', 'median', true],
    ['median, nothing marked', 'median', false],
    ['most agreed, passers marked', 'mode', true],
    ['most agreed, nothing marked', 'mode', false],
  ] as const) {
    const step: Step = {
      ...newStep('cleanPlate', []),
      params: { reading: 'stone', home: 24, keeps, count: 16 },
      feeds: matte ? { matte: { lane: 'passers' } } : {},
    };
    const lane = { ...newLane('clean', { tap: { lane: 'wall', after: '' } }, []), steps: [step] };
    const { pixels } = await host.render(
      { ...shot, lanes: [...shot.lanes, lane] },
      { tap: { lane: lane.id }, frame: 24, scale: 1, channels: [...RGBA.slice(0, 3), 'A'] },
    );
    const all: number[] = [];
    let behind = 0;
    let [n, open] = [0, 0];
    const front = await look(host, shot, { lane: 'passers' }, 24);
    for (let i = 0; i < W * H; i++) {
      if (pixels[4 * i + 3]! < 0.5) {
        open++;
        continue;
      }
      const d = apart(rgbAt(pixels, i, 4), rgbAt(truth, i, 3));
      all.push(d);
      if (front[4 * i + 3]! > 0.5) {
        behind += d;
        n++;
      }
    }
    all.sort((a, b) => a - b);
    rows.push([
      name,
      mean(all).toFixed(2),
      (behind / Math.max(1, n)).toFixed(2),
      all[Math.floor(0.99 * all.length)]!.toFixed(2),
      `${((100 * open) / (W * H)).toFixed(2)} %`,
    ]);
  }
  return [
    'A clean plate of SG040 for frame 24, of 16 of its frames along the wall’s reading, against the noiseless frame with nobody in it: ΔE2000.',
    '',
    table(['', 'mean', 'where passers stood', '99th of 100', 'left open'], rows),
  ].join('\n');
}

/** Noise taken off a frame of SG060, beside OpenCV's non-local means on the same 8-bit picture. */
async function denoised(): Promise<string> {
  const [x0, y0, w, h] = [240, 120, 480, 300];
  const cut = (p: Float32Array): Float32Array[] =>
    [0, 1, 2].map((c) => Float32Array.from({ length: w * h }, (_, i) => p[3 * ((y0 + Math.floor(i / w)) * W + x0 + (i % w)) + c]!));
  const [noisy, clean] = [cut(renderMooring(20, SG060)), cut(renderMooring(20, { ...SG060, noise: 0 }))];
  const code = (p: readonly Float32Array[]): Float32Array[] => p.map((q) => q.map((v) => SRGB.encode(Math.min(1, Math.max(0, v)))));
  const truth = code(clean);
  const psnr = (p: readonly Float32Array[]): number => {
    let sum = 0;
    p.forEach((q, c) => q.forEach((v, i) => (sum += (v - truth[c]![i]!) ** 2)));
    return -10 * Math.log10(sum / (3 * w * h));
  };
  /** How much of the true edges is left: 1 is all. */
  const sharpness = (p: readonly Float32Array[]): number => {
    let [own, all] = [0, 0];
    for (let c = 0; c < 3; c++) {
      for (let y = 1; y < h - 1; y++) {
        for (let x = 1; x < w - 1; x++) {
          const i = y * w + x;
          const of = (q: Float32Array): [number, number] => [q[i + 1]! - q[i - 1]!, q[i + w]! - q[i - w]!];
          const [gx, gy] = of(truth[c]!);
          const [sx, sy] = of(p[c]!);
          own += sx * gx + sy * gy;
          all += gx * gx + gy * gy;
        }
      }
    }
    return own / all;
  };
  const rows: string[][] = [];
  const row = (name: string, p: readonly Float32Array[]): void =>
    void rows.push([name, `${psnr(p).toFixed(2)} dB`, sharpness(p).toFixed(3)]);
  row('as filmed', code(noisy));
  const picture = (p: readonly Float32Array[]) => ({
    width: w,
    height: h,
    fill: {
      R: (x: number, y: number) => p[0]![y * w + x]!,
      G: (x: number, y: number) => p[1]![y * w + x]!,
      B: (x: number, y: number) => p[2]![y * w + x]!,
      A: 1,
    },
  });
  for (const strength of [0.5, 0.75, 1, 1.4, 2]) {
    const out = await evaluate({ main: picture(noisy) }, [{ type: 'denoise', params: { noise: SG060.noise, strength } }]);
    row(`denoise, strength ${strength}`, code([out.planes.R!, out.planes.G!, out.planes.B!]));
  }
  const own = code(noisy);
  for (const strength of [2, 3, 4, 6, 8]) {
    const out = denoiseByOpenCv(own, w, h, strength);
    if (out) row(`OpenCV, h ${strength}`, out);
  }
  return [
    'A part of SG060, 480×300, against the generator’s picture without noise, as sRGB. Sharpness: how much of its gradients is left.',
    '',
    table(['', 'PSNR', 'sharpness'], rows),
  ].join('\n');
}

export async function cleaningAccuracy(): Promise<string> {
  const { shot, files } = await openShotFile(join(root, 'demo/shots/sg040.json'));
  const host = await nodeHost(files);
  return [await removedBox(host, shot), await cleanPlates(host, shot), await denoised(), await grainAccuracy()].join('\n\n');
}
