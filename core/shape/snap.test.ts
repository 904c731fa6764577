import type { Gray } from '../readings/gray';
import { texture } from '../readings/testing';
import { boxPoints, ellipsePoints, movePoints, shapeDefaults } from './edit';
import { pointsAt } from './pose';
import type { Shape } from './shapes';
import { POINT_SIZE } from './shapes';
import { snapBetween } from './snap';

/** A disc with a texture of its own on another one; on frame 5 it is not where a straight line between 1 and 9 has it. */
const place = (f: number): [number, number] => [60 + 6 * (f - 1), 70 + 3 * Math.sin((Math.PI * (f - 1)) / 8)];
function frame(f: number): Gray[] {
  const [cx, cy] = place(f);
  const gray = (seed: number): Gray => ({
    width: 180,
    height: 140,
    data: Float32Array.from({ length: 180 * 140 }, (_, i) => {
      const [x, y] = [(i % 180) + 0.5, Math.floor(i / 180) + 0.5];
      const inside = Math.min(1, Math.max(0, 30.5 - Math.hypot(x - cx, y - cy)));
      return inside * (0.7 + 0.3 * texture(x - cx, y - cy, seed)) + (1 - inside) * 0.3 * texture(x, y, seed + 3);
    }),
  });
  return [gray(1), gray(2)];
}
const round = (f: number): number[] => {
  const [x, y] = place(f);
  return ellipsePoints(x - 30, y - 30, x + 30, y + 30);
};
const shape: Shape = { ...shapeDefaults, id: 's', name: 'Disc', keys: [1, 9].map((f) => ({ frame: f, value: round(f), ease: 'linear' })) };
const centre = (points: readonly number[]): [number, number] => {
  const n = points.length / POINT_SIZE;
  const sum = (k: number): number => points.reduce((s, v, i) => (i % POINT_SIZE === k ? s + v : s), 0) / n;
  return [sum(0), sum(1)];
};

describe('snap between keys', () => {
  test('the outline goes to where the picture is, and says how sure it is; its own keys stay', async () => {
    const none = { readings: [] };
    const snapped = await snapBetween(none, shape, (f) => Promise.resolve(frame(f)));
    expect(snapped.keys.map((k) => k.frame)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9]);
    for (const f of [3, 5, 7]) {
      const [x, y] = centre(pointsAt(none, snapped, f));
      const [u, v] = centre(pointsAt(none, shape, f));
      const far = (a: number, b: number): number => Math.hypot(a - place(f)[0], b - place(f)[1]);
      expect(far(u, v)).toBeGreaterThan(1.5);
      expect(far(x, y)).toBeLessThan(0.6);
    }
    expect(snapped.keys[0]).toEqual(shape.keys[0]);
    for (const k of snapped.keys.slice(1, -1)) expect(k.sure).toBeGreaterThan(0.7);
  });

  test('made again it starts from its own keys; stopped, nothing is thrown away', async () => {
    const none = { readings: [] };
    const wrong = {
      ...shape,
      keys: [
        shape.keys[0]!,
        { frame: 5, value: movePoints(round(5), null, (x, y) => [x, y + 40]), ease: 'linear', sure: 0.2 } as const,
        shape.keys[1]!,
      ],
    };
    const again = await snapBetween(none, wrong, (f) => Promise.resolve(frame(f)));
    const [, y] = centre(pointsAt(none, again, 5));
    expect(Math.abs(y - place(5)[1])).toBeLessThan(0.6);
    await expect(
      snapBetween(
        none,
        shape,
        (f) => Promise.resolve(frame(f)),
        () => Promise.resolve(false),
      ),
    ).rejects.toThrow();
  });

  test('where what was there is gone it is not sure', async () => {
    const box: Shape = { ...shape, keys: [1, 5].map((f) => ({ frame: f, value: boxPoints(30, 40, 90, 100), ease: 'linear' })) };
    const snapped = await snapBetween({ readings: [] }, box, (f) =>
      Promise.resolve(frame(f).map((g) => (f === 3 ? { ...g, data: g.data.map((_, i) => texture(i % 180, Math.floor(i / 180), 11)) } : g))),
    );
    expect(snapped.keys.find((k) => k.frame === 3)!.sure).toBeLessThan(0.55);
  });
});
