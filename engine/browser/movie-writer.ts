import {
  BufferTarget,
  Mp4OutputFormat,
  Output,
  Quality,
  VideoSample,
  VideoSampleSource,
  WebMOutputFormat,
  canEncodeVideo,
} from 'mediabunny';
import { ShotError, messageOf } from '@/core/errors';
import type { Sink } from '../export';

/** Movies that can be written. */
export const MOVIES = {
  'mp4 avc': { title: 'Movie: MP4, H.264', ending: 'mp4', codec: 'avc' },
  'webm vp9': { title: 'Movie: WebM, VP9', ending: 'webm', codec: 'vp9' },
  'webm av1': { title: 'Movie: WebM, AV1', ending: 'webm', codec: 'av1' },
} as const;
export type MovieKind = keyof typeof MOVIES;

export type MovieQuality = 'low' | 'medium' | 'high' | 'very-high';

/** Collects frames of 4:2:0 samples (a file of kind `yuv`) in a movie, Rec.709, a key frame each second. */
export class MovieSink implements Sink {
  private readonly output: Output<Mp4OutputFormat | WebMOutputFormat, BufferTarget>;
  private readonly source: VideoSampleSource;
  private count = 0;

  private constructor(
    private readonly kind: MovieKind,
    private readonly width: number,
    private readonly height: number,
    private readonly rate: number,
    quality: MovieQuality,
  ) {
    const { ending, codec } = MOVIES[kind];
    const format = ending === 'mp4' ? new Mp4OutputFormat({ fastStart: 'in-memory' }) : new WebMOutputFormat();
    this.output = new Output({ format, target: new BufferTarget() });
    this.source = new VideoSampleSource({ codec, quality: new Quality(quality), keyFrameInterval: 1, latencyMode: 'quality' });
    this.output.addVideoTrack(this.source, { frameRate: rate });
  }

  /** Width and height must be even. Throws ShotError where the browser cannot encode it. */
  static async open(kind: MovieKind, width: number, height: number, rate: number, quality: MovieQuality): Promise<MovieSink> {
    const { codec, title } = MOVIES[kind];
    if (!(await canEncodeVideo(codec, { width, height }))) {
      throw new ShotError(`this browser cannot write "${title}" at ${width}×${height}; choose another kind of file or size`);
    }
    const sink = new MovieSink(kind, width, height, rate, quality);
    await sink.output.start();
    return sink;
  }

  async write(_name: string, bytes: Uint8Array): Promise<void> {
    const sample = new VideoSample(bytes as Uint8Array<ArrayBuffer>, {
      format: 'I420',
      codedWidth: this.width,
      codedHeight: this.height,
      timestamp: this.count++ / this.rate,
      duration: 1 / this.rate,
      colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange: false },
    });
    try {
      await this.source.add(sample);
    } catch (e) {
      throw new ShotError(`the browser's encoder stopped: ${messageOf(e)}`);
    } finally {
      sample.close();
    }
  }

  async finish(): Promise<Blob> {
    await this.output.finalize();
    return new Blob([this.output.target.buffer!], { type: `video/${MOVIES[this.kind].ending}` });
  }

  async cancel(): Promise<void> {
    await this.output.cancel();
  }
}
