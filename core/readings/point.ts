import type { Kernels } from '@/kernels';
import type { Affine } from '../geometry/affine';
import { IDENTITY, compose, invertAffine } from '../geometry/affine';
import type { Peak } from './correlate';
import { correlation, peaks } from './correlate';
import type { Gray, GrayFrame } from './gray';
import { halved } from './gray';
import type { Box, Fit, Patch, PointModel } from './pattern';
import { Pattern, cutPatch } from './pattern';

export interface PointSettings {
  /** What is followed, and how far from its expected place it is looked for; both from the point, px. */
  pattern: Box;
  search: Box;
  model: PointModel;
  /** Never: the first is kept. Every: what was found is the next. Guarded: renewed only while the first still fits, and held to it. */
  renew: 'never' | 'every' | 'guarded';
  /** Confidence under which a frame counts as lost. */
  threshold: number;
  /** Where it is lost: measuring ends, or goes on where it should be, and looks for it again. */
  lost: 'stop' | 'predict';
}

export const POINT_SETTINGS: PointSettings = {
  pattern: [-15, -15, 16, 16],
  search: [-45, -45, 46, 46],
  model: 'shift',
  renew: 'guarded',
  threshold: 0.35,
  lost: 'predict',
};

/** Why a frame should be looked at. */
export const FLAGS = ['predicted', 'low', 'jump', 'repeat', 'left', 'degenerate', 'changed', 'edge', 'alike', 'astray'] as const;
export type Flag = (typeof FLAGS)[number];

export interface PointFrame {
  frame: number;
  x: number;
  y: number;
  /** 0..1 */
  confidence: number;
  /** Pixels by which following it back misses where it came from. */
  error: number;
  /** Turn in degrees and scale of the pattern, where they are measured. */
  turn?: number;
  scale?: number;
  flag?: Flag;
  /** Put there by hand. */
  pinned?: boolean;
}

/** Match with the first pattern at which it may be renewed, and from which a lost one counts as found again. */
const GUARD = 0.75;
const FOUND = 0.6;
/** Frames without a sight of it after which the search grows no more. */
const GROWTH = 8;
/** Share of its speed that a prediction keeps at each frame without a sight of it. */
const DAMPING = 0.6;
/** Correlations that are told apart by less look the same; and how good the second must be at all, and how far away in pattern widths. */
const ALIKE = { margin: 0.05, least: 0.75, apart: 0.6 };
/** Times the pattern's size by which a step may differ from what was expected before it is a jump. */
const JUMP = 0.5;

interface Found {
  fit: Fit;
  sharpness: number;
  /** Something else within the search looks nearly the same. */
  alike: boolean;
  /** It holds one way only: along an edge it slides. */
  edge: boolean;
  /** The first pattern no longer fits, so that nothing holds the track against drifting. */
  changed: boolean;
}

/** Follows one point through frames that are given in order, away from the frame of the pattern. */
export class PointTracker {
  private readonly first: Pattern;
  private current: Pattern;
  private linear: Affine = IDENTITY;
  /** How the pattern had changed when `current` was cut. */
  private base: Affine = IDENTITY;
  private path: [number, number][] = [];
  private lost = 0;
  /** Where it was last seen without doubt. */
  private sure: readonly [number, number];
  /** The last sight of it is flagged: its step says nothing of its speed. */
  private doubted = false;
  /** It jumped, and the first pattern has not agreed since. */
  private jumped = false;
  private before: { frame: GrayFrame; x: number; y: number };

  constructor(
    private readonly kernels: Kernels,
    private readonly settings: PointSettings,
    frame: GrayFrame,
    x: number,
    y: number,
  ) {
    this.first = new Pattern(this.roomy(frame, x, y), x, y, settings.pattern, settings.model);
    this.current = this.first;
    this.path = [[x, y]];
    this.sure = [x, y];
    this.before = { frame, x, y };
  }

  /** Where the next frame is expected to have it. */
  private expected(): [number, number] {
    const n = this.path.length;
    const [x, y] = this.path[n - 1]!;
    // Nothing is known of its speed at first, nor where it was last found in doubt.
    if (n < 2 || this.doubted) return [x, y];
    const back = Math.min(n - 1, this.lost > 0 ? 3 : 1);
    const [u, v] = this.path[n - 1 - back]!;
    const speed = DAMPING ** this.lost / back;
    const { search } = this.settings;
    const within = (p: number, at: number, low: number, high: number): number => Math.min(at + high, Math.max(at + low, p));
    // It is never looked for beyond the search around where it was last seen for sure.
    if (this.lost === 0) return [x + (x - u) * speed, y + (y - v) * speed];
    return [
      within(x + (x - u) * speed, this.sure[0], search[0], search[2]),
      within(y + (y - v) * speed, this.sure[1], search[1], search[3]),
    ];
  }

  /** Measures the next frame. */
  next(image: GrayFrame, frame: number): PointFrame {
    const [ex, ey] = this.expected();
    const grow = Math.min(this.lost, GROWTH) * 4;
    const { search, threshold } = this.settings;
    const wide: Box = [search[0] - grow, search[1] - grow, search[2] + grow, search[3] + grow];
    const patch = cutPatch(image, ex, ey, wide, 4);
    const found = this.find(patch, ex, ey);
    if (found) {
      const { fit, sharpness, changed, edge, alike } = found;
      const [x, y] = [fit.at[2], fit.at[5]];
      const error = this.lost === 0 ? this.missBack(image, x, y) : 0;
      const confidence = confidenceOf(fit.match, sharpness, error);
      const inside = x >= 0 && y >= 0 && x <= image.width && y <= image.height;
      if (inside && confidence >= threshold && (this.lost === 0 || fit.match >= FOUND)) {
        const step = Math.hypot(x - ex, y - ey);
        const size = Math.max(this.current.width, this.current.height);
        const agrees = this.first.match(patch, fit.at) >= GUARD;
        // A jump stays one until the first pattern agrees again; what agrees from the start may be as quick as it is.
        this.jumped = !agrees && (this.jumped || (this.path.length > 1 && step > Math.max(6, JUMP * size)));
        this.accept(patch, fit, image);
        const flag: Flag | null = this.jumped ? 'astray' : edge ? 'edge' : alike ? 'alike' : changed ? 'changed' : null;
        this.doubted = flag !== null && flag !== 'changed';
        if (!flag) this.sure = [x, y];
        return { ...this.result(frame, x, y, confidence, error), ...(flag && { flag }) };
      }
      if (!inside) return this.miss(frame, ex, ey, confidence, 'left');
      return this.miss(frame, ex, ey, confidence, this.settings.lost === 'predict' ? 'predicted' : 'low');
    }
    const left = ex < 0 || ey < 0 || ex > image.width || ey > image.height;
    return this.miss(frame, ex, ey, 0, left ? 'left' : this.settings.lost === 'predict' ? 'predicted' : 'low');
  }

  private result(frame: number, x: number, y: number, confidence: number, error: number): PointFrame {
    const made: PointFrame = { frame, x, y, confidence, error };
    if (this.settings.model !== 'shift') {
      const [a, b, , c, d] = this.linear;
      made.turn = (Math.atan2(c - b, a + d) * 180) / Math.PI;
      made.scale = Math.sqrt(Math.abs(a * d - b * c));
    }
    return made;
  }

  private miss(frame: number, x: number, y: number, confidence: number, flag: Flag): PointFrame {
    this.lost++;
    this.path.push([x, y]);
    return { frame, x, y, confidence: Math.min(confidence, this.settings.threshold), error: 0, flag };
  }

  /** Coarse by correlation, fine by fitting; held to the first pattern where that still fits. */
  private find(patch: Patch, ex: number, ey: number): Found | null {
    const [cx, cy] = this.current.corner;
    const home = [ex + cx - patch.x, ey + cy - patch.y] as const;
    const candidates = coarse(this.kernels, this.current.warped(relative(this.linear, this.base)), patch, home);
    if (candidates.length === 0) return null;
    const fits: Fit[] = [];
    const now = relative(this.linear, this.base);
    for (const c of candidates.slice(0, 3)) {
      const start: Affine = [now[0], now[1], patch.x + c.x - cx, now[3], now[4], patch.y + c.y - cy];
      const fit = this.current.fit(patch, start);
      if (fit) fits.push(fit);
    }
    // Of equal ones the nearer to where it is expected.
    const away = (f: Fit): number => Math.hypot(f.at[2] - ex, f.at[5] - ey);
    const most = Math.max(...fits.map((f) => f.match));
    const best = fits.filter((f) => f.match > most - NEARNESS / 2).sort((a, b) => away(a) - away(b))[0];
    if (!best) return null;
    const second = candidates.find(
      (c) => Math.hypot(patch.x + c.x - cx - best.at[2], patch.y + c.y - cy - best.at[5]) > this.current.width / 3,
    );
    const sharpness = Math.min(1, Math.max(0, (best.match - (second?.score ?? 0)) / 0.15));
    const distance = (c: { x: number; y: number }): number => Math.hypot(patch.x + c.x - cx - best.at[2], patch.y + c.y - cy - best.at[5]);
    const own = candidates.reduce((a, b) => (distance(b) < distance(a) ? b : a));
    const size = Math.max(this.current.width, this.current.height);
    const alike = candidates.some((c) => c.score > ALIKE.least && c.score > own.score - ALIKE.margin && distance(c) > ALIKE.apart * size);
    const edge = this.current.slides(best.match);
    if (this.current === this.first)
      return { fit: best, sharpness, alike, edge, changed: this.settings.renew === 'guarded' && best.match < GUARD };
    // What has changed since the first, as found through the present pattern, is where the first is looked for.
    const whole = compose(best.at, linearOf(this.base));
    if (this.settings.renew === 'guarded') {
      const held = this.first.fit(patch, whole);
      if (held && held.match >= GUARD && Math.hypot(held.at[2] - whole[2], held.at[5] - whole[5]) < 2)
        return { fit: held, sharpness, alike, edge, changed: false };
    }
    return { fit: { at: whole, match: best.match }, sharpness, alike, edge, changed: this.settings.renew === 'guarded' };
  }

  private accept(patch: Patch, fit: Fit, image: GrayFrame): void {
    const [x, y] = [fit.at[2], fit.at[5]];
    this.linear = fit.at;
    this.lost = 0;
    this.path.push([x, y]);
    this.before = { frame: image, x, y };
    const { renew } = this.settings;
    if (renew === 'never') return;
    if (renew === 'guarded' && this.first.match(patch, fit.at) < GUARD) return;
    this.renew(image, x, y);
  }

  /** The pattern with room around it, so that it can be turned and grown. */
  private roomy(frame: GrayFrame, x: number, y: number): Patch {
    const { pattern } = this.settings;
    return cutPatch(frame, x, y, pattern, 4 + Math.max(pattern[2] - pattern[0], pattern[3] - pattern[1]) / 2);
  }

  private renew(image: GrayFrame, x: number, y: number): void {
    this.current = this.first.renewed(this.roomy(image, x, y), x, y);
    this.base = this.linear;
  }

  /**
   * Goes on from a frame that is measured already, with the first pattern as the judge that it was: `known` are that frame and
   * some before it, the last one `image`'s.
   */
  resume(image: GrayFrame, known: readonly PointFrame[]): void {
    const { x, y, turn = 0, scale = 1 } = known[known.length - 1]!;
    const [c, s] = [scale * Math.cos((turn * Math.PI) / 180), scale * Math.sin((turn * Math.PI) / 180)];
    this.linear = [c, -s, x, s, c, y];
    this.path = known.map((f) => [f.x, f.y]);
    this.sure = [x, y];
    this.jumped = false;
    this.doubted = false;
    this.before = { frame: image, x, y };
    this.lost = 0;
    if (this.settings.renew !== 'never') this.renew(image, x, y);
  }

  /** Pixels by which the place found, followed back to the frame before, misses where it was there. */
  private missBack(image: GrayFrame, x: number, y: number): number {
    const { pattern } = this.settings;
    const here = new Pattern(cutPatch(image, x, y, pattern, 3), x, y, pattern, 'shift');
    const was = this.before;
    const fit = here.fit(cutPatch(was.frame, was.x, was.y, pattern, 6), [1, 0, was.x, 0, 1, was.y]);
    return fit ? Math.hypot(fit.at[2] - was.x, fit.at[5] - was.y) : 5;
  }
}

const linearOf = (m: Affine): Affine => [m[0], m[1], 0, m[3], m[4], 0];

/** The linear part of a as seen from b: what has changed since b. */
function relative(a: Affine, b: Affine): Affine {
  const back = invertAffine(linearOf(b));
  return back ? compose(linearOf(a), back) : IDENTITY;
}

/** What of a correlation is taken off at the edge of the search: of places that look the same the nearest is the likeliest. */
const NEARNESS = 0.04;

/** A map of scores with what is far from a place lowered a little. */
function nearFirst(scores: Gray, hx: number, hy: number): Gray {
  const { width, height, data } = scores;
  const reach = Math.max(1, Math.hypot(width, height) / 2);
  const to = new Float32Array(data.length);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) to[i] = data[i]! - NEARNESS * Math.min(1, Math.hypot(x - hx, y - hy) / reach);
  }
  return { width, height, data: to };
}

/** Peaks of a correlation, those near a place first among equals, with the correlation itself. */
function likely(scores: Gray, count: number, apart: number, [hx, hy]: readonly [number, number]): Peak[] {
  return peaks(nearFirst(scores, hx, hy), count, apart).map((p) => ({ ...p, score: scores.data[p.y * scores.width + p.x]! }));
}

/** Places where the pattern may be, likeliest first, in pixels of the patch: looked for at half size, then again at full. `home` is where it is expected. */
function coarse(kernels: Kernels, template: Gray, { gray }: Patch, home: readonly [number, number]): Peak[] {
  if (template.width < 12 || template.height < 12)
    return likely(correlation(kernels, template, gray), 4, Math.max(3, template.width / 3), home);
  const half = correlation(kernels, halved(template), halved(gray));
  const small = likely(half, 4, Math.max(2, template.width / 6), [home[0] / 2, home[1] / 2]);
  const [w, h] = [template.width, template.height];
  return small.map((p) => {
    const [x0, y0] = [Math.max(0, 2 * p.x - 2), Math.max(0, 2 * p.y - 2)];
    const [cw, ch] = [Math.min(gray.width - x0, w + 4), Math.min(gray.height - y0, h + 4)];
    const cut = new Float32Array(cw * ch);
    for (let y = 0; y < ch; y++) cut.set(gray.data.subarray((y0 + y) * gray.width + x0, (y0 + y) * gray.width + x0 + cw), y * cw);
    const [best] = peaks(correlation(kernels, template, { width: cw, height: ch, data: cut }), 1, 1);
    return best ? { x: x0 + best.x, y: y0 + best.y, score: best.score } : { x: 2 * p.x, y: 2 * p.y, score: p.score };
  });
}

/** 1 for a perfect and only match that leads back to where it came from. */
export function confidenceOf(match: number, sharpness: number, error: number): number {
  const m = Math.min(1, Math.max(0, (match - 0.3) / 0.65));
  return m * (0.55 + 0.45 * sharpness) * Math.exp(-((error / 1.2) ** 2));
}

/**
 * Looks at a finished path: frames whose value repeats exactly, and frames that jump away from both neighbours. Predicted frames
 * between two sights are laid on the straight line between them.
 */
export function reviewPath(frames: readonly PointFrame[]): PointFrame[] {
  // What was said of it before is said again.
  const list = frames.map(({ flag, ...f }): PointFrame => (flag && flag !== 'jump' && flag !== 'repeat' ? { ...f, flag } : f));
  for (let i = 0; i < list.length; i++) {
    if (list[i]!.flag !== 'predicted') continue;
    let j = i;
    while (j < list.length && list[j]!.flag === 'predicted') j++;
    const [a, b] = [list[i - 1], list[j]];
    if (a && b) {
      for (let k = i; k < j; k++) {
        const t = (list[k]!.frame - a.frame) / (b.frame - a.frame);
        list[k]!.x = a.x + t * (b.x - a.x);
        list[k]!.y = a.y + t * (b.y - a.y);
      }
    }
    i = j;
  }
  const bends = list.map((f, i) => {
    const [a, b] = [list[i - 1], list[i + 1]];
    return a && b ? Math.hypot(f.x - (a.x + b.x) / 2, f.y - (a.y + b.y) / 2) : 0;
  });
  const usual = [...bends].sort((a, b) => a - b)[bends.length >> 1] ?? 0;
  list.forEach((f, i) => {
    const before = list[i - 1];
    if (f.flag || f.pinned) return;
    if (before && f.x === before.x && f.y === before.y) f.flag = 'repeat';
    else if (bends[i]! > Math.max(4, 8 * usual)) f.flag = 'jump';
  });
  return list;
}
