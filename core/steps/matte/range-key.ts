import { LRUCache } from 'lru-cache';
import { ColourModel, opponent } from '../../keying/colour-model';
import type { Point } from '../../keying/colour-model';
import type { ColourSample } from '../../keying/samples';
import { choice, number, samples } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

const PARTS = 3;
/** Entries along each axis of the table, and the stops that it covers. */
const SIZE = 33;
const LOW = -9;
const HIGH = 4;
/** Logarithm of the density that stands for "anything else" where only one kind was sampled. */
const ANYTHING = -9;
/** Log likelihood ratios are held within this. */
const MOST = 40;

function pointsOf(list: readonly ColourSample[], of: ColourSample['of']): Point[] {
  const points: Point[] = [];
  for (const s of list) {
    if (s.of === of)
      for (let i = 0; i < s.colours.length; i += 3) points.push(opponent(s.colours[i]!, s.colours[i + 1]!, s.colours[i + 2]!));
  }
  return points;
}

/** By the samples: how much likelier each colour is subject than screen, as a logarithm, over a grid in stops. */
const tables = new LRUCache<string, Float32Array>({ max: 8 });

function tableOf(list: readonly ColourSample[]): Float32Array {
  // By contents: what comes from another worker is another list each time.
  const text = JSON.stringify(list);
  const known = tables.get(text);
  if (known) return known;
  const [screen, subject] = [pointsOf(list, 'screen'), pointsOf(list, 'subject')];
  const models = [screen, subject].map((points) => (points.length ? ColourModel.fit(points, PARTS) : null));
  const table = new Float32Array(SIZE ** 3);
  const light = Float64Array.from({ length: SIZE }, (_, i) => 2 ** (LOW + ((HIGH - LOW) * i) / (SIZE - 1)));
  for (let b = 0, i = 0; b < SIZE; b++) {
    for (let g = 0; g < SIZE; g++) {
      for (let r = 0; r < SIZE; r++, i++) {
        const p = opponent(light[r]!, light[g]!, light[b]!);
        const [empty, solid] = models.map((m) => (m ? m.log(p) : ANYTHING)) as [number, number];
        table[i] = Math.min(MOST, Math.max(-MOST, solid - empty));
      }
    }
  }
  tables.set(text, table);
  return table;
}

const position = (v: number): number => {
  const t = ((Math.log2(Math.max(v, 1e-9)) - LOW) / (HIGH - LOW)) * (SIZE - 1);
  return t < 0 ? 0 : t > SIZE - 1.001 ? SIZE - 1.001 : t;
};

export const rangeKey = defineStep({
  type: 'rangeKey',
  title: 'Range key',
  family: 'Matte',
  summary: 'A hard key from samples: drag over screen and over subject, again and again, on any frames.',
  params: {
    samples: samples('Samples', { group: 'Samples', help: 'Boxes dragged over the picture, of the screen or of the subject.' }),
    threshold: number('Threshold', 0, [-10, 10], {
      min: -40,
      max: 40,
      group: 'Matte',
      help: 'How much likelier subject than screen a colour must be, as a logarithm: higher keeps less.',
    }),
    softness: number('Softness', 2, [0, 20], { min: 0, max: 40, group: 'Matte' }),
    output: choice(
      'Colour out',
      'matte',
      [
        { value: 'matte', title: 'Plate unchanged' },
        { value: 'multiply', title: 'Multiplied by matte' },
      ],
      { group: 'Colour' },
    ),
  },
  feeds: [],
  neutral: (p) => p.samples.length === 0,
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'A'])],
  writes: (p, channels) => channels.filter((c) => c === 'A' || (p.output === 'multiply' && (COLOUR as readonly string[]).includes(c))),
  locality: 'pixel',
  needs: (_, { region }) => [{ input: 'main', region, channels: [...COLOUR, 'A'] }],
  render(ctx, p, out) {
    const n = pixelsOf(out);
    const main = ctx.tile('main')!;
    const [r, g, b] = COLOUR.map((c) => main.planes[c]!) as [Float32Array, Float32Array, Float32Array];
    const before = main.planes.A!;
    const table = tableOf(p.samples);
    const a = out.planes.A ?? ctx.scratch(n);
    const [gain, base] = [1 / Math.max(1e-3, 2 * p.softness), p.threshold - p.softness];
    for (let i = 0; i < n; i++) {
      const [x, y, z] = [position(r[i]!), position(g[i]!), position(b[i]!)];
      const [x0, y0, z0] = [x | 0, y | 0, z | 0];
      const [u, v, w] = [x - x0, y - y0, z - z0];
      const at = (z0 * SIZE + y0) * SIZE + x0;
      const along = (k: number): number => table[k]! + u * (table[k + 1]! - table[k]!);
      const plane = (k: number): number => along(k) + v * (along(k + SIZE) - along(k));
      const ratio = plane(at) + w * (plane(at + SIZE * SIZE) - plane(at));
      const t = (ratio - base) * gain;
      a[i] = (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t)) * before[i]!;
    }
    if (p.output === 'multiply') {
      for (const c of COLOUR) {
        const to = out.planes[c];
        if (to) ctx.kernels.fn.multiply(main.planes[c]!.byteOffset, a.byteOffset, to.byteOffset, n);
      }
    }
  },
});
