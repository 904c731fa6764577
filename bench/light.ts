import type { Kernels } from '@/kernels';
import { compute, prepare } from '@/core/evaluate/compute';
import { makePlan } from '@/core/evaluate/plan';
import type { Tile } from '@/core/picture';
import { STEPS } from '@/core/steps';
import type { TestStep } from '@/core/testing/evaluate';
import { testShot } from '@/core/testing/evaluate';
import type { Native } from './light-native';
import { openCv } from './light-native';
import { ms, table, timeOf } from './timing';

const [W, H] = [1920, 1080];

/** Filters of time, air and light at HD on one core, at their usual settings. */
export function benchLight(kernels: Kernels): string {
  const n = W * H;
  const make = (of: (x: number, y: number) => number): Float32Array => {
    const plane = kernels.take(n);
    for (let y = 0, i = 0; y < H; y++) for (let x = 0; x < W; x++, i++) plane[i] = of(x, y);
    return plane;
  };
  const wave = (k: number) => (x: number, y: number) =>
    0.4 + 0.25 * Math.sin(x / (9 + k) + y / 31) * Math.cos(y / (13 - k)) + (Math.hypot(x - 1300, y - 300) < 60 ? 4 : 0);
  const disc = (x: number, y: number): number => Math.max(0, Math.min(1, 300 - Math.hypot(x - 900, y - 560)));
  const full = { R: make(wave(0)), G: make(wave(1)), B: make(wave(2)), A: make(() => 1) };
  const cut = Object.fromEntries(
    [...Object.entries({ R: 0.3, G: 0.2, B: 0.1, A: 1 })].map(([c, v]) => [c, make((x, y) => v * disc(x, y))]),
  );
  const region = { x0: 0, y0: 0, x1: W, y1: H };
  const fill = { R: 0, G: 0, B: 0, A: 0 };
  const picture = { width: W, height: H, fill };
  const run = (
    steps: TestStep[],
    main: 'full' | 'cut' = 'full',
    feeds: Record<string, 'full' | 'cut'> = {},
    channels = ['R', 'G', 'B', 'A'],
  ): number => {
    const shot = testShot({ main: picture, ...Object.fromEntries(Object.keys(feeds).map((f) => [f, picture])) }, steps);
    const plan = makePlan(shot, { tap: { lane: 'main' }, frame: 1, channels, scale: 1 }, STEPS);
    const planesOf = (name: string): Record<string, Float32Array> => ((name === 'main' ? main : feeds[name]) === 'cut' ? cut : full);
    const once = (): void => {
      const tile = compute(prepare(plan, kernels), {
        kernels,
        picture: (node): Tile => ({
          region,
          planes: Object.fromEntries([...node.channels].map((c) => [c, kernels.share(planesOf(node.source.name)[c]!)])),
        }),
        table: () => {
          throw new Error('no table');
        },
        missing: () => {},
      });
      Object.values(tile.planes).forEach((p) => kernels.give(p));
    };
    return timeOf(once, 900, 3);
  };
  const move = (step: TestStep): TestStep[] => [
    {
      type: 'transform',
      params: {
        translate: {
          keys: [1, 10].map((frame) => ({ frame, value: [5 * frame, 2 * frame] as [number, number], ease: 'linear' as const })),
        },
      },
    },
    step,
  ];
  const moved = run(move({ type: 'blur', params: { size: 0 } }));
  const rows: [string, number, Native | null][] = [
    ['defocus, radius 30, even', run([{ type: 'defocus', params: { radius: 30 } }]), 'disc'],
    [
      'defocus, radius 30, along a ramp',
      run([{ type: 'defocus', params: { radius: 30, by: 'ramp', from: [0, -200], to: [0, 540] } }]),
      'ramp',
    ],
    [
      'defocus, radius 30, by a picture',
      run([{ type: 'defocus', params: { radius: 30, by: 'map' }, feeds: ['map'] }], 'full', { map: 'full' }),
      'ramp',
    ],
    ['directional blur, 40 px', run([{ type: 'directionalBlur', params: { length: 40, angle: 20 } }]), 'line'],
    ['radial blur, 5°', run([{ type: 'radialBlur', params: { angle: 5 } }]), 'radial'],
    ['zoom blur, 5 %', run([{ type: 'zoomBlur', params: { amount: 5 } }]), 'zoom'],
    [
      'displace, Catmull–Rom',
      run([{ type: 'displace', params: { amount: [20, 20] }, feeds: ['driver'] }], 'full', { driver: 'full' }),
      'remap',
    ],
    ['glow, four parts to 40 px', run([{ type: 'glow' }]), 'glow'],
    ['light wrap', run([{ type: 'lightWrap', feeds: ['behind'] }], 'cut', { behind: 'full' }), 'wrap'],
    ['rays, 256 samples', run([{ type: 'rays' }]), 'rays'],
    ['flare', run([{ type: 'flare' }]), null],
    ['lens dirt', run([{ type: 'lensDirt', feeds: ['dirt'] }], 'full', { dirt: 'full' }), 'dirt'],
    ['heat shimmer', run([{ type: 'heatShimmer' }]), 'shimmer'],
    [
      'shadow, cast',
      run([{ type: 'shadow', params: { left: [-160, 200], right: [160, 200] }, feeds: ['element'] }], 'full', { element: 'cut' }),
      'shadow',
    ],
    ['vignette', run([{ type: 'vignette' }]), 'vignette'],
    ['colour fringe', run([{ type: 'colourFringe' }]), 'fringe'],
    ['film response', run([{ type: 'filmResponse' }]), 'film'],
    ['motion vectors, both ways', run(move({ type: 'motionVectors' }), 'full', {}, ['motion.X', 'motion.Y']) - 2 * moved, 'flow'],
    [
      'retime along the motion',
      run(move({ type: 'retime', params: { by: 'source', source: 3.5, between: 'motion' } })) - 2 * moved,
      'retime',
    ],
  ];
  [...Object.values(full), ...Object.values(cut)].forEach((p) => kernels.give(p as Float32Array));
  const native = openCv(W, H);
  const beside = (name: Native | null): [string, string] => {
    if (!name) return ['', ''];
    const other = native?.(name);
    return other ? [ms(other.ms), other.what] : ['', 'not installed'];
  };
  return table(
    ['HD, R G B A, one core', 'ms', 'OpenCV, one thread, ms', 'doing'],
    rows.map(([name, t, other]) => [name, ms(t), ...beside(other)]),
  );
}
