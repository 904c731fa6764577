import type { Remark, Request } from '@/core/evaluate';
import type { Shot } from '@/core/document';
import type { OutputSettings } from '@/core/formats';
import type { Rect } from '@/core/geometry';
import type { Format } from '@/core/picture';

/** Finished pixels for looking: interleaved RGBA float32, scene-linear, premultiplied. */
export interface Rendered {
  region: Rect;
  format: Format;
  bounds: Rect;
  /** Channels of the picture that was looked at, for the layer list. */
  available: string[];
  pixels: Float32Array;
  remarks: Remark[];
  milliseconds: number;
}

/** Where the work is done; the browser's pool and the command line's process are the two. */
export interface PictureHost {
  render(shot: Shot, request: Request, signal?: AbortSignal): Promise<Rendered>;
  /** A finished frame of a lane as a file's bytes. */
  encode(shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, signal?: AbortSignal): Promise<Uint8Array>;
  /** Told of a file that was written and is not needed any more: its memory may be used for the next. */
  takeBack?(bytes: Uint8Array): void;
}
