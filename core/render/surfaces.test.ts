import type { Vec3 } from '../geometry/vec3';
import { cross3, dot3, unit3 } from '../geometry/vec3';
import { random } from '../random';
import { near } from '../testing/near';
import { IDENTITY_A3, determinantA3, inverseA3, multiplyA3, normalsA3, placedA3, pointA3, quaternionOfDegrees, vectorA3 } from './affine';
import { Environment } from './environment';
import type { Mesh } from './mesh';
import { boxOf, flatShaded, trianglesOf } from './mesh';
import { seenBox } from './seen-box';
import { ballMesh, boxMesh, cardMesh } from './shapes';
import type { View } from './screen';
import { seenBy } from './screen';
import { splitSum } from './split-sum';
import { Texture } from './texture';

const at = (list: Float32Array, i: number): Vec3 => [list[3 * i]!, list[3 * i + 1]!, list[3 * i + 2]!];

describe('a place in space', () => {
  const m = placedA3([3, -1, 2], quaternionOfDegrees([20, -50, 110]), [2, 0.5, -1.5]);

  test('turns about x first, then y, then z, each by the right hand', () => {
    const turned = (turn: Vec3, p: Vec3): readonly number[] => pointA3(placedA3([0, 0, 0], quaternionOfDegrees(turn), [1, 1, 1]), p);
    near(turned([90, 0, 0], [0, 1, 0]), [0, 0, 1]);
    near(turned([0, 90, 0], [0, 0, 1]), [1, 0, 0]);
    near(turned([0, 0, 90], [1, 0, 0]), [0, 1, 0]);
    near(turned([90, 90, 0], [0, 1, 0]), [1, 0, 0]);
  });

  test('stretches before it turns, and shifts last', () => {
    near(pointA3(placedA3([1, 2, 3], quaternionOfDegrees([0, 0, 90]), [2, 1, 1]), [1, 0, 0]), [1, 4, 3]);
    near(vectorA3(m, [0, 0, 0]), [0, 0, 0]);
  });

  test('its inverse takes it back; what flattens space has none', () => {
    near(multiplyA3(m, inverseA3(m)!), IDENTITY_A3);
    near(multiplyA3(inverseA3(m)!, m), IDENTITY_A3);
    expect(inverseA3(placedA3([0, 0, 0], [0, 0, 0, 1], [1, 0, 1]))).toBeNull();
  });

  test('its volume is that of its stretches, and a mirror turns it over', () => {
    expect(determinantA3(m)).toBeCloseTo(2 * 0.5 * -1.5, 12);
  });

  test('normals stay upright on what is stretched', () => {
    const [a, b]: [Vec3, Vec3] = [
      [1, 0.4, 0],
      [0, -0.2, 1],
    ];
    const n = cross3(a, b);
    const k = normalsA3(m);
    const there: Vec3 = [0, 1, 2].map((r) => k[3 * r]! * n[0] + k[3 * r + 1]! * n[1] + k[3 * r + 2]! * n[2]) as unknown as Vec3;
    expect(dot3(there, vectorA3(m, a))).toBeCloseTo(0, 9);
    expect(dot3(there, vectorA3(m, b))).toBeCloseTo(0, 9);
  });
});

/** Every triangle winds counter-clockwise about its own normal, and normals are one long. */
function isWhole({ positions, normals, indices }: Mesh): void {
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => at(positions, indices[t + k]!)) as [Vec3, Vec3, Vec3];
    const across = cross3([b[0] - a[0], b[1] - a[1], b[2] - a[2]], [c[0] - a[0], c[1] - a[1], c[2] - a[2]]);
    if (Math.hypot(...across) < 1e-9) continue;
    const n = at(normals, indices[t]!);
    expect(dot3(unit3(across), n)).toBeGreaterThan(0.5);
    expect(Math.hypot(...n)).toBeCloseTo(1, 5);
  }
}

describe('shapes', () => {
  test('a card faces +z, its picture upright', () => {
    const card = cardMesh(4, 2, 3, 2);
    isWhole(card);
    expect(trianglesOf(card)).toBe(12);
    expect(boxOf(card.positions)).toEqual([
      [-2, -1, 0],
      [2, 1, 0],
    ]);
    // The first vertex is the picture's top left.
    expect([at(card.positions, 0), [...card.uvs!.subarray(0, 2)]]).toEqual([
      [-2, 1, 0],
      [0, 0],
    ]);
  });

  test('bent, its width becomes an arc of the same length whose edges come forward', () => {
    const card = cardMesh(2, 1, 64, 1, 180);
    isWhole(card);
    const row = Array.from({ length: 65 }, (_, i) => at(card.positions, i));
    const length = row.slice(1).reduce((s, p, i) => s + Math.hypot(p[0] - row[i]![0], p[2] - row[i]![2]), 0);
    expect(length).toBeCloseTo(2, 3);
    expect(row[0]![2]).toBeGreaterThan(0.6);
    expect(row[32]![2]).toBeCloseTo(0, 6);
    near([row[0]![0]], [-row[64]![0]], 6);
  });

  test('lifted, it follows its picture, and its normals follow it', () => {
    const card = cardMesh(1, 1, 16, 16, 0, (u) => u);
    isWhole(card);
    card.positions.forEach((v, i) => i % 3 === 2 && expect(v).toBeCloseTo(card.positions[i - 2]! + 0.5, 6));
    near(at(card.normals, 40), unit3([-1, 0, 1]), 5);
  });

  test('a ball has radius ½ and the middle of its picture ahead, at −z; inward it is seen from inside', () => {
    const [ball, inside] = [ballMesh(), ballMesh(true)];
    [ball, inside].forEach(isWhole);
    for (let i = 0; i < ball.positions.length / 3; i++) {
      const p = at(ball.positions, i);
      expect(Math.hypot(...p)).toBeCloseTo(0.5, 6);
      expect(Math.sign(dot3(p, at(ball.normals, i)))).toBe(1);
      expect(Math.sign(dot3(p, at(inside.normals, i)))).toBe(-1);
      if (ball.uvs![2 * i] === 0.5 && ball.uvs![2 * i + 1] === 0.5) near(p, [0, 0, -0.5], 6);
    }
  });

  test('a box has six sides, each with the whole picture, and its normals point outward', () => {
    const box = boxMesh();
    isWhole(box);
    expect([trianglesOf(box), box.positions.length / 3]).toEqual([12, 36]);
    for (let i = 0; i < 36; i++) expect(dot3(at(box.positions, i), at(box.normals, i))).toBeCloseTo(0.5, 6);
    expect([Math.min(...box.uvs!), Math.max(...box.uvs!)]).toEqual([0, 1]);
  });

  test('flat shading gives each triangle its own corners, with colours and picture as they were', () => {
    const flat = flatShaded({
      positions: Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]),
      uvs: Float32Array.from([0, 0, 1, 0, 0, 1, 1, 1]),
      colours: Float32Array.from([1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1, 1, 1, 1, 0.5]),
      indices: Uint32Array.from([0, 1, 2, 0, 3, 1]),
    });
    isWhole(flat);
    near([...flat.normals.subarray(0, 3), ...flat.normals.subarray(9, 12)], [0, 0, 1, 0, 1, 0]);
    expect([...flat.uvs!.subarray(8, 10), ...flat.colours!.subarray(16, 20)]).toEqual([1, 1, 1, 1, 1, 0.5]);
    expect(boxOf(new Float32Array(0))).toBeNull();
  });
});

describe('where a thing may be seen', () => {
  const view: View = { matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0], focal: 100, centre: [50, 40] };
  const region = { x0: 0, y0: 0, x1: 100, y1: 80 };
  const card = cardMesh(1, 1, 1, 1);

  test('a place ahead lies by focal length over distance, y down', () => {
    expect(seenBy(view, [1, 2, -4])).toEqual([75, -10, 4]);
  });

  test('the box around it holds it, to a pixel more', () => {
    const box = seenBox(view, { mesh: card, matrix: placedA3([0, 0, -5], [0, 0, 0, 1], [1, 1, 1]) }, region);
    expect(box).toEqual({ x0: 39, y0: 29, x1: 61, y1: 51 });
  });

  test('is all of the region where it reaches behind the camera, and nothing where it lies beside', () => {
    expect(seenBox(view, { mesh: card, matrix: IDENTITY_A3 }, region)).toEqual(region);
    const beside = seenBox(view, { mesh: card, matrix: placedA3([40, 0, -5], [0, 0, 0, 1], [1, 1, 1]) }, region);
    expect(beside.x1 - beside.x0 <= 0 || beside.y1 - beside.y0 <= 0).toBe(true);
    expect(seenBox(view, { mesh: { ...card, positions: new Float32Array(0) }, matrix: IDENTITY_A3 }, region)).toEqual({
      x0: 0,
      y0: 0,
      x1: 0,
      y1: 0,
    });
  });
});

describe('a picture on a surface', () => {
  const to = new Float64Array(4);
  const flat = (w: number, h: number, of: (x: number, y: number) => readonly number[]): Float32Array =>
    Float32Array.from({ length: 4 * w * h }, (_, i) => of((i >> 2) % w, Math.floor((i >> 2) / w))[i & 3]!);
  const sample = (t: Texture, ...p: [number, number, number, number, number, number]): number[] => {
    t.sample(...p, to);
    return [...to];
  };

  test('at the middle of a pixel is that pixel, between two their mean', () => {
    const t = new Texture(
      4,
      2,
      flat(4, 2, (x, y) => [x, y, 0.5, 1]),
      false,
      true,
    );
    expect(sample(t, 1.5 / 4, 0.5 / 2, 0.1 / 4, 0, 0, 0.1 / 2)).toEqual([1, 0, 0.5, 1]);
    expect(sample(t, 2 / 4, 1 / 2, 0.1 / 4, 0, 0, 0.1 / 2)).toEqual([1.5, 0.5, 0.5, 1]);
    near(t.mean, [1.5, 0.5, 0.5, 1], 6);
  });

  test('beyond its edge it is nothing, or itself again', () => {
    const white = flat(4, 4, () => [1, 1, 1, 1]);
    const [alone, again] = [new Texture(4, 4, white, false, true), new Texture(4, 4, white, true, true)];
    expect(sample(alone, 0, 0.5, 0.01, 0, 0, 0.01)[3]).toBeCloseTo(0.5, 6);
    expect(sample(alone, -1, 0.5, 0.01, 0, 0, 0.01)[3]).toBe(0);
    expect(sample(again, -7.3, 12.1, 0.01, 0, 0, 0.01)).toEqual([1, 1, 1, 1]);
    // Of a picture all around, the pole is what lies next to it, not the other pole.
    const around = new Texture(
      4,
      4,
      flat(4, 4, (_, y) => [y, y, y, 1]),
      'around',
      true,
    );
    expect([sample(around, 0.1, 0, 0.01, 0, 0, 0.01)[0], sample(around, 0.1, 1, 0.01, 0, 0, 0.01)[0]]).toEqual([0, 3]);
  });

  test('from afar it is the mean of what the pixel covers, however long that is', () => {
    const t = new Texture(
      64,
      64,
      flat(64, 64, (x) => [x & 1, x & 1, x & 1, 1]),
      true,
      true,
    );
    for (const wide of [4, 16, 60]) expect(sample(t, 0.37, 0.5, wide / 64, 0, 0, wide / 64)[0]).toBeCloseTo(0.5, 2);
    // A pixel that is long across its stripes sees their mean, one that is long along them sees one.
    expect(sample(t, 0.5, 0.5, 30 / 64, 0, 0, 1 / 64)[0]).toBeCloseTo(0.5, 1);
    expect(sample(t, 8.5 / 64, 0.5, 0.2 / 64, 0, 0, 12 / 64)[0]).toBeCloseTo(0, 6);
  });

  test('what is nothing all around is known without a look', () => {
    const t = new Texture(
      8,
      8,
      flat(8, 8, (x, y) => (x === 2 && y === 5 ? [0, 0, 0, 0.1] : [0, 0, 0, 0])),
      false,
      true,
    );
    expect([t.near(2.5 / 8, 5.5 / 8, 0), t.near(6 / 8, 5.5 / 8, 0.1), t.near(6 / 8, 5.5 / 8, 0.5)]).toEqual([true, false, true]);
  });
});

describe('light from all around', () => {
  const to = new Float64Array(4);
  const [W, H] = [64, 32];
  /** Light 2 in the half where a condition holds, 0 elsewhere. */
  const half = (lit: (u: number, v: number) => boolean): Texture =>
    new Texture(
      W,
      H,
      Float32Array.from({ length: 4 * W * H }, (_, i) => {
        const p = i >> 2;
        return i % 4 === 3 ? 1 : lit(((p % W) + 0.5) / W, (Math.floor(p / W) + 0.5) / H) ? 2 : 0;
      }),
      'around',
      true,
    );
  const sky = new Environment(
    half((_, v) => v < 0.5),
    0,
    [1, 1, 1],
  );

  test('the same from everywhere is the same on everything', () => {
    const even = new Environment(null, 0, [0.5, 1, 2]);
    even.diffuse(0, 1, 0, to);
    expect([...to.subarray(0, 3)]).toEqual([0.5, 1, 2]);
    even.mirrored(1, 0, 0, 0.5, to);
    expect([...to.subarray(0, 3)]).toEqual([0.5, 1, 2]);
  });

  test('a matt surface under a half sky: all of it looking up, half of it looking ahead, none looking down', () => {
    const light = (n: Vec3): number => {
      sky.diffuse(...n, to);
      return to[0]!;
    };
    expect(light([0, 1, 0])).toBeCloseTo(2, 1);
    expect(light([1, 0, 0])).toBeCloseTo(1, 1);
    expect(light([0, -1, 0])).toBeLessThan(0.06);
  });

  test('a mirror shows the sky as it is, rougher ones less and less of its edge', () => {
    const seen = (n: Vec3, rough: number): number => {
      sky.mirrored(...unit3(n), rough, to);
      return to[0]!;
    };
    expect(seen([0, 1, 0], 0)).toBeCloseTo(2, 3);
    expect(seen([0, -1, 0], 0)).toBeCloseTo(0, 3);
    const step = (rough: number): number => seen([1, 0.3, 0], rough) - seen([1, -0.3, 0], rough);
    const steps = [0, 0.25, 0.5, 0.75, 1].map(step);
    steps.slice(1).forEach((s, i) => expect(s).toBeLessThan(steps[i]! + 1e-6));
    expect(steps[0]).toBeCloseTo(2, 2);
  });

  test('turned and coloured: light that came from ahead comes from the side', () => {
    const ahead = half((u) => u > 0.25 && u < 0.75);
    const [straight, turned] = [new Environment(ahead, 0, [1, 1, 1]), new Environment(ahead, 90, [1, 0.5, 0])];
    straight.mirrored(0, 0, -1, 0, to);
    expect(to[0]).toBeCloseTo(2, 2);
    straight.mirrored(0, 0, 1, 0, to);
    expect(to[0]).toBeCloseTo(0, 2);
    turned.mirrored(1, 0, 0, 0, to);
    near([...to.subarray(0, 3)], [2, 1, 0], 2);
    turned.mirrored(-1, 0, 0, 0, to);
    expect(to[0]).toBeCloseTo(0, 2);
  });
});

test('what a mirror gives back is at most all of it, its edge the more the flatter it is seen', () => {
  const to = new Float64Array(2);
  const next = random(3);
  for (let i = 0; i < 300; i++) {
    splitSum(next(), next(), to);
    expect(to[0]! + to[1]!).toBeLessThanOrEqual(1.02);
    expect(Math.min(to[0]!, to[1]!)).toBeGreaterThanOrEqual(0);
  }
  splitSum(0.1, 0.95, to);
  expect(to[0]! + to[1]!).toBeCloseTo(1, 1);
  const edge = (nv: number): number => {
    splitSum(0.2, nv, to);
    return to[1]!;
  };
  expect(edge(0.1)).toBeGreaterThan(edge(0.5));
  expect(edge(0.5)).toBeGreaterThan(edge(1));
});
