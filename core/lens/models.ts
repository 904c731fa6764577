/** Where a model puts an ideal position; `to` gets x and y. Normalised: 0 is the lens's centre, 1 the focal length. */
type Distort = (k: ArrayLike<number>, x: number, y: number, to: Float64Array) => void;

interface ModelDefinition {
  title: string;
  help: string;
  /** Its coefficients, in the order that `distort` takes them; all 0 is no distortion. */
  terms: readonly string[];
  distort: Distort;
}

const brown =
  (radial: number): Distort =>
  (k, x, y, to) => {
    const r2 = x * x + y * y;
    let gain = 0;
    for (let i = radial - 1; i >= 0; i--) gain = (gain + k[i]!) * r2;
    to[0] = x * (1 + gain);
    to[1] = y * (1 + gain);
  };

/** Decentring (Brown 1966), p1 along y and p2 along x. */
function decentred(p1: number, p2: number, x: number, y: number, to: Float64Array): void {
  const r2 = x * x + y * y;
  to[0]! += 2 * p1 * x * y + p2 * (r2 + 2 * x * x);
  to[1]! += p1 * (r2 + 2 * y * y) + 2 * p2 * x * y;
}

const three = brown(3);

/** From the simplest on; of those that explain a chart alike the first is taken. */
export const LENS_MODELS = {
  division: {
    title: 'Division',
    help: 'One term, straightened by a division (Fitzgibbon 2001). Good for wide lenses from few lines.',
    terms: ['l1'],
    distort: (k, x, y, to) => {
      const under = 1 - 4 * k[0]! * (x * x + y * y);
      const gain = under < 0 ? NaN : 2 / (1 + Math.sqrt(under));
      to[0] = x * gain;
      to[1] = y * gain;
    },
  },
  radial2: { title: 'Radial, two terms', help: 'k1 and k2 (Brown 1966).', terms: ['k1', 'k2'], distort: brown(2) },
  radial3: { title: 'Radial, three terms', help: 'k1 to k3 (Brown 1966).', terms: ['k1', 'k2', 'k3'], distort: three },
  fisheye: {
    title: 'Fisheye',
    help: 'Four terms of the angle (Kannala & Brandt 2006).',
    terms: ['k1', 'k2', 'k3', 'k4'],
    distort: (k, x, y, to) => {
      const r = Math.hypot(x, y);
      const angle = Math.atan(r);
      const a2 = angle * angle;
      const gain = r < 1e-9 ? 1 : (angle * (1 + a2 * (k[0]! + a2 * (k[1]! + a2 * (k[2]! + a2 * k[3]!))))) / r;
      to[0] = x * gain;
      to[1] = y * gain;
    },
  },
  brown: {
    title: 'Radial and decentring',
    help: 'k1 to k3, p1 and p2 (Brown 1966).',
    terms: ['k1', 'k2', 'k3', 'p1', 'p2'],
    distort: (k, x, y, to) => {
      three(k, x, y, to);
      decentred(k[3]!, k[4]!, x, y, to);
    },
  },
  rational: {
    title: 'Rational',
    help: 'k1 to k3 over k4 to k6, p1 and p2: for very wide lenses.',
    terms: ['k1', 'k2', 'k3', 'k4', 'k5', 'k6', 'p1', 'p2'],
    distort: (k, x, y, to) => {
      const r2 = x * x + y * y;
      const below = 1 + r2 * (k[3]! + r2 * (k[4]! + r2 * k[5]!));
      const gain = below > 0 ? (1 + r2 * (k[0]! + r2 * (k[1]! + r2 * k[2]!))) / below : NaN;
      to[0] = x * gain;
      to[1] = y * gain;
      decentred(k[6]!, k[7]!, x, y, to);
    },
  },
  anamorphic: {
    title: 'Anamorphic',
    help: 'Terms of their own across and down to the 4th order, about an axis turned by `turn` radians.',
    terms: ['turn', 'x20', 'x02', 'x40', 'x22', 'x04', 'y20', 'y02', 'y40', 'y22', 'y04'],
    distort: (k, x, y, to) => {
      const [c, s] = [Math.cos(k[0]!), Math.sin(k[0]!)];
      const [u, v] = [c * x + s * y, c * y - s * x];
      const [a, b] = [u * u, v * v];
      const p = u * (1 + k[1]! * a + k[2]! * b + k[3]! * a * a + k[4]! * a * b + k[5]! * b * b);
      const q = v * (1 + k[6]! * a + k[7]! * b + k[8]! * a * a + k[9]! * a * b + k[10]! * b * b);
      to[0] = c * p - s * q;
      to[1] = s * p + c * q;
    },
  },
} as const satisfies Record<string, ModelDefinition>;

export type LensModel = keyof typeof LENS_MODELS;
export const LENS_MODEL_NAMES = Object.keys(LENS_MODELS) as LensModel[];
export const modelOf = (model: LensModel): ModelDefinition => LENS_MODELS[model];
