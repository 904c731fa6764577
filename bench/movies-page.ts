// Runs in a browser's page for bench/movies.ts.
import type { MovieKind } from '@/engine/browser/movie-writer';
import { MovieSink } from '@/engine/browser/movie-writer';
import { Movie } from '@/engine/movies';
import { median } from './timing';

const [WIDTH, HEIGHT, FRAMES] = [1920, 1080, 48];

export interface MovieFigures {
  megabytes: number;
  encode: number;
  forward: number;
  jump: number;
  /** How near the frames come back to what they were, in dB of luma (PSNR). */
  fidelity: number;
}

/** Soft stripes that move, with a little noise: code values of luma. */
function paint(luma: Uint8Array, f: number): void {
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++)
      luma[y * WIDTH + x] = 110 + 60 * Math.sin((x + 7 * f) / 60) * Math.cos(y / 45) + ((x * 7 + y * 13 + f * 5) % 4);
  }
}

function psnr(rgb: ArrayLike<number>, luma: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < WIDTH * HEIGHT; i++) sum += ((219 * rgb[3 * i]!) / 65535 + 16 - luma[i]!) ** 2;
  return 10 * Math.log10((255 ** 2 * WIDTH * HEIGHT) / sum);
}

/** Frames a second of writing an HD movie and of reading it forward, and milliseconds of a jump to any frame. */
async function measure(kind: MovieKind): Promise<MovieFigures> {
  const frame = new Uint8Array(WIDTH * HEIGHT * 1.5).fill(128);
  const sink = await MovieSink.open(kind, WIDTH, HEIGHT, 24, 'high');
  const started = performance.now();
  for (let f = 0; f < FRAMES; f++) {
    paint(frame, f);
    await sink.write('', frame);
  }
  const blob = await sink.finish();
  const encode = (1000 * FRAMES) / (performance.now() - started);
  const movie = await Movie.open(blob, 'bench');
  await movie.frame(1);
  const from = performance.now();
  for (let f = 2; f <= FRAMES; f++) await movie.frame(f);
  const forward = (1000 * (FRAMES - 1)) / (performance.now() - from);
  const jumps: number[] = [];
  for (const f of [20, 3, 41, 12, 47, 8, 30]) {
    const t = performance.now();
    await movie.frame(f);
    jumps.push(performance.now() - t);
  }
  const fidelity = await Promise.all(
    [1, 24, 48].map(async (f) => {
      const luma = new Uint8Array(WIDTH * HEIGHT);
      paint(luma, f - 1);
      return psnr((await movie.frame(f)).data, luma);
    }),
  );
  movie.close();
  return { megabytes: blob.size / 1e6, encode, forward, jump: median(jumps), fidelity: Math.min(...fidelity) };
}

Object.assign(globalThis, { measure });
