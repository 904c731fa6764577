import type { Kernels } from '@/kernels';
import type { Param } from '@/core/document/types';
import type { TestPicture, TestStep } from '@/core/testing/evaluate';
import { compute, prepare } from '@/core/evaluate/compute';
import { makePlan } from '@/core/evaluate/plan';
import { floatOfId, hexOfId, idOfName } from '@/core/formats/cryptomatte';
import type { Tile } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { testShot } from '@/core/testing/evaluate';
import { ms, table, timeOf, times } from './timing';

const [W, H] = [1920, 1080];
const N = W * H;

/** Passes of a render at HD: a lit ball before a wall, moving, so that all of what the steps look at is there. */
function renderOf(kernels: Kernels, parts: number): Record<string, Float32Array> {
  const planes: Record<string, Float32Array> = {};
  const make = (name: string, of: (x: number, y: number, inside: boolean) => number): void => {
    const plane = (planes[name] = kernels.take(N));
    for (let y = 0, i = 0; y < H; y++) {
      for (let x = 0; x < W; x++, i++) plane[i] = of(x, y, (x - 900) ** 2 + (y - 540) ** 2 < 300 * 300);
    }
  };
  for (const c of ['R', 'G', 'B']) make(c, (x, y, b) => (b ? 0.7 : 0.2) + 0.1 * Math.sin(x * 0.05 + y * 0.03));
  make('A', () => 1);
  for (let k = 0; k < parts; k++)
    for (const c of ['R', 'G', 'B']) make(`part${k}.${c}`, (x, y) => (1 + Math.sin(x * 0.01 * (k + 1) + y * 0.02)) / 40);
  make('Z', (x, _, b) => (b ? 4 : 8 + x / W));
  make('motion.X', (_x, _y, b) => (b ? 22 : 0));
  make('motion.Y', (_x, _y, b) => (b ? 9 : 0));
  const [a, c] = [floatOfId(idOfName('ball')), floatOfId(idOfName('wall'))];
  make('CryptoObject00.R', (_x, _y, b) => (b ? a : c));
  make('CryptoObject00.G', () => 1);
  make('CryptoObject00.B', (_x, _y, b) => (b ? c : a));
  make('CryptoObject00.A', () => 0);
  for (const k of ['R', 'G', 'B', 'A']) make(`CryptoObject01.${k}`, () => 0);
  make('P.X', (x, _, b) => ((x - 960) / 1300) * (b ? 4 : 8));
  make('P.Y', (_, y, b) => ((540 - y) / 1300) * (b ? 4 : 8));
  make('P.Z', (_x, _y, b) => (b ? -4 : -8));
  make('N.X', () => 0);
  make('N.Y', () => 0.6);
  make('N.Z', () => 0.8);
  return planes;
}

/** Steps of passes at HD on one core, beside what they must at least do. */
export async function benchPasses(kernels: Kernels): Promise<string> {
  const planes = renderOf(kernels, 12);
  const picture: TestPicture = { width: W, height: H, fill: Object.fromEntries(Object.keys(planes).map((c) => [c, 0])) };
  const region = { x0: 0, y0: 0, x1: W, y1: H };
  const run = (steps: TestStep[], channels = ['R', 'G', 'B', 'A']): void => {
    const shot = testShot({ main: picture }, steps);
    const plan = makePlan(shot, { tap: { lane: 'main' }, frame: 1, channels, scale: 1 }, STEPS);
    const tile = compute(prepare(plan, kernels), {
      kernels,
      picture: (node): Tile => {
        const wanted = Object.fromEntries([...node.channels].map((c) => [c, kernels.share(planes[c]!)]));
        return { region, planes: wanted };
      },
    });
    Object.values(tile.planes).forEach((p) => kernels.give(p));
  };
  const listed = (names: readonly string[], more: Record<string, Param>): Record<string, Param> =>
    ({ parts: names.map((name) => ({ id: name, name })), ...more }) as unknown as Record<string, Param>;
  const names = Array.from({ length: 12 }, (_, k) => `part${k}`);
  // What twelve parts and the beauty hold, copied plane by plane.
  const [from, to] = [kernels.take(N), kernels.take(N)];
  const copy = timeOf(() => to.set(from)) * 3 * 13;
  const gains = Object.fromEntries(names.map((n, k): [string, Param] => [`${n}.gain`, 0.1 + k / 20]));
  const rebuild = timeOf(() => run([{ type: 'rebuildBeauty', params: listed(names, gains) }]), 1200, 5);
  const tinted = timeOf(
    () =>
      run([
        {
          type: 'rebuildBeauty',
          params: listed(names, { ...gains, ...Object.fromEntries(names.map((n): [string, Param] => [`${n}.saturation`, 0.8])) }),
        },
      ]),
    1500,
    3,
  );
  const things = [{ id: hexOfId(idOfName('ball')) }, { id: hexOfId(idOfName('wall')) }] as unknown as Param;
  const ids = timeOf(() => run([{ type: 'idMatte', params: { things } }]), 1200, 5);
  const motion = timeOf(() => run([{ type: 'vectorBlur', params: { shutter: 180 } }]), 1500, 3);
  const focus = timeOf(() => run([{ type: 'depthOfField', params: { by: 'px', focus: 4, infinity: 40, most: 40 } }]), 1500, 3);
  const haze = timeOf(() => run([{ type: 'haze', params: { density: 0.2 } }]), 1500, 3);
  const lamp = { lamps: [{ id: 'a', name: 'a' }], 'a.at': [1, 1, -3] } as unknown as Record<string, Param>;
  const relight = timeOf(() => run([{ type: 'relight', params: lamp }]), 1500, 3);
  [from, to, ...Object.values(planes)].forEach((p) => kernels.give(p));
  const rows = [
    ['rebuild of 12 parts, each with its gain', ms(rebuild), `${times(rebuild / copy)} a copy of what it reads`, '≤ 3×'],
    ['the same, each desaturated too', ms(tinted), `${times(tinted / copy)} that copy`, ''],
    ['matte of two things, Cryptomatte of 4 ranks', ms(ids), '', '≤ 20 ms'],
    ['vector blur, a ball that moves 24 px, shutter 180°', ms(motion), '', '≤ 600 ms'],
    ['depth of field, all behind the ball at a radius of 20 px', ms(focus), '', '≤ 1500 ms'],
    ['haze', ms(haze), '', ''],
    ['relight by one lamp with its shadow', ms(relight), '', ''],
  ];
  return table(['HD, one core', 'time', '', 'asked'], rows);
}
