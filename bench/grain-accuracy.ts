import { readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { measureGrain } from '@/core/grain/measure';
import type { GrainLook } from '@/core/grain/measure';
import type { ChannelGrain } from '@/core/grain/model';
import { sigmaAt, sizeOf } from '@/core/grain/model';
import { evaluate } from '@/core/testing/evaluate';
import { SG010, renderKeeper } from '@/demo/sg010';
import { SG040, renderWall } from '@/demo/sg040';
import { SG060, renderMooring } from '@/demo/sg060';
import { writePlate } from '@/demo/plate-file';
import { decodeMedia } from '@/engine/codecs';
import { nodeKernels } from '@/engine/node/host';
import { table } from './timing';

const [W, H] = [960, 540];

export interface Plate {
  name: string;
  /** Pixels of a frame by the generator, with its noise or without. */
  render(frame: number, noise: boolean): Float32Array;
  noise: number;
  /** Of the noise at the light v: noise·√(floor + v). */
  floor: number;
  /** Where it is measured: x0, y0, x1, y1. SG010's screen is flat; SG040 has nothing flat; of SG060 all is given, and what is flat is found. */
  flat: readonly [number, number, number, number];
}

export const PLATES: readonly Plate[] = [
  {
    name: 'SG010',
    render: (f, on) => renderKeeper(f, on ? SG010 : { ...SG010, noise: 0 }).plate,
    noise: SG010.noise,
    floor: 0.01,
    flat: [100, 60, 300, 260],
  },
  {
    name: 'SG040',
    render: (f, on) => renderWall(f, on ? SG040 : { ...SG040, noise: 0 }).plate,
    noise: SG040.noise,
    floor: 0.01,
    flat: [20, 455, 300, 530],
  },
  {
    name: 'SG060',
    render: (f, on) => renderMooring(f, on ? SG060 : { ...SG060, noise: 0 }),
    noise: SG060.noise,
    floor: 0.01,
    flat: [0, 0, 960, 540],
  },
];

const FRAMES = [5, 20, 35];

const planesOf = (pixels: Float32Array, size: 3 | 4): Float32Array[] =>
  [0, 1, 2].map((c) => Float32Array.from({ length: pixels.length / size }, (_, i) => pixels[size * i + c]!));

/** A picture as it comes back from a JPEG like those that are shipped. */
async function throughJpeg(light: Float32Array): Promise<Float32Array> {
  const path = join(tmpdir(), `grain-${process.pid}.jpg`);
  await writePlate(light, W, H, path);
  const bytes = new Uint8Array(readFileSync(path));
  rmSync(path);
  const { planes } = await decodeMedia(bytes, 'plate.jpg', { colourSpace: 'Rec.709', alpha: 'ignore' }, await nodeKernels(), [
    'R',
    'G',
    'B',
  ]);
  const out = new Float32Array(3 * W * H);
  ['R', 'G', 'B'].forEach((c, k) => planes[c]!.forEach((v, i) => (out[3 * i + k] = v)));
  return out;
}

const inside = ([x0, y0, x1, y1]: Plate['flat'], planes: readonly Float32Array[]): GrainLook => {
  const [w, h] = [x1 - x0, y1 - y0];
  return {
    w,
    h,
    planes: planes.map((p) => Float32Array.from({ length: w * h }, (_, i) => p[(y0 + Math.floor(i / w)) * W + x0 + (i % w)]!)),
  };
};

/** The true σ about a light and size of the difference of pictures with noise and without, inside a place. */
function trueGrain(noisy: readonly GrainLook[], clean: readonly GrainLook[], c: number, tone: number): { sigma: number; size: number } {
  let [sum, n] = [0, 0];
  const lags = new Float64Array(16);
  noisy.forEach(({ planes, w, h }, f) => {
    const d = planes[c]!.map((v, i) => v - clean[f]!.planes[c]![i]!);
    for (let i = 0; i < w * h; i++) {
      if (Math.abs(clean[f]!.planes[c]![i]! - tone) > 0.1 * tone) continue;
      sum += d[i]! * d[i]!;
      n++;
    }
    for (let y = 0; y < h - 4; y++)
      for (let x = 0; x < w - 4; x++) for (let k = 0; k < 16; k++) lags[k]! += d[y * w + x]! * d[(y + (k >> 2)) * w + x + (k & 3)]!;
  });
  let all = 0;
  lags.forEach((v, k) => (all += (v / lags[0]!) * (k & 3 ? 2 : 1) * (k >> 2 ? 2 : 1)));
  return { sigma: n > 300 ? Math.sqrt(sum / n) : NaN, size: Math.sqrt(Math.max(0, all)) };
}

const percent = (a: number, b: number): string =>
  Number.isFinite(a) && Number.isFinite(b) ? `${a >= b ? '+' : '−'}${Math.abs((100 * a) / b - 100).toFixed(1)} %` : '–';

/** Of squares of 16 px: the share of neighbours' differences at a distance in twice the variance, where 1 is white; a spectrum in three numbers a square. */
function spectra({ planes, w, h }: GrainLook, c: number, d: number): number[] {
  const out: number[] = [];
  const p = planes[c]!;
  for (let y0 = 0; y0 + 16 <= h; y0 += 16) {
    for (let x0 = 0; x0 + 16 <= w; x0 += 16) {
      let [sum, squares, apart, n] = [0, 0, 0, 0];
      for (let y = y0; y < y0 + 16; y++) {
        for (let x = x0; x < x0 + 16; x++) {
          const v = p[y * w + x]!;
          sum += v;
          squares += v * v;
          if (x + d < x0 + 16) {
            apart += (v - p[y * w + x + d]!) ** 2;
            n++;
          }
        }
      }
      out.push(apart / n / (2 * (squares / 256 - (sum / 256) ** 2)));
    }
  }
  return out;
}

/** The two-sample statistic of Kolmogorov and Smirnov, and its bound at 5 %. */
function apartBy(a: readonly number[], b: readonly number[]): { d: number; bound: number } {
  const all = [...a.map((v) => [v, 0] as const), ...b.map((v) => [v, 1] as const)].sort((x, y) => x[0] - y[0]);
  const seen = [0, 0];
  let d = 0;
  for (const [, which] of all) {
    seen[which]!++;
    d = Math.max(d, Math.abs(seen[0]! / a.length - seen[1]! / b.length));
  }
  return { d, bound: 1.36 * Math.sqrt((a.length + b.length) / (a.length * b.length)) };
}

/** An element without noise that is given the measured grain, against the plate's own on the same flat place of a frame that was not measured. */
async function addedGrain(plate: Plate): Promise<string[][]> {
  const made = measureGrain(FRAMES.map((f) => inside(plate.flat, planesOf(plate.render(f, true), 3))));
  const [own, clean] = [inside(plate.flat, planesOf(plate.render(44, true), 3)), inside(plate.flat, planesOf(plate.render(44, false), 3))];
  const { w, h } = clean;
  const at = (c: number) => (x: number, y: number) => clean.planes[c]![y * w + x]!;
  const grained = await evaluate(
    { main: { width: w, height: h, fill: { R: at(0), G: at(1), B: at(2), A: 1 } } },
    [{ type: 'grain', params: { measured: made as never } }],
    { frame: 44 },
  );
  const rest = (list: readonly (Float32Array | Float64Array)[]): GrainLook => ({
    w,
    h,
    planes: list.map((p, c) => Float32Array.from(p, (v, i) => v - clean.planes[c]![i]!)),
  });
  const [a, b] = [rest(own.planes), rest([grained.planes.R!, grained.planes.G!, grained.planes.B!])];
  return [1, 2, 4].map((d) => {
    const { d: apart, bound } = apartBy(spectra(a, 1, d), spectra(b, 1, d));
    return [plate.name, `${d} px`, apart.toFixed(3), bound.toFixed(3), apart <= bound ? 'the same' : 'told apart'];
  });
}

/** Grain measured on the demo plates, as the generator makes them and as they are shipped (JPEG, 4:2:0), against its own. */
export async function grainAccuracy(): Promise<string> {
  const rows: string[][] = [];
  const added: string[][] = [];
  for (const plate of PLATES) {
    added.push(...(await addedGrain(plate)));
    const [light, dark] = [FRAMES.map((f) => plate.render(f, true)), FRAMES.map((f) => plate.render(f, false))];
    for (const what of ['as made', 'as shipped']) {
      const jpeg = what === 'as shipped';
      const looks = async (list: readonly Float32Array[]): Promise<GrainLook[]> => {
        const out: GrainLook[] = [];
        for (const p of list) out.push(inside(plate.flat, planesOf(jpeg ? await throughJpeg(p) : p, 3)));
        return out;
      };
      const [noisy, clean] = [await looks(light), await looks(dark)];
      const made: ChannelGrain[] = measureGrain(noisy);
      (['red', 'green', 'blue'] as const).forEach((name, c) => {
        const all = Float32Array.from(clean.flatMap((l) => [...l.planes[c]!])).sort();
        const row: string[] = [];
        for (const share of [0.1, 0.5, 0.9]) {
          const tone = all[Math.floor(share * all.length)]!;
          const truth = jpeg ? trueGrain(noisy, clean, c, tone).sigma : plate.noise * Math.sqrt(plate.floor + tone);
          row.push(`${tone.toFixed(3)}: ${percent(sigmaAt(made[c]!, tone), truth)}`);
        }
        const { size } = trueGrain(noisy, clean, c, all[all.length >> 1]!);
        rows.push([plate.name, what, name, ...row, sizeOf(made[c]!).toFixed(2), size.toFixed(2)]);
      });
    }
  }
  return [
    'σ measured (SG010: a box on its screen; SG040: its pavement, since nothing of it is flat; SG060: the whole frame) against the true one, at three lights that it holds (as made: against the generator’s parameters; as shipped: against what lies between the JPEGs of the picture with and without noise), and the size, px.',
    '',
    table(['plate', '', 'channel', 'darker', 'middle', 'lighter', 'size', 'true size'], rows),
    '',
    'Grain measured and given to the picture without noise, against the noise of a frame that was not measured (green): the two-sample test of Kolmogorov and Smirnov on the share of differences at a distance in squares of 16 px.',
    '',
    table(['plate', 'at', 'D', 'bound at 5 %', ''], added),
  ].join('\n');
}
