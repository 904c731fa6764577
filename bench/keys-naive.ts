import type { Kernels, Plane } from '@/kernels';
import { piecesOf, runsOf } from '@/core/filters/components';
import { guidedFilter, padded } from '@/core/filters/guided';
import { growGrey, morphologyPad } from '@/core/filters/morphology';
import { pushPull } from '@/core/filters/push-pull';
import { rect } from '@/core/geometry/rect';
import { solve } from '@/core/geometry/solve';
import { ms, table, timeOf, times } from './timing';

const [W, H] = [960, 540];
const N = W * H;

/** A soft blob with noise around it, as a first key makes it. */
const matte = Float32Array.from({ length: N }, (_, i) => {
  const d = Math.hypot((i % W) - 480, Math.floor(i / W) - 300);
  const speck = Math.sin(i * 12.9898) * 43758.5453;
  return Math.min(1, Math.max(0, (200 - d) / 12 + (speck - Math.floor(speck) > 0.995 ? 0.4 : 0)));
});
const colour = [0.3, 0.5, 0.2].map((c, k) =>
  Float32Array.from({ length: N }, (_, i) => c * (0.5 + 0.5 * matte[i]!) + 0.02 * Math.sin(i * (k + 1.3))),
) as [Float32Array, Float32Array, Float32Array];

/** The formula as it stands in a textbook: the maximum over a disc, pixel by pixel. */
function naiveGrow(from: Float32Array, to: Float32Array, r: number): void {
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      let most = -Infinity;
      for (let v = -r; v <= r; v++) {
        for (let u = -r; u <= r; u++) {
          if (u * u + v * v > r * r || x + u < 0 || y + v < 0 || x + u >= W || y + v >= H) continue;
          most = Math.max(most, from[(y + v) * W + x + u]!);
        }
      }
      to[y * W + x] = most;
    }
  }
}

function naivePieces(set: Uint8Array): number {
  const seen = new Uint8Array(N);
  let count = 0;
  for (let i = 0; i < N; i++) {
    if (!set[i] || seen[i]) continue;
    count++;
    const open = [i];
    seen[i] = 1;
    while (open.length) {
      const at = open.pop()!;
      for (let v = -1; v <= 1; v++) {
        for (let u = -1; u <= 1; u++) {
          const [x, y] = [(at % W) + u, Math.floor(at / W) + v];
          if (x < 0 || y < 0 || x >= W || y >= H || !set[y * W + x] || seen[y * W + x]) continue;
          seen[y * W + x] = 1;
          open.push(y * W + x);
        }
      }
    }
  }
  return count;
}

/** Holes filled by the mean of what is known around, ring by ring. */
function naiveFill(plane: Float32Array, known: Uint8Array): void {
  for (let open = true; open;) {
    open = false;
    const next = Uint8Array.from(known);
    for (let y = 0; y < H; y++) {
      for (let x = 0; x < W; x++) {
        if (known[y * W + x]) continue;
        let [sum, n] = [0, 0];
        for (let v = -1; v <= 1; v++) {
          for (let u = -1; u <= 1; u++) {
            const [a, b] = [x + u, y + v];
            if (a < 0 || b < 0 || a >= W || b >= H || !known[b * W + a]) continue;
            sum += plane[b * W + a]!;
            n++;
          }
        }
        if (n) [plane[y * W + x], next[y * W + x]] = [sum / n, 1];
        else open = true;
      }
    }
    known.set(next);
  }
}

/** He, Sun and Tang's formulas with every window summed by itself. */
function naiveGuided(r: number, epsilon: number): Float32Array {
  const [a, b] = [Array.from({ length: N }, () => [0, 0, 0]), new Float32Array(N)];
  const window = (x: number, y: number, each: (i: number) => void): number => {
    let n = 0;
    for (let v = Math.max(0, y - r); v <= Math.min(H - 1, y + r); v++) {
      for (let u = Math.max(0, x - r); u <= Math.min(W - 1, x + r); u++, n++) each(v * W + u);
    }
    return n;
  };
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      const mean = [0, 0, 0];
      const both = new Float64Array(9);
      const cross = [0, 0, 0];
      let p = 0;
      const n = window(x, y, (i) => {
        p += matte[i]!;
        for (let c = 0; c < 3; c++) {
          mean[c]! += colour[c]![i]!;
          cross[c]! += colour[c]![i]! * matte[i]!;
          for (let d = 0; d < 3; d++) both[3 * c + d]! += colour[c]![i]! * colour[d]![i]!;
        }
      });
      const rows = [0, 1, 2].map((c) =>
        Float64Array.from([0, 1, 2], (d) => both[3 * c + d]! / n - (mean[c]! * mean[d]!) / (n * n) + (c === d ? epsilon : 0)),
      );
      const s = solve(
        rows,
        Float64Array.from([0, 1, 2], (c) => cross[c]! / n - (mean[c]! * p) / (n * n)),
      );
      a[y * W + x] = [...s];
      b[y * W + x] = p / n - s.reduce((t, v, c) => t + (v * mean[c]!) / n, 0);
    }
  }
  const out = new Float32Array(N);
  for (let y = 0; y < H; y++) {
    for (let x = 0; x < W; x++) {
      const sum = [0, 0, 0, 0];
      const n = window(x, y, (i) => {
        for (let c = 0; c < 3; c++) sum[c]! += a[i]![c]!;
        sum[3]! += b[i]!;
      });
      out[y * W + x] = sum.reduce((t, v, c) => t + (v / n) * (c < 3 ? colour[c]![y * W + x]! : 1), 0);
    }
  }
  return out;
}

/** A plane with rows to spare below, as the guided filter wants them; W is a whole number of its grains. */
function padRows(kernels: Kernels, from: Float32Array): Plane {
  const plane = kernels.zeros(W * padded(H));
  plane.set(from);
  return plane;
}

/** What keys are made of, beside naive TypeScript of the same, at 960×540 on one core. */
export function naiveKeyRows(kernels: Kernels): string {
  const frame = rect(0, 0, W, H);
  const pad = morphologyPad(8);
  const wide = rect(-pad, -pad, W + pad, H + pad);
  const source = kernels.take((W + 2 * pad) * (H + 2 * pad));
  for (let y = 0; y < H + 2 * pad; y++) {
    for (let x = 0; x < W + 2 * pad; x++) {
      source[y * (W + 2 * pad) + x] = matte[Math.min(H - 1, Math.max(0, y - pad)) * W + Math.min(W - 1, Math.max(0, x - pad))]!;
    }
  }
  const set = Uint8Array.from(matte, (v) => +(v > 0.05));
  const known = Uint8Array.from(matte, (v) => +(v < 0.01));
  const to = new Float32Array(N);
  const [r, g, b, given] = [...colour, matte].map((p) => padRows(kernels, p)) as [Plane, Plane, Plane, Plane];
  const planes = [r, g, b] as const;
  const rows: [string, () => void, () => void][] = [
    ['grown by 8 px, a plane', () => kernels.give(growGrey(kernels, source, wide, frame, 8, frame)), () => naiveGrow(matte, to, 8)],
    ['pieces, counted', () => void piecesOf(runsOf(set, W, H), W), () => void naivePieces(set)],
    [
      'a hole of 400 px across filled from around, a plane',
      () => {
        const weight = kernels.copy(known);
        const filled = kernels.copy(colour[0]);
        kernels.fn.multiply(filled.byteOffset, weight.byteOffset, filled.byteOffset, W * H);
        pushPull(kernels, [filled], weight, W, H);
        [weight, filled].forEach((p) => kernels.give(p));
      },
      () => naiveFill(Float32Array.from(colour[0]), Uint8Array.from(known)),
    ],
    [
      'guided filter, radius 3, colour guide',
      () => kernels.give(guidedFilter(kernels, planes, given, W, H, 3, 4e-4)),
      () => void naiveGuided(3, 4e-4),
    ],
  ];
  const made = rows.map(([name, ours, naive]) => {
    const [a, b] = [timeOf(ours), timeOf(naive, 100, 1)];
    return [name, `${ms(a)} ms`, `${ms(b)} ms`, times(b / a)];
  });
  [source, ...planes, given].forEach((p) => kernels.give(p));
  return [
    'Beside naive TypeScript, 960×540, one core (the per-pixel parts of keys are among the kernels above):',
    table(['', 'ours', 'naive', 'quicker by'], made),
  ].join('\n\n');
}
