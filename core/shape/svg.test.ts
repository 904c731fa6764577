import { ellipsePoints } from './edit';
import { flatten } from './outline';
import { POINT_SIZE } from './shapes';
import { pathOf, readSvg, writeSvg } from './svg';

const svg = (inside: string): string =>
  `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">${inside}</svg>`;
const corners = (points: readonly number[]): number[] => points.filter((_, i) => i % POINT_SIZE < 2).map((v) => Math.round(v * 100) / 100);

describe('outlines of SVG files', () => {
  test('what is written is read again, to a thousandth of a pixel', () => {
    const points = ellipsePoints(10, 20, 70.5, 60.25);
    const [got] = readSvg(writeSvg([{ name: 'Coat & <hat>', points, closed: true, spline: 'bezier' }], 960, 540));
    expect(got!.closed).toBe(true);
    got!.points.forEach((v, i) => expect(v).toBeCloseTo(points[i]!, 2));
  });

  test('paths absolute and relative, with arcs and quadratics, polygons, boxes and circles, with their transforms', () => {
    const [square, poly, box, circle, line] = readSvg(
      svg(
        '<g transform="translate(5 5)"><path id="a" d="m10,10 h20 v20 h-20 z"/></g><polygon points="1,2 3,4 5,0"/>' +
          '<rect x="1" y="2" width="10" height="20" transform="scale(2)"/><circle cx="50" cy="50" r="10"/><polyline points="0 0 5 5"/>',
      ),
    );
    expect(corners(square!.points)).toEqual([15, 15, 35, 15, 35, 35, 15, 35]);
    expect(square!.name).toBe('a');
    expect(corners(poly!.points)).toEqual([1, 2, 3, 4, 5, 0]);
    expect(corners(box!.points)).toEqual([2, 4, 22, 4, 22, 44, 2, 44]);
    expect(line!.closed).toBe(false);
    const outline = flatten({ points: circle!.points, closed: true, spline: 'bezier' });
    for (let i = 0; i < outline.length; i += 3) expect(Math.hypot(outline[i]! - 50, outline[i + 1]! - 50)).toBeCloseTo(10, 1);
    const [arc, curve] = readSvg(svg('<path d="M0 0 A10 10 0 0 1 20 0 Z"/><path d="M0 0 Q10 20 20 0 T40 0"/>'));
    expect(arc!.points.length).toBeGreaterThan(POINT_SIZE);
    expect(corners(curve!.points)).toEqual([0, 0, 20, 0, 40, 0]);
  });

  test('sub-paths are outlines of their own; a script is passed by', () => {
    expect(readSvg(svg('<script>alert(1)</script><path d="M0 0L9 0L9 9Z M20 20L29 20L29 29Z"/>'))).toHaveLength(2);
  });

  test.each([
    ['not XML', 'hello', 'no SVG file'],
    ['another XML', '<?xml version="1.0"?><note><path d="M0 0L1 1L2 0Z"/></note>', 'no SVG file'],
    ['nothing drawn', svg('<text>hm</text>'), 'no outline in it'],
    ['entities', `<!DOCTYPE svg [<!ENTITY a "b">]>${svg('<path d="M0 0L9 9L0 9Z"/>')}`, 'entities'],
    ['numbers that are none', svg('<polygon points="0,0 NaN,5 9,9"/>'), 'broken|number that is none'],
    ['a broken path', svg('<path d="M0 0 L5 banana"/>'), 'broken'],
    ['far away', svg('<path d="M0 0 L1e30 5 L0 9Z"/>'), 'no place'],
    ['a million points', svg(`<path d="M0 0${'L1 1'.repeat(1_000_000)}Z"/>`), 'more than'],
  ])('%s is told', (_, text, message) => {
    expect(() => readSvg(text)).toThrow(new RegExp(message));
  });

  test('corners are written as lines', () => {
    expect(pathOf({ points: [0, 0, 0, 0, 0, 0, 0, 5, 0, 0, 0, 0, 0, 0, 5, 5, 0, 0, 0, 0, 0], closed: true, spline: 'bezier' })).toBe(
      'M0 0L5 0L5 5L0 0Z',
    );
  });
});
