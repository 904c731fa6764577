import { nodeKernels } from '@/engine/node/host';
import type { Vec3 } from '../geometry/vec3';
import { Environment } from './environment';
import { PixelItems } from './compose';
import type { Drawn } from './screen';
import { seenBy } from './screen';
import { ShadowCube, ShadowMap } from './shadow';
import { TEST_H as H, TEST_W as W, draw, lookingFrom, stands, sun, thing } from '../testing/render';

const sum = (p: Float32Array): number => p.reduce((s, v) => s + v, 0);
const at = (p: Float32Array, x: number, y: number): number => p[y * W + x]!;
const camera = lookingFrom([0, 0, 3]);

describe('perspective', () => {
  test('a card that faces the camera covers what it should, to a sixteenth of a pixel a pixel of edge', async () => {
    const { a } = await draw({ view: camera, drawn: [thing('card', stands([0.13, -0.07, 0]), { unlit: true })] });
    // One unit at a distance of 3 is 30 px.
    expect(Math.abs(sum(a) - 900)).toBeLessThan(30 * 4 * (1 / 16));
    const rows = Array.from({ length: H }, (_, y) => sum(a.subarray(y * W, (y + 1) * W)));
    expect(rows.filter((r) => r > 0).length).toBe(31);
    expect(Math.max(...rows)).toBeCloseTo(30, 4);
  });

  test('depth, place and normal are those of the plane, at each pixel’s middle', async () => {
    const m = stands([0.2, 0.1, -0.4], [15, 40, 5], [3, 3, 3]);
    const d = await draw({ view: camera, drawn: [thing('card', m)] });
    const normal: Vec3 = [m[2]! / 3, m[6]! / 3, m[10]! / 3];
    let checked = 0;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        if (at(d.a, x, y) < 1) continue;
        const p = [0, 1, 2].map((k) => at(d.position[k]!, x, y)) as unknown as Vec3;
        const off = normal[0] * (p[0] - m[3]!) + normal[1] * (p[1] - m[7]!) + normal[2] * (p[2] - m[11]!);
        expect(Math.abs(off)).toBeLessThan(1e-4);
        const [u, v, z] = seenBy(camera, p);
        expect(Math.hypot(u - x - 0.5, v - y - 0.5)).toBeLessThan(1e-3);
        expect(Math.abs(z - at(d.depth, x, y))).toBeLessThan(1e-4 * z);
        checked++;
      }
    expect(checked).toBeGreaterThan(1500);
    expect(at(d.depth, 0, 0)).toBe(Infinity);
  });

  test('neighbouring triangles leave no gap and cover nothing twice', async () => {
    const { a } = await draw({ view: camera, drawn: [thing('ball', stands([0, 0, 0], [20, 30, 10], [2, 2, 2]), { unlit: true })] });
    // The outline of a ball of radius 1 seen from 3 away is a circle of 90·tan(asin(1/3)).
    const radius = 90 * Math.tan(Math.asin(1 / 3));
    expect(Math.abs(sum(a) / (Math.PI * radius * radius) - 1)).toBeLessThan(0.003);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) if (Math.hypot(x + 0.5 - W / 2, y + 0.5 - H / 2) < radius - 1.5) expect(at(a, x, y)).toBe(1);
  });

  test('what crosses the camera is cut there, and nothing behind it is seen', async () => {
    const floor = thing('card', stands([0, -1, 0], [-90, 0, 0], [400, 400, 1]), { unlit: true });
    const d = await draw({ view: camera, drawn: [floor] });
    expect(sum(d.a.subarray(0, (H / 2 - 1) * W))).toBe(0);
    for (let y = H / 2 + 2; y < H; y++) expect(at(d.depth, 10, y)).toBeCloseTo(90 / (y + 0.5 - H / 2), 3);
  });

  test('the far side of a closed thing is left out, a mirrored one looks the same from outside', async () => {
    const seen = await draw({ view: camera, drawn: [thing('box', stands([0, 0, 0], [20, 30, 0]))], lights: [sun([0.3, 1, 0.8])] });
    const mirrored = await draw({
      view: camera,
      drawn: [thing('box', stands([0, 0, 0], [20, 30, 0], [-1, 1, 1]))],
      lights: [sun([0.3, 1, 0.8])],
    });
    for (const d of [seen, mirrored])
      for (let i = 0; i < d.a.length; i++)
        if (d.a[i] === 1) {
          const p = [0, 1, 2].map((k) => d.position[k]![i]!);
          const n = [0, 1, 2].map((k) => d.normal[k]![i]!);
          // Towards the camera.
          expect(n[0]! * -p[0]! + n[1]! * -p[1]! + n[2]! * (3 - p[2]!)).toBeGreaterThan(0);
        }
    expect(Math.abs(sum(seen.a) - sum(mirrored.a))).toBeLessThan(200);
  });
});

describe('light', () => {
  test('a matt ball is as bright as its normal faces the sun, and a lamp falls off by the square', async () => {
    const l: Vec3 = [0.48, 0.6, 0.64];
    const d = await draw({ view: camera, drawn: [thing('ball', stands([0, 0, 0], [0, 0, 0], [2, 2, 2]))], lights: [sun(l)] });
    let worst = 0;
    for (let i = 0; i < d.a.length; i++) {
      if (d.a[i]! < 1) continue;
      const lambert = Math.max(
        0,
        [0, 1, 2].reduce((s, k) => s + d.normal[k]![i]! * l[k]!, 0),
      );
      worst = Math.max(worst, Math.abs(d.r[i]! - lambert));
    }
    expect(worst).toBeLessThan(0.02);
    const lamp = { ...sun([0, 0, 1]), kind: 'point' as const, at: [0, 0, 2] as const };
    const wall = await draw({ view: camera, drawn: [thing('card', stands([0, 0, 0], [0, 0, 0], [9, 9, 9]))], lights: [lamp] });
    const i = (H / 2) * W + W / 2;
    const [x, y] = [wall.position[0]![i]!, wall.position[1]![i]!];
    const far = Math.hypot(x, y, 2);
    expect(wall.r[i]).toBeCloseTo(2 / far ** 3, 4);
  });

  test('even light from all around makes a white matt surface 1, a metal its colour', async () => {
    const environment = new Environment(null, 0, [1, 1, 1]);
    const matt = await draw({ view: camera, environment, drawn: [thing('card', stands([0, 0, 0], [0, 0, 0], [9, 9, 9]))] });
    expect(at(matt.r, 40, 30)).toBeCloseTo(1, 3);
    const gold = { base: [0.9, 0.6, 0.2, 1] as const, metal: 1, specular: 1, rough: 0.2 };
    const metal = await draw({ view: camera, environment, drawn: [thing('card', stands([0, 0, 0], [0, 0, 0], [9, 9, 9]), gold)] });
    expect(Math.abs(at(metal.g, 48, 32) - 0.6)).toBeLessThan(0.04);
  });

  test('the edge of a shadow lies where the sun’s rays put it, within two texels', async () => {
    const kernels = await nodeKernels();
    const towards: Vec3 = [0.6, 0.8, 0];
    const view = { matrix: [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 8], focal: 90, centre: [W / 2, H / 2] } as const;
    const wall = thing('box', stands([0, 0.5, 0], [0, 0, 0], [0.02, 1, 40]));
    const floor = thing('card', stands([0, 0, 0], [-90, 0, 0], [40, 40, 1]), {}, { casts: false });
    const shadow = ShadowMap.ofSun(kernels, [wall], towards, 1024, 0.01);
    const d = await draw({ view, drawn: [wall, floor], lights: [sun(towards, { shadow })] });
    // One unit high, the sun at 53°: three quarters of a unit to the other side.
    const row = Array.from({ length: W }, (_, x) => at(d.r, x, H / 2));
    const dark = row.filter((v, x) => v < 0.4 && x < W / 2).length;
    const texel = (40 * 1.04) / (1024 - 56);
    expect(Math.abs(dark * (8 / 90) - (0.75 + 0.01))).toBeLessThan(2 * texel + 0.5 * (8 / 90));
    expect(at(d.r, 2, H / 2)).toBeCloseTo(0.8, 2);
  });

  test('a lamp throws shadows to all sides', async () => {
    const kernels = await nodeKernels();
    const view = { matrix: [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 8], focal: 90, centre: [W / 2, H / 2] } as const;
    const floor = thing('card', stands([0, 0, 0], [-90, 0, 0], [40, 40, 1]), {}, { casts: false });
    const posts = [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ].map(([x, z]) => thing('box', stands([x!, 0.5, z!], [0, 0, 0], [0.3, 1, 0.3])));
    const lamp: Vec3 = [0, 1.2, 0];
    const shadow = ShadowCube.of(kernels, posts, lamp, 512, 0.02);
    const light = { ...sun([0, 1, 0]), kind: 'point' as const, at: lamp, shadow };
    const d = await draw({ view, drawn: [floor], lights: [light] });
    const open = await draw({ view, drawn: [floor], lights: [{ ...light, shadow: null }] });
    const seen = (x: number, z: number): number => {
      const i = Math.round(H / 2 + (90 * z) / 8 - 0.5) * W + Math.round(W / 2 + (90 * x) / 8 - 0.5);
      return d.r[i]! / open.r[i]!;
    };
    // Behind each post it is dark, between them open.
    for (const [x, z] of [
      [2, 0],
      [-2, 0],
      [0, 2],
      [0, -2],
    ])
      expect(seen(x!, z!)).toBeLessThan(0.05);
    for (const [x, z] of [
      [1.6, 1.6],
      [-1.6, 1.6],
      [0.2, 0.2],
    ])
      expect(seen(x!, z!)).toBeGreaterThan(0.98);
  });

  test('the wider the sun, the softer the shadow', async () => {
    const kernels = await nodeKernels();
    const view = { matrix: [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 8], focal: 90, centre: [W / 2, H / 2] } as const;
    const roof = thing('card', stands([0, 1.5, 0], [-90, 0, 0], [2, 2, 2]));
    const floor = thing('card', stands([0, 0, 0], [-90, 0, 0], [40, 40, 1]), {}, { casts: false });
    const towards: Vec3 = [0.6, 0.8, 0];
    const between = async (angle: number): Promise<number> => {
      const shadow = ShadowMap.ofSun(kernels, [roof], towards, 1024, angle);
      const d = await draw({ view, drawn: [floor], lights: [sun(towards, { shadow })] });
      return Array.from({ length: W }, (_, x) => at(d.r, x, H / 2)).filter((v) => v > 0.05 && v < 0.75).length;
    };
    expect(await between(0.2)).toBeLessThan(await between(1.5));
  });
});

describe('over each other', () => {
  const glass = (z: number, colour: Vec3, alpha = 0.5, id = 1): Drawn =>
    thing('card', stands([0, 0, z], [0, 0, 0], [9, 9, 9]), { base: [...colour, alpha], unlit: true, alpha: 'blend' }, { id });

  test('by depth, whatever their order in the list', async () => {
    const list = [glass(0, [1, 0, 0]), glass(-1, [0, 1, 0]), glass(1, [0, 0, 1], 0.25)];
    const a = await draw({ view: camera, drawn: list });
    const b = await draw({ view: camera, drawn: [...list].reverse() });
    const [x, y] = [31, 22];
    // Blue in front, then red, then green.
    expect(at(a.b, x, y)).toBeCloseTo(0.25, 5);
    expect(at(a.r, x, y)).toBeCloseTo(0.75 * 0.5, 5);
    expect(at(a.g, x, y)).toBeCloseTo(0.75 * 0.5 * 0.5, 5);
    expect(at(a.a, x, y)).toBeCloseTo(1 - 0.75 * 0.25, 5);
    expect(Math.max(...a.r.map((v, i) => Math.abs(v - b.r[i]!)))).toBe(0);
  });

  test('cards that cross are cut where they meet, the pixel there is shared', async () => {
    const turned = (angle: number, colour: Vec3): Drawn =>
      thing('card', stands([0, 0, 0], [0, angle, 0], [3, 3, 3]), { base: [...colour, 1], unlit: true, alpha: 'blend' });
    const d = await draw({ view: camera, drawn: [turned(45, [1, 0, 0]), turned(-45, [0, 1, 0])] });
    expect(at(d.r, 40, 32)).toBe(1);
    expect(at(d.g, 56, 32)).toBe(1);
    const [r, g] = [at(d.r, 48, 32) + at(d.r, 47, 32), at(d.g, 48, 32) + at(d.g, 47, 32)];
    expect(r).toBeCloseTo(1, 1);
    expect(g).toBeCloseTo(1, 1);
  });

  test('a hold-out cuts what is behind it and leaves no coverage', async () => {
    const block = thing('card', stands([0.5, 0, 0.5], [0, 0, 0], [1, 9, 1]), {}, { holdout: true });
    const d = await draw({ view: camera, drawn: [glass(0, [1, 1, 1], 1), block] });
    expect(at(d.a, 30, 30)).toBe(1);
    expect(at(d.a, 60, 30)).toBe(0);
    const before = await draw({ view: camera, drawn: [glass(1, [1, 1, 1], 1), block] });
    expect(at(before.a, 60, 30)).toBe(1);
  });

  test('what the picture shows already cuts at its own depth, softly', async () => {
    const near = new Float32Array(W * H).fill(1 / 3);
    const alpha = new Float32Array(W * H).fill(0.5);
    const cut = await draw({ view: camera, drawn: [glass(-1, [1, 1, 1], 1)], held: { near, alpha } });
    expect(at(cut.a, 30, 30)).toBeCloseTo(0.5, 6);
    const front = await draw({ view: camera, drawn: [glass(1, [1, 1, 1], 1)], held: { near, alpha } });
    expect(at(front.a, 30, 30)).toBe(1);
  });

  test('what nears a hold-out fades away over the distance that is said', async () => {
    const wall = thing('card', stands([0, 0, 0], [0, 0, 0], [9, 9, 9]), {}, { holdout: true });
    const alphaAt = async (z: number): Promise<number> =>
      at((await draw({ view: camera, drawn: [glass(z, [1, 1, 1], 1), wall], soft: 0.4 })).a, 30, 30);
    expect(await alphaAt(0.5)).toBe(1);
    expect(await alphaAt(0.2)).toBeCloseTo(0.5, 4);
    expect(await alphaAt(0.02)).toBeLessThan(0.01);
  });

  test('the same composite whether samples are taken together or one by one', () => {
    const together = new PixelItems();
    const apart = new PixelItems();
    const [a, b] = [new Float64Array(4), new Float64Array(4)];
    const add = (items: PixelItems, slope: number): void => {
      items.count = 0;
      items.add(0.2, 0, 0, 0.4, 0.5, 0, 0, 0x0ff0, false, 0);
      items.add(0, 0.3, 0, 0.6, 0.4, slope, 0, 0xffff, false, 1);
      items.add(0, 0, 0.9, 1, 0.2, 0, 0, 0xf00f, false, 2);
    };
    add(together, 0);
    together.compose(a);
    // A slope that brings it near the others without changing their order.
    add(apart, 0.19);
    apart.compose(b);
    for (let k = 0; k < 4; k++) expect(b[k]).toBeCloseTo(a[k]!, 12);
  });
});

test('a camera that moves to the side moves the picture by focal over depth', async () => {
  const d = await draw({ view: camera, next: lookingFrom([0.1, 0, 3]), drawn: [thing('card', stands([0, 0, 0], [0, 0, 0], [9, 9, 9]))] });
  expect(at(d.motion[0]!, 40, 30)).toBeCloseTo(-3, 4);
  expect(at(d.motion[1]!, 40, 30)).toBeCloseTo(0, 4);
});

test('a catcher gives the shadow alone, and its mirror where that is seen', async () => {
  const kernels = await nodeKernels();
  const view = lookingFrom([0, 1, 4]);
  const towards: Vec3 = [0, 1, -0.4];
  const box = thing('box', stands([0, 0.5, 0]));
  const shadow = ShadowMap.ofSun(kernels, [box], towards, 512, 0.5);
  const floor = thing(
    'card',
    stands([0, 0, 0], [-90, 0, 0], [40, 40, 1]),
    { alpha: 'blend' },
    { catcher: { shadow: 0.5, shadowColour: [0, 0, 0], mirror: 1 }, casts: false },
  );
  const planes = [0.3, 0.3, 0.3, 0.3].map((v) => new Float32Array(W * H).fill(v)) as never;
  const d = await draw({
    view,
    drawn: [floor],
    lights: [sun(towards, { shadow })],
    mirrors: new Map([[floor, { x0: 0, y0: 0, width: W, planes }]]),
  });
  // Before the box its shadow falls towards the camera.
  const dark = Math.max(...d.shadow);
  expect(dark).toBeCloseTo(0.5, 2);
  const i = d.shadow.indexOf(dark);
  expect(d.a[i]).toBeCloseTo(d.mirror[3]![i]! + dark * (1 - d.mirror[3]![i]!), 5);
  // Schlick's law: the more it is seen along, the more it mirrors.
  expect(d.mirror[0]![38 * W + 5]!).toBeGreaterThan(2 * d.mirror[0]![60 * W + 5]!);
});

test('the same pixels each time, to the bit', async () => {
  const list = [thing('ball', stands([0.2, 0, 0])), thing('box', stands([-0.6, 0, 0.2], [10, 20, 30]))];
  const [a, b] = [
    await draw({ view: camera, drawn: list, lights: [sun([1, 1, 1])] }),
    await draw({ view: camera, drawn: list, lights: [sun([1, 1, 1])] }),
  ];
  expect(Buffer.from(a.r.buffer).equals(Buffer.from(b.r.buffer))).toBe(true);
});
