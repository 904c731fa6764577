import { nodeKernels } from '@/engine/node/host';
import type { Kernels, Plane } from '@/kernels';
import type { Vec3 } from '../geometry/vec3';
import { along3, dot3, scale3, unit3 } from '../geometry/vec3';
import type { RenderCamera } from './camera';
import { fitCamera, plainCamera, project, unproject } from './camera';
import { environmentLight } from './environment';
import { guessPasses } from './guess';
import { occlusionOf } from './occlusion';
import type { SurfacePasses } from './positions';
import { normalsOf, readSurface, signsOf, surfaceChannels, surfacePasses } from './positions';
import type { PassFacts, RoledPass } from './roles';
import type { LitSurface } from './shading';
import { addLampLight } from './shading';

const [W, H] = [80, 60];
const format = { width: W, height: H, pixelAspect: 1 };
const region = { x0: 0, y0: 0, x1: W, y1: H };
const EYE: Vec3 = [0.5, 1.2, 4];
/** Turned a little to the left and down. */
const camera: RenderCamera = (() => {
  const forward = unit3([-0.1, -0.25, -1]);
  const right = unit3([1, 0, -0.1]);
  const down = unit3(along3([0, -1, 0], forward, -dot3([0, -1, 0], forward)));
  const squared = unit3(along3(right, forward, -dot3(right, forward)));
  return { focal: 90, centre: [W / 2, H / 2], eye: EYE, right: unit3(along3(squared, down, -dot3(squared, down))), down, forward };
})();
const BALL: Vec3 = [0, 0.6, 0];
const RADIUS = 0.6;

/** A ball on a floor at height 0, nothing farther than 9 units: what each pixel's ray meets. */
function scene() {
  const n = W * H;
  const plane = (): Float32Array => new Float32Array(n);
  const [x, y, z, distance, alpha] = [plane(), plane(), plane(), plane().fill(Infinity), plane()];
  const normals = [plane(), plane(), plane()];
  for (let i = 0; i < n; i++) {
    const way = along3(unproject(camera, (i % W) + 0.5, Math.floor(i / W) + 0.5, 1), camera.eye, -1);
    const to = along3(camera.eye, BALL, -1);
    const [a, b, c] = [dot3(way, way), dot3(way, to), dot3(to, to) - RADIUS * RADIUS];
    const root = b * b - a * c;
    const floor = way[1] < 0 ? -camera.eye[1] / way[1] : Infinity;
    const ball = root > 0 ? (-b - Math.sqrt(root)) / a : Infinity;
    const t = Math.min(floor, ball);
    if (!(t < 9)) continue;
    const at = along3(camera.eye, way, t);
    const normal: Vec3 = ball < floor ? scale3(along3(at, BALL, -1), 1 / RADIUS) : [0, 1, 0];
    [x[i], y[i], z[i], distance[i], alpha[i]] = [...at, t, 1];
    normals.forEach((p, k) => (p[i] = normal[k]!));
  }
  return { x, y, z, distance, alpha, normals };
}
const truth = scene();
const solid = [...truth.alpha.keys()].filter((i) => truth.alpha[i] === 1);
const take = (n: number): Float32Array => new Float32Array(n);
const middle = (list: number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]!;

describe('a render’s camera', () => {
  test('shows a place where it is, and what it shows there at that distance is the place', () => {
    const p: Vec3 = [0.3, 0.8, -1];
    const [u, v, d] = project(camera, p);
    unproject(camera, u, v, d).forEach((c, i) => expect(c).toBeCloseTo(p[i]!, 9));
    expect(plainCamera(50, format)).toMatchObject({ eye: [0, 0, 0], forward: [0, 0, -1], centre: [40, 30] });
  });

  test('is found from the positions that it saw, to a thousandth', () => {
    const found = fitCamera(truth, region, format)!;
    expect(found.rms).toBeLessThan(0.01);
    expect(found.camera.focal / camera.focal).toBeCloseTo(1, 3);
    found.camera.eye.forEach((v, i) => expect(v).toBeCloseTo(EYE[i]!, 2));
    expect(dot3(found.camera.forward, camera.forward)).toBeCloseTo(1, 5);
  });

  test('is none of positions that no camera sees so, nor of too few', () => {
    const mixed = truth.x.map((_, i) => truth.x[(i * 37) % truth.x.length]!);
    expect(fitCamera({ ...truth, x: mixed }, region, format)).toBeNull();
    expect(fitCamera({ x: truth.x.map(() => 0), y: truth.y.map(() => 0), z: truth.z.map(() => 0) }, region, format)).toBeNull();
  });
});

describe('where each pixel’s surface is', () => {
  const channels = { position: ['P.X', 'P.Y', 'P.Z'], normal: ['N.X', 'N.Y', 'N.Z'], depth: ['Z'] };
  const pass = (role: 'position' | 'normal' | 'depth', facts?: PassFacts): RoledPass => ({
    name: channels[role][0]!.split('.')[0]!,
    kind: role,
    role,
    channels: channels[role],
    ...(facts && { facts }),
  });
  const planes = {
    A: truth.alpha,
    'P.X': truth.x,
    'P.Y': truth.y,
    'P.Z': truth.z,
    'N.X': truth.normals[0]!,
    'N.Y': truth.normals[1]!,
    'N.Z': truth.normals[2]!,
    Z: truth.distance,
  };
  const lens = { focal: (36 * camera.focal) / W, filmWidth: 36 };
  const read = (passes: SurfacePasses, more: Record<string, Float32Array> = {}) =>
    readSurface(passes, { ...planes, ...more }, region, format, lens, take);

  test('positions give it, with its distance along the view', () => {
    const s = read({ position: pass('position'), depth: pass('depth'), normal: pass('normal') });
    expect(s.placed).toBe(true);
    expect(Math.max(...solid.map((i) => Math.abs(s.distance[i]! / truth.distance[i]! - 1)))).toBeLessThan(2e-3);
    expect([...s.distance].filter((d) => d === Infinity)).toHaveLength(W * H - solid.length);
    expect(s.normals![1]).toEqual(truth.normals[1]);
  });

  test('axes that are turned are turned back; packed normals are unpacked, and made one long', () => {
    const s = read(
      { position: pass('position', { turned: 'xz' }), normal: pass('normal', { packed: true }) },
      {
        'P.X': truth.x.map((v) => -v),
        'P.Z': truth.z.map((v) => -v),
        ...Object.fromEntries(['X', 'Y', 'Z'].map((c, k) => [`N.${c}`, truth.normals[k]!.map((v) => 0.5 + 0.3 * v)])),
      },
    );
    expect([signsOf({ turned: 'xz' }), signsOf()]).toEqual([
      [-1, 1, -1],
      [1, 1, 1],
    ]);
    solid.forEach((i) => {
      expect(Math.abs(s.x[i]! - truth.x[i]!)).toBe(0);
      expect(Math.abs(s.normals![1][i]! - truth.normals[1]![i]!)).toBeLessThan(1e-5);
    });
  });

  test('depth and the lens give it too, in the camera’s own axes', () => {
    const s = read({ depth: pass('depth') });
    for (const i of solid) {
      const seen = along3([truth.x[i]!, truth.y[i]!, truth.z[i]!], EYE, -1);
      expect(Math.abs(s.x[i]! - dot3(seen, camera.right))).toBeLessThan(1e-4);
      expect(Math.abs(s.y[i]! + dot3(seen, camera.down))).toBeLessThan(1e-4);
      expect(s.z[i]).toBeCloseTo(-truth.distance[i]!, 5);
    }
  });

  test('its normals are had from it, where the render gives none', () => {
    const s = read({ position: pass('position') });
    const n = normalsOf(s, W, take);
    const turn = solid.map((i) => [0, 1, 2].reduce((sum, k) => sum + n[k]![i]! * truth.normals[k]![i]!, 0));
    expect(middle(turn)).toBeGreaterThan(0.999);
    expect(turn.filter((c) => c > 0.9).length / turn.length).toBeGreaterThan(0.95);
    expect(n[0][truth.alpha.indexOf(0)]).toBe(0);
  });

  test('passes are found by their names or roles, and only their channels are read', () => {
    const main = { passes: [pass('depth'), pass('normal')] } as never;
    const found = surfacePasses(main, { focal: 35, filmWidth: 36 });
    expect([found.position, found.depth?.name, found.normal?.name]).toEqual([undefined, 'Z', 'N']);
    expect(surfaceChannels(found)).toEqual(['Z', 'N.X', 'N.Y', 'N.Z']);
    expect(surfaceChannels({})).toEqual([]);
  });

  test('a guess by the numbers says what they are: world, along the view, one long', () => {
    const names = ['R', 'G', 'B', 'A', 'Z', 'P.X', 'P.Y', 'P.Z', 'vec.X', 'vec.Y', 'vec.Z'];
    const frame = {
      bounds: region,
      format,
      channels: names,
      planes: {
        ...planes,
        R: truth.alpha,
        G: truth.alpha,
        B: truth.alpha,
        'vec.X': planes['N.X'],
        'vec.Y': planes['N.Y'],
        'vec.Z': planes['N.Z'],
      },
    };
    const notes = guessPasses(frame as never);
    expect(notes.P).toMatchObject({ role: 'position', facts: { space: 'world' } });
    expect(notes.Z).toMatchObject({ role: 'depth', facts: { along: 'view', as: 'distance' } });
    expect(notes.vec).toMatchObject({ role: 'normal' });
    const ray = truth.distance.map((d, i) =>
      d < Infinity ? Math.hypot(...along3([truth.x[i]!, truth.y[i]!, truth.z[i]!], EYE, -1)) : Infinity,
    );
    expect(guessPasses({ ...frame, planes: { ...frame.planes, Z: ray } } as never).Z).toMatchObject({ facts: { along: 'ray' } });
  });
});

describe('light set into a render', () => {
  let kernels: Kernels;
  beforeAll(async () => {
    kernels = await nodeKernels();
  });
  const lamp = { kind: 'sun', at: [0, 1, 0], aim: [0, 0, 0], light: [1, 1, 1], radius: 0.1, cone: 40, soft: 0.2, shadow: false } as const;
  const shading = { thick: 0.5, steps: 48, gloss: 0, roughness: 0.5, reflectance: 0.04 };
  const lit = (more: Partial<Parameters<typeof addLampLight>[4]>): Float32Array => {
    const own: Plane[] = [];
    const keep = (v: Float32Array): Plane => {
      const p = kernels.copy(v);
      own.push(p);
      return p;
    };
    const white = truth.alpha.map((a) => a);
    const surface: LitSurface = {
      camera,
      placed: true,
      x: keep(truth.x),
      y: keep(truth.y),
      z: keep(truth.z),
      distance: keep(truth.distance),
      stands: keep(truth.distance),
      normals: truth.normals.map(keep) as unknown as LitSurface['normals'],
      albedo: [keep(white), keep(white), keep(white)],
      alpha: keep(truth.alpha),
    };
    const light = [0, 1, 2].map(() => keep(new Float32Array(W * H))) as unknown as [Plane, Plane, Plane];
    addLampLight(kernels, surface, W, region, { ...lamp, ...more }, shading, light, () => undefined);
    const out = light[0].slice();
    own.forEach((p) => kernels.give(p));
    return out;
  };
  const onFloor = solid.filter((i) => truth.normals[1]![i] === 1);

  test('a sun overhead lights the floor as much as it says, and the ball as it faces it', () => {
    const light = lit({});
    onFloor.forEach((i) => expect(light[i]).toBeCloseTo(1, 4));
    solid.filter((i) => truth.normals[1]![i]! < 1).forEach((i) => expect(light[i]).toBeCloseTo(Math.max(0, truth.normals[1]![i]!), 4));
  });

  test('a lamp falls off by the square of its distance', () => {
    const at: Vec3 = [0.5, 2, 1.5];
    const light = lit({ kind: 'point', at, light: [3, 3, 3] });
    for (const i of onFloor.filter((_, k) => k % 40 === 0)) {
      const way = along3(at, [truth.x[i]!, truth.y[i]!, truth.z[i]!], -1);
      const d = Math.hypot(...way);
      expect(light[i]! / ((3 * (way[1] / d)) / (d * d))).toBeCloseTo(1, 2);
    }
  });

  test('a spot lights its cone, and nothing beyond it', () => {
    const at: Vec3 = [0.5, 2, 1.5];
    const light = lit({ kind: 'spot', at, aim: [0.5, 0, 1.5], light: [3, 3, 3], cone: 25, soft: 0 });
    for (const i of onFloor) {
      const way = along3([truth.x[i]!, truth.y[i]!, truth.z[i]!], at, -1);
      const angle = (Math.acos(-way[1] / Math.hypot(...way)) * 180) / Math.PI;
      if (angle > 26) expect(light[i]).toBe(0);
      if (angle < 24) expect(light[i]).toBeGreaterThan(0.1);
    }
  });

  test('the ball throws its shadow where the sun’s rays put it', () => {
    const towards = unit3([1, 1, 0.3]);
    const light = lit({ at: towards, shadow: true });
    let inside = 0;
    for (const i of onFloor) {
      // The nearest that the ray to the sun comes to the ball's middle.
      const to = along3(BALL, [truth.x[i]!, truth.y[i]!, truth.z[i]!], -1);
      const off = Math.hypot(...along3(to, towards, -dot3(to, towards)));
      if (dot3(to, towards) > 0 && off < 0.75 * RADIUS && light[i]! < 0.2) inside++;
      if (off > 1.3 * RADIUS) expect(light[i]).toBeGreaterThan(0.5);
    }
    // Of the ball only its near side is known, so that some of the rays pass behind it: none is held back where there is nothing.
    expect(inside).toBeGreaterThan(10);
  });

  test('places where things meet are darker, open ones are not', () => {
    const s = { ...truth, camera, placed: true, normals: truth.normals as unknown as [Float32Array, Float32Array, Float32Array] };
    const open = occlusionOf(s, W, { radius: 0.5, strength: 1, directions: 16 }, take, () => undefined);
    const at = (p: Vec3): number => {
      const [across, downward] = project(camera, p);
      return open[Math.floor(downward) * W + Math.floor(across)]!;
    };
    expect(at([1.4, 0, 0.6])).toBeGreaterThan(0.97);
    expect(at([0.25, 0, 0.32])).toBeLessThan(0.85);
    expect(open[truth.alpha.indexOf(0)]).toBe(1);
  });

  test('an even sky is 1 on white, and a sky of two halves lights what faces it', () => {
    const [w, h] = [64, 32];
    const sky = (lit2: (y: number) => number) => {
      const p = Float32Array.from({ length: w * h }, (_, i) => lit2(Math.floor(i / w)));
      return environmentLight(
        { region: { x0: 0, y0: 0, x1: w, y1: h }, planes: { R: p, G: p, B: p } } as never,
        { width: w, height: h, pixelAspect: 1 },
        0,
      );
    };
    sky(() => 1)([0.6, 0.8, 0]).forEach((v) => expect(v).toBeCloseTo(1, 2));
    const above = sky((y) => (y < h / 2 ? 2 : 0));
    expect(above([0, 1, 0])[0]).toBeCloseTo(2, 1);
    expect(above([1, 0, 0])[0]).toBeCloseTo(1, 1);
    expect(above([0, -1, 0])[0]).toBeLessThan(0.1);
  });
});
