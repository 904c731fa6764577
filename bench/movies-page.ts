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
}

/** Frames a second of writing an HD movie and of reading it forward, and milliseconds of a jump to any frame. */
async function measure(kind: MovieKind): Promise<MovieFigures> {
  const frame = new Uint8Array(WIDTH * HEIGHT * 1.5).fill(128);
  const sink = await MovieSink.open(kind, WIDTH, HEIGHT, 24, 'high');
  const started = performance.now();
  for (let f = 0; f < FRAMES; f++) {
    // Soft stripes that move, with a little noise.
    for (let y = 0; y < HEIGHT; y++) {
      for (let x = 0; x < WIDTH; x++)
        frame[y * WIDTH + x] = 60 + 60 * Math.sin((x + 7 * f) / 60) * Math.cos(y / 45) + ((x * 7 + y * 13 + f * 5) % 4);
    }
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
  movie.close();
  return { megabytes: blob.size / 1e6, encode, forward, jump: median(jumps) };
}

Object.assign(globalThis, { measure });
