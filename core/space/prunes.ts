import type { Assessed, CameraPoint, Doubt } from './assess';

/** Why a track should be looked at, in words. */
export const DOUBT_WORDS: Readonly<Record<Doubt, { readonly short: string; readonly long: string }>> = {
  moves: { short: 'moves', long: 'It does not stand still: it is on something that moves, or slides along an edge. It is not used.' },
  short: { short: 'short', long: 'It is seen on few frames and tells little.' },
  drifts: { short: 'drifts', long: 'It fits in one part of its frames and runs off in another.' },
  epipole: { short: 'no parallax', long: 'It is far off, or near where the camera heads: hardly any parallax tells its depth.' },
  unplaced: { short: 'no point', long: 'Its rays do not meet, or too narrowly: it has no point.' },
};

export interface Prune {
  readonly tracks: readonly string[];
  /** Root mean square that is expected when they are gone, px. */
  readonly expected: number;
}

/** Times the error of the track in the middle from which one is better left out, and the share of tracks that are at most. */
const FAR = 2.2;
/** Share of the error that must be left for a prune to be worth while. */
const GAIN = 0.94;
const MOST = 0.15;
/** Tracks that a frame must keep. */
const KEEP = 12;

/** Tracks that would better go: those that miss by much more than the others, drifting ones first, as long as every frame keeps enough. Null where there is none. */
export function suggestPrunes(camera: Pick<Assessed, 'points' | 'frames' | 'rms'>): Prune | null {
  const used = camera.points.filter((p) => p.used);
  if (used.length < KEEP) return null;
  const middle = [...used].sort((a, b) => a.error - b.error)[used.length >> 1]!.error;
  const worth = (p: CameraPoint): number => p.error * (p.why === 'drifts' ? 1.25 : 1);
  const bad = used
    .filter((p) => worth(p) > FAR * middle)
    .sort((a, b) => worth(b) - worth(a))
    .slice(0, Math.max(1, Math.floor(MOST * used.length)));
  const least = Math.min(...camera.frames.filter((f) => f.flag !== 'predicted').map((f) => f.count));
  const gone = bad.slice(0, Math.max(0, Math.min(bad.length, used.length - KEEP, least - 4)));
  if (gone.length === 0) return null;
  let [sum, n] = [0, 0];
  const out = new Set(gone.map((p) => p.track));
  for (const p of used) {
    if (out.has(p.track)) continue;
    sum += p.error ** 2 * p.count;
    n += p.count;
  }
  const expected = Math.sqrt(sum / Math.max(1, n));
  return expected < GAIN * camera.rms ? { tracks: gone.map((p) => p.track), expected } : null;
}

/** The tracks that miss most, those that are not used too. */
export const worstTracks = (points: readonly CameraPoint[], count: number): CameraPoint[] =>
  [...points].sort((a, b) => Number(b.why === 'drifts') - Number(a.why === 'drifts') || b.error - a.error).slice(0, count);
