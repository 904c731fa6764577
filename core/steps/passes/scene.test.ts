import type { Param } from '../../document/types';
import { fitCamera, project, unproject } from '../../passes/camera';
import type { RenderCamera } from '../../passes/camera';
import { environmentLight } from '../../passes/environment';
import type { Filling, TestPicture, TestStep } from '../../testing/evaluate';
import { evaluate, flat } from '../../testing/evaluate';

const [W, H] = [96, 64];
const camera: RenderCamera = {
  focal: 90,
  centre: [W / 2, H / 2],
  eye: [0.4, 1.2, 5],
  right: [1, 0, 0],
  down: [0, -1, 0],
  forward: [0, 0, -1],
};
/** A room: a floor at y = 0 and a wall at z = −2, seen by the camera. */
function roomAt(x: number, y: number): { at: [number, number, number]; normal: [number, number, number]; z: number } {
  const near = unproject(camera, x + 0.5, y + 0.5, 1);
  const dir = near.map((v, i) => v - camera.eye[i]!) as [number, number, number];
  const [floor, wall] = [-camera.eye[1] / dir[1], (-2 - camera.eye[2]) / dir[2]];
  const t = dir[1] < 0 && floor < wall ? floor : wall;
  return { at: camera.eye.map((v, i) => v + t * dir[i]!) as [number, number, number], normal: t === floor ? [0, 1, 0] : [0, 0, 1], z: t };
}
const room = (more: Filling = {}): TestPicture => ({
  width: W,
  height: H,
  fill: {
    R: 0.2,
    G: 0.2,
    B: 0.2,
    A: 1,
    Z: (x, y) => roomAt(x, y).z,
    'P.X': (x, y) => roomAt(x, y).at[0],
    'P.Y': (x, y) => roomAt(x, y).at[1],
    'P.Z': (x, y) => roomAt(x, y).at[2],
    'N.X': (x, y) => roomAt(x, y).normal[0],
    'N.Y': (x, y) => roomAt(x, y).normal[1],
    'N.Z': (x, y) => roomAt(x, y).normal[2],
    'albedo.R': 0.5,
    'albedo.G': 0.5,
    'albedo.B': 0.5,
    ...more,
  },
});
const step = (type: string, params: Record<string, unknown> = {}, more: Partial<TestStep> = {}): TestStep => ({
  type,
  params: params as Record<string, Param>,
  ...more,
});

describe('the camera of positions', () => {
  const planes = (() => {
    const [x, y, z] = [new Float32Array(W * H), new Float32Array(W * H), new Float32Array(W * H)];
    for (let i = 0; i < W * H; i++) [x[i], y[i], z[i]] = roomAt(i % W, Math.floor(i / W)).at;
    return { x, y, z };
  })();
  const region = { x0: 0, y0: 0, x1: W, y1: H };
  const format = { width: W, height: H, pixelAspect: 1 };

  test('is found where it stands', () => {
    const found = fitCamera(planes, region, format)!;
    expect(found.rms).toBeLessThan(0.01);
    expect(found.camera.focal).toBeCloseTo(90, 1);
    found.camera.eye.forEach((v, i) => expect(v).toBeCloseTo(camera.eye[i]!, 2));
    const there = unproject(found.camera, 30, 20, 4);
    const back = project(found.camera, there);
    [30, 20, 4].forEach((v, i) => expect(back[i]).toBeCloseTo(v, 6));
  });

  test('is none where positions are of nothing', () => {
    const noise = new Float32Array(W * H).map(
      (_, i) => Math.sin(i * 12.9898) * 43758.5453 - Math.floor(Math.sin(i * 12.9898) * 43758.5453),
    );
    expect(fitCamera({ x: noise, y: noise.slice().reverse(), z: noise.map((v) => v * v) }, region, format)).toBeNull();
    expect(fitCamera({ x: noise.fill(NaN), y: noise, z: noise }, region, format)).toBeNull();
  });
});

describe('relight', () => {
  const lamp = (params: Record<string, unknown>): TestStep =>
    step('relight', {
      lamps: [{ id: 'a', name: 'a' }],
      gives: 'light',
      ...Object.fromEntries(Object.entries(params).map(([k, v]) => [`a.${k}`, v])),
    });
  const at: [number, number, number] = [0, 1, 0];

  test('a point lamp falls off with the square of its distance, and by the cosine', async () => {
    const got = await evaluate({ main: room() }, [lamp({ at, shadow: false, radius: 0 })]);
    for (const [x, y] of [
      [48, 60],
      [20, 50],
    ] as const) {
      const { at: p, normal } = roomAt(x, y);
      const d = at.map((v, i) => v - p[i]!);
      const length = Math.hypot(...d);
      const cosine = d.reduce((s, v, i) => s + v * normal[i]!, 0) / length;
      expect(got.at('R', x, y)).toBeCloseTo((0.5 * Math.max(0, cosine)) / length ** 2, 3);
    }
  });

  test('the sun is everywhere the same, and a spot lights its circle', async () => {
    const sun = await evaluate({ main: room() }, [lamp({ kind: 'sun', at: [0, 1, 0], shadow: false })]);
    expect(sun.at('R', 48, 60)).toBeCloseTo(0.5, 4);
    expect(sun.at('R', 48, 2)).toBeCloseTo(0, 5);
    const spot = await evaluate({ main: room() }, [lamp({ kind: 'spot', at, aim: [0, 0, 0], cone: 20, shadow: false })]);
    const lit = (x: number, y: number): boolean => spot.at('R', x, y) > 0.01;
    const spotAt = project(camera, [0, 0, 0]).map(Math.floor) as [number, number];
    expect(lit(...spotAt)).toBe(true);
    expect(lit(4, 60)).toBe(false);
  });

  test('what stands between throws a shadow', async () => {
    // A post before the wall: a stripe of pixels that is nearer.
    const post = (x: number, y: number): boolean => x >= 40 && x < 44 && y < 40;
    const placeOf = (x: number, y: number) => (post(x, y) ? unproject(camera, x + 0.5, y + 0.5, 5) : roomAt(x, y).at);
    const main = room({
      Z: (x, y) => (post(x, y) ? 5 : roomAt(x, y).z),
      'P.X': (x, y) => placeOf(x, y)[0],
      'P.Y': (x, y) => placeOf(x, y)[1],
      'P.Z': (x, y) => placeOf(x, y)[2],
      'N.Z': (x, y) => (post(x, y) ? 1 : roomAt(x, y).normal[2]),
      'N.Y': (x, y) => (post(x, y) ? 0 : roomAt(x, y).normal[1]),
    });
    const open = await evaluate({ main }, [lamp({ at: [-1.6, 1.3, 1.5], shadow: false })]);
    const shaded = await evaluate({ main }, [lamp({ at: [-1.6, 1.3, 1.5] })]);
    let [dark, changed] = [0, 0];
    for (let x = 44; x < W; x++) {
      if (open.at('R', x, 20) > 0.005 && shaded.at('R', x, 20) === 0) dark++;
      if (x > 80 && Math.abs(open.at('R', x, 20) - shaded.at('R', x, 20)) > 1e-6) changed++;
    }
    expect(dark).toBeGreaterThan(2);
    expect(changed).toBe(0);
  });

  test('white all around gives each surface its albedo, whichever way it looks', async () => {
    const white = flat(16, 8, 1);
    const got = await evaluate({ main: room(), around: white }, [
      step('relight', { gives: 'light' }, { taps: { surround: { lane: 'around' } } }),
    ]);
    for (const y of [4, 60]) expect(got.at('R', 40, y)).toBeCloseTo(0.5, 2);
    const planes = { R: new Float32Array(128), G: new Float32Array(128), B: new Float32Array(128) };
    // Light from above only.
    planes.R.fill(1, 0, 64);
    const light = environmentLight({ region: { x0: 0, y0: 0, x1: 16, y1: 8 }, planes }, { width: 16, height: 8, pixelAspect: 1 }, 0);
    expect(light([0, 1, 0])[0]).toBeCloseTo(1, 1);
    expect(light([0, -1, 0])[0]).toBeCloseTo(0, 1);
    expect(light([1, 0, 0])[0]).toBeCloseTo(0.5, 1);
  });

  test('normals of the camera, and packed ones, light as those of the world do', async () => {
    const tilted = { kind: 'sun', at: [0.3, 1, 0.6], shadow: false };
    const wanted = await evaluate({ main: room() }, [lamp(tilted)]);
    // The room's camera looks along −z: its axes are the world's.
    const camera: TestPicture = { ...room(), passes: { N: { role: 'normal', facts: { space: 'camera' } } } };
    const packed: TestPicture = {
      ...room(Object.fromEntries(['X', 'Y', 'Z'].map((c, i) => [`N.${c}`, (x: number, y: number) => 0.5 + 0.5 * roomAt(x, y).normal[i]!]))),
      passes: { N: { role: 'normal', facts: { packed: true } } },
    };
    for (const main of [camera, packed]) {
      const got = await evaluate({ main }, [lamp(tilted)]);
      for (const y of [3, 60]) expect(got.at('R', 40, y)).toBeCloseTo(wanted.at('R', 40, y), 3);
    }
    // Normals of the world beside positions of the camera say nothing: those of the surface are taken.
    const mixed: TestPicture = {
      ...room({ 'N.X': 1, 'N.Y': 0, 'N.Z': 0 }),
      passes: { P: { role: 'position', facts: { space: 'camera' } }, N: { role: 'normal', facts: { space: 'world' } } },
    };
    expect((await evaluate({ main: mixed }, [lamp(tilted)])).at('R', 40, 60)).toBeCloseTo(wanted.at('R', 40, 60), 2);
  });

  test('times 1 + light makes what is there brighter, alpha counted', async () => {
    const half = room({ A: 0.5, R: 0.1, 'albedo.R': 0.25 });
    const light = await evaluate({ main: half }, [lamp({ at, shadow: false })]);
    const step_ = lamp({ at, shadow: false });
    const got = await evaluate({ main: half }, [{ ...step_, params: { ...step_.params, gives: 'ratio' } }]);
    expect(got.at('R', 48, 60)).toBeCloseTo(0.1 * (1 + light.at('R', 48, 60) / 0.5), 5);
  });

  test('unnormalised normals and holes in the data do no harm', async () => {
    const odd = room({ 'N.X': 0, 'N.Y': (_, y) => (y < 10 ? NaN : 40), 'N.Z': 0, 'P.X': (x, y) => (x < 4 ? NaN : roomAt(x, y).at[0]) });
    const got = await evaluate({ main: odd }, [lamp({ at, shadow: true })]);
    for (const plane of Object.values(got.planes)) expect(plane.every(Number.isFinite)).toBe(true);
    expect(got.at('R', 48, 60)).toBeGreaterThan(0.01);
  });
});

describe('mattes by position', () => {
  const [ox, oy] = project(camera, [0, 0, 0]).map(Math.floor) as [number, number];
  const matte = async (params: Record<string, unknown>, picture = room()) =>
    evaluate({ main: picture }, [step('positionMatte', { soft: 0, ...params })]);

  test('a sphere is round in the scene', async () => {
    const got = await matte({ radius: 0.5 });
    for (let y = 0; y < H; y += 3) {
      for (let x = 0; x < W; x += 3) expect(got.at('A', x, y)).toBe(Math.hypot(...roomAt(x, y).at) <= 0.5 ? 1 : 0);
    }
    expect(got.at('A', ox, oy)).toBe(1);
  });

  test('a box, a slab, and what is in front of a point', async () => {
    const box = await matte({ shape: 'box', size: [1, 1, 1] });
    const slab = await matte({ shape: 'slab', thick: 0.5, direction: [0, 1, 0] });
    const front = await matte({ shape: 'front', centre: [0, 0, 0] });
    for (let y = 1; y < H; y += 5) {
      for (let x = 1; x < W; x += 5) {
        const { at, z } = roomAt(x, y);
        expect(box.at('A', x, y)).toBe(at.every((c) => Math.abs(c) <= 0.5) ? 1 : 0);
        expect(slab.at('A', x, y)).toBe(Math.abs(at[1]) <= 0.25 ? 1 : 0);
        if (Math.abs(z - 5) > 0.02) expect(front.at('A', x, y)).toBe(z < 5 ? 1 : 0);
      }
    }
  });

  test('turned axes of the pass are turned back', async () => {
    const turned: TestPicture = {
      ...room({ 'P.Z': (x, y) => -roomAt(x, y).at[2] }),
      passes: { P: { role: 'position', facts: { turned: 'z' } } },
    };
    const [was, is] = [await matte({ centre: [0, 0, -1.5], radius: 0.8 }), await matte({ centre: [0, 0, -1.5], radius: 0.8 }, turned)];
    expect(is.planes.A).toEqual(was.planes.A);
    expect(was.planes.A!.some((v) => v > 0)).toBe(true);
  });

  test('without positions they are made of the depth and the lens', async () => {
    const { fill } = room();
    const bare = Object.fromEntries(Object.entries(fill).filter(([c]) => !/^[PN]\./.test(c)));
    const lens = { focal: 90, filmWidth: 96 };
    // In the camera's own axes.
    const centre = [-camera.eye[0], -camera.eye[1], -camera.eye[2]];
    const got = await matte({ radius: 0.5, centre, ...lens }, { width: W, height: H, fill: bare });
    expect(got.at('A', ox, oy)).toBe(1);
    expect(got.at('A', 2, 2)).toBe(0);
  });
});

describe('passes that a render lacks', () => {
  test('normals of depth are those of the room', async () => {
    const { fill } = room();
    const bare = Object.fromEntries(Object.entries(fill).filter(([c]) => !/^N\./.test(c)));
    const got = await evaluate({ main: { width: W, height: H, fill: bare } }, [step('normalsFromDepth')], {
      channels: ['N.X', 'N.Y', 'N.Z'],
    });
    for (const [x, y] of [
      [50, 60],
      [30, 5],
      [80, 50],
    ] as const)
      ['N.X', 'N.Y', 'N.Z'].forEach((c, i) => expect(got.at(c, x, y)).toBeCloseTo(roomAt(x, y).normal[i]!, 2));
  });

  test('a corner is darker than an open wall', async () => {
    const got = await evaluate({ main: room() }, [step('occlusionFromDepth', { radius: 1, gives: 'occlusion' })]);
    let corner = 0;
    while (roomAt(48, corner).normal[2] === 1) corner++;
    const mean = (y: number): number => [...Array(40).keys()].reduce((s, x) => s + got.at('R', 28 + x, y), 0) / 40;
    expect(mean(corner - 1)).toBeLessThan(0.9);
    expect(mean(3)).toBeCloseTo(1, 1);
  });
});

describe('join by depth', () => {
  const back = room({ Z: 10 });
  const front = (z: number): TestPicture => ({
    width: W,
    height: H,
    fill: { R: (x) => (x < 48 ? 0.9 : 0), G: 0, B: 0, A: (x) => (x < 48 ? 1 : 0), Z: z, 'motion.X': 3, 'motion.Y': 0 },
  });
  test('what is nearer is in front, and its data go along', async () => {
    const channels = ['R', 'A', 'Z', 'motion.X'];
    const near = await evaluate({ main: back, front: front(4) }, [step('joinDepth', {}, { feeds: ['front'] })], { channels });
    expect([10, 60].map((x) => near.at('R', x, 9))).toEqual([Math.fround(0.9), Math.fround(0.2)]);
    expect([10, 60].map((x) => near.at('Z', x, 9))).toEqual([4, 10]);
    expect([10, 60].map((x) => near.at('motion.X', x, 9))).toEqual([3, 0]);
    const far = await evaluate({ main: back, front: front(40) }, [step('joinDepth', {}, { feeds: ['front'] })], { channels });
    expect(far.at('R', 10, 9)).toBeCloseTo(0.2, 6);
    expect(far.at('Z', 10, 9)).toBe(10);
  });

  test('a plate without depth stands where it is told', async () => {
    const got = await evaluate({ main: flat(W, H, 0.3), front: front(4) }, [step('joinDepth', { backDepth: 12 }, { feeds: ['front'] })], {
      channels: ['Z', 'R'],
    });
    expect([10, 60].map((x) => got.at('Z', x, 9))).toEqual([4, 12]);
  });
});

describe('textures laid anew', () => {
  const uv = (fill: Filling = {}): TestPicture => ({
    width: W,
    height: H,
    fill: {
      R: 0.1,
      G: 0.1,
      B: 0.1,
      A: 1,
      'uv.U': (x) => (x + 0.5) / W,
      'uv.V': (_, y) => 1 - (y + 0.5) / H,
      'albedo.R': 0.5,
      'albedo.G': 0.5,
      'albedo.B': 0.5,
      ...fill,
    },
  });
  const texture: TestPicture = { width: W, height: H, fill: { R: (x) => x / W, G: (_, y) => y / H, B: 0.2, A: 1 } };
  const lay = (params: Record<string, unknown> = {}): TestStep => step('uvTexture', params, { taps: { texture: { lane: 'texture' } } });

  test('coordinates that are the frame’s own give the picture back', async () => {
    const got = await evaluate({ main: uv(), texture }, [lay({ shading: 'none' })]);
    for (const [x, y] of [
      [20, 30],
      [70, 10],
    ] as const) {
      expect(got.at('R', x, y)).toBeCloseTo(x / W, 2);
      expect(got.at('G', x, y)).toBeCloseTo(y / H, 2);
    }
  });

  test('the light stays: new albedo over old', async () => {
    const got = await evaluate({ main: uv(), texture: flat(8, 8, 0.25) }, [lay({ shading: 'all' })]);
    expect(got.at('R', 40, 30)).toBeCloseTo(0.1 * (0.25 / 0.5), 4);
  });

  test('a texture that is far away is a mean, not a flicker', async () => {
    const checks: TestPicture = { width: 64, height: 64, fill: { R: (x, y) => (x + y) % 2, G: 0, B: 0, A: 1 } };
    const got = await evaluate({ main: uv(), texture: checks }, [lay({ shading: 'none', repeat: [16, 16] })]);
    for (let x = 20; x < 60; x += 7) expect(got.at('R', x, 30)).toBeCloseTo(0.5, 1);
  });

  test('from above by position', async () => {
    const ground = room();
    const stripes: TestPicture = { width: 64, height: 64, fill: { R: (x) => (x < 32 ? 1 : 0), G: 0, B: 0, A: 1 } };
    const got = await evaluate({ main: ground, texture: stripes }, [lay({ by: 'above', shading: 'none', repeat: [0.25, 0.25] })]);
    for (const x of [16, 40, 66, 84]) {
      const u = (((roomAt(x, 60).at[0] * 0.25) % 1) + 1) % 1;
      if (Math.abs(u - 0.5) > 0.05 && u > 0.05 && u < 0.95) expect(got.at('R', x, 60)).toBeCloseTo(u < 0.5 ? 1 : 0, 1);
    }
  });
});
