import { spawnSync } from 'node:child_process';
import sharp from 'sharp';
import type { Kernels } from '@/kernels';
import { gaussianBlur } from '@/core/filters/gaussian';
import { growGrey, morphologyPad } from '@/core/filters/morphology';
import { resample } from '@/core/filters/resample';
import type { Affine } from '@/core/geometry/affine';
import { area, grow, rect } from '@/core/geometry/rect';
import { ms, table, timeOf, timeOfAsync, times } from './timing';

const HD = rect(0, 0, 1920, 1080);

/** One core; nothing kept between calls. */
function plain(): void {
  sharp.concurrency(1);
  sharp.cache(false);
}

const floats = (data: Float32Array, width: number, height: number) => sharp(data, { raw: { width, height, channels: 1 } });

/** Where libvips ends its kernel: at about 3.7 σ, which costs it about what our error costs us. */
const AMPLITUDE = 0.001;

const vipsBlur = (data: Float32Array, width: number, height: number, sigma: number): Promise<Buffer> =>
  floats(data, width, height)
    .blur({ sigma, precision: 'float', minAmplitude: AMPLITUDE })
    .toColourspace('b-w')
    .raw({ depth: 'float' })
    .toBuffer();

/** The largest error of a blurred impulse, as a share of its peak, and of a blurred edge. */
function errors(blur: (data: Float32Array) => Float32Array, width: number, sigma: number): [number, number] {
  const centre = Math.floor(width / 2);
  const exact = Array.from({ length: width }, (_, i) => Math.exp(-((i - centre) ** 2) / (2 * sigma ** 2)));
  const sum = exact.reduce((a, v) => a + v, 0);
  const rows = (f: (x: number) => number): Float32Array => Float32Array.from({ length: width * 8 * 16 }, (_, i) => f(i % width));
  const middle = (r: Float32Array): Float32Array => r.subarray(64 * width, 65 * width);
  const impulse = middle(blur(rows((x) => +(x === centre))));
  const edge = middle(blur(rows((x) => +(x >= centre))));
  let [peak, step] = [0, 0];
  for (let x = Math.ceil(4 * sigma); x < width - 4 * sigma; x++) {
    peak = Math.max(peak, Math.abs(impulse[x]! - exact[x]! / sum) / (1 / sum));
    const reached = exact.reduce((a, v, i) => (i <= x ? a + v / sum : a), 0);
    step = Math.max(step, Math.abs(edge[x]! - reached));
  }
  return [peak, step];
}

export async function benchFilters(kernels: Kernels): Promise<string> {
  plain();
  const data = Float32Array.from({ length: 1920 * 1080 }, (_, i) => ((i * 7919) % 1000) / 1000);
  const plane = kernels.copy(data);
  const out = kernels.take(2560 * 1440);
  const copy = timeOf(() => out.set(plane));
  const idle = await timeOfAsync(() => floats(data, 1920, 1080).toColourspace('b-w').raw({ depth: 'float' }).toBuffer());
  const rows: string[][] = [];
  for (const sigma of [2, 8, 40]) {
    const ours = timeOf(() => gaussianBlur(kernels, plane, HD, out, HD, sigma, sigma));
    const theirs = (await timeOfAsync(() => vipsBlur(data, 1920, 1080, sigma))) - idle;
    rows.push([`Gaussian σ = ${sigma}`, ms(ours), times(ours / copy), ms(theirs), times(theirs / ours)]);
  }
  const scaled = async (name: string, width: number, height: number): Promise<void> => {
    const m: Affine = [1920 / width, 0, 0, 0, 1080 / height, 0];
    const to = rect(0, 0, width, height);
    const ours = timeOf(() => resample(kernels, [plane], HD, [out], to, m, 'lanczos3'));
    const resize = (kernel: 'lanczos3' | 'nearest') => (): Promise<Buffer> =>
      floats(data, 1920, 1080).resize(width, height, { kernel, fit: 'fill' }).toColourspace('b-w').raw({ depth: 'float' }).toBuffer();
    // Taking the nearest pixel costs little but the copying, which is not counted.
    const theirs = (await timeOfAsync(resize('lanczos3'))) - (await timeOfAsync(resize('nearest')));
    rows.push([name, ms(ours), times(ours / copy), ms(theirs), times(theirs / ours)]);
  };
  await scaled('Lanczos 3 to 1280×720', 1280, 720);
  await scaled('Lanczos 3 to 2560×1440', 2560, 1440);
  const turn: Affine = [Math.cos(0.2), -Math.sin(0.2), 100, Math.sin(0.2), Math.cos(0.2), -80];
  const four = [plane, ...[1, 2, 3].map(() => kernels.copy(plane))];
  const outs = [out, ...[1, 2, 3].map(() => kernels.take(area(HD)))];
  const native = openCvWarps();
  for (const filter of ['bilinear', 'catmullRom', 'lanczos3'] as const) {
    const t = timeOf(() => resample(kernels, four, HD, outs, HD, turn, filter));
    const theirs = native?.[filter];
    rows.push([
      `four planes turned by 11.5°, ${filter}`,
      ms(t),
      times(t / copy),
      theirs ? ms(theirs) : '',
      theirs ? times(theirs / t) : '',
    ]);
  }
  [...four.slice(1), ...outs.slice(1)].forEach((p) => kernels.give(p));
  for (const radius of [3, 12]) {
    const pad = grow(HD, morphologyPad(radius));
    const wide = kernels.zeros((pad.x1 - pad.x0) * (pad.y1 - pad.y0));
    const t = timeOf(() => kernels.give(growGrey(kernels, wide, pad, HD, radius, HD)));
    rows.push([`grow by a disc of ${radius} px`, ms(t), times(t / copy), '', '']);
    kernels.give(wide);
  }
  const accuracy = [];
  for (const sigma of [2, 8, 40]) {
    const width = 512;
    const r = rect(0, 0, width, 128);
    const ours = errors(
      (d) => {
        const [a, b] = [kernels.copy(d), kernels.take(d.length)];
        gaussianBlur(kernels, a, r, b, r, sigma, 0.0001);
        const got = Float32Array.from(b);
        [a, b].forEach((p) => kernels.give(p));
        return got;
      },
      width,
      sigma,
    );
    accuracy.push([`σ = ${sigma}`, `${(100 * ours[0]).toFixed(2)} %`, ours[1].toExponential(1)]);
  }
  [plane, out].forEach((p) => kernels.give(p));
  return [
    `One HD float plane, one core; a copy of it takes ${ms(copy)} ms. libvips ${sharp.versions.vips} through sharp, its time without the copying in and out (${ms(idle)} ms).`,
    table(['filter', 'ms', 'against memcpy', 'libvips ms', 'libvips against ours'], rows),
    `libvips ends its kernel where it falls to ${AMPLITUDE}; ours is off the sampled Gaussian by at most:`,
    table(['Gaussian', 'of an impulse, share of its peak', 'of an edge from 0 to 1'], accuracy),
  ].join('\n\n');
}

/** Milliseconds of OpenCV's own warpAffine (Debian's python3-opencv, one thread) of four channels of floats at HD; null where that is not installed. */
function openCvWarps(): Record<'bilinear' | 'catmullRom' | 'lanczos3', number> | null {
  const code = `
import cv2, json, time, numpy as np
cv2.setNumThreads(1)
a = np.random.rand(1080, 1920, 4).astype(np.float32)
m = np.float32([[np.cos(.2), -np.sin(.2), 100], [np.sin(.2), np.cos(.2), -80]])
def of(flag):
    runs = []
    for _ in range(12):
        t = time.perf_counter()
        cv2.warpAffine(a, m, (1920, 1080), flags=flag | cv2.WARP_INVERSE_MAP)
        runs.append(1000 * (time.perf_counter() - t))
    return sorted(runs)[2]
print(json.dumps({"bilinear": of(cv2.INTER_LINEAR), "catmullRom": of(cv2.INTER_CUBIC), "lanczos3": of(cv2.INTER_LANCZOS4)}))`;
  const run = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8' });
  return run.status === 0 ? (JSON.parse(run.stdout) as Record<'bilinear' | 'catmullRom' | 'lanczos3', number>) : null;
}
