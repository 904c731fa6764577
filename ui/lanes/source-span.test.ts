import { mediaFrameAt } from '@/core/document/media';
import type { Source } from '@/core/document/types';
import { flat, testShot } from '@/core/testing/evaluate';
import { dragSpan } from './SourceSpan';

const base = testShot({ main: flat(4, 4, 0) }, []).sources[0]!;
const source: Source = { ...base, kind: 'movie', length: 40, start: 101 };
const after = (s: Source, part: 'first' | 'last' | 'all', by: number): Source => ({ ...s, ...dragSpan(s, part, by, 24) });

test('slipped as a whole, every frame comes so much later', () => {
  const s = after(source, 'all', 7);
  expect([108, 120].map((f) => mediaFrameAt(s, f, 24))).toEqual([1, 13]);
});

test('trimmed at an end, what is left stays where it was', () => {
  const s = after(after(source, 'first', 5), 'last', -10);
  expect(s.trim).toEqual({ first: 6, last: 30 });
  for (const f of [106, 115, 130]) expect(mediaFrameAt(s, f, 24)).toBe(mediaFrameAt(source, f, 24));
  // It holds its new ends, and gives back what was left out, but no more.
  expect([101, 140].map((f) => mediaFrameAt(s, f, 24))).toEqual([6, 30]);
  expect(after(s, 'first', -50).trim).toEqual({ first: 1, last: 30 });
  expect(after(s, 'last', 500).trim).toEqual({ first: 6, last: 40 });
});

test('a source with a time of its own is trimmed by its own frames', () => {
  const slow = { ...source, rate: 12 };
  const s = after(slow, 'first', 10);
  expect([s.trim!.first, s.start]).toEqual([6, 111]);
  expect(mediaFrameAt(s, 120, 24)).toBe(mediaFrameAt(slow, 120, 24));
});
