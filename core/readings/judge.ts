import type { Kernels } from '@/kernels';
import { correlation, peaks } from './correlate';
import { goodFeatures } from './features';
import type { GrayFrame } from './gray';
import { calmed } from './gray';
import { Pattern, cutPatch } from './pattern';
import type { PointSettings } from './point';

/** What speaks against a place before it is followed. */
export interface PlaceDoubt {
  /** It has detail one way only. */
  edge: boolean;
  /** Something within the search looks like it: how far away, px, and its correlation. */
  alike: { distance: number; score: number } | null;
  /** A place nearby of which neither is true. */
  better: readonly [number, number] | null;
}

/** Correlation from which another place in the same frame looks the same, and how far it lies at the least, in pattern sizes. */
const SAME = 0.85;
const APART = 0.6;
/** Features nearby that are tried, and within how many pattern sizes. */
const TRIES = 6;
const NEAR = 1.5;

/**
 * Standard deviation of a frame's noise around a place: what is left when each pixel is compared with its neighbours by a mask that
 * no slope and no bend of the picture shows in (Immerkær 1996).
 */
function noiseAround(frame: GrayFrame, x: number, y: number, half: number): number {
  const side = 2 * half;
  const { data } = frame.read(Math.round(x) - half, Math.round(y) - half, side, side);
  let sum = 0;
  for (let j = 1; j < side - 1; j++) {
    for (let i = 1; i < side - 1; i++) {
      const at = j * side + i;
      const corners = data[at - side - 1]! + data[at - side + 1]! + data[at + side - 1]! + data[at + side + 1]!;
      const sides = data[at - 1]! + data[at + 1]! + data[at - side]! + data[at + side]!;
      sum += Math.abs(corners - 2 * sides + 4 * data[at]!);
    }
  }
  return (Math.sqrt(Math.PI / 2) * sum) / (6 * (side - 2) ** 2);
}

/** The 1 2 1 smoothing leaves (6/16)² of the variance of noise. */
const CALMED = (6 / 16) ** 2;

type Box = Pick<PointSettings, 'pattern' | 'search'>;

function doubtsOf(kernels: Kernels, frame: GrayFrame, x: number, y: number, { pattern: box, search }: Box): Omit<PlaceDoubt, 'better'> {
  const pattern = new Pattern(cutPatch(frame, x, y, box, 4), x, y, box, 'shift');
  const size = Math.max(pattern.width, pattern.height);
  const edge = pattern.slidesIn(CALMED * noiseAround(frame, x, y, Math.ceil(size / 2) + 2) ** 2);
  const patch = cutPatch(frame, x, y, search, 2);
  const scores = correlation(kernels, pattern.warped([1, 0, 0, 0, 1, 0]), patch.gray);
  const [cx, cy] = pattern.corner;
  const home = [x + cx - patch.x, y + cy - patch.y] as const;
  const other = peaks(scores, 6, Math.max(3, size / 3))
    .map((p) => ({ score: p.score, distance: Math.hypot(p.x - home[0], p.y - home[1]) }))
    .find((p) => p.distance > APART * size && p.score > SAME);
  return { edge, alike: other ?? null };
}

/** Looks at a place that is to be followed: whether it can be, and where nearby it could be better. */
export function judgePlace(kernels: Kernels, frame: GrayFrame, x: number, y: number, settings: Box): PlaceDoubt {
  const own = doubtsOf(kernels, frame, x, y, settings);
  if (!own.edge && !own.alike) return { ...own, better: null };
  const { pattern } = settings;
  const reach = Math.round(NEAR * Math.max(pattern[2] - pattern[0], pattern[3] - pattern[1]));
  const [left, top] = [Math.round(x) - reach, Math.round(y) - reach];
  const near = calmed(frame.read(left, top, 2 * reach, 2 * reach));
  const features = goodFeatures(near, () => true, TRIES, 6).map((f) => [left + f.x, top + f.y] as const);
  const better = features
    .sort((a, b) => Math.hypot(a[0] - x, a[1] - y) - Math.hypot(b[0] - x, b[1] - y))
    .find(([u, v]) => {
      const doubts = doubtsOf(kernels, frame, u, v, settings);
      return !doubts.edge && !doubts.alike;
    });
  return { ...own, better: better ?? null };
}

/** The doubts in words; empty where there is none. */
export function tellDoubt({ edge, alike }: PlaceDoubt): string {
  if (edge) return 'There is detail across an edge here and none along it: the point would slide.';
  return alike ? `Something ${Math.round(alike.distance)} px away looks the same: the point may change places with it.` : '';
}
