import { newLesson } from '../../learn/reading';
import { newPlane, newPoint } from '../make';
import type { CameraReading, LessonReading, PlaneReading } from '../types';
import { kindOf, readingSchema } from '.';

const about = { from: { lane: 'plate', after: '' }, reference: 5, range: { first: 1, last: 10 } };
const point = newPoint([10.123456789, 20], { ...about, id: 'p', name: 'Hook' });
const plane: PlaneReading = {
  ...newPlane([[0, 0, 9, 0, 9, 9]], { ...about, id: 'q', name: 'Wall' }),
  matte: { lane: 'arm', invert: true },
};
const lesson: LessonReading = {
  ...about,
  ...newLesson('matte'),
  id: 'l',
  name: 'Coat',
  kind: 'lesson',
  channel: 'luma',
  examples: [
    { frame: 3, target: { lane: 'drawn' }, held: false },
    { frame: 8, target: { lane: 'gone' }, held: true },
  ],
  passers: [{ lane: 'gone' }],
};
const camera = {
  ...about,
  id: 'c',
  name: 'Dolly',
  kind: 'camera',
  channel: 'luma',
  hand: ['p'],
  exclude: [{ lane: 'arm', invert: false }],
  settings: { lens: 'lens' },
  solved: { points: [] },
} as unknown as CameraReading;

describe('a kind of readings', () => {
  test('names the lanes that its readings tap besides their picture', () => {
    const taps = (r: Parameters<typeof kindOf>[0] & object): unknown => kindOf(r as never).taps?.(r as never) ?? [];
    expect(taps(point)).toEqual([]);
    expect(taps(plane)).toMatchObject([{ tap: { lane: 'arm' }, use: 'matte' }]);
    expect(taps(lesson)).toMatchObject([
      { tap: { lane: 'drawn' }, use: 'example of frame 3' },
      { tap: { lane: 'gone' }, use: 'example of frame 8' },
      { tap: { lane: 'gone' }, use: 'passer' },
    ]);
  });

  test('lets what is gone go with all that hangs on it, and keeps the rest', () => {
    const own = structuredClone(lesson) as never;
    kindOf<LessonReading>(lesson).moveTaps!(own, (tap) => (tap.lane === 'gone' ? null : { ...tap, lane: `new ${tap.lane}` }));
    expect(own).toMatchObject({ examples: [{ frame: 3, target: { lane: 'new drawn' } }], passers: [] });
    const bare = structuredClone(plane) as never;
    kindOf<PlaneReading>(plane).moveTaps!(bare, () => null);
    expect(bare).not.toHaveProperty('matte');
  });

  test('a camera rests on its hand points and its lens, and forgets them when they go', () => {
    const { restsOn, forget } = kindOf<CameraReading>(camera);
    expect(['p', 'lens', 'q'].map((id) => restsOn!(camera, id))).toEqual([true, true, false]);
    const own = structuredClone(camera) as CameraReading;
    forget!(own as never, 'q');
    expect(own).toEqual(camera);
    forget!(own as never, 'p');
    expect(own).toMatchObject({ hand: [], stale: true, settings: { lens: 'lens' } });
    forget!(own as never, 'lens');
    expect(own.settings.lens).toBe('');
  });

  test('is told by its name alone: another is refused as a point would be', () => {
    expect(readingSchema.isValidSync(point)).toBe(true);
    expect(readingSchema.isValidSync({ ...point, kind: 'constructor' })).toBe(false);
    expect(readingSchema.isValidSync({ ...point, at: [1] })).toBe(false);
    expect(readingSchema.isValidSync(null)).toBe(false);
  });

  test('writes its readings as a table', () => {
    const [head, ...rows] = kindOf(point).table({ ...point, frames: [{ frame: 5, x: 1 / 3, y: 2, confidence: 1, error: 0 }] } as never);
    expect(head.split(',')).toEqual(['frame', 'x', 'y', 'confidence', 'error', 'flag']);
    expect(rows).toEqual([[5, '0.33333', '2', '1', '0', '']]);
  });
});
