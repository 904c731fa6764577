/** CIE L*a*b* (D65, 2°). */
export type Lab = readonly [number, number, number];

const WHITE = [0.95047, 1, 1.08883] as const;
const EPSILON = (6 / 29) ** 3;

/** From scene-linear Rec.709 with 1 as white; negative light counts as none. */
export function labOf(r: number, g: number, b: number): Lab {
  const [x, y, z] = [
    0.4123908 * r + 0.3575843 * g + 0.1804808 * b,
    0.212639 * r + 0.7151687 * g + 0.0721923 * b,
    0.0193308 * r + 0.1191948 * g + 0.9505322 * b,
  ].map((v, i) => {
    const t = Math.max(0, v) / WHITE[i]!;
    return t > EPSILON ? Math.cbrt(t) : (t * (29 / 6) ** 2) / 3 + 4 / 29;
  }) as [number, number, number];
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

const RAD = Math.PI / 180;
const hue = (b: number, a: number): number => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / RAD + 360) % 360);

/** The CIEDE2000 colour difference (Sharma, Wu and Dalal 2005). */
export function deltaE2000([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number {
  const mean = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const g = 0.5 * (1 - Math.sqrt(mean ** 7 / (mean ** 7 + 25 ** 7)));
  const [p1, p2] = [(1 + g) * a1, (1 + g) * a2];
  const [c1, c2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const [h1, h2] = [hue(b1, p1), hue(b2, p2)];
  const apart = Math.abs(h1 - h2);
  const grey = c1 * c2 === 0;
  const turn = grey ? 0 : apart <= 180 ? h2 - h1 : h2 <= h1 ? h2 - h1 + 360 : h2 - h1 - 360;
  const dl = l2 - l1;
  const dc = c2 - c1;
  const dh = 2 * Math.sqrt(c1 * c2) * Math.sin((turn / 2) * RAD);
  const l = (l1 + l2) / 2;
  const c = (c1 + c2) / 2;
  const h = grey ? h1 + h2 : apart <= 180 ? (h1 + h2) / 2 : h1 + h2 < 360 ? (h1 + h2 + 360) / 2 : (h1 + h2 - 360) / 2;
  const t =
    1 -
    0.17 * Math.cos((h - 30) * RAD) +
    0.24 * Math.cos(2 * h * RAD) +
    0.32 * Math.cos((3 * h + 6) * RAD) -
    0.2 * Math.cos((4 * h - 63) * RAD);
  const sl = 1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2);
  const sc = 1 + 0.045 * c;
  const sh = 1 + 0.015 * c * t;
  const rc = 2 * Math.sqrt(c ** 7 / (c ** 7 + 25 ** 7));
  const rt = -Math.sin(60 * Math.exp(-(((h - 275) / 25) ** 2)) * RAD) * rc;
  return Math.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * (dc / sc) * (dh / sh));
}
