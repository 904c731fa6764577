import type { CameraFrame, CameraPoint } from './assess';
import { suggestPrunes, worstTracks } from './prunes';

const point = (track: string, error: number, more: Partial<CameraPoint> = {}): CameraPoint => ({
  track,
  at: [0, 0, 1],
  error,
  count: 20,
  used: true,
  angle: 5,
  ...more,
});
const frames = (count: number): CameraFrame[] => [
  { frame: 1, matrix: new Array<number>(12).fill(0), focal: 800, error: 0.2, count, confidence: 1 },
];
const good = Array.from({ length: 30 }, (_, i) => point(`g${i}`, 0.2));
const rmsOf = (points: readonly CameraPoint[]): number =>
  Math.sqrt(points.reduce((s, p) => s + p.error ** 2 * p.count, 0) / points.reduce((s, p) => s + p.count, 0));

describe('which tracks would better go', () => {
  it('those that miss by much more than the others, with the error that the rest leaves', () => {
    const points = [...good, point('a', 0.9), point('b', 0.7), point('c', 0.3)];
    const made = suggestPrunes({ points, frames: frames(33), rms: rmsOf(points) })!;
    expect(made.tracks).toEqual(['a', 'b']);
    expect(made.expected).toBeCloseTo(rmsOf([...good, point('c', 0.3)]), 12);
  });

  it('drifting ones a little sooner', () => {
    const points = [...good, ...[1, 2, 3].map((i) => point(`d${i}`, 0.4, { why: 'drifts' })), point('e', 0.4)];
    expect(suggestPrunes({ points, frames: frames(34), rms: rmsOf(points) })!.tracks).toEqual(['d1', 'd2', 'd3']);
  });

  it('none where nothing would be gained, where too few are left, or where a frame would lose its hold', () => {
    expect(suggestPrunes({ points: good, frames: frames(30), rms: 0.2 })).toBeNull();
    const few = [...good.slice(0, 9), point('a', 0.9), point('b', 0.9)];
    expect(suggestPrunes({ points: few, frames: frames(11), rms: rmsOf(few) })).toBeNull();
    const points = [...good, point('a', 0.9)];
    expect(suggestPrunes({ points, frames: frames(4), rms: rmsOf(points) })).toBeNull();
  });

  it('the list of the worst begins with what drifts, unused ones too', () => {
    const points = [...good, point('m', 3, { used: false, why: 'moves' }), point('d', 0.5, { why: 'drifts' })];
    expect(worstTracks(points, 2).map((p) => p.track)).toEqual(['d', 'm']);
  });
});
