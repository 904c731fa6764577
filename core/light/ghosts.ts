/**
 * Ghosts of a lens: light that two of its surfaces have thrown back and forth. Each pair gives an image of the stop, its place and size linear in where the light
 * comes from: ray transfer matrices, as Lee & Eisemann 2013 use them. Rays are a height (mm) and an angle.
 */
interface Surface {
  /** Of curvature, mm; Infinity is flat. Centres of positive ones lie behind. */
  readonly radius: number;
  /** To the next surface, mm. */
  readonly thickness: number;
  /** Index behind it at 588 nm, and its Abbe number; 1 is air. */
  readonly index: number;
  readonly abbe: number;
  /** Wavelength, nm, for which its coating is a quarter of a wave thick. */
  readonly coating: number;
}

const AIR = { index: 1, abbe: Infinity };

/** A lens of our own: four groups about a stop, near 50 mm. */
const SURFACES: readonly Surface[] = [
  { radius: 42, thickness: 5.2, index: 1.67, abbe: 48, coating: 520 },
  { radius: 190, thickness: 0.5, ...AIR, coating: 480 },
  { radius: 23, thickness: 7.4, index: 1.65, abbe: 55, coating: 560 },
  { radius: 16.2, thickness: 9.5, ...AIR, coating: 600 },
  { radius: -18.5, thickness: 2.2, index: 1.68, abbe: 32, coating: 500 },
  { radius: 160, thickness: 6.6, index: 1.7, abbe: 50, coating: 540 },
  { radius: -27, thickness: 0.5, ...AIR, coating: 450 },
  { radius: 120, thickness: 4.6, index: 1.7, abbe: 50, coating: 580 },
  { radius: -62, thickness: 0, ...AIR, coating: 510 },
];
/** The stop lies so far behind the fourth surface, mm, and is so wide. */
const STOP = { after: 3, at: 4.8, radius: 7 };

/** Wavelengths that stand for red, green and blue, nm. */
export const WAVES = [620, 545, 460] as const;

type Ray = readonly [a: number, b: number, c: number, d: number];
const times = (m: Ray, n: Ray): Ray => [
  m[0] * n[0] + m[1] * n[2],
  m[0] * n[1] + m[1] * n[3],
  m[2] * n[0] + m[3] * n[2],
  m[2] * n[1] + m[3] * n[3],
];
const go = (d: number): Ray => [1, d, 0, 1];
const bend = (from: number, to: number, radius: number): Ray => [1, 0, (from - to) / (to * radius), from / to];
const mirror = (radius: number): Ray => [1, 0, 2 / radius, 1];

/** Cauchy's formula through the index at 588 nm and the Abbe number. */
function indexAt({ index, abbe }: Pick<Surface, 'index' | 'abbe'>, nm: number): number {
  if (index === 1) return 1;
  const b = (index - 1) / abbe / (1 / 0.4861 ** 2 - 1 / 0.6563 ** 2);
  return index - b / 0.5876 ** 2 + b / (nm / 1000) ** 2;
}

/** What a surface throws back, straight on: a single layer of index 1.38, a quarter of its wavelength thick. */
function thrownBack(from: number, to: number, coating: number, nm: number): number {
  const film = 1.38;
  const [r1, r2] = [(from - film) / (from + film), (film - to) / (film + to)];
  const phase = (Math.PI * coating) / nm;
  const c = Math.cos(phase);
  return (r1 * r1 + r2 * r2 + 2 * r1 * r2 * c) / (1 + r1 * r1 * r2 * r2 + 2 * r1 * r2 * c);
}

export interface Ghost {
  /** Where its middle lies, beside the source's place from the middle of the picture. */
  readonly place: number;
  /** Of the image of the stop, beside the focal length. */
  readonly radius: number;
  /** Light a pixel area, beside that of the source spread over the picture's focal length squared. */
  readonly strength: number;
}

/** The ghosts for one wavelength, by surfaces of the lens; those of one pair lie at the same index for all wavelengths. */
export function ghostsAt(nm: number): Ghost[] {
  const index = (k: number): number => (k < 0 ? 1 : indexAt(SURFACES[k]!, nm));
  const through = (k: number): Ray => bend(index(k - 1), index(k), SURFACES[k]!.radius);
  const backThrough = (k: number): Ray => bend(index(k), index(k - 1), -SURFACES[k]!.radius);
  const gap = (k: number): Ray => go(SURFACES[k]!.thickness);
  /** From before surface a to before surface b. */
  const path = (a: number, b: number, start: Ray): Ray => {
    let m = start;
    for (let k = a; k < b; k++) m = times(gap(k), times(through(k), m));
    return m;
  };
  const last = SURFACES.length;
  const one: Ray = [1, 0, 0, 1];
  const direct = path(0, last, one);
  const film = -direct[0] / direct[2];
  const focal = times(go(film), direct)[1];
  const toStop = times(go(STOP.at), times(through(STOP.after), path(0, STOP.after, one)));
  const ghosts: Ghost[] = [];
  for (let j = 1; j < last; j++) {
    for (let i = 0; i < j; i++) {
      // To j, back to i, and on to the film.
      let m = times(mirror(SURFACES[j]!.radius), path(0, j, one));
      for (let k = j - 1; k > i; k--) m = times(backThrough(k), times(gap(k), m));
      m = times(mirror(-SURFACES[i]!.radius), times(gap(i), m));
      m = times(gap(i), m);
      m = times(go(film), path(i + 1, last, m));
      const size = m[0] / toStop[0];
      const place = (m[1] - (m[0] * toStop[1]) / toStop[0]) / focal;
      const radius = Math.abs(size) * STOP.radius;
      const back =
        thrownBack(index(j - 1), index(j), SURFACES[j]!.coating, nm) * thrownBack(index(i), index(i - 1), SURFACES[i]!.coating, nm);
      // What enters through the stop's own image in front is spread over the ghost.
      const entering = Math.PI * (STOP.radius / toStop[0]) ** 2;
      ghosts.push({ place, radius: radius / Math.abs(focal), strength: (back * entering) / Math.max(0.5, Math.PI * radius * radius) });
    }
  }
  return ghosts;
}
