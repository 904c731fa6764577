import type { Kernels, Plane } from '@/kernels';
import { compute, prepare } from '@/core/evaluate/compute';
import type { Plan } from '@/core/evaluate/plan';
import { makePlan } from '@/core/evaluate/plan';
import type { Rect } from '@/core/geometry/rect';
import { area, rect } from '@/core/geometry/rect';
import { STEPS } from '@/core/steps';
import type { TestStep } from '@/core/testing/evaluate';
import { flat, testShot } from '@/core/testing/evaluate';
import { ms, table, timeOf, times } from './timing';

const FRAME = rect(0, 0, 1920, 1080);

/** Eight per-pixel steps that a compositor might put one after the other. */
const CHAIN: readonly TestStep[] = [
  { type: 'exposure', params: { stops: 0.3 } },
  { type: 'grade', params: { slope: [1.1, 1, 0.9], offset: [0.01, 0, 0] } },
  { type: 'clamp', params: { low: 0, high: 4 } },
  { type: 'exposure', params: { stops: -0.2 } },
  { type: 'invert', params: {} },
  { type: 'grade', params: { saturation: 0.8 } },
  { type: 'invert', params: {} },
  { type: 'exposure', params: { stops: 0.1 } },
];

interface Run {
  (steps: readonly TestStep[], options?: { fuse?: boolean; tile?: number; main?: Rect }): number;
}

/** Times whole evaluations of an HD frame in memory, nothing kept between runs. */
function runner(kernels: Kernels, planes: Record<string, Plane>): Run {
  return (steps, { fuse, tile, main = FRAME } = {}) => {
    const plate = flat(1920, 1080, 0.5);
    const plan: Plan = makePlan(testShot({ main: { ...plate, bounds: main }, front: plate }, steps), request, STEPS);
    const host = {
      kernels,
      picture: (node: Plan['sources'][number]) => {
        const region = node.source.name === 'main' ? main : FRAME;
        return { region, planes: Object.fromEntries(Object.entries(planes).map(([c, p]) => [c, p.subarray(0, area(region))])) };
      },
      ...(tile && { tile }),
    };
    return timeOf(() => {
      const out = compute(prepare(plan, kernels, undefined, fuse), host);
      Object.values(out.planes).forEach((p) => kernels.give(p));
    }, 700);
  };
}

const request = { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 };

export function benchEngine(kernels: Kernels): string {
  const planes: Record<string, Plane> = {};
  for (const c of 'RGBA') planes[c] = kernels.take(area(FRAME)).fill(c === 'A' ? 1 : 0.4);
  const copies = 'RGBA'.split('').map(() => kernels.take(area(FRAME)));
  const copy = timeOf(() => copies.forEach((to, i) => to.set(planes['RGBA'[i]!]!)));
  const run = runner(kernels, planes);
  const one = run([CHAIN[0]!]);
  const eight = run(CHAIN);
  const apart = run(CHAIN, { fuse: false, tile: 1e9 });
  const parts = CHAIN.reduce((sum, s) => sum + run([s]), 0);
  const over = run([{ type: 'join', feeds: ['front'] }]);
  const seat: TestStep[] = [
    { type: 'grade', params: { saturation: 0.8 } },
    { type: 'blur', params: { size: 8 } },
    { type: 'transform', params: { rotate: 5 } },
  ];
  const whole = run(seat);
  const element = run(seat, { main: rect(800, 400, 1229, 642) });
  const rows = [
    ['one exposure', ms(one), `${times(one / copy)} memcpy of RGBA`],
    ['over of two RGBA pictures', ms(over), `${times(over / (1.5 * copy))} memcpy of the bytes it touches`],
    ['eight per-pixel steps, fused', ms(eight), `${times(eight / one)} one exposure`],
    ['the same, every step whole', ms(apart), `${times(apart / eight)} the fused run`],
    ['sum of the eight alone', ms(parts), `${times(parts / eight)} the fused run`],
    ['grade, blur of 8 px, turn: an element that fills the frame', ms(whole), ''],
    ['the same, an element of 5 % of the frame', ms(element), `${((100 * element) / whole).toFixed(0)} % of it`],
    ['an off step and a neutral step behind one exposure', ms(run([CHAIN[0]!, { type: 'blur', on: false }, { type: 'grade' }])), ''],
  ];
  const tiles = [1920, 3840, 5760, 8192, 16384, 32768, 65536, 262144].map((t) => [String(t), ms(run(CHAIN, { tile: t }))]);
  [...Object.values(planes), ...copies].forEach((p) => kernels.give(p));
  return `${table(['HD RGBA, one core', 'ms', 'ratio'], rows)}\n\nThe eight steps by the size of a tile:\n\n${table(['pixels a tile', 'ms'], tiles)}`;
}
