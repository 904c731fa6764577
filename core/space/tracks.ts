import { ShotError } from '../errors';

/** A point of the picture that was followed, as the solver takes it. */
export interface SolveTrack {
  readonly id: string;
  /** What it counts against a found one, which counts 1. */
  readonly weight: number;
  /** Frames in order, and x, y at each, px. */
  readonly frames: readonly number[];
  readonly at: readonly number[];
}

/** Tracks by frame: for each frame of a range the tracks that are seen on it, and where. */
export class TrackTable {
  readonly count: number;
  /** Of each frame, from the first: tracks, and where in their lists. */
  readonly seen: readonly { readonly track: number; readonly index: number }[][];
  private readonly indices: Map<number, number>[];

  constructor(
    readonly tracks: readonly SolveTrack[],
    readonly range: { readonly first: number; readonly last: number },
  ) {
    this.count = range.last - range.first + 1;
    this.seen = Array.from({ length: this.count }, () => []);
    this.indices = tracks.map((t, k) => {
      const byFrame = new Map<number, number>();
      t.frames.forEach((f, index) => {
        const at = f - range.first;
        if (at < 0 || at >= this.count) return;
        this.seen[at]!.push({ track: k, index });
        byFrame.set(at, index);
      });
      return byFrame;
    });
  }

  /** Where a track is on a frame, counted from the first; null where it is not seen. */
  at(track: number, frame: number): readonly [number, number] | null {
    const index = this.indices[track]!.get(frame);
    if (index === undefined) return null;
    const { at } = this.tracks[track]!;
    return [at[2 * index]!, at[2 * index + 1]!];
  }

  /** Tracks that two frames share. */
  common(a: number, b: number): number[] {
    return this.seen[a]!.filter(({ track }) => this.indices[track]!.has(b)).map(({ track }) => track);
  }

  /** Frames on which a track is seen, counted from the first. */
  framesOf(track: number): number[] {
    return [...this.indices[track]!.keys()];
  }

  /** Median distance that shared tracks move between two frames, px. */
  moved(a: number, b: number): number {
    return median(
      this.common(a, b).map((k) => {
        const [p, q] = [this.at(k, a)!, this.at(k, b)!];
        return Math.hypot(q[0] - p[0], q[1] - p[1]);
      }),
    );
  }
}

/** The middle one; 0 of none. */
export function median(list: ArrayLike<number>): number {
  const sorted = Float64Array.from(list).sort();
  return sorted.length ? sorted[sorted.length >> 1]! : 0;
}

/** Tracks on a frame with which it is held well; fewer are told. */
export const HELD_BY = 8;
/** Fewest with which anything can be solved. */
export const LEAST_TRACKS = 6;

/** What of a set of tracks cannot be solved at all: says so and what to do. */
export function checkTracks(table: TrackTable): void {
  const frames = table.seen.filter((s) => s.length > 0).length;
  if (frames < 3)
    throw new ShotError(
      frames === 0
        ? 'there are no tracks in the range: find tracks first, or place points by hand and measure them'
        : `there are tracks on ${frames === 1 ? 'one frame' : 'two frames'} only, and a camera needs three or more: widen the range and find tracks on it`,
    );
  const long = table.tracks.filter((_, k) => table.framesOf(k).length >= 3).length;
  if (long < LEAST_TRACKS)
    throw new ShotError(
      `only ${long} ${long === 1 ? 'track is' : 'tracks are'} seen on three frames or more, and a camera needs ${LEAST_TRACKS}: find more tracks, or place points by hand`,
    );
}
