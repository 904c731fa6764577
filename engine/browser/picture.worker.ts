import { expose } from 'comlink';
import type { Shot } from '@/core/document/types';
import { MediaError, ShotError } from '@/core/errors';
import type { Request } from '@/core/evaluate/plan';
import type { CacheFigures } from '@/core/evaluate/results';
import type { OutputSettings } from '@/core/formats/output';
import type { MediaInfo } from '../codecs';
import { initCodecs, inspectMedia } from '../codecs';
import type { Rendered } from '../host';
import type { Job } from '../renderer';
import { Renderer } from '../renderer';
import { makeKernels } from '../wasm';
import { mediaDb, sha256 } from './media-db';
import type { Outcome } from './protocol';
import { STATUS } from './protocol';

const compile = async (url: URL): Promise<WebAssembly.Module> => WebAssembly.compile(await (await fetch(url)).arrayBuffer());

let renderer: Promise<Renderer> | undefined;

/** One renderer a worker, with a memory of its own. Made at the first call. */
function ready(): Promise<Renderer> {
  renderer ??= (async () => {
    const [kernels, jpeg, webp] = await Promise.all([
      compile(new URL('../../kernels/build/kernels.wasm', import.meta.url)),
      compile(new URL('../../node_modules/@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm', import.meta.url)),
      compile(new URL('../../node_modules/@jsquash/webp/codec/dec/webp_dec.wasm', import.meta.url)),
    ]);
    await initCodecs({ jpeg, webp });
    return new Renderer(await makeKernels(kernels), async (source, mediaFrame) => {
      const media = source.frames?.find((f) => f.frame === mediaFrame);
      if (!media) throw new ShotError(`"${source.name}" has no frame ${mediaFrame}`, { source: source.id });
      const row = await mediaDb.media.get(media.hash);
      if (!row) throw new MediaError(media.name, `the file is not in this browser's storage; bring "${source.name}" in again`);
      return { bytes: new Uint8Array(await row.blob.arrayBuffer()), name: media.name };
    });
  })();
  return renderer;
}

async function outcome<T>(run: () => Promise<T>): Promise<Outcome<T>> {
  let result: { value: T } | { error: { name: string; message: string; where?: ShotError['where'] } };
  try {
    result = { value: await run() };
  } catch (e) {
    // Errors cross to the page as plain values: their class would be lost.
    const error = e instanceof Error ? e : new Error(String(e));
    result = { error: { name: error.name, message: error.message, ...(e instanceof ShotError ? { where: e.where } : {}) } };
  }
  return { ...result, figures: { ...(await ready()).cache.figures } };
}

const jobOf = (status: Int32Array): Job => ({
  cancelled: () => {
    Atomics.add(status, STATUS.beat, 1);
    return Atomics.load(status, STATUS.cancel) !== 0;
  },
  progress: (_done, _of, index) => void Atomics.store(status, STATUS.node, index + 1),
});

const api = {
  /** Pixels go into the shared memory that is given; the rest is returned. */
  render: (shot: Shot, request: Request, status: Int32Array, into: Float32Array) =>
    outcome<Omit<Rendered, 'pixels'>>(async () => {
      const { pixels: _, ...about } = await (await ready()).render(shot, request, jobOf(status), into);
      return about;
    }),

  encode: (shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, status: Int32Array) =>
    outcome<Uint8Array>(async () => (await ready()).encode(shot, lane, frame, scale, settings, jobOf(status))),

  /** Bytes for kept results. */
  setBudget: async (bytes: number): Promise<CacheFigures> => {
    const { cache } = await ready();
    cache.budget = bytes;
    return { ...cache.figures };
  },

  /** Header and hash of a file that is being brought in. */
  inspect: (file: File) =>
    outcome<{ info: MediaInfo; hash: string }>(async () => {
      await ready();
      const bytes = new Uint8Array(await file.arrayBuffer());
      return { info: await inspectMedia(bytes, file.name), hash: await sha256(bytes) };
    }),
};

export type PictureWorker = typeof api;
expose(api);
