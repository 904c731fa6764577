import type { InputVideoTrack } from 'mediabunny';
import { ALL_FORMATS, BlobSource, BufferSource, EncodedPacketSink, Input, VideoSample, VideoSampleSink } from 'mediabunny';
import type { ColourSpace } from '@/core/document';
import { SAID } from '@/core/document';
import { MediaError, messageOf } from '@/core/errors';
import type { CodePicture, YuvMatrix, YuvPicture } from '@/core/formats';
import { MAX_PIXELS, rgbFromYuv } from '@/core/formats';
import type { MediaInfo } from './inspect';

/** What is left of a movie when its sound and its container are taken away: one video track, its frames in the order they are shown. */
export class Movie {
  private readonly sink: VideoSampleSink;
  /** Frames that run on from the last one asked for, so that going forward decodes each frame once. */
  private running: { next: number; samples: AsyncGenerator<VideoSample, void, unknown> } | null = null;
  private queue: Promise<unknown> = Promise.resolve();

  private constructor(
    readonly file: string,
    private readonly input: Input,
    readonly track: InputVideoTrack,
    /** When each frame is shown, in seconds. */
    readonly times: readonly number[],
  ) {
    this.sink = new VideoSampleSink(track, { hardwareAcceleration: 'prefer-software' });
  }

  /** Reads the index of a movie; `alive` is told of each part that is read. Throws MediaError. */
  static async open(data: Blob | Uint8Array, file: string, alive: () => void = () => undefined): Promise<Movie> {
    const source = data instanceof Blob ? new BlobSource(data) : new BufferSource(data);
    const size = data instanceof Blob ? data.size : data.length;
    const input = new Input({ source, formats: ALL_FORMATS });
    const guard = new ReadingGuard(size, alive);
    source.on('read', ({ start, end }) => guard.read(end - start));
    try {
      // A damaged index can lead round and round: reading ends where it no longer gets anywhere.
      const { track, times } = await Promise.race([readIndex(input, file, guard), guard.over]);
      // Packets come in the order they are decoded.
      return new Movie(
        file,
        input,
        track,
        times.sort((a, b) => a - b),
      );
    } catch (e) {
      input.dispose();
      if (e instanceof MediaError) throw e;
      throw new MediaError(file, `it cannot be read as a movie: it is cut short or damaged (${messageOf(e)})`);
    } finally {
      guard.end();
    }
  }

  async info(): Promise<MediaInfo> {
    const { track, times } = this;
    const aspect = await track.getPixelAspectRatio();
    const codec = (await track.getCodec()) ?? 'unknown';
    const name = await this.input.getFormat();
    const container = name.name === 'QuickTime File Format' ? 'MOV' : /webm|matroska/i.test(name.name) ? 'WebM' : 'MP4';
    const span = times[times.length - 1]! - times[0]!;
    const rate = span > 0 ? tidyRate((times.length - 1) / span) : 24;
    return {
      container,
      format: { width: await track.getCodedWidth(), height: await track.getCodedHeight(), pixelAspect: aspect.num / aspect.den },
      channels: ['R', 'G', 'B'],
      bits: codec,
      ...colourOf((await track.getColorSpace()).transfer ?? null),
      alpha: 'ignore',
      attributes: [
        ['codec', (await track.getCodecParameterString()) ?? codec],
        ['frames', String(times.length)],
        [SAID.rate, String(rate)],
      ],
      movie: { length: times.length, rate },
    };
  }

  /** Throws MediaError where this browser cannot decode it; a host without any decoder says so when a frame is asked for. */
  async checkDecoder(): Promise<void> {
    if (typeof VideoDecoder === 'undefined' || (await this.track.canDecode())) return;
    const codec = (await this.track.getCodec()) ?? (await this.track.getCodecParameterString()) ?? 'unknown';
    throw new MediaError(
      this.file,
      `this browser cannot decode its ${codec} video. Movies of H.264, VP9 and AV1 can be read; take this one out as a numbered sequence (EXR, DPX, TIFF, PNG) and bring that in`,
    );
  }

  /** Code values of frame n, counted from 1. Throws MediaError. */
  frame(n: number): Promise<CodePicture> {
    // One decoder stands behind all calls: they take turns.
    const mine = this.queue.then(() => this.decode(n));
    this.queue = mine.catch(() => undefined);
    return mine;
  }

  private async decode(n: number): Promise<CodePicture> {
    const at = this.times[n - 1];
    if (at === undefined) throw new MediaError(this.file, `it has no frame ${n}; its last is ${this.times.length}`);
    if (typeof VideoDecoder === 'undefined') {
      throw new MediaError(this.file, 'movies are decoded by the browser; this host has no video decoder: export an image sequence first');
    }
    if (!(await this.track.canDecode())) {
      throw new MediaError(this.file, `this browser cannot decode its ${(await this.track.getCodec()) ?? 'unknown'} video`);
    }
    try {
      if (this.running?.next !== n) {
        await this.running?.samples.return();
        this.running = { next: n, samples: this.sink.samples(at) };
      }
      const { value: sample } = await within(DECODING, this.running.samples.next(), 'the decoder does not answer');
      this.running.next = n + 1;
      if (!sample) throw new Error(`frame ${n} does not come`);
      try {
        return rgbFromYuv(await samplesOf(sample));
      } finally {
        sample.close();
      }
    } catch (e) {
      this.running = null;
      throw e instanceof MediaError ? e : new MediaError(this.file, `its frame ${n} cannot be decoded (${messageOf(e)})`);
    }
  }

  close(): void {
    void this.running?.samples.return();
    this.input.dispose();
  }
}

/** Milliseconds for one frame, and without anything new in an index. */
const DECODING = 20_000;
const STANDSTILL = 8_000;
/** Frames of a movie: more than a day at 60 a second. */
const MOST_FRAMES = 6_000_000;

/** What a promise gives, or an error where that takes too long. */
async function within<T>(milliseconds: number, promise: Promise<T>, otherwise: string): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, fail) => (timer = setTimeout(() => fail(new Error(otherwise)), milliseconds)));
  try {
    return await Promise.race([promise, late]);
  } finally {
    clearTimeout(timer);
  }
}

/** Ends a reading that goes on without getting anywhere: no byte and no packet for a while, or far more bytes than there are. */
class ReadingGuard {
  readonly over: Promise<never>;
  private fail: (e: Error) => void = () => undefined;
  private bytes = 0;
  private last = performance.now();
  private readonly timer: ReturnType<typeof setInterval>;
  stopped = false;

  constructor(
    readonly size: number,
    private readonly alive: () => void,
  ) {
    this.over = new Promise<never>((_, fail) => (this.fail = fail));
    this.over.catch(() => undefined);
    this.timer = setInterval(() => {
      if (performance.now() - this.last > STANDSTILL) this.stop('its index leads nowhere');
    }, 500);
  }

  read(bytes: number): void {
    this.bytes += bytes;
    this.step();
    if (this.bytes > 8 * this.size + 2 ** 22) this.stop('its index leads round in a circle');
  }

  step(): void {
    this.last = performance.now();
    this.alive();
  }

  end(): void {
    clearInterval(this.timer);
  }

  private stop(why: string): void {
    this.stopped = true;
    this.fail(new Error(why));
  }
}

/** The picture track of a movie and when each of its frames is shown, in seconds. */
async function readIndex(input: Input, file: string, guard: ReadingGuard): Promise<{ track: InputVideoTrack; times: number[] }> {
  const track = await input.getPrimaryVideoTrack();
  if (!track) throw new MediaError(file, 'there is no picture track in it');
  if (track.codedWidth * track.codedHeight > MAX_PIXELS) throw new MediaError(file, 'its size in pixels is too large to open');
  const times: number[] = [];
  let count = 0;
  for await (const p of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true })) {
    // Each frame has a byte at the least: a damaged table can go on without end.
    if (guard.stopped || ++count > Math.min(MOST_FRAMES, guard.size)) throw new Error('its index names more frames than there can be');
    if (p.timestamp >= 0) times.push(p.timestamp);
    // Others may have their turn: a loop of promises alone would keep everything from going on.
    if (count % 1000 === 0) {
      guard.step();
      await new Promise((done) => setTimeout(done));
    }
  }
  if (times.length === 0) throw new MediaError(file, 'there is no frame in it');
  return { track, times };
}

/** 23.976 and its kin as they are written, whole rates as whole numbers. */
function tidyRate(rate: number): number {
  const known = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60, 120].find(
    (r) => Math.abs(r - rate) < 0.004 * r && Math.abs(r - rate) < 0.01,
  );
  return known ?? Number(rate.toFixed(3));
}

function colourOf(transfer: string | null): { colourSpace: ColourSpace; colourReason: string } {
  const spaces: Record<string, ColourSpace> = { pq: 'PQ', hlg: 'HLG', linear: 'linear', 'iec61966-2-1': 'sRGB', bt709: 'Rec.709' };
  const said = transfer === null ? undefined : spaces[transfer];
  if (said) return { colourSpace: said, colourReason: 'its header names this curve' };
  return { colourSpace: 'Rec.709', colourReason: 'its header names no curve; movies are mostly Rec.709' };
}

const MATRICES: Record<string, YuvMatrix> = { bt709: 'Rec.709', bt470bg: 'Rec.601', smpte170m: 'Rec.601', 'bt2020-ncl': 'Rec.2020' };

/** Layouts of WebCodecs: bits a sample and luma samples a chroma sample. */
const LAYOUTS: Record<string, { bits: 8 | 10 | 12; subsampling: [number, number] }> = {
  I420: { bits: 8, subsampling: [2, 2] },
  I422: { bits: 8, subsampling: [2, 1] },
  I444: { bits: 8, subsampling: [1, 1] },
  NV12: { bits: 8, subsampling: [2, 2] },
  I420P10: { bits: 10, subsampling: [2, 2] },
  I422P10: { bits: 10, subsampling: [2, 1] },
  I444P10: { bits: 10, subsampling: [1, 1] },
  I420P12: { bits: 12, subsampling: [2, 2] },
};

/** Copies a decoded frame out of the decoder's own layout. */
async function samplesOf(sample: VideoSample): Promise<YuvPicture> {
  const layout = LAYOUTS[sample.format ?? ''];
  if (!layout) throw new Error(`its pixels come as ${sample.format ?? 'something unknown'}`);
  const { width, height } = sample.visibleRect;
  const size = layout.bits === 8 ? 1 : 2;
  const bytes = new Uint8Array(sample.allocationSize());
  const planes = await sample.copyTo(bytes);
  const [cw, ch] = [Math.ceil(width / layout.subsampling[0]), Math.ceil(height / layout.subsampling[1])];
  const cut = (plane: number, w: number, h: number, step = 1, first = 0): Uint8Array | Uint16Array => {
    const { offset, stride } = planes[plane]!;
    const [from, out] =
      size === 1
        ? [bytes.subarray(offset), new Uint8Array(w * h)]
        : [new Uint16Array(bytes.buffer, offset, (bytes.length - offset) >> 1), new Uint16Array(w * h)];
    for (let y = 0; y < h; y++) {
      const row = (y * stride) / size;
      if (step === 1) out.set(from.subarray(row, row + w), y * w);
      else for (let x = 0; x < w; x++) out[y * w + x] = from[row + x * step + first]!;
    }
    return out;
  };
  const both = sample.format === 'NV12';
  const { matrix, fullRange } = sample.colorSpace;
  return {
    width,
    height,
    ...layout,
    // Without a word, small pictures are taken for standard definition.
    matrix: MATRICES[matrix ?? ''] ?? (height < 720 && width < 1280 ? 'Rec.601' : 'Rec.709'),
    fullRange: fullRange ?? false,
    planes: [cut(0, width, height), cut(1, cw, ch, both ? 2 : 1), both ? cut(1, cw, ch, 2, 1) : cut(2, cw, ch)],
  };
}
