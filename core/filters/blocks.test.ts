import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import { area, grow, intersect, rect } from '../geometry/rect';
import { copyShared } from './copy';
import { fillFlat } from './blocks';
import { growGrey, morphologyPad } from './morphology';

/** Some discs of coverage on a frame, also across its edge. */
function discs(list: readonly (readonly [number, number, number])[], r: ReturnType<typeof rect>): Float32Array {
  const w = r.x1 - r.x0;
  return Float32Array.from({ length: area(r) }, (_, i) => {
    const [x, y] = [(i % w) + r.x0 + 0.5, Math.floor(i / w) + r.y0 + 0.5];
    return Math.max(0, ...list.map(([cx, cy, s]) => Math.min(1, Math.max(0, s - Math.hypot(x - cx, y - cy)))));
  });
}

test('growing and shrinking block by block is the same as all at once, whatever the matte', async () => {
  const k = await nodeKernels();
  const frame = rect(0, 0, 300, 170);
  const disc = fc.tuple(fc.integer({ min: -20, max: 320 }), fc.integer({ min: -20, max: 190 }), fc.integer({ min: 1, max: 60 }));
  fc.assert(
    fc.property(fc.array(disc, { minLength: 0, maxLength: 3 }), fc.constantFrom(-7, -1.5, 2.25, 9), (list, radius) => {
      const before = k.used;
      const plane = k.copy(discs(list, frame));
      const reach = morphologyPad(radius);
      const around = (block: typeof frame): Float32Array => {
        const near = grow(block, reach);
        const to = k.take(area(near)).fill(0);
        copyShared(k, plane, frame, to, near);
        const grown = growGrey(k, to, near, block, radius, frame);
        k.give(to);
        return grown;
      };
      const whole = around(frame);
      const out = k.take(area(frame)).fill(NaN);
      for (const block of fillFlat(k, plane, frame, out, frame, reach, frame, (v) => v)) {
        const part = around(block);
        copyShared(k, part, block, out, frame);
        k.give(part);
      }
      expect(out.every((v, i) => v === whole[i])).toBe(true);
      [plane, whole, out].forEach((p) => k.give(p));
      expect(k.used).toBe(before);
    }),
    { numRuns: 40 },
  );
});

test('a part that reaches outside what is held is never taken for flat, one outside the domain is', async () => {
  const k = await nodeKernels();
  const held = rect(0, 0, 64, 64);
  const plane = k.copy(Array(area(held)).fill(1));
  const want = rect(0, 0, 64, 64);
  const out = k.take(area(want)).fill(0);
  expect(fillFlat(k, plane, held, out, want, 4, rect(-10, 0, 64, 64), (v) => v)).toEqual([want]);
  expect(fillFlat(k, plane, held, out, want, 4, held, (v) => v)).toEqual([]);
  expect(out.every((v) => v === 1)).toBe(true);
  // What a value becomes may be unknown: then there is work left.
  expect(fillFlat(k, plane, held, out, want, 4, held, () => undefined)).toEqual([want]);
  [plane, out].forEach((p) => k.give(p));
});

test('neighbours that are busy come as one', async () => {
  const k = await nodeKernels();
  const held = rect(0, 0, 512, 128);
  const plane = k.zeros(area(held));
  for (const x of [100, 200]) plane[64 * 512 + x] = 1;
  const out = k.take(area(held)).fill(NaN);
  const busy = fillFlat(k, plane, held, out, held, 0, held, (v) => v);
  expect(busy).toEqual([rect(0, 0, 256, 128)]);
  expect(intersect(busy[0]!, rect(256, 0, 512, 128))).toEqual(rect(0, 0, 0, 0));
  expect(out[64 * 512 + 300]).toBe(0);
  [plane, out].forEach((p) => k.give(p));
});
