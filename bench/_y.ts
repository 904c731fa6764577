import { denseFlow, giveLevels, levelsOf } from '@/core/flow/dense';
import { nodeKernels } from '@/engine/node/host';
import { flowClips } from './flow-accuracy';
const k = await nodeKernels();
const clips = await flowClips(process.cwd());
const c = clips[3]!;
const t: Record<string, number> = {};
const fn = k.fn as unknown as Record<string, (...a: number[]) => number>;
const wrapped = Object.fromEntries(
  Object.entries(fn).map(([n, f]) => [
    n,
    typeof f === 'function'
      ? (...a: number[]) => {
          const s = performance.now();
          const r = f(...a);
          t[n] = (t[n] ?? 0) + performance.now() - s;
          return r;
        }
      : f,
  ]),
);
Object.defineProperty(k, 'fn', { value: wrapped });
for (const finest of [1, 0])
  for (let i = 0; i < 3; i++) {
    for (const n in t) delete t[n];
    const s = performance.now();
    const [a, b] = [
      levelsOf(
        k,
        c.from.data.map((x) => 255 * x),
        960,
        540,
      ),
      levelsOf(
        k,
        c.to.data.map((x) => 255 * x),
        960,
        540,
      ),
    ];
    const f = denseFlow(k, a, b, { finest });
    console.log(
      finest,
      (performance.now() - s).toFixed(0),
      Object.entries(t)
        .map(([n, v]) => `${n} ${v.toFixed(0)}`)
        .join(', '),
    );
    [f.u, f.v].forEach((p) => k.give(p));
    [a, b].forEach((l) => giveLevels(k, l));
  }
