import { angleBetween } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { random } from '../random';
import type { DirectionPair } from './essential';
import { essentialOf, fivePoint, posesOf, sampson } from './essential';
import type { Pose } from './pose';
import { seenFrom, standing } from './pose';
import { threePoint } from './resection';
import { triangulate } from './triangulate';

const next = random(77);
const FIRST: Pose = standing([0, 0, 0], 0, 0);
const SECOND: Pose = standing([0.9, -0.2, 0.3], -0.15, 0.05, 0.02);
const points: Vec3[] = Array.from({ length: 40 }, () => [4 * (next() - 0.5), 3 * (next() - 0.5), 4 + 4 * next()]);
const seen = (pose: Pose, p: Vec3): [number, number] => {
  const [x, y, z] = seenFrom(pose, p);
  return [x / z, y / z];
};
const pairs: DirectionPair[] = points.map((p) => [...seen(FIRST, p), ...seen(SECOND, p)]);

describe('two views of the same places', () => {
  const truth = essentialOf(SECOND);

  test('every pair agrees with the matrix of the pose, and a wrong one does not', () => {
    pairs.forEach((p) => expect(sampson(truth, p)).toBeLessThan(1e-20));
    const [x, y, u, v] = pairs[0]!;
    // Off by a hundredth across the line on which the place must lie.
    const off = Math.max(sampson(truth, [x, y, u, v + 0.01]), sampson(truth, [x, y, u + 0.01, v]));
    expect(Math.sqrt(off)).toBeGreaterThan(0.003);
    expect(Math.sqrt(off)).toBeLessThan(0.011);
  });

  test('five pairs tell it, among at most ten that go with them', () => {
    for (let k = 0; k < 6; k++) {
      const five = pairs.slice(5 * k, 5 * k + 5);
      const found = fivePoint(five);
      expect(found.length).toBeGreaterThan(0);
      expect(found.length).toBeLessThanOrEqual(10);
      const errors = found.map((e) => pairs.reduce((s, p) => s + sampson(e, p), 0));
      expect(Math.min(...errors)).toBeLessThan(1e-12);
      // Each of them goes with its own five.
      for (const e of found) for (const p of five) expect(sampson(e, p)).toBeLessThan(1e-8);
    }
  });

  test('of the four poses that it allows, one has all places before both cameras, and that is the one', () => {
    const poses = posesOf(truth);
    expect(poses).toHaveLength(4);
    const good = poses.filter((pose) =>
      pairs.every(([x, y, u, v]) =>
        triangulate([
          { pose: FIRST, x, y },
          { pose, x: u, y: v },
        ]),
      ),
    );
    expect(good).toHaveLength(1);
    expect(angleBetween(good[0]!.turn, SECOND.turn)).toBeLessThan(1e-6);
    const size = Math.hypot(...SECOND.shift);
    good[0]!.shift.forEach((v, i) => expect(v).toBeCloseTo(SECOND.shift[i]! / size, 6));
  });
});

describe('three known places in three directions', () => {
  test('allow four poses at most, and the true one is among them', () => {
    for (let k = 0; k < 8; k++) {
      const three = points.slice(3 * k, 3 * k + 3).map((at) => {
        const [x, y] = seen(SECOND, at);
        return { at, x, y };
      }) as unknown as Parameters<typeof threePoint>[0];
      const found = threePoint(three);
      expect(found.length).toBeLessThanOrEqual(4);
      const errors = found.map((p) => angleBetween(p.turn, SECOND.turn) + Math.hypot(...p.shift.map((v, i) => v - SECOND.shift[i]!)));
      expect(Math.min(...errors)).toBeLessThan(1e-6);
      for (const pose of found)
        for (const s of three) {
          const [u, v, w] = seenFrom(pose, s.at);
          expect(Math.hypot(u / w - s.x, v / w - s.y)).toBeLessThan(1e-6);
        }
    }
  });

  test('that are the same place allow none', () => {
    const s = { at: points[0]!, x: 0, y: 0 };
    expect(threePoint([s, s, s])).toEqual([]);
  });
});
