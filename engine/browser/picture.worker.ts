import { expose, transfer } from 'comlink';
import type { Shot } from '@/core/document/types';
import { MediaError, ShotError } from '@/core/errors';
import type { Request } from '@/core/evaluate/plan';
import type { OutputSettings } from '@/core/formats/output';
import type { MediaInfo } from '../codecs';
import { initCodecs, inspectMedia } from '../codecs';
import type { Rendered } from '../host';
import { Renderer } from '../renderer';
import { makeKernels } from '../wasm';
import { mediaDb, sha256 } from './media-db';

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

/** Errors cross to the page as plain values: their class would be lost. */
type Outcome<T> = { value: T } | { error: { name: string; message: string; where?: ShotError['where'] } };

async function outcome<T>(run: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return { value: await run() };
  } catch (e) {
    const error = e instanceof Error ? e : new Error(String(e));
    return { error: { name: error.name, message: error.message, ...(e instanceof ShotError ? { where: e.where } : {}) } };
  }
}

const api = {
  render: (shot: Shot, request: Request, cancel: Int32Array) =>
    outcome<Rendered>(async () => (await ready()).render(shot, request, { cancelled: () => Atomics.load(cancel, 0) !== 0 })).then((o) =>
      'value' in o ? transfer(o, [o.value.pixels.buffer]) : o,
    ),

  encode: (shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, cancel: Int32Array) =>
    outcome<Uint8Array>(async () =>
      (await ready()).encode(shot, lane, frame, scale, settings, { cancelled: () => Atomics.load(cancel, 0) !== 0 }),
    ),

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
