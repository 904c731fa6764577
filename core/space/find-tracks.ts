import type { Kernels } from '@/kernels';
import type { Feature } from '../readings/features';
import { FeatureFollower, goodFeatures } from '../readings/features';
import type { Affine } from '../geometry/affine';
import { IDENTITY } from '../geometry/affine';
import type { Gray } from '../readings/gray';
import { frameOf, sampleAt } from '../readings/gray';
import type { Pictures } from '../readings/measure';
import type { Box } from '../readings/pattern';
import { Pattern, cutPatch } from '../readings/pattern';
import { Pyramid } from '../readings/pyramid';
import type { FindSettings, FoundTrack } from './camera-parts';

export interface FindProgress {
  readonly frame: number;
  /** Which way it is following, and positions of what is followed there. */
  readonly direction: 1 | -1;
  readonly live: readonly number[];
}

const LEVELS = 4;
/** Correlation with the frame before, and pixels by which following back may miss. */
const LEAST_MATCH = 0.8;
const MISS = 0.4;
/** Correlation with the first patch at which it still counts, and pixels by which it may put a track right. */
const GUARD = 0.8;
const PUT_RIGHT = 1;
/** Frames after which new features are looked for, and share of the wanted ones under which they are at once. */
const BIRTHS = 5;
const SCARCE = 0.75;

/** Pixels from the picture's edge within which nothing can be followed. */
const EDGE = 11;
/** The patch that holds a track, from its middle, px; and how far around it is looked for. */
const PATCH: Box = [-8, -8, 9, 9];
const ROOM = 4;

interface Live {
  readonly places: Map<number, readonly [number, number]>;
  readonly born: number;
  x: number;
  y: number;
  dx: number;
  dy: number;
  /** How it looked where it was taken, and how that is turned, grown and sheared now. */
  pattern: Pattern;
  linear: Affine;
}

const taken = (gray: Gray, x: number, y: number): Pick<Live, 'pattern' | 'linear'> => ({
  pattern: new Pattern(cutPatch(frameOf(gray), x, y, PATCH, ROOM), x, y, PATCH, 'affine'),
  linear: IDENTITY,
});

/**
 * Finds corners spread over the picture and over time (Shi and Tomasi 1994) and follows each forward and back until it is lost: what does not lead
 * back to where it came from, leaves the picture or enters a matte of what is to be left out (coverage of a half or more) ends. A track
 * is held to its first patch as long as that is recognised.
 */
export async function* findTracks(
  kernels: Kernels,
  range: { readonly first: number; readonly last: number },
  settings: FindSettings,
  pictures: Pictures,
): AsyncGenerator<FindProgress, FoundTrack[]> {
  const follower = new FeatureFollower(kernels);
  const all: Live[] = [];
  let before: Pyramid | null = null;
  const clearOf = (matte: Gray | undefined, width: number, height: number): ((x: number, y: number) => boolean) => {
    const m = Math.max(EDGE, settings.margin);
    return (x, y) => x >= m && y >= m && x <= width - m && y <= height - m && !(matte && sampleAt(matte, x, y) >= 0.5);
  };
  const followAll = (live: readonly Live[], from: Pyramid, to: Pyramid, frame: number, clear: (x: number, y: number) => boolean): Live[] =>
    live.filter((t) => {
      const found = follower.follow(from, to, t.x, t.y, [t.x + t.dx, t.y + t.dy]);
      if (!found || found.match < LEAST_MATCH) return false;
      const back = follower.follow(to, from, found.x, found.y, [t.x, t.y]);
      if (!back || Math.hypot(back.x - t.x, back.y - t.y) > MISS) return false;
      const gray = to.levels[0]!;
      let [x, y] = [found.x, found.y];
      const m = t.linear;
      const held = t.pattern.fit(cutPatch(frameOf(gray), x, y, PATCH, ROOM), [m[0], m[1], x, m[3], m[4], y]);
      const kept = held && held.match >= GUARD && Math.hypot(held.at[2] - x, held.at[5] - y) < PUT_RIGHT;
      if (kept) [x, y, t.linear] = [held.at[2], held.at[5], held.at];
      if (!clear(x, y)) return false;
      if (!kept) Object.assign(t, taken(gray, x, y));
      [t.dx, t.dy] = [x - t.x, y - t.y];
      [t.x, t.y] = [x, y];
      t.places.set(frame, [x, y]);
      return true;
    });
  try {
    // Forward, with births.
    let live: Live[] = [];
    for (let frame = range.first; frame <= range.last; frame++) {
      const now: Pyramid = new Pyramid(kernels, await pictures.frame(frame), LEVELS);
      const gray = now.levels[0]!;
      const clear = clearOf(await pictures.matte?.(frame), gray.width, gray.height);
      if (before) live = followAll(live, before, now, frame, clear);
      const due = (frame - range.first) % BIRTHS === 0 && live.length < 0.95 * settings.count;
      if (due || live.length < SCARCE * settings.count) {
        for (const f of newFeatures(gray, live, settings.count, clear)) {
          const made: Live = {
            places: new Map([[frame, [f.x, f.y]]]),
            born: frame,
            x: f.x,
            y: f.y,
            dx: 0,
            dy: 0,
            ...taken(gray, f.x, f.y),
          };
          live.push(made);
          all.push(made);
        }
      }
      before?.close();
      before = now;
      yield { frame, direction: 1, live: live.flatMap((t) => [t.x, t.y]) };
    }
    // Back, from where each was born.
    live = [];
    before?.close();
    before = null;
    const byBirth = new Map<number, Live[]>();
    for (const t of all) if (t.places.size > 1 || t.born === range.last) byBirth.set(t.born, [...(byBirth.get(t.born) ?? []), t]);
    for (let frame = range.last; frame >= range.first; frame--) {
      const now: Pyramid = new Pyramid(kernels, await pictures.frame(frame), LEVELS);
      const gray = now.levels[0]!;
      const clear = clearOf(await pictures.matte?.(frame), gray.width, gray.height);
      if (before) live = followAll(live, before, now, frame, clear);
      for (const t of byBirth.get(frame) ?? []) {
        [t.x, t.y] = t.places.get(frame)!;
        const next = t.places.get(frame + 1);
        [t.dx, t.dy] = next ? [t.x - next[0], t.y - next[1]] : [0, 0];
        live.push(Object.assign(t, taken(gray, t.x, t.y)));
      }
      before?.close();
      before = now;
      yield { frame, direction: -1, live: live.flatMap((t) => [t.x, t.y]) };
    }
  } finally {
    before?.close();
    follower.close();
  }
  const thousandth = (v: number): number => Math.round(1000 * v) / 1000;
  return all
    .filter((t) => t.places.size >= settings.least)
    .map((t, i) => {
      const frames = [...t.places.keys()].sort((a, b) => a - b);
      return { id: `f${i + 1}`, first: frames[0]!, at: frames.flatMap((f) => t.places.get(f)!.map(thousandth)) };
    });
}

/** The same, all at once. */
export async function foundTracks(...given: Parameters<typeof findTracks>): Promise<FoundTrack[]> {
  const work = findTracks(...given);
  for (;;) {
    const { done, value } = await work.next();
    if (done) return value;
  }
}

/** Corners where nothing is followed yet, so many that there are `count` in all, spread over the picture. */
function newFeatures(gray: Gray, live: readonly Live[], count: number, clear: (x: number, y: number) => boolean): Feature[] {
  const apart = 0.6 * Math.sqrt((gray.width * gray.height) / count);
  const cells = new Map<string, Live[]>();
  const key = (x: number, y: number): string => `${Math.floor(x / apart)},${Math.floor(y / apart)}`;
  for (const t of live) cells.set(key(t.x, t.y), [...(cells.get(key(t.x, t.y)) ?? []), t]);
  const free = (x: number, y: number): boolean => {
    for (let j = -1; j <= 1; j++)
      for (let i = -1; i <= 1; i++)
        if ((cells.get(key(x + i * apart, y + j * apart)) ?? []).some((t) => Math.hypot(t.x - x, t.y - y) < apart)) return false;
    return true;
  };
  return goodFeatures(gray, (x, y) => clear(x, y) && free(x, y), Math.max(0, count - live.length), apart);
}
