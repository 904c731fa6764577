import { testShot, flat } from '../testing/evaluate';
import { parseShot } from './schema';
import { attributeOf, gapsIn, mediaFrameAt, outsideShot, ownRateOf, spanOf, usedFrames, wholeFrames } from './media';
import type { Source } from './types';

const base = testShot({ main: flat(4, 4, 0) }, []).sources[0]!;
const movie: Source = { ...base, kind: 'movie', length: 50, start: 101 };
const sequence: Source = {
  ...base,
  kind: 'sequence',
  start: 1,
  frames: [11, 12, 13, 14].map((frame) => ({ frame, hash: 'a'.repeat(64), name: `f.${frame}` })),
};

describe('frames of media on the shot’s time', () => {
  test('a movie counts its frames from 1 and holds its ends', () => {
    expect([90, 101, 120, 150, 151].map((f) => mediaFrameAt(movie, f, 24))).toEqual([1, 1, 20, 50, 50]);
    expect(spanOf(movie, 24)).toEqual({ first: 101, last: 150 });
  });

  test('a source that stands before or after the shot is told, one frame within is enough', () => {
    const at = (start: number, kind: Partial<Source> = {}) =>
      outsideShot({ ...movie, start, ...kind }, { range: { first: 1, last: 48 }, frameRate: 24 });
    expect([at(49), at(48), at(-48), at(-49), at(-50)]).toEqual(['after', null, null, 'before', 'before']);
    // A still without a length is there at any time, one with a length is not.
    expect(outsideShot({ ...base, start: 99 }, { range: { first: 1, last: 48 }, frameRate: 24 })).toBeNull();
    expect(outsideShot({ ...base, start: 99, duration: 3 }, { range: { first: 1, last: 48 }, frameRate: 24 })).toBe('after');
  });

  test('what is left out at the front moves the rest to the start', () => {
    const trimmed = { ...sequence, trim: { first: 12, last: 13 } };
    expect(usedFrames(trimmed)).toEqual({ first: 12, last: 13 });
    expect([0, 1, 2, 3].map((f) => mediaFrameAt(trimmed, f, 24))).toEqual([12, 12, 13, 13]);
    expect(spanOf(trimmed, 24)).toEqual({ first: 1, last: 2 });
    expect(wholeFrames(trimmed)).toEqual({ first: 11, last: 14 });
  });

  test('numbers that no frame has are gaps, within what is asked for', () => {
    const frames = [3, 4, 7, 9].map((frame) => ({ frame }));
    expect(gapsIn(frames, 3, 9)).toEqual([5, 6, 8]);
    expect(gapsIn(frames, 1, 5)).toEqual([1, 2, 5]);
    expect(gapsIn(frames, 1, 1e9)).toHaveLength(10_000);
  });

  test('a header’s rate counts where it is one', () => {
    const said = (rate: string): Source => ({ ...movie, attributes: [['frames a second', rate]] });
    expect([ownRateOf(said('29.97')), ownRateOf(said('none')), ownRateOf(said('0')), ownRateOf(movie)]).toEqual([
      29.97,
      undefined,
      undefined,
      undefined,
    ]);
    expect(attributeOf(said('25'), 'title')).toBeUndefined();
  });

  test('with a rate of its own it keeps its time: 12 a second stand two frames each, of 48 every other is seen', () => {
    expect([1, 2, 3, 4, 5].map((f) => mediaFrameAt({ ...sequence, rate: 12 }, f, 24))).toEqual([11, 11, 12, 12, 13]);
    expect(spanOf({ ...sequence, rate: 12 }, 24)).toEqual({ first: 1, last: 8 });
    expect([101, 102, 103].map((f) => mediaFrameAt({ ...movie, rate: 48 }, f, 24))).toEqual([1, 3, 5]);
    expect(spanOf({ ...movie, rate: 48 }, 24).last).toBe(125);
    // 23.976 in 23.976 is frame by frame, whatever rounding does.
    for (let f = 0; f < 49; f++) expect(mediaFrameAt({ ...movie, rate: 23.976 }, 101 + f, 23.976)).toBe(f + 1);
  });

  test('a still is always there, or for so many frames', () => {
    expect(mediaFrameAt(base, 999, 24)).toBe(1);
    const short = { ...base, start: 5, duration: 3 };
    expect([4, 5, 7, 8].map((f) => mediaFrameAt(short, f, 24))).toEqual([null, 1, 1, null]);
    expect(spanOf(short, 24)).toEqual({ first: 5, last: 7 });
  });

  test('a colour table is no picture', () => expect(() => mediaFrameAt({ ...base, kind: 'lut' }, 1, 24)).toThrow(/colour table/));

  test.each<[string, Partial<Source>, RegExp]>([
    ['a movie without a length', { kind: 'movie' }, /does not say how long/],
    ['a range upside down', { trim: { first: 3, last: 2 } }, /ends before it starts/],
    ['a rate of nothing', { rate: 0 }, /rate/],
    ['half a frame', { duration: 1.5 }, /duration/],
  ])('a document with %s is refused', (_, change, message) => {
    const shot = testShot({ main: flat(4, 4, 0) }, []);
    expect(() => parseShot({ ...shot, sources: [{ ...shot.sources[0]!, ...change }] })).toThrow(message);
  });
});
