/** What one picture's light is multiplied by, and what is added, a channel, so that it looks like another's. */
export interface LightFit {
  readonly gain: readonly [number, number, number];
  readonly lift: readonly [number, number, number];
  /** Pixels that spoke for it in the end. */
  readonly pixels: number;
}

export const NO_FIT: LightFit = { gain: [1, 1, 1], lift: [0, 0, 0], pixels: 0 };

/** Pixels that are needed for a gain, and for a lift besides. */
const FEW = 24;
/** Residuals beyond so many times their median are no matter of light: something else is there. */
const OUTLIER = 3.5;
const ROUNDS = 4;

/**
 * The gain a channel (and the lift, if asked) that takes `from` to `to` where `use` is not 0: least squares, with what does not fit left out
 * (iterated at 3.5 times the median deviation). One pixel in so many is looked at, so that large rings cost no more than small ones.
 */
export function fitLight(
  from: readonly Float32Array[],
  to: readonly Float32Array[],
  use: ArrayLike<number>,
  { lift = false, most = 40_000 }: { lift?: boolean; most?: number } = {},
): LightFit {
  let count = 0;
  for (let i = 0; i < use.length; i++) if (use[i]) count++;
  const stride = Math.max(1, Math.floor(count / most));
  const at: number[] = [];
  for (let i = 0, k = 0; i < use.length; i++) if (use[i] && k++ % stride === 0) at.push(i);
  if (at.length < FEW) return NO_FIT;
  const gain: number[] = [];
  const lifts: number[] = [];
  let pixels = at.length;
  for (let c = 0; c < 3; c++) {
    const [a, b] = [from[c]!, to[c]!];
    let kept = at;
    let [g, o] = [1, 0];
    for (let round = 0; round < ROUNDS; round++) {
      [g, o] = line(a, b, kept, lift);
      const off = Float64Array.from(at, (i) => Math.abs(b[i]! - g * a[i]! - o));
      const middle = Float64Array.from(off).sort()[off.length >> 1]!;
      const next = at.filter((_, k) => off[k]! <= OUTLIER * middle + 1e-6);
      if (next.length < FEW || next.length === kept.length) break;
      kept = next;
    }
    gain.push(g);
    lifts.push(o);
    pixels = Math.min(pixels, kept.length);
  }
  return { gain: gain as unknown as LightFit['gain'], lift: lifts as unknown as LightFit['lift'], pixels };
}

/** b ≈ g·a + o. A gain alone is the ratio of the sums: noise in `a` does not pull it down as least squares would. */
function line(a: Float32Array, b: Float32Array, at: readonly number[], lift: boolean): [number, number] {
  let [sa, sb, saa, sab] = [0, 0, 0, 0];
  for (const i of at) {
    sa += a[i]!;
    sb += b[i]!;
    saa += a[i]! * a[i]!;
    sab += a[i]! * b[i]!;
  }
  const n = at.length;
  const ratio = sa > 1e-9 ? sb / sa : 1;
  if (!lift) return [ratio, 0];
  const spread = saa - (sa * sa) / n;
  // Too even to tell a gain from a lift.
  if (spread < 1e-4 * saa) return [ratio, 0];
  const g = (sab - (sa * sb) / n) / spread;
  return [g, (sb - g * sa) / n];
}
