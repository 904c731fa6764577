import { mapPoint, invert } from '@/core/geometry';
import { EYE, FOCAL, axisRay, lensRay, project, rayAt } from './diver-camera';
import type { Vec } from './diver';
import { BOLLARD, LAMP, OBJECTS, add, dot, lampAt, materialAt, poseAt, toObject, toWorld, turnAt, unit, uvAt } from './diver';
import { addedLight, glassLight, materialOf, openness, shade, trace } from './diver-light';
import { EH, EW, QUAY_PIECE, renderDirt, renderEmbers, renderFog, renderSmoke } from './elements';
import { fractal, hash, random, valueNoise } from './noise';
import { addPainted, ease, handheld, paintScene } from './plate-scene';
import { environment, renderQuay } from './quay';
import { PANEL, tableAt } from './sg020';
import { MARK, shakeAt } from './sg060';
import { WIDE, directionAt, filmedAt } from './wide-lens';

const SIZE = { width: 960, height: 540 };
const length = (v: Vec): number => Math.sqrt(dot(v, v));
const near = (a: readonly number[], b: readonly number[], within: number): void =>
  a.forEach((v, i) => expect(Math.abs(v - b[i]!)).toBeLessThan(within));

describe('the wide lens', () => {
  test('the direction that lands at a place lands there, all over the frame', () => {
    for (let y = 0; y <= 540; y += 45) for (let x = 0; x <= 960; x += 60) near(filmedAt(...directionAt(x, y)), [x, y], 1e-6);
  });

  test('its centre is filmed where it stands, and straight lines bend inward away from it', () => {
    expect(filmedAt(0, 0)).toEqual([...WIDE.centre]);
    const ideal = 0.7;
    const [x] = filmedAt(ideal, 0);
    expect(x - WIDE.centre[0]).toBeLessThan(WIDE.focal * ideal);
    // Along a row near the top, the middle is filmed higher than the ends: a barrel.
    const row = [-0.6, 0, 0.6].map((d) => filmedAt(d, -0.35)[1]);
    expect(row[1]!).toBeLessThan(Math.min(row[0]!, row[2]!) - 5);
  });
});

describe('the diver’s camera', () => {
  test('a point along the ray of a pixel is seen at that pixel, at its distance', () => {
    const next = random(4);
    for (let i = 0; i < 40; i++) {
      const [px, py, away] = [960 * next(), 540 * next(), 0.5 + 9 * next()];
      near(project(add(EYE, axisRay(px, py, SIZE), away), SIZE), [px, py, away], 1e-6);
      expect(length(rayAt(px, py, SIZE))).toBeCloseTo(1, 9);
    }
  });

  test('half the size is the same view at half the pixels', () => {
    const p: Vec = [0.3, 1.1, 0.2];
    const [x, y, z] = project(p, SIZE);
    near(project(p, { width: 480, height: 270 }), [x / 2, y / 2, z], 1e-9);
    // One metre at one metre's distance takes the focal length.
    const [left] = project(add(EYE, axisRay(480, 270, SIZE)), SIZE);
    const [right] = project(add(add(EYE, axisRay(480, 270, SIZE)), [1, 0, 0]), SIZE);
    expect(right - left).toBeCloseTo(FOCAL * 540, 6);
  });

  test('rays through a lens meet where it is in focus', () => {
    for (const place of [
      [0, 0],
      [0.04, -0.02],
      [-0.03, 0.05],
    ] as const) {
      const { from, dir } = lensRay(700, 120, SIZE, place, 6.1);
      const meets = add(EYE, axisRay(700, 120, SIZE), 6.1);
      const reach = length(add(meets, from, -1));
      near(add(from, dir, reach), meets, 1e-9);
    }
  });
});

describe('the diver', () => {
  const pose = poseAt(7);

  test('turning there and back is where it was, and keeps lengths', () => {
    const p: Vec = [0.31, 1.4, -0.2];
    near(toObject(toWorld(p, 0.7), 0.7), p, 1e-12);
    expect(length(toWorld(p, 1.3))).toBeCloseTo(length(p), 12);
    expect(turnAt(0)).toBeCloseTo(turnAt(60), 12);
    near(lampAt(3), lampAt(27), 1e-12);
  });

  test('the bollard stands on the quay while he turns', () => {
    const foot = (time: number): Vec => toWorld(poseAt(time).bollard, poseAt(time).turn);
    near(foot(3), foot(31), 1e-12);
  });

  test('what a ray hits lies on it, with a normal of length 1 that looks back', () => {
    const hits = new Map<string, number>();
    for (let y = 60; y < 540; y += 24)
      for (let x = 300; x < 700; x += 20) {
        const dir = toObject(rayAt(x, y, SIZE), pose.turn);
        const from = toObject(EYE, pose.turn);
        const hit = trace(from, dir, 4, 9, pose, 160);
        if (!hit) continue;
        const name = OBJECTS[hit.object]!;
        hits.set(name, (hits.get(name) ?? 0) + 1);
        const to = add(hit.at, from, -1);
        expect(length(add(to, dir, -dot(to, dir)))).toBeLessThan(1e-9);
        expect(length(hit.normal)).toBeCloseTo(1, 6);
        expect(dot(hit.normal, dir)).toBeLessThan(0.1);
        const open = openness(hit.at, hit.normal, pose);
        expect(open >= 0 && open <= 1).toBe(true);
        const [u, v] = uvAt(hit.at);
        expect(u >= 0 && u <= 1 && v >= 0 && v <= 1).toBe(true);
      }
    expect([...hits.keys()]).toEqual(expect.arrayContaining(['helmet', 'suit', 'bollard']));
    expect(trace([0, 1.2, 6], [0, 1, 0], 0.1, 5, pose, 100)).toBeNull();
  });

  test('the lamp glows by itself, glass has a face behind it, and the rest neither', () => {
    const glowing = Array.from({ length: 12 }, (_, i) => materialAt(LAMP, [Math.sin(i), 0, Math.cos(i)]).emission[0]).filter((v) => v > 0);
    expect(glowing.length).toBeGreaterThan(6);
    OBJECTS.forEach((_, object) => {
      const hit = { object, at: [0.1, 1, 0.1] as Vec, normal: [0, 0, 1] as Vec };
      expect(glassLight(hit, [0, 0, -1]).some((v) => v > 0)).toBe(OBJECTS[object] === 'glass');
      if (object !== LAMP) expect(materialOf(hit, pose).emission).toEqual([0, 0, 0]);
      expect(materialOf(hit, pose).roughness).toBeGreaterThan(0);
    });
  });

  test('light comes apart into parts and lamps whose sums are never below nothing', () => {
    const dir = toObject(rayAt(480, 150, SIZE), pose.turn);
    const hit = trace(toObject(EYE, pose.turn), dir, 4, 9, pose, 160)!;
    const given: string[] = [];
    shade(hit, dir, pose, 1, (part, light, c) => {
      given.push(`${part} ${light}`);
      c.forEach((v) => expect(v).toBeGreaterThanOrEqual(0));
    });
    expect(given).toEqual(expect.arrayContaining(['diffuse sky', 'reflection sky', 'emission null']));
    expect(new Set(given).size).toBe(given.length);
  });

  test('an added lamp gives a quarter at twice the distance, and nothing from behind', () => {
    const foot = pose.bollard;
    const hit = { object: BOLLARD, at: add(foot, [0, 2, 0]), normal: [0, 1, 0] as Vec };
    const above = (height: number): Vec => toWorld(add(hit.at, [0, height, 0]), pose.turn);
    const [once, twice] = [0.4, 0.8].map((h) => addedLight(hit, pose, { at: above(h), colour: [1, 1, 1] }));
    expect(once![0] / twice![0]).toBeCloseTo(4, 5);
    expect(addedLight(hit, pose, { at: above(-0.4), colour: [1, 1, 1] })).toEqual([0, 0, 0]);
  });

  test('what his brass mirrors is brighter toward a lamp, and blurred the darker the rougher', () => {
    const lamp = unit([-0.8, 0.12, 0.58]);
    expect(environment(lamp, 0)[0]).toBeGreaterThan(5 * environment([0, -1, 0], 0)[0]);
    expect(environment(lamp, 0)[0]).toBeGreaterThan(1.5 * environment(lamp, 1)[0]);
  });
});

describe('plates from the hand', () => {
  test.each([
    ['the chart table', tableAt, PANEL],
    ['the mooring', shakeAt, [MARK]],
  ] as const)('%s moves by some pixels, and back by the inverse', (_, at, points) => {
    for (const t of [1, 12, 24, 48])
      for (const [x, y] of points) {
        const [u, v] = mapPoint(at(t), x, y);
        expect(Math.hypot(u - x, v - y)).toBeLessThan(60);
        near(mapPoint(invert(at(t))!, u, v), [x, y], 1e-6);
      }
    const [x, y] = points[0]!;
    near(mapPoint(at(9), x, y), mapPoint(at(9), x, y), 1e-12);
    expect(mapPoint(at(9), x, y)).not.toEqual(mapPoint(at(10), x, y));
  });

  test('turned about the middle of the frame, the middle stays', () => {
    near(mapPoint(handheld(0.4, 1.2, 0, 0), 480, 270), [480, 270], 1e-9);
    near(mapPoint(handheld(0.4, 1.2, 7, -3), 480, 270), [487, 267], 1e-9);
    near(mapPoint(handheld(Math.PI / 2, 2, 0, 0), 490, 270), [480, 290], 1e-9);
  });

  test('a painted scene is looked at between its texels, and repeats its edges', () => {
    const scene = paintScene(-2, -2, 8, 8, 2, (x, y) => [x, y, x + 2 * y]);
    const look = (x: number, y: number): number[] => {
      const to: [number, number, number] = [0, 0, 0];
      addPainted(scene, x, y, 1, to);
      return to;
    };
    near(look(3.3, 4.1), [3.3, 4.1, 11.5], 1e-5);
    near(look(-9, 3), look(-2, 3), 1e-6);
    const twice: [number, number, number] = [1, 1, 1];
    addPainted(scene, 3, 3, 0.5, twice);
    near(twice, [2.5, 2.5, 5.5], 1e-5);
    expect([ease(2, 4, 1), ease(2, 4, 3), ease(2, 4, 5)]).toEqual([0, 0.5, 1]);
  });
});

describe('elements', () => {
  const mean = (v: Float32Array): number => v.reduce((s, x) => s + x, 0) / v.length;
  const rows = (v: Float32Array, from: number, to: number): number => mean(v.subarray(from * EW, to * EW));

  test('fog lies below, smoke rises from below and thins, both change from frame to frame and never go below nothing', () => {
    const [fog, smoke] = [renderFog(3), renderSmoke(3)];
    expect(rows(fog, 200, EH)).toBeGreaterThan(4 * rows(fog, 0, 60));
    expect(Math.max(...smoke.subarray(200 * EW))).toBeGreaterThan(1.5 * Math.max(...smoke.subarray(0, 40 * EW)));
    for (const v of [fog, smoke]) expect(v.every((x) => x >= 0 && x < 2)).toBe(true);
    expect(renderFog(4)).not.toEqual(fog);
    expect(renderFog(3)).toEqual(fog);
  });

  test('embers are red before all, and dirt stands still where it is', () => {
    const embers = renderEmbers(5);
    const sum = [0, 1, 2].map((c) => embers.filter((_, i) => i % 3 === c).reduce((s, v) => s + v, 0));
    expect(sum[0]! > sum[1]! && sum[1]! > sum[2]!).toBe(true);
    expect(renderDirt()).toEqual(renderDirt());
    expect(mean(renderDirt())).toBeGreaterThan(0.02);
    expect(QUAY_PIECE.gain.every((g) => g > 0)).toBe(true);
  });

  test('the quay’s plate is night, with noise of its own each frame', () => {
    const [a, b] = [renderQuay(3, 96, 54), renderQuay(4, 96, 54)];
    expect(mean(a)).toBeLessThan(0.2);
    expect(a).not.toEqual(b);
    expect(Math.abs(mean(a) - mean(b))).toBeLessThan(0.05 * mean(a));
  });

  test('noise goes through its lattice and stays within its range', () => {
    expect(valueNoise(5, 9, 3)).toBeCloseTo(hash(5, 9, 3), 12);
    for (let i = 0; i < 200; i++) {
      const v = fractal(i * 0.37, i * 0.11, 8);
      expect(v >= 0 && v < 1).toBe(true);
    }
  });
});
