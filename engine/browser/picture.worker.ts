import { transfer } from 'comlink';
import { LRUCache } from 'lru-cache';
import type { Source } from '@/core/document';
import { mediaOf } from '@/core/document';
import { ShotError } from '@/core/errors';
import type { Request } from '@/core/evaluate';
import { Commons } from '@/core/evaluate';
import type { OutputSettings } from '@/core/formats';
import type { PassNote } from '@/core/passes';
import type { Statistics } from '@/core/statistics';
import { initCodecs } from '../codecs';
import type { Rendered } from '../host';
import type { MediaInfo } from '../inspect';
import { inspectAny } from '../inspect-any';
import type { Movie } from '../movies';
import type { Job, ModelShape } from '../renderer';
import { Renderer, proxyKey } from '../renderer';
import type { ShotMessage } from '../shot-link';
import { ShotReceiver } from '../shot-link';
import { alphaDoubt } from '../alpha-doubt';
import { compile, onceMade, workerKernels } from './kernels';
import { blobOf, mediaDb, sha256OfFile } from './media-db';
import type { Common, Outcome, WorkerFigures } from './protocol';
import { STATUS, answer, beat, enter, serve } from './protocol';

/** Movies that stay open. */
const movies = new LRUCache<string, Promise<Movie>>({
  max: 3,
  dispose: (movie) =>
    void movie.then(
      (m) => m.close(),
      () => undefined,
    ),
});

function movieOf(source: Source, alive: () => void): Promise<Movie> {
  const media = mediaOf(source, 1);
  if (!media) throw new ShotError(`"${source.name}" has no file`, { source: source.id });
  const known = movies.get(media.hash);
  if (known) return known;
  const movie = Promise.all([import('../movies'), blobOf(media.hash, media.name)]).then(([{ Movie: Opened }, blob]) =>
    Opened.open(blob, media.name, alive),
  );
  movies.set(media.hash, movie);
  movie.catch(() => movies.delete(media.hash));
  return movie;
}

/** One renderer a worker, with a memory of its own. */
const ready: () => Promise<Renderer> = onceMade(async () => {
  initCodecs({
    jpeg: () => compile(new URL('../../node_modules/@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm', import.meta.url)),
    webp: () => compile(new URL('../../node_modules/@jsquash/webp/codec/dec/webp_dec.wasm', import.meta.url)),
    jpegEncoder: () => compile(new URL('../../node_modules/@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm', import.meta.url)),
    webpEncoder: () => compile(new URL('../../node_modules/@jsquash/webp/codec/enc/webp_enc_simd.wasm', import.meta.url)),
  });
  return new Renderer(await workerKernels(), {
    file: async (media) => new Uint8Array(await (await blobOf(media.hash, media.name)).arrayBuffer()),
    movie: movieOf,
    proxy: async (key) => {
      const row = await mediaDb.proxies.get(key);
      return row && new Uint8Array(await row.blob.arrayBuffer());
    },
  });
});

/** Bytes that work may take besides the results that are kept. */
const WORKING = 384 * 2 ** 20;

const figures = ({ cache, kernels }: Renderer): WorkerFigures => ({ ...cache.figures, reserved: kernels.reserved });

async function outcome<T>(run: (renderer: Renderer) => Promise<T>): Promise<Outcome<T>> {
  const result = await answer(async () => run(await ready()));
  const renderer = await ready().catch(() => null);
  return { ...result, figures: renderer ? figures(renderer) : { hits: 0, misses: 0, bytes: 0, budget: 0, reserved: 0 } };
}

/** Bytes go to the page without being copied, where they are not of the kernels' memory. */
function handOver(answered: Outcome<Uint8Array>): Outcome<Uint8Array> {
  const buffer = 'value' in answered && answered.value.buffer;
  return buffer instanceof ArrayBuffer ? transfer(answered, [buffer]) : answered;
}

const jobOf = (status: Int32Array): Job => ({
  cancelled: () => {
    beat(status);
    return Atomics.load(status, STATUS.cancel) !== 0;
  },
  enter: (phase) => {
    enter(status, phase);
    beat(status);
  },
  progress: (_done, _of, index) => void Atomics.store(status, STATUS.node, index + 1),
});

/** What is found out about a file that is brought in. */
export interface Inspected {
  info: MediaInfo;
  hash: string;
  /** Why its alpha may be misunderstood; only looked for where `closely` was asked. */
  alphaDoubt?: string;
}

const link = new ShotReceiver();

const api = {
  /** Pixels go into the shared memory that is given; the rest is returned. Of a band, `common` is what its workers share. */
  render: (message: ShotMessage, request: Request, status: Int32Array, into: Float32Array, common?: Common) => {
    // Messages are taken in the order in which they come, before anything is waited for.
    const shot = link.take(message);
    return outcome<Omit<Rendered, 'pixels'>>(async (renderer) => {
      const commons = common && new Commons(common.layout, common.memory, renderer.kernels);
      const job = { ...jobOf(status), ...(commons && { commons }) };
      const { pixels: _, ...about } = await renderer.render(shot, request, job, into);
      return about;
    });
  },

  encode: (message: ShotMessage, lane: string, frame: number, scale: number, settings: OutputSettings, status: Int32Array) => {
    const shot = link.take(message);
    return outcome<Uint8Array>((renderer) => renderer.encode(shot, lane, frame, scale, settings, jobOf(status))).then(handOver);
  },

  /** Bytes for kept results. */
  setBudget: async (bytes: number): Promise<WorkerFigures> => {
    const renderer = await ready();
    renderer.cache.budget = bytes;
    renderer.kernels.ceiling = bytes + WORKING;
    return figures(renderer);
  },

  /** Header and hash of a file that is being brought in; `closely` looks at its pixels too. */
  inspect: (file: File, closely: boolean, status: Int32Array) =>
    outcome<Inspected>(async ({ kernels }) => {
      const alive = (): void => beat(status);
      enter(status, 'reading');
      const info = await inspectAny(file, file.name, alive);
      alive();
      const doubt = closely ? await alphaDoubt(file, info, kernels) : undefined;
      return { info, hash: await sha256OfFile(file, alive), ...(doubt !== undefined && { alphaDoubt: doubt }) };
    }),

  /** Least, greatest and mean value of channels of a source's frame. */
  measure: (source: Source, mediaFrame: number, channels: readonly string[], status: Int32Array) =>
    outcome<Record<string, Statistics>>((renderer) => renderer.measure(source, mediaFrame, channels, jobOf(status))),

  /** What a render's passes are for, by their numbers. */
  guessPasses: (source: Source, mediaFrame: number, status: Int32Array) =>
    outcome<Record<string, PassNote>>((renderer) => renderer.guessPasses(source, mediaFrame, jobOf(status))),

  /** A model's triangles, for looking at. */
  modelShape: (source: Source, status: Int32Array) => outcome<ModelShape>((renderer) => renderer.modelShape(source, jobOf(status))),

  /** Makes a smaller copy of a source's frame, if there is none yet. */
  makeProxy: (source: Source, mediaFrame: number, scale: number, status: Int32Array) =>
    outcome<number>(async (renderer) => {
      const key = proxyKey(source, mediaFrame, scale);
      const known = await mediaDb.proxies.get(key);
      if (known) return known.blob.size;
      const blob = new Blob([(await renderer.proxy(source, mediaFrame, scale, jobOf(status))) as Uint8Array<ArrayBuffer>]);
      await mediaDb.proxies.put({ key, blob });
      return blob.size;
    }),
};

export type PictureWorker = typeof api;
serve(api);
