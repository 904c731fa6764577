import { spawnSync } from 'node:child_process';
import type { Kernels, Plane } from '@/kernels';
import { fillMembrane, holeOf } from '@/core/cleaning/membrane';
import { fillByPatches } from '@/core/cleaning/patch-fill';
import type { Param } from '@/core/document/types';
import { compute, prepare } from '@/core/evaluate/compute';
import type { Plan } from '@/core/evaluate/plan';
import { makePlan } from '@/core/evaluate/plan';
import { area, rect } from '@/core/geometry/rect';
import { evenGrain } from '@/core/grain/model';
import type { Stroke } from '@/core/paint/strokes';
import { parseShot } from '@/core/document/schema';
import { STEPS } from '@/core/steps';
import type { TestStep } from '@/core/testing/evaluate';
import { flat, testShot } from '@/core/testing/evaluate';
import { random } from '@/demo/noise';
import { SG040, renderWall } from '@/demo/sg040';
import { ms, table, timeOf } from './timing';

const HD = rect(0, 0, 1920, 1080);

/** What one stroke of a hand is: a short bent line. */
function strokes(count: number, w: number, h: number): Stroke[] {
  const next = random(5);
  const tools: Stroke['tool'][] = ['paint', 'tint', 'clone', 'clone', 'erase', 'dodge'];
  return Array.from({ length: count }, (_, i) => {
    let [x, y] = [next() * w, next() * h];
    const points = Array.from({ length: 8 }, () =>
      [(x += 14 * (next() - 0.4)), (y += 14 * (next() - 0.5))].map((v) => Math.round(v * 10) / 10),
    ).flat();
    return {
      tool: tools[i % tools.length]!,
      first: 1,
      last: 48,
      size: 20 + 20 * next(),
      hardness: 0.5,
      flow: 0.8,
      colour: [0.3, 0.2, 0.1],
      points,
      shift: [40, 12],
      amount: 0.5,
    };
  });
}

/** OpenCV's own non-local means of an HD picture of 8 bits, three channels, on one core, ms; null where it is not installed. */
function openCvMeans(): number | null {
  const code = `import cv2,time,numpy as n
cv2.setNumThreads(1)
a=n.random.randint(0,255,(1080,1920,3),n.uint8)
t=time.time();cv2.fastNlMeansDenoisingColored(a,None,3,3,5,13);print((time.time()-t)*1000)`;
  const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8' });
  return status === 0 ? Number(stdout) : null;
}

export function benchCleaning(kernels: Kernels): string {
  const film = renderWall(1, { ...SG040, width: 1920, height: 1080 }).plate;
  const planes: Record<string, Plane> = {};
  ['R', 'G', 'B'].forEach((c, k) => {
    planes[c] = kernels.take(area(HD));
    for (let i = 0; i < area(HD); i++) planes[c]![i] = film[3 * i + k]!;
  });
  planes.A = kernels.take(area(HD)).fill(1);
  let turn = 0;
  const run = (steps: readonly TestStep[], scale = 1, more?: (turn: number) => readonly TestStep[]): number => {
    const planOf = (list: readonly TestStep[]): Plan => {
      const shot = testShot({ main: flat(1920, 1080, 0.5), other: flat(1920, 1080, 0.5), like: flat(1920, 1080, 0.5) }, list);
      return makePlan(shot, { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale }, STEPS);
    };
    const plans = [steps, ...(more ? Array.from({ length: 40 }, () => more(turn++)) : [])].map(planOf);
    const region = rect(0, 0, 1920 * scale, 1080 * scale);
    const host = {
      kernels,
      picture: () => ({ region, planes: Object.fromEntries(Object.entries(planes).map(([c, p]) => [c, p.subarray(0, area(region))])) }),
    };
    let at = 0;
    const one = (plan: Plan): void => Object.values(compute(prepare(plan, kernels), host).planes).forEach((p) => kernels.give(p));
    if (!more) return timeOf(() => one(plans[0]!), 500, 3);
    one(plans[0]!);
    return timeOf(() => one(plans[1 + (at++ % 40)]!), 300, 3);
  };
  const denoise = run([{ type: 'denoise', params: { noise: 0.02 } }]);
  const cv = openCvMeans();
  const grain = evenGrain(0.0001).map((g) => ({
    ...g,
    kernel: g.kernel.map((_, i) => (i === 0 ? 0.9 : i === 1 || i === 4 ? 0.2 : 0.02)),
  })) as unknown as Param;
  const many = strokes(2000, 1920, 1080);
  const painted: TestStep = { type: 'paint', params: { strokes: many as never }, feeds: ['other'] };
  const withStrokes = (list: readonly Stroke[]): TestStep[] => [{ ...painted, params: { strokes: list as never } }];
  // Another first stroke each time: nothing that was laid before can be used.
  const other = strokes(60, 1900, 1000);
  const all = run([], 0.5, (t) => withStrokes([{ ...other[t % 60]!, size: 10 + t }, ...many.slice(1)]));
  const another = run(withStrokes(many), 0.5, (t) => withStrokes([...many, { ...other[t % 60]!, size: 10 + t }]));
  const changed = run(withStrokes(many), 0.5, (t) => withStrokes(many.map((s, i) => (i === 1970 ? { ...s, size: 11 + t } : s))));
  const one = run([{ type: 'paint', params: { strokes: many.slice(0, 1) as never } }], 0.5);
  const shot = testShot({ main: flat(1920, 1080, 0.5) }, [{ type: 'paint', params: { strokes: many as never } }]);
  const text = JSON.stringify(shot);
  const checked = timeOf(() => parseShot(JSON.parse(text)));
  const hole = { w: 540, h: 540 };
  const open = new Uint8Array(hole.w * hole.h);
  for (let y = 170; y < 370; y++) open.fill(1, y * hole.w + 170, y * hole.w + 370);
  const cut = [0, 1, 2].map((c) =>
    Float32Array.from({ length: hole.w * hole.h }, (_, i) => film[3 * ((250 + Math.floor(i / hole.w)) * 1920 + 600 + (i % hole.w)) + c]!),
  );
  const patches = timeOf(
    () =>
      void fillByPatches(
        cut.map((p) => p.slice()),
        open,
        hole.w,
        hole.h,
        { reach: 170 },
      ),
    1000,
    3,
  );
  const membrane = timeOf(
    () => {
      const known = holeOf(open, hole.w, hole.h);
      cut.forEach((p) => fillMembrane(p.slice(), known));
    },
    600,
    3,
  );
  const rows = [
    ['denoise, 13×13 places, patches of 5×5', ms(denoise), cv === null ? '' : `OpenCV's non-local means, 8 bit, one core: ${ms(cv)}`],
    ['grain, 7×7 kernels', ms(run([{ type: 'grain', params: { measured: grain } }])), ''],
    ['match colour, all channels together', ms(run([{ type: 'matchColour', feeds: ['like'] }])), ''],
    [
      'formula, four lines',
      ms(
        run([{ type: 'formula', params: { R: 'R * 1.2 + G * 0.1', G: 'max(G, other.G)', B: 'mix(B, R, 0.2)', A: 'A' }, feeds: ['other'] }]),
      ),
      '',
    ],
    ['a hole of 200×200 px filled by patches, three channels', ms(patches), ''],
    ['the same by a membrane', ms(membrane), ''],
    ['paint at half size, one stroke', ms(one), ''],
    ['paint at half size, 2,000 strokes on the frame, all of them', ms(all), `${ms((all - one) / 2000)} a stroke`],
    ['one stroke more after them', ms(another), ''],
    ['one of the last 64 changed', ms(changed), ''],
    ['a shot with them: read and checked', ms(checked), `${(text.length / 2 ** 20).toFixed(2)} MB of text`],
  ];
  Object.values(planes).forEach((p) => kernels.give(p));
  return table(['HD, one core', 'ms', ''], rows);
}
