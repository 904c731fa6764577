import { closedFormMatting } from './closed-form';

const [W, H] = [13, 11];
const EPSILON = 1e-4;

/** A picture of a soft diagonal edge between two uneven colours, with a little noise. */
function problem() {
  const noise = (i: number): number => 0.01 * Math.sin(i * 12.9898);
  const truth = Float32Array.from({ length: W * H }, (_, i) => Math.min(1, Math.max(0, ((i % W) - 4 + 0.3 * Math.floor(i / W)) / 4)));
  const plane = (front: number, back: number) =>
    truth.map((a, i) => a * (front + 0.02 * (i % W)) + (1 - a) * (back + 0.01 * Math.floor(i / W)) + noise(3 * i + front));
  const colour = [plane(0.6, 0.05), plane(0.5, 0.3), plane(0.4, 0.08)] as const;
  const unknown = Uint8Array.from(truth, (a) => +(a > 0 && a < 1));
  const alpha = truth.map((a) => (a >= 1 ? 1 : 0));
  return { truth, width: W, height: H, colour: colour as unknown as [Float32Array, Float32Array, Float32Array], unknown, alpha };
}

/** The matrix as the paper defines it, solved by elimination. */
function direct(p: ReturnType<typeof problem>): Float64Array {
  const n = W * H;
  const l = Array.from({ length: n }, () => new Float64Array(n));
  for (let y = 1; y < H - 1; y++) {
    for (let x = 1; x < W - 1; x++) {
      const members = [-1, 0, 1].flatMap((v) => [-1, 0, 1].map((u) => (y + v) * W + x + u));
      const mean = p.colour.map((c) => members.reduce((s, i) => s + c[i]!, 0) / 9);
      const cov = [0, 1, 2].map((a) =>
        [0, 1, 2].map(
          (b) =>
            members.reduce((s, i) => s + p.colour[a]![i]! * p.colour[b]![i]!, 0) / 9 - mean[a]! * mean[b]! + (a === b ? EPSILON / 9 : 0),
        ),
      );
      const inv = invert(cov);
      for (const i of members) {
        for (const j of members) {
          const [d, e] = [i, j].map((k) => p.colour.map((c, a) => c[k]! - mean[a]!));
          let q = 0;
          for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) q += d![a]! * inv[a]![b]! * e![b]!;
          l[i]![j]! += +(i === j) - (1 + q) / 9;
        }
      }
    }
  }
  const open = [...p.unknown.keys()].filter((i) => p.unknown[i]);
  const a = open.map((i) => [...open.map((j) => l[i]![j]!), -l[i]!.reduce((s, v, j) => s + (p.unknown[j] ? 0 : v * p.alpha[j]!), 0)]);
  for (let k = 0; k < a.length; k++) {
    a.slice(k + 1).forEach((row) => {
      const f = row[k]! / a[k]![k]!;
      for (let j = k; j < row.length; j++) row[j]! -= f * a[k]![j]!;
    });
  }
  const out = Float64Array.from(p.alpha);
  for (let k = a.length - 1; k >= 0; k--) {
    const row = a[k]!;
    let sum = row[a.length]!;
    for (let j = k + 1; j < a.length; j++) sum -= row[j]! * out[open[j]!]!;
    out[open[k]!] = sum / row[k]!;
  }
  return out;
}

function invert(m: number[][]): number[][] {
  const a = m.map((row, i) => [...row, ...[0, 1, 2].map((j) => +(i === j))]);
  for (let k = 0; k < 3; k++) {
    const pivot = a[k]![k]!;
    a[k] = a[k]!.map((v) => v / pivot);
    for (let i = 0; i < 3; i++) {
      if (i === k) continue;
      const f = a[i]![k]!;
      a[i] = a[i]!.map((v, j) => v - f * a[k]![j]!);
    }
  }
  return a.map((row) => row.slice(3));
}

test('the same as a direct solve of the dense matrix, to 1e-4', () => {
  const p = problem();
  const wanted = direct(p);
  closedFormMatting(p, { epsilon: EPSILON, iterations: 400, tolerance: 1e-9 });
  wanted.forEach((v, i) => expect(Math.abs(p.alpha[i]! - v)).toBeLessThan(1e-4));
});

test('a soft edge between two colours is found again', () => {
  const p = problem();
  closedFormMatting(p, { epsilon: EPSILON, iterations: 200, tolerance: 1e-6 });
  p.truth.forEach((v, i) => expect(Math.abs(p.alpha[i]! - v)).toBeLessThan(0.12));
});

test('what is known is never changed, and nothing unknown is nothing to do', () => {
  const p = problem();
  const before = p.alpha.slice();
  closedFormMatting(p, { epsilon: EPSILON, iterations: 50, tolerance: 1e-4 });
  before.forEach((v, i) => !p.unknown[i] && expect(p.alpha[i]).toBe(v));
  expect(closedFormMatting({ ...p, unknown: new Uint8Array(W * H) }, { epsilon: EPSILON, iterations: 50, tolerance: 1e-4 })).toBe(0);
});
