import { findSequences, frameName, patternExpression, rangesText } from './sequences';

const find = (...names: string[]) => findSequences(names, (n) => n);

describe('sequences', () => {
  test('numbered files become one sequence in order, with its gaps', () => {
    const [s, ...rest] = find('wall.0010.jpg', 'wall.0007.jpg', 'wall.0008.jpg');
    expect(rest).toEqual([]);
    expect([s!.name, s!.frames.map((f) => f.frame), s!.gaps, s!.still]).toEqual(['wall', [7, 8, 10], [9], false]);
  });
  test('a lone file is a still and keeps its name; endings and names part sequences', () => {
    const found = find('harbour.png', 'a_01.exr', 'a_02.exr', 'a_01.png', 'b_01.exr', 'b_02.exr');
    expect(found.map((s) => [s.name, s.frames.length, s.still])).toEqual([
      ['harbour', 1, true],
      ['a', 2, false],
      ['a_01', 1, true],
      ['b', 2, false],
    ]);
  });
  test('the same names in two folders are two sequences', () => {
    expect(find('x/k.1.png', 'x/k.2.png', 'y/k.1.png', 'y/k.2.png').map((s) => s.name)).toEqual(['k', 'k']);
  });
  test('movies and colour tables are a source each, whatever their names end in', () => {
    expect(find('shot/take_01.mp4', 'shot/take_02.mp4', 'film 1.cube', 'film 2.cube').map((s) => [s.name, s.still])).toEqual([
      ['take_01', true],
      ['take_02', true],
      ['film 1', true],
      ['film 2', true],
    ]);
  });
  test('numbers that are dates or times do not become frames: they count from 1, told in words', () => {
    const nano = find('c.1712345678901234567.png', 'c.1712345678901234569.png', 'c.1712345678901234568.png');
    expect(nano[0]!.frames.map((f) => [f.frame, f.file])).toEqual([
      [1, 'c.1712345678901234567.png'],
      [2, 'c.1712345678901234568.png'],
      [3, 'c.1712345678901234569.png'],
    ]);
    expect(nano[0]!.renumbered).toMatch(/begin at 1712345678901234567.*count from 1/);
    const days = find('d_20251231.jpg', 'd_20260101.jpg', 'd_20260301.jpg');
    expect([days[0]!.frames.map((f) => f.frame), days[0]!.gaps]).toEqual([[1, 2, 3], []]);
    expect(days[0]!.renumbered).toMatch(/too far apart/);
    const gap = find('e.5000001.png', 'e.5000002.png', 'e.5000004.png');
    expect([gap[0]!.frames.map((f) => f.frame), gap[0]!.gaps]).toEqual([[1, 2, 4], [3]]);
    expect(find('f.0099.png', 'f.0100.png')[0]).not.toHaveProperty('renumbered');
  });
  test('of two files with one number the first is taken', () => {
    const [s] = find('g.1.png', 'g.01.png', 'g.2.png');
    expect([s!.frames.map((f) => f.file), s!.renumbered]).toEqual([
      ['g.1.png', 'g.2.png'],
      'g.01.png has the number of another file and was left out',
    ]);
  });
  test('patterns and names of frames', () => {
    expect(frameName('out.####', 7)).toBe('out.0007');
    expect(frameName('out.%03d', 12345)).toBe('out.12345');
    expect(patternExpression('k.####.exr')!.exec('k.0012.exr')![1]).toBe('0012');
    expect(patternExpression('k.####.exr')!.exec('k.12.exr')).toBeNull();
    expect(patternExpression('plain.exr')).toBeNull();
  });
  test('ranges in words', () => expect(rangesText([3, 7, 8, 9, 12])).toBe('3, 7–9, 12'));
});
