import type { MediaFrame, Source } from '@/core/document';
import type { MediaInfo } from './inspect';

/** Everything of a source that its files say, from the first one's header. `still` is a single file without a number. */
export function sourceOf(info: MediaInfo, frames: readonly MediaFrame[], still: boolean): Omit<Source, 'id' | 'name'> {
  const kind =
    info.container === 'LUT'
      ? 'lut'
      : info.container === 'glTF' || info.container === 'OBJ'
        ? 'model'
        : info.movie
          ? 'movie'
          : still
            ? 'still'
            : 'sequence';
  return {
    kind,
    frames: kind === 'sequence' ? [...frames] : frames.map((f) => ({ ...f, frame: 1 })),
    format: info.format,
    channels: info.channels,
    container: info.container,
    colourSpace: info.colourSpace,
    colourReason: info.colourReason,
    alpha: info.alpha,
    missing: 'error',
    start: kind === 'sequence' ? frames[0]!.frame : 1,
    ...(info.movie && { length: info.movie.length }),
    ...(info.types && Object.keys(info.types).length > 0 && { types: info.types }),
    ...(info.attributes.length > 0 && { attributes: info.attributes }),
  };
}
