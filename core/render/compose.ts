/** The same places as in kernels/assembly/raster.ts. */
export const SAMPLES = 16;
export const SAMPLE_X = Float64Array.from({ length: SAMPLES }, (_, i) => (i + 0.5) / SAMPLES - 0.5);
const turnedOver = (i: number): number => ((i & 1) << 3) | ((i & 2) << 1) | ((i & 4) >> 1) | ((i & 8) >> 3);
export const SAMPLE_Y = Float64Array.from({ length: SAMPLES }, (_, i) => (turnedOver(i) + 0.5) / SAMPLES - 0.5);

const ALL = 0xffff;

/** Bits that are set, of sixteen. */
export const COUNTS = Uint8Array.from({ length: 65536 }, (_, i) => {
  let n = 0;
  for (let k = i; k; k &= k - 1) n++;
  return n;
});

/** What one pixel shows, before it is laid over each other. */
export class PixelItems {
  count = 0;
  r = new Float64Array(64);
  g = new Float64Array(64);
  b = new Float64Array(64);
  a = new Float64Array(64);
  /** Nearness at the pixel's middle, and how it changes by a pixel to the right and down. */
  near = new Float64Array(64);
  slopeX = new Float64Array(64);
  slopeY = new Float64Array(64);
  mask = new Int32Array(64);
  holds = new Uint8Array(64);
  /** What they are, for the caller. */
  tag = new Int32Array(64);
  /** How much of the pixel each came to show. */
  readonly weight = new Float64Array(4096);
  private readonly order = new Int32Array(4096);
  private readonly depth = new Float64Array(4096);

  add(
    r: number,
    g: number,
    b: number,
    a: number,
    near: number,
    slopeX: number,
    slopeY: number,
    mask: number,
    holds: boolean,
    tag: number,
  ): void {
    const i = this.count;
    if (i === 4096) return;
    if (i === this.r.length) this.grow();
    this.count++;
    this.r[i] = r;
    this.g[i] = g;
    this.b[i] = b;
    this.a[i] = a;
    this.near[i] = near;
    this.slopeX[i] = slopeX;
    this.slopeY[i] = slopeY;
    this.mask[i] = mask;
    this.holds[i] = holds ? 1 : 0;
    this.tag[i] = tag;
  }

  private grow(): void {
    const size = 2 * this.r.length;
    const wider = <T extends Float64Array | Int32Array | Uint8Array>(from: T): T => {
      const to = new (from.constructor as new (n: number) => T)(size);
      to.set(from);
      return to;
    };
    for (const k of ['r', 'g', 'b', 'a', 'near', 'slopeX', 'slopeY'] as const) this[k] = wider(this[k]);
    this.mask = wider(this.mask);
    this.tag = wider(this.tag);
    this.holds = wider(this.holds);
  }

  /** Thins what comes within a distance of a hold-out behind it, down to nothing where they meet. */
  fade(distance: number): void {
    const { count: n, near, holds, mask } = this;
    for (let j = 0; j < n; j++) {
      if (!holds[j]) continue;
      const there = 1 / near[j]!;
      for (let i = 0; i < n; i++) {
        const before = holds[i] ? Infinity : there - 1 / near[i]!;
        // Just behind it counts as where they meet: some of the pixel's samples may lie before it.
        if (before <= -0.1 * distance || before >= distance) continue;
        const t = Math.max(0, before / distance);
        // As far as the hold-out covers the pixel.
        const covers = (COUNTS[mask[j]!]! / SAMPLES) * Math.min(1, this.a[j]!);
        const k = 1 - covers * (1 - t * t * (3 - 2 * t));
        this.r[i] = this.r[i]! * k;
        this.g[i] = this.g[i]! * k;
        this.b[i] = this.b[i]! * k;
        this.a[i] = this.a[i]! * k;
      }
    }
  }

  /**
   * Lays all over each other by depth into `to`: R, G, B, A. Where surfaces cut each other within the pixel, each of its samples has an order of its own.
   */
  compose(to: Float64Array): void {
    const { count: n, order, near, mask, weight } = this;
    to[0] = to[1] = to[2] = to[3] = 0;
    for (let i = 0; i < n; i++) weight[i] = 0;
    if (n === 0) return;
    if (n === 1) {
      order[0] = 0;
      return this.lay(1, mask[0]!, COUNTS[mask[0]!]! / SAMPLES, to);
    }
    // Nearest first.
    for (let i = 0; i < n; i++) {
      let k = i;
      while (k > 0 && near[order[k - 1]!]! < near[i]!) {
        order[k] = order[k - 1]!;
        k--;
      }
      order[k] = i;
    }
    const cut = this.crosses();
    let left = ALL;
    while (left) {
      const bit = left & -left;
      let group = left;
      if (cut) {
        group = bit;
        this.sort(31 - Math.clz32(bit));
      } else for (let i = 0; i < n; i++) group &= mask[i]! & bit ? mask[i]! : ~mask[i]!;
      left &= ~group;
      this.lay(n, bit, COUNTS[group]! / SAMPLES, to);
    }
  }

  /** Whether two that share samples change places within the pixel. */
  private crosses(): boolean {
    const { count: n, order, near, slopeX, slopeY, mask } = this;
    for (let k = 0; k + 1 < n; k++) {
      const i = order[k]!;
      for (let l = k + 1; l < n; l++) {
        const j = order[l]!;
        if ((mask[i]! & mask[j]!) === 0) continue;
        const reach = 0.5 * (Math.abs(slopeX[i]! - slopeX[j]!) + Math.abs(slopeY[i]! - slopeY[j]!));
        if (near[i]! - near[j]! < reach) return true;
      }
    }
    return false;
  }

  private sort(sample: number): void {
    const { count: n, order, near, slopeX, slopeY, depth } = this;
    const [x, y] = [SAMPLE_X[sample]!, SAMPLE_Y[sample]!];
    for (let i = 0; i < n; i++) depth[i] = near[i]! + x * slopeX[i]! + y * slopeY[i]!;
    for (let k = 1; k < n; k++) {
      const i = order[k]!;
      let l = k;
      while (l > 0 && depth[order[l - 1]!]! < depth[i]!) {
        order[l] = order[l - 1]!;
        l--;
      }
      order[l] = i;
    }
  }

  /** Those that cover the samples of `bits`, front to back, for a share of the pixel. */
  private lay(n: number, bits: number, share: number, to: Float64Array): void {
    const { order, mask, a, holds, weight } = this;
    let left = share;
    for (let k = 0; k < n && left > 0; k++) {
      const i = order[k]!;
      if (!(mask[i]! & bits)) continue;
      if (!holds[i]) {
        to[0] = to[0]! + left * this.r[i]!;
        to[1] = to[1]! + left * this.g[i]!;
        to[2] = to[2]! + left * this.b[i]!;
        to[3] = to[3]! + left * a[i]!;
        weight[i] = weight[i]! + left;
      }
      left *= 1 - Math.min(1, a[i]!);
    }
  }
}
