import { newPoint } from '@/core/readings/make';
import type { PointFrame } from '@/core/readings/point';
import { bothWays, openEnds, withLive } from './measuring';

const at = (frame: number, x = frame) => ({ frame, x, y: 0, confidence: 1, error: 0 });
const reading = (frames: readonly number[]) => ({
  ...newPoint([0, 0], { reference: 10, range: { first: 1, last: 20 } }),
  frames: frames.map((f) => at(f)),
});

test('a reading that was stopped goes on at both its ends; a whole one and an unmeasured one have none', () => {
  expect(openEnds(reading([8, 9, 10, 11]))).toEqual([
    { frame: 11, direction: 1 },
    { frame: 8, direction: -1 },
  ]);
  expect(openEnds(reading(Array.from({ length: 20 }, (_, i) => i + 1)))).toEqual([]);
  expect(openEnds(reading([]))).toEqual([]);
  expect(openEnds(reading([10]))).toEqual([]);
  expect(bothWays(10).map((a) => a.direction)).toEqual([1, -1]);
});

test('what is being measured takes the place of what is stored, in order of frames', () => {
  const seen = withLive(reading([9, 10, 11]), [at(12, 40), at(10, 41)]);
  expect(seen.frames.map((f) => f.frame)).toEqual([9, 10, 11, 12]);
  expect((seen.frames as readonly PointFrame[]).map((f) => f.x)).toEqual([9, 41, 11, 40]);
});
