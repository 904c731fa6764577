import type { Kernels } from '@/kernels';
import type { Pair, PlaneModel } from '../geometry/fit';
import { IDENTITY_H, multiply, robustFit } from '../geometry/fit';
import type { Homography, Quad } from '../geometry/homography';
import { applyHomography, isConvex } from '../geometry/homography';
import type { Polygon } from '../geometry/polygon';
import { boxAround, doubleArea, inPolygon, mapPolygon } from '../geometry/polygon';
import { correlation, peaks } from './correlate';
import { DirectRegion } from './region-fit';
import type { Feature } from './features';
import { FeatureFollower, goodFeatures } from './features';
import type { Gray, GrayFrame } from './gray';
import { frameOf, sampleAt } from './gray';
import type { Flag } from './point';
import { Pyramid } from './pyramid';

export interface PlaneSettings {
  model: PlaneModel;
  /** Confidence under which a frame counts as lost. */
  threshold: number;
  lost: 'stop' | 'predict';
}

export const PLANE_SETTINGS: PlaneSettings = { model: 'perspective', threshold: 0.4, lost: 'predict' };

/** Where the plane is, on its reference frame: shapes, less other shapes; and a surface to look at. */
export interface PlaneRegion {
  shapes: readonly Polygon[];
  without: readonly Polygon[];
}

export interface PlaneFrame {
  frame: number;
  /** From the reference frame to this one, row by row. */
  homography: Homography;
  confidence: number;
  /** Root mean square of the features' distances from where the map says, px. */
  error: number;
  flag?: Flag;
  pinned?: boolean;
  /** Features as x, y in this frame, that agree with the map and that do not. */
  used?: readonly number[];
  rejected?: readonly number[];
}

const FEATURES = 160;
const APART = 9;
const LEVELS = 4;
const TOLERANCE = 1.5;
/** Correlation under which a feature was not found again. */
const LEAST_MATCH = 0.75;
const LEAST_FEATURES = 6;
/** Pixels by which the direct fit may move what the features said. */
const MOST_CORRECTION = 6;

/**
 * Of the rough shift: pixels that its picture has at least, how far it is looked for in pixels of the frame, how alike it must
 * be, and how much more so than in its old place.
 */
const LEAST_BOX = 400;
const FARTHEST = 96;
const LEAST_ALIKE = 0.6;
const CLEARLY = 0.02;

/** A matte of the plane on a frame; a position belongs to it where that is a half or more. */
export type Matte = Gray | undefined;

const covers = (matte: Matte): ((x: number, y: number) => boolean) => (matte ? (x, y) => sampleAt(matte, x, y) >= 0.5 : () => true);

/** Whether the region's shapes hold a position of the reference frame. */
const inRegion = (region: PlaneRegion, x: number, y: number): boolean =>
  region.shapes.some((p) => inPolygon(p, x, y)) && !region.without.some((p) => inPolygon(p, x, y));

/** Follows a plane through frames that are given in order, away from the frame of its region; to be closed when it is done with. */
export class PlaneTracker {
  private readonly direct: DirectRegion;
  private readonly features: readonly Feature[];
  private readonly outline: Polygon;
  private map: Homography = IDENTITY_H;
  private readonly follower: FeatureFollower;
  private before: Pyramid;
  private matteBefore: Matte;

  constructor(
    private readonly kernels: Kernels,
    private readonly settings: PlaneSettings,
    reference: GrayFrame,
    region: PlaneRegion,
    matte?: Matte,
  ) {
    this.before = new Pyramid(kernels, reference, LEVELS);
    this.follower = new FeatureFollower(kernels);
    const gray = this.before.levels[0]!;
    const belongs = covers(matte);
    const box = region.shapes.length ? boxAround(region.shapes) : { x0: 0, y0: 0, x1: gray.width, y1: gray.height };
    const inside = (x: number, y: number): boolean => (region.shapes.length === 0 || inRegion(region, x, y)) && belongs(x, y);
    this.features = goodFeatures(gray, inside, FEATURES, APART, box);
    this.direct = new DirectRegion(kernels, gray, inside, box, settings.model);
    this.matteBefore = matte;
    this.outline = [box.x0, box.y0, box.x1, box.y0, box.x1, box.y1, box.x0, box.y1];
  }

  close(): void {
    this.before.close();
    this.follower.close();
    this.direct.close();
  }

  /** Goes on from a frame that is measured already, registered to the same reference. */
  resume(image: GrayFrame, map: Homography, matte?: Matte): void {
    this.map = map;
    this.before.close();
    this.before = new Pyramid(this.kernels, image, LEVELS);
    this.matteBefore = matte;
  }

  next(image: GrayFrame, frame: number, matte?: Matte): PlaneFrame {
    const now = new Pyramid(this.kernels, image, LEVELS);
    const pairs: Pair[] = [];
    const was = covers(this.matteBefore);
    const is = covers(matte);
    const [dx, dy] = this.roughShift(now);
    for (const f of this.features) {
      const [x, y, w] = applyHomography(this.map, f.x, f.y);
      if (w <= 0 || !was(x, y)) continue;
      const found = this.follower.follow(this.before, now, x, y, [x + dx, y + dy]);
      if (found && found.match >= LEAST_MATCH && is(found.x, found.y)) pairs.push([f.x, f.y, found.x, found.y]);
    }
    const made = this.settle(pairs, now.levels[0]!, matte && is);
    const result = this.result(frame, pairs, made, image);
    // Also where it is doubted, the last map is the best guess there is.
    this.map = result.homography;
    this.before.close();
    this.before = now;
    this.matteBefore = matte;
    return result;
  }

  /** How far the region's box has moved since the frame before, by correlation of the coarsest pictures; 0, 0 where that is not sure. */
  private roughShift({ levels: now }: Pyramid): readonly [number, number] {
    const there = boxAround([mapPolygon(this.map, this.outline)]);
    // The coarsest picture in which there is still something to be told apart.
    const { levels: before } = this.before;
    let level = Math.min(before.length, now.length) - 1;
    while (level > 0 && (there.x1 - there.x0) * (there.y1 - there.y0) < LEAST_BOX * 4 ** level) level--;
    const scale = 2 ** level;
    const reach = Math.round(FARTHEST / scale);
    const [from, to] = [before[level]!, now[level]!];
    const x0 = Math.max(0, Math.floor(there.x0 / scale));
    const y0 = Math.max(0, Math.floor(there.y0 / scale));
    const [w, h] = [Math.min(from.width, Math.ceil(there.x1 / scale)) - x0, Math.min(from.height, Math.ceil(there.y1 / scale)) - y0];
    if (!(w > 2 && h > 2)) return [0, 0];
    const template = frameOf(from).read(x0, y0, w, h);
    const [left, top] = [Math.max(0, x0 - reach), Math.max(0, y0 - reach)];
    const [right, bottom] = [Math.min(to.width, x0 + w + reach), Math.min(to.height, y0 + h + reach)];
    const scores = correlation(this.kernels, template, frameOf(to).read(left, top, right - left, bottom - top));
    const [best] = peaks(scores, 1, 1);
    const still = scores.data[(y0 - top) * scores.width + x0 - left] ?? 0;
    // Where it may just as well have stood still, the features look from where they were.
    if (!best || best.score < LEAST_ALIKE || best.score < still + CLEARLY) return [0, 0];
    return [(best.x + left - x0) * scale, (best.y + top - y0) * scale];
  }

  /** The map that features and pixels agree on. */
  private settle(pairs: readonly Pair[], gray: Gray, visible: ((x: number, y: number) => boolean) | undefined) {
    const rough = pairs.length >= LEAST_FEATURES ? robustFit(this.settings.model, pairs, TOLERANCE) : null;
    const start = rough?.map ?? this.map;
    const direct = this.direct.register(gray, start, visible);
    const near = direct && cornersApart(direct.map, start, this.outline) < MOST_CORRECTION;
    if (direct && near && direct.match > 0.6) return { map: direct.map, match: direct.match, explained: direct.explained, rough };
    return rough ? { map: rough.map, match: 0.6, explained: 0.5, rough } : null;
  }

  private result(frame: number, pairs: readonly Pair[], made: ReturnType<PlaneTracker['settle']>, image: GrayFrame): PlaneFrame {
    if (!made) {
      const flag: Flag = this.settings.lost === 'predict' ? 'predicted' : 'low';
      return { frame, homography: this.map, confidence: 0, error: 0, flag, used: [], rejected: [] };
    }
    const used: number[] = [];
    const rejected: number[] = [];
    let squares = 0;
    for (const [x, y, u, v] of pairs) {
      const [a, b] = applyHomography(made.map, x, y);
      const off = (a - u) ** 2 + (b - v) ** 2;
      if (off < TOLERANCE * TOLERANCE) {
        used.push(u, v);
        squares += off;
      } else rejected.push(u, v);
    }
    const agreed = used.length / 2;
    const share = agreed / Math.max(1, Math.min(this.features.length, 60));
    const confidence =
      Math.min(1, Math.max(0, (made.match - 0.5) / 0.45)) * Math.min(1, 0.25 + 1.2 * Math.max(share, made.explained - 0.3));
    const error = agreed ? Math.sqrt(squares / agreed) : 0;
    const flag = this.flagOf(made.map, image, confidence);
    return { frame, homography: made.map, confidence, error, used, rejected, ...(flag && { flag }) };
  }

  private flagOf(map: Homography, image: GrayFrame, confidence: number): Flag | undefined {
    const there: number[] = [];
    let seen = 0;
    for (let i = 0; i < this.outline.length; i += 2) {
      const [x, y, w] = applyHomography(map, this.outline[i]!, this.outline[i + 1]!);
      if (w <= 0) return 'degenerate';
      there.push(x, y);
      if (x >= 0 && y >= 0 && x <= image.width && y <= image.height) seen++;
    }
    const quad = [0, 2, 4, 6].map((i) => [there[i]!, there[i + 1]!] as const) as unknown as Quad;
    const grown = doubleArea(there) / doubleArea(this.outline);
    if (!isConvex(quad) || grown < 0.02 || grown > 50) return 'degenerate';
    if (confidence < this.settings.threshold) return seen === 0 ? 'left' : this.settings.lost === 'predict' ? 'predicted' : 'low';
    return undefined;
  }
}

/** The greatest distance between where two maps put some corners. */
export function cornersApart(a: Homography, b: Homography, corners: Polygon): number {
  let most = 0;
  for (let i = 0; i < corners.length; i += 2) {
    const [x, y] = applyHomography(a, corners[i]!, corners[i + 1]!);
    const [u, v] = applyHomography(b, corners[i]!, corners[i + 1]!);
    most = Math.max(most, Math.hypot(x - u, y - v));
  }
  return most;
}

/** A frame's map where the region was anchored again on a frame in between. */
export const chained = (result: PlaneFrame, anchor: Homography): PlaneFrame => ({
  ...result,
  homography: multiply(result.homography, anchor),
});
