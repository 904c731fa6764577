import { spawnSync } from 'node:child_process';
import type { Kernels } from '@/kernels';
import { compute, prepare } from '@/core/evaluate/compute';
import { makePlan } from '@/core/evaluate/plan';
import type { Tile } from '@/core/picture';
import { STEPS } from '@/core/steps';
import type { TestStep } from '@/core/testing/evaluate';
import { testShot } from '@/core/testing/evaluate';
import { ms, table, timeOf } from './timing';

const [W, H] = [1920, 1080];

/** OpenCV on one thread, ms at HD, four channels of floats where nothing else is said; null where it is not installed. */
function openCv(): Record<string, number> | null {
  const code = `
import cv2, json, time, numpy as np
cv2.setNumThreads(1)
a = np.random.rand(${H}, ${W}, 4).astype(np.float32)
def of(f):
    t = []
    for i in range(5):
        s = time.perf_counter(); f(); t.append(time.perf_counter() - s)
    return sorted(t)[1] * 1000
r = 30
y, x = np.mgrid[-r:r+1, -r:r+1]
disc = (x*x + y*y <= r*r).astype(np.float32); disc /= disc.sum()
line = np.zeros((41, 41), np.float32); line[20, :] = 1 / 41
xs, ys = np.meshgrid(np.arange(${W}, dtype=np.float32), np.arange(${H}, dtype=np.float32))
xs += 9 * np.sin(ys / 30); ys += 7 * np.cos(xs / 25)
c = a[:, :, :3].copy()
def glow():
    return sum(cv2.GaussianBlur(c, (0, 0), s) for s in (5, 10, 20, 40))
g, h = [np.clip(cv2.GaussianBlur(np.random.rand(${H}, ${W}).astype(np.float32), (0, 0), 2) * 255 * 2 - 128, 0, 255).astype(np.uint8) for _ in (0, 1)]
dis = cv2.DISOpticalFlow_create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
print(json.dumps({'disc': of(lambda: cv2.filter2D(a, -1, disc)), 'line': of(lambda: cv2.filter2D(a, -1, line)), 'remap': of(lambda: cv2.remap(a, xs, ys, cv2.INTER_CUBIC)), 'glow': of(glow), 'flow': of(lambda: (dis.calc(g, h, None), dis.calc(h, g, None)))}))`;
  const { status, stdout } = spawnSync('/usr/bin/python3', ['-c', code], { encoding: 'utf8' });
  return status === 0 ? (JSON.parse(stdout) as Record<string, number>) : null;
}

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
  const native = openCv();
  const theirs = (key: string): string => (native ? ms(native[key]!) : 'not installed');
  const rows: [string, number, string][] = [
    ['defocus, radius 30, even', run([{ type: 'defocus', params: { radius: 30 } }]), `${theirs('disc')} filter2D with the disc`],
    ['defocus, radius 30, along a ramp', run([{ type: 'defocus', params: { radius: 30, by: 'ramp', from: [0, -200], to: [0, 540] } }]), ''],
    [
      'defocus, radius 30, by a picture',
      run([{ type: 'defocus', params: { radius: 30, by: 'map' }, feeds: ['map'] }], 'full', { map: 'full' }),
      '',
    ],
    [
      'directional blur, 40 px',
      run([{ type: 'directionalBlur', params: { length: 40, angle: 20 } }]),
      `${theirs('line')} filter2D with a line`,
    ],
    ['radial blur, 5°', run([{ type: 'radialBlur', params: { angle: 5 } }]), ''],
    ['zoom blur, 5 %', run([{ type: 'zoomBlur', params: { amount: 5 } }]), ''],
    [
      'displace, Catmull–Rom',
      run([{ type: 'displace', params: { amount: [20, 20] }, feeds: ['driver'] }], 'full', { driver: 'full' }),
      `${theirs('remap')} remap, cubic`,
    ],
    ['glow, four parts to 40 px', run([{ type: 'glow' }]), `${theirs('glow')} four Gaussians of three channels`],
    ['light wrap', run([{ type: 'lightWrap', feeds: ['behind'] }], 'cut', { behind: 'full' }), ''],
    ['rays, 256 samples', run([{ type: 'rays' }]), ''],
    ['flare', run([{ type: 'flare' }]), ''],
    ['lens dirt', run([{ type: 'lensDirt', feeds: ['dirt'] }], 'full', { dirt: 'full' }), ''],
    ['heat shimmer', run([{ type: 'heatShimmer' }]), ''],
    [
      'shadow, cast',
      run([{ type: 'shadow', params: { left: [-160, 200], right: [160, 200] }, feeds: ['element'] }], 'full', { element: 'cut' }),
      '',
    ],
    ['vignette', run([{ type: 'vignette' }]), ''],
    ['colour fringe', run([{ type: 'colourFringe' }]), ''],
    ['film response', run([{ type: 'filmResponse' }]), ''],
    [
      'motion vectors, both ways',
      run(move({ type: 'motionVectors' }), 'full', {}, ['motion.X', 'motion.Y']) - 2 * moved,
      `${theirs('flow')} DIS medium, both ways`,
    ],
    ['retime along the motion', run(move({ type: 'retime', params: { by: 'source', source: 3.5, between: 'motion' } })) - 2 * moved, ''],
  ];
  [...Object.values(full), ...Object.values(cut)].forEach((p) => kernels.give(p as Float32Array));
  return table(
    ['HD, R G B A, one core', 'ms', 'OpenCV, one thread, ms'],
    rows.map(([name, t, other]) => [name, ms(t), other]),
  );
}
