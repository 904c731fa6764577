import { fillMissing } from '../filters/missing';
import { rect } from '../geometry/rect';
import { random } from '../random';

/** Planes of one size and the hole in them. */
interface Level {
  w: number;
  h: number;
  /** As the eye weighs them: square roots of light. */
  planes: Float32Array[];
  hole: Uint8Array;
}

export interface PatchFillOptions {
  /** Pixels on each side of a patch's middle; 3 unless said. */
  radius?: number;
  /** How far from a place of the hole its like is looked for, px; everywhere without. */
  reach?: number;
  /** Pixels that may not be taken from besides the hole. */
  avoid?: Uint8Array;
  seed?: number;
  poll?(): void;
}

/** Times that patches are looked for and laid together: more at the coarse levels, which are cheap and decide the structure. */
const ROUNDS = [2, 4, 6, 8];
/** How far a finer level looks around what the coarser one found, px. */
const NEAR = 24;
/** Below this many pixels a side of the hole the pyramid ends. */
const SMALLEST = 9;

/** Known pixels of a patch weigh more than those that are being made up. */
const KNOWN = 2.5;

/**
 * Fills a hole with patches that lie elsewhere in the picture: at each level of a pyramid the nearest patches are found by PatchMatch (Barnes et
 * al. 2009) and laid together, as in the completion of Wexler, Shechtman and Irani 2007. The same each time for the same seed. `planes` (R, G, B,
 * scene-linear, w×h) are changed in place where `hole` is not 0. Returns false where there is no whole patch to take from: nothing is changed then.
 */
export function fillByPatches(
  planes: readonly Float32Array[],
  hole: Uint8Array,
  w: number,
  h: number,
  { radius = 3, reach = Infinity, avoid, seed = 1, poll }: PatchFillOptions = {},
): boolean {
  const base: Level = { w, h, planes: planes.map((p) => p.map((v) => Math.sqrt(Math.max(0, v)))), hole };
  const barred = avoid ? hole.map((v, i) => (v || avoid[i] ? 1 : 0)) : hole;
  const bars: Uint8Array[] = [barred];
  const levels: Level[] = [base];
  while (
    Math.min(thickness(levels.at(-1)!), levels.at(-1)!.w, levels.at(-1)!.h) > SMALLEST &&
    Math.min(levels.at(-1)!.w, levels.at(-1)!.h) > 8 * radius
  ) {
    levels.push(halved(levels.at(-1)!));
    bars.push(halvedBar(bars.at(-1)!, levels.at(-2)!));
  }
  let field: Int32Array | null = null;
  const next = random(seed);
  for (let l = levels.length - 1; l >= 0; l--) {
    const level = levels[l]!;
    const sources = sourcesOf(level, bars[l]!, radius);
    if (sources.list.length === 0) {
      if (l > 0) continue;
      if (!field) return false;
    }
    const near: number = field ? Math.min(NEAR, reach / 2 ** l) : reach / 2 ** l;
    const matcher: Matcher = new Matcher(level, sources, radius, reach / 2 ** l, near, next);
    if (field) matcher.takeUp(field, levels[l + 1]!.w);
    else matcher.begin();
    const rounds = ROUNDS[Math.min(l, ROUNDS.length - 1)]!;
    for (let k = 0; k < rounds; k++) {
      poll?.();
      // The first look of the coarsest level has nothing but a smooth guess to go by.
      matcher.improve(k % 2 === 1);
      matcher.improve(k % 2 === 0);
      matcher.lay(l === 0 && k === rounds - 1);
    }
    field = matcher.field;
  }
  if (!field) return false;
  planes.forEach((p, c) => {
    const own = base.planes[c]!;
    for (let i = 0; i < p.length; i++) if (hole[i]) p[i] = own[i]! * own[i]!;
  });
  return true;
}

/** The shorter side of the box around the hole. */
function thickness({ w, h, hole }: Level): number {
  let [x0, y0, x1, y1] = [w, h, 0, 0];
  for (let i = 0; i < w * h; i++) {
    if (!hole[i]) continue;
    const [x, y] = [i % w, (i / w) | 0];
    if (x < x0) x0 = x;
    if (y < y0) y0 = y;
    if (x > x1) x1 = x;
    if (y > y1) y1 = y;
  }
  return Math.max(0, Math.min(x1 - x0, y1 - y0) + 1);
}

function halved({ w, h, planes, hole }: Level): Level {
  const [hw, hh] = [w >> 1, h >> 1];
  const made = planes.map(() => new Float32Array(hw * hh));
  const open = new Uint8Array(hw * hh);
  for (let y = 0; y < hh; y++) {
    for (let x = 0; x < hw; x++) {
      const at = [2 * y * w + 2 * x, 2 * y * w + 2 * x + 1, (2 * y + 1) * w + 2 * x, (2 * y + 1) * w + 2 * x + 1];
      const seen = at.filter((i) => !hole[i]);
      // Mostly open: it is filled at this level too.
      open[y * hw + x] = seen.length < 3 ? 1 : 0;
      const from = seen.length > 0 ? seen : at;
      planes.forEach((p, c) => (made[c]![y * hw + x] = from.reduce((s, i) => s + p[i]!, 0) / from.length));
    }
  }
  return { w: hw, h: hh, planes: made, hole: open };
}

function halvedBar(bar: Uint8Array, { w, h }: Level): Uint8Array {
  const [hw, hh] = [w >> 1, h >> 1];
  const out = new Uint8Array(hw * hh);
  for (let y = 0; y < hh; y++) {
    for (let x = 0; x < hw; x++) {
      const i = 2 * y * w + 2 * x;
      out[y * hw + x] = bar[i]! + bar[i + 1]! + bar[i + w]! + bar[i + w + 1]! > 1 ? 1 : 0;
    }
  }
  return out;
}

interface Sources {
  /** Middles of patches without a barred pixel. */
  list: Int32Array;
  is: Uint8Array;
}

function sourcesOf({ w, h }: Level, bar: Uint8Array, r: number): Sources {
  const sums = new Int32Array((w + 1) * (h + 1));
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++)
      sums[(y + 1) * (w + 1) + x + 1] =
        (bar[y * w + x] ? 1 : 0) + sums[y * (w + 1) + x + 1]! + sums[(y + 1) * (w + 1) + x]! - sums[y * (w + 1) + x]!;
  }
  const is = new Uint8Array(w * h);
  const list: number[] = [];
  for (let y = r; y < h - r; y++) {
    for (let x = r; x < w - r; x++) {
      const [a, b, c, d] = [
        (y - r) * (w + 1) + x - r,
        (y - r) * (w + 1) + x + r + 1,
        (y + r + 1) * (w + 1) + x - r,
        (y + r + 1) * (w + 1) + x + r + 1,
      ];
      if (sums[d]! - sums[b]! - sums[c]! + sums[a]! > 0) continue;
      is[y * w + x] = 1;
      list.push(y * w + x);
    }
  }
  return { list: Int32Array.from(list), is };
}

/** The nearest patch of each patch that touches the hole, and the hole as those patches make it. */
class Matcher {
  /** For each pixel the middle of the patch it is like; −1 where none is asked for. */
  readonly field: Int32Array;
  private readonly cost: Float32Array;
  /** Middles of patches that touch the hole, in rows. */
  private readonly targets: Int32Array;
  private readonly open: Int32Array;
  /** The three planes pixel by pixel, and what each weighs. */
  private readonly packed: Float32Array;
  private readonly weight: Float32Array;

  constructor(
    private readonly level: Level,
    private readonly sources: Sources,
    private readonly r: number,
    private readonly reach: number,
    private readonly near: number,
    private readonly next: () => number,
  ) {
    const { w, h, hole } = level;
    this.packed = new Float32Array(3 * w * h);
    this.weight = Float32Array.from(hole, (v) => (v ? 1 : KNOWN));
    this.pack();
    this.field = new Int32Array(w * h).fill(-1);
    this.cost = new Float32Array(w * h).fill(Infinity);
    const touched = new Uint8Array(w * h);
    const open: number[] = [];
    for (let i = 0; i < w * h; i++) {
      if (!hole[i]) continue;
      open.push(i);
      const [x, y] = [i % w, (i / w) | 0];
      for (let v = Math.max(0, y - r); v <= Math.min(h - 1, y + r); v++)
        touched.fill(1, v * w + Math.max(0, x - r), v * w + Math.min(w - 1, x + r) + 1);
    }
    this.open = Int32Array.from(open);
    const targets: number[] = [];
    touched.forEach((t, i) => t && targets.push(i));
    this.targets = Int32Array.from(targets);
  }

  private pack(): void {
    const { w, h, planes } = this.level;
    for (let c = 0; c < 3; c++) {
      const plane = planes[c] ?? planes[0]!;
      for (let i = 0; i < w * h; i++) this.packed[3 * i + c] = plane[i]!;
    }
  }

  private anySource(from: number): number {
    const { w, h } = this.level;
    const { list, is } = this.sources;
    if (Number.isFinite(this.reach)) {
      const [x, y] = [from % w, (from / w) | 0];
      for (let k = 0; k < 12; k++) {
        const u = Math.round(x + (2 * this.next() - 1) * this.reach);
        const v = Math.round(y + (2 * this.next() - 1) * this.reach);
        if (u >= 0 && v >= 0 && u < w && v < h && is[v * w + u]) return v * w + u;
      }
    }
    return list[Math.min(list.length - 1, Math.floor(this.next() * list.length))]!;
  }

  /** Nothing is known of it yet: the hole begins as what lies around it, spread inward in rings. */
  begin(): void {
    const { w, h, planes } = this.level;
    for (const plane of planes) {
      for (const i of this.open) plane[i] = NaN;
      fillMissing(plane.slice(), rect(0, 0, w, h), plane);
    }
    this.pack();
    for (const i of this.targets) this.put(i, this.anySource(i));
  }

  /** What the coarser level found, at twice the size; the hole is laid together from it at once. */
  takeUp(coarse: Int32Array, cw: number): void {
    const { w, h } = this.level;
    const { is } = this.sources;
    for (const i of this.targets) {
      const [x, y] = [i % w, (i / w) | 0];
      const j = Math.min((coarse.length / cw) | 0, y >> 1) * cw + Math.min(cw - 1, x >> 1);
      const from = coarse[j] ?? -1;
      let to = -1;
      if (from >= 0) {
        const [u, v] = [2 * (from % cw) + (x & 1), 2 * ((from / cw) | 0) + (y & 1)];
        if (u < w && v < h && is[v * w + u]) to = v * w + u;
      }
      this.field[i] = to >= 0 ? to : this.anySource(i);
    }
    this.cost.fill(0);
    this.lay(false);
    for (const i of this.targets) this.cost[i] = this.distance(i, this.field[i]!, Infinity);
  }

  private put(i: number, from: number): void {
    this.field[i] = from;
    this.cost[i] = this.distance(i, from, Infinity);
  }

  /** Mean squared difference of two patches; Infinity where it is more than `most`. */
  private distance(to: number, from: number, most: number): number {
    const { w, h } = this.level;
    const { r, packed, weight } = this;
    const y = (to / w) | 0;
    const x = to - y * w;
    const [u0, u1] = [Math.max(-r, -x), Math.min(r, w - 1 - x)];
    const [v0, v1] = [Math.max(-r, -y), Math.min(r, h - 1 - y)];
    // No patch weighs more than all its pixels known: beyond this it cannot come out better.
    const all = most * KNOWN * (u1 - u0 + 1) * (v1 - v0 + 1);
    let sum = 0;
    let heavy = 0;
    for (let v = v0; v <= v1; v++) {
      const row = to + v * w;
      for (let i = row + u0, end = row + u1, a = 3 * i, b = 3 * (from + v * w + u0); i <= end; i++, a += 3, b += 3) {
        const k = weight[i]!;
        const p = packed[a]! - packed[b]!;
        const q = packed[a + 1]! - packed[b + 1]!;
        const s = packed[a + 2]! - packed[b + 2]!;
        sum += k * (p * p + q * q + s * s);
        heavy += k;
      }
      if (sum > all) return Infinity;
    }
    return sum / heavy;
  }

  /** One pass of PatchMatch, in rows or against them: what neighbours found, then a search in ever smaller circles. */
  improve(backward: boolean): void {
    const { w, h } = this.level;
    const { is } = this.sources;
    const step = backward ? 1 : -1;
    const t = this.targets;
    const widest = Math.min(this.near, Math.max(w, h));
    for (let n = 0; n < t.length; n++) {
      const i = t[backward ? t.length - 1 - n : n]!;
      const [x, y] = [i % w, (i / w) | 0];
      let best = this.field[i]!;
      let least = this.distance(i, best, Infinity);
      const consider = (from: number): void => {
        if (from === best || from < 0 || from >= is.length || !is[from]) return;
        if (this.reach !== Infinity && Math.max(Math.abs((from % w) - x), Math.abs(((from / w) | 0) - y)) > this.reach) return;
        const d = this.distance(i, from, least);
        if (d < least) [least, best] = [d, from];
      };
      if (x + step >= 0 && x + step < w && this.field[i + step]! >= 0) consider(this.field[i + step]! - step);
      if (y + step >= 0 && y + step < h && this.field[i + step * w]! >= 0) consider(this.field[i + step * w]! - step * w);
      for (let s = widest; s >= 1; s /= 2) {
        const u = Math.round((best % w) + (2 * this.next() - 1) * s);
        const v = Math.round(((best / w) | 0) + (2 * this.next() - 1) * s);
        if (u >= 0 && v >= 0 && u < w && v < h) consider(v * w + u);
      }
      this.field[i] = best;
      this.cost[i] = least;
    }
  }

  /** The hole as the patches make it: each pixel the mean of what they say, those that fit best by far the most. */
  lay(last: boolean): void {
    const { w, h, planes } = this.level;
    const r = this.r;
    const costs = Float32Array.from(this.targets, (i) => this.cost[i]!).sort();
    const typical = Math.max(1e-7, costs[Math.floor(0.75 * costs.length)] ?? 0);
    const sigma = last ? typical / 4 : typical;
    const say = new Float32Array(w * h);
    for (const i of this.targets) say[i] = Math.exp(-this.cost[i]! / (2 * sigma)) + 1e-12;
    const side = 2 * r + 1;
    const near = Float32Array.from({ length: side * side }, (_, i) => {
      const [u, v] = [(i % side) - r, Math.floor(i / side) - r];
      return last ? Math.exp(-(u * u + v * v) / 2) : 1;
    });
    const { field, packed } = this;
    const made = planes.map(() => new Float32Array(this.open.length));
    this.open.forEach((i, n) => {
      const [x, y] = [i % w, (i / w) | 0];
      let [weight, a, b, c] = [0, 0, 0, 0];
      for (let v = Math.max(-r, -y); v <= Math.min(r, h - 1 - y); v++) {
        for (let u = Math.max(-r, -x); u <= Math.min(r, w - 1 - x); u++) {
          const target = i + v * w + u;
          const from = field[target]!;
          if (from < 0) continue;
          const k = near[(v + r) * side + u + r]! * say[target]!;
          const at = 3 * (from - v * w - u);
          weight += k;
          a += k * packed[at]!;
          b += k * packed[at + 1]!;
          c += k * packed[at + 2]!;
        }
      }
      [a, b, c].forEach((sum, k) => made[k] && (made[k][n] = sum / weight));
    });
    planes.forEach((p, c) => this.open.forEach((i, n) => (p[i] = made[c]![n]!)));
    this.pack();
  }
}
