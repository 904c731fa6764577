import type { Kernels } from '@/kernels';
import { compute, prepare } from '@/core/evaluate/compute';
import { makePlan } from '@/core/evaluate/plan';
import { rect } from '@/core/geometry/rect';
import type { Vec3 } from '@/core/geometry/vec3';
import type { Param } from '@/core/document/types';
import { placedA3, quaternionOfDegrees } from '@/core/render/affine';
import { Environment } from '@/core/render/environment';
import { PLAIN } from '@/core/render/mesh';
import { renderMoment } from '@/core/render/render';
import type { Drawn, View } from '@/core/render/screen';
import { ShadowMap } from '@/core/render/shadow';
import { ballMesh, cardMesh } from '@/core/render/shapes';
import { Texture } from '@/core/render/texture';
import { STEPS } from '@/core/steps';
import type { TestPicture } from '@/core/testing/evaluate';
import { testShot } from '@/core/testing/evaluate';
import { ms, table, timeOf } from './timing';

const [W, H] = [1920, 1080];

/** Cards and models at HD on one core. */
export function benchThings(kernels: Kernels): string {
  const n = W * H;
  const make = (of: (x: number, y: number) => number): Float32Array => {
    const plane = kernels.take(n);
    for (let y = 0, i = 0; y < H; y++) for (let x = 0; x < W; x++, i++) plane[i] = of(x, y);
    return plane;
  };
  const alpha = make((x, y) => 0.5 + 0.4 * Math.sin(x / 90) * Math.cos(y / 70));
  const card = { R: alpha, G: alpha, B: alpha, A: alpha };
  const none = { R: make(() => 0), G: make(() => 0), B: make(() => 0), A: make(() => 0) };
  const fill = { R: 0, G: 0, B: 0, A: 0 };
  const pictures: Record<string, TestPicture> = { main: { width: W, height: H, fill }, card: { width: W, height: H, fill } };
  const cards = (count: number, turn: (i: number) => Vec3, filter = 'catmullRom', share = 1.05): (() => void) => {
    const ids = Array.from({ length: count }, (_, i) => `c${i}`);
    const params: Record<string, Param> = {
      seen: 'keyed',
      filter,
      eye: [0, 0, 3],
      focal: 36,
      things: ids.map((id) => ({ id, name: id })) as unknown as Param,
      ...Object.fromEntries(
        ids.flatMap((id, i) => [
          [`${id}.casts`, false],
          [`${id}.at`, [0, 0, 0.4 - 0.4 * i] as Param],
          [`${id}.turn`, [...turn(i)] as Param],
          [`${id}.size`, (3 - (0.4 - 0.4 * i)) * (9 / 16) * share],
        ]),
      ),
    };
    const shot = testShot(pictures, [
      { type: 'scene', params, taps: Object.fromEntries(ids.map((id) => [`${id}.picture`, { lane: 'card' }])) },
    ]);
    return () => {
      const plan = makePlan(shot, { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 }, STEPS);
      const tile = compute(prepare(plan, kernels), {
        kernels,
        picture: (node) => ({ region: rect(0, 0, W, H), planes: node.source.name === 'card' ? card : none }),
      });
      Object.values(tile.planes).forEach((p) => kernels.give(p));
    };
  };
  const out = { r: kernels.take(n), g: kernels.take(n), b: kernels.take(n), a: kernels.take(n) };
  const view: View = { matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 4], focal: 1500, centre: [W / 2, H / 2] };
  const towards: Vec3 = [0.48, 0.6, 0.64];
  const ball = ballMesh(false, 320, 160);
  const marks = new Texture(
    512,
    512,
    Float32Array.from({ length: 4 * 512 * 512 }, (_, i) => (i % 4 === 3 ? 1 : 0.3 + 0.3 * Math.sin(i / 999))),
    true,
    false,
  );
  const model = (size: number, textured: boolean): (() => void) => {
    const drawn: Drawn[] = [
      {
        mesh: ball,
        material: { ...PLAIN, metal: 1, rough: 0.3, ...(textured && { baseMap: marks, metalRoughMap: marks }) },
        matrix: placedA3([0, 0, 0], quaternionOfDegrees([20, 30, 0]), [size, size, size]),
        id: 1,
        casts: true,
      },
    ];
    const environment = new Environment(null, 0, [0.4, 0.4, 0.4]);
    return () => {
      const shadow = ShadowMap.ofSun(kernels, drawn, towards, 1024, 0.25);
      const sun = {
        kind: 'sun' as const,
        colour: [1, 1, 1] as const,
        towards,
        at: [0, 0, 0] as const,
        aim: [0, 0, 0] as const,
        outer: 0,
        inner: 0,
        shadow,
      };
      renderMoment(kernels, { view, drawn, cards: [], lights: [sun], environment, mirrors: new Map() }, rect(0, 0, W, H), out);
    };
  };
  const crossing: Drawn[] = [0, 60, 120].map((turn, i) => ({
    mesh: cardMesh(3, 2, 1, 1),
    material: { ...PLAIN, unlit: true, alpha: 'blend', base: [1, 1, 1, 0.5], doubleSided: true },
    matrix: placedA3([0, 0, 0], quaternionOfDegrees([0, turn, 0]), [1, 1, 1]),
    id: i,
  }));
  const rows: [string, () => void][] = [
    ['four cards over the frame, a little larger than their pictures', cards(4, (i) => [0, 4 * i, 0])],
    ['the same, bilinear', cards(4, (i) => [0, 4 * i, 0], 'bilinear')],
    ['four cards, each a quarter of the frame', cards(4, (i) => [0, 4 * i, 0], 'catmullRom', 0.52)],
    ['one card over the frame', cards(1, () => [0, 8, 0])],
    ['two cards that cross', cards(2, (i) => [0, i ? 12 : -12, 0])],
    ['model of 102 400 triangles, a sixth of the frame: sun with shadow, light around', model(1.2, false)],
    ['the same, textured', model(1.2, true)],
    ['the same, half of the frame', model(2.4, false)],
    [
      'three glass cards as triangles, crossing',
      () =>
        renderMoment(
          kernels,
          { view, drawn: crossing, cards: [], lights: [], environment: null, mirrors: new Map() },
          rect(0, 0, W, H),
          out,
        ),
    ],
  ];
  return table(
    ['HD, one core', 'ms'],
    rows.map(([name, run]) => [name, ms(timeOf(run, 600, 5))]),
  );
}
