import { XMLParser, XMLValidator } from 'fast-xml-parser';
import svgpath from 'svgpath';
import { ShotError } from '../errors';
import { cornersToPoints, ellipsePoints, boxPoints } from './edit';
import { cubicsOf } from './outline';
import { MOST_SHAPE_POINTS, POINT_SIZE } from './shapes';
import type { Posed } from './pose';

/** An outline out of an SVG file: points on the picture, POINT_SIZE numbers each. */
export interface SvgOutline {
  name: string;
  closed: boolean;
  points: number[];
}

const MOST_BYTES = 16 * 1024 * 1024;
const MOST_OUTLINES = 1000;

type Node = Record<string, unknown> & { ':@'?: Record<string, string> };

/** A path's pieces as points: a curve's tangents are those of its ends. One outline a sub-path. */
function pathOutlines(d: string, transform: string): { closed: boolean; points: number[] }[] {
  const path = svgpath(d) as ReturnType<typeof svgpath> & { err: string };
  if (path.err) throw new ShotError(`a path of it is broken: ${path.err}`);
  const out: { closed: boolean; points: number[] }[] = [];
  let now: { closed: boolean; points: number[] } | null = null;
  const put = (x: number, y: number, inX = 0, inY = 0): void => {
    now!.points.push(x, y, inX, inY, 0, 0, 0);
    if (now!.points.length > POINT_SIZE * MOST_SHAPE_POINTS) throw new ShotError(`a path of it has more than ${MOST_SHAPE_POINTS} points`);
  };
  path
    .transform(transform)
    .abs()
    .unshort()
    .unarc()
    .iterate(([kind, ...v], _, x, y) => {
      const a = v as unknown as number[];
      if (a.some((n) => !Number.isFinite(n) || Math.abs(n) > 1e6))
        throw new ShotError('a path of it goes somewhere that is no place in a picture');
      if (kind === 'M') {
        now = { closed: false, points: [] };
        out.push(now);
        put(a[0]!, a[1]!);
      } else if (kind === 'Z' || kind === 'z') {
        if (now) now.closed = true;
      } else if (kind === 'L') put(a[0]!, a[1]!);
      else if (kind === 'H') put(a[0]!, y);
      else if (kind === 'V') put(x, a[0]!);
      else {
        // A quadratic's control point lies a third of the way short of a cubic's.
        const c =
          kind === 'Q'
            ? [
                x + (2 / 3) * (a[0]! - x),
                y + (2 / 3) * (a[1]! - y),
                a[2]! + (2 / 3) * (a[0]! - a[2]!),
                a[3]! + (2 / 3) * (a[1]! - a[3]!),
                a[2]!,
                a[3]!,
              ]
            : a;
        const o = now!.points.length - POINT_SIZE;
        now!.points[o + 4] = c[0]! - x;
        now!.points[o + 5] = c[1]! - y;
        put(c[4]!, c[5]!, c[2]! - c[4]!, c[3]! - c[5]!);
      }
    });
  return out.map(mergeEnds);
}

/** A closed path that comes back to its first point has that point once. */
function mergeEnds({ closed, points }: { closed: boolean; points: number[] }): { closed: boolean; points: number[] } {
  const last = points.length - POINT_SIZE;
  const back = last > 0 && Math.hypot(points[0]! - points[last]!, points[1]! - points[last + 1]!) < 1e-6;
  if (!back) return { closed, points };
  const merged = points.slice(0, last);
  merged[2] = points[last + 2]!;
  merged[3] = points[last + 3]!;
  return { closed: true, points: merged };
}

const numbersOf = (text: string): number[] =>
  text
    .trim()
    .split(/[\s,]+/)
    .map(Number);

function outlinesOf(tag: string, at: Record<string, string>, transform: string): { closed: boolean; points: number[] }[] {
  const n = (name: string): number => Number(at[name] ?? 0);
  const through = (points: number[], closed = true): { closed: boolean; points: number[] }[] =>
    // By way of a path, so that its transform is applied.
    pathOutlines(pathOf({ points, closed, spline: 'bezier' }), transform);
  if (tag === 'path') return pathOutlines(at.d ?? '', transform);
  if (tag === 'polygon' || tag === 'polyline') return through(cornersToPoints(numbersOf(at.points ?? '')), tag === 'polygon');
  if (tag === 'rect') return through(boxPoints(n('x'), n('y'), n('x') + n('width'), n('y') + n('height')));
  if (tag === 'circle') return through(ellipsePoints(n('cx') - n('r'), n('cy') - n('r'), n('cx') + n('r'), n('cy') + n('r')));
  if (tag === 'ellipse') return through(ellipsePoints(n('cx') - n('rx'), n('cy') - n('ry'), n('cx') + n('rx'), n('cy') + n('ry')));
  if (tag === 'line') return through(cornersToPoints([n('x1'), n('y1'), n('x2'), n('y2')]), false);
  return [];
}

/**
 * Outlines of an SVG file (SVG 1.1: path, polygon, polyline, rect, circle, ellipse, line, with transforms). Scripts, styles and texts are
 * passed by. Throws ShotError with what is wrong.
 */
export function readSvg(text: string): SvgOutline[] {
  if (text.length > MOST_BYTES) throw new ShotError('it is larger than 16 MB, which no set of outlines is');
  if (/<!(DOCTYPE[^>]*\[|ENTITY)/i.test(text))
    throw new ShotError('it defines entities of its own, which are not read; save it without them');
  const valid = XMLValidator.validate(text);
  if (valid !== true) throw new ShotError(`it is no SVG file: ${valid.err.msg} (line ${valid.err.line})`);
  const tree = new XMLParser({
    preserveOrder: true,
    ignoreAttributes: false,
    attributeNamePrefix: '',
    parseAttributeValue: false,
    processEntities: false,
  }).parse(text) as Node[];
  const found: SvgOutline[] = [];
  let seen = false;
  const walk = (nodes: readonly Node[], transform: string): void => {
    for (const node of nodes) {
      const tag = Object.keys(node).find((k) => k !== ':@');
      if (!tag || tag === 'defs' || tag === 'clipPath' || tag === 'mask' || tag === 'script') continue;
      seen ||= tag === 'svg';
      const at = node[':@'] ?? {};
      const here = [transform, at.transform ?? ''].filter(Boolean).join(' ');
      for (const o of outlinesOf(tag, at, here)) {
        if (o.points.some((v) => !Number.isFinite(v))) throw new ShotError(`a ${tag} of it has a number that is none`);
        if (o.points.length < POINT_SIZE * 2) continue;
        if (found.length === MOST_OUTLINES) throw new ShotError(`it has more than ${MOST_OUTLINES} outlines`);
        found.push({ name: at.id ?? '', ...o });
      }
      if (Array.isArray(node[tag])) walk(node[tag] as Node[], here);
    }
  };
  walk(tree, '');
  if (!seen) throw new ShotError('it is no SVG file');
  if (found.length === 0) throw new ShotError('there is no outline in it: paths, polygons, rectangles, circles and ellipses are read');
  return found;
}

const short = (v: number): string => String(Math.round(v * 1000) / 1000);

/** A shape's outline as the data of an SVG path. */
export function pathOf(shape: Pick<Posed, 'points' | 'closed' | 'spline'>): string {
  const curves = cubicsOf(shape);
  const [x, y] = curves[0] ? curves[0].curve : [shape.points[0]!, shape.points[1]!];
  const pieces = curves.map(({ curve: c }) =>
    c[0] === c[2] && c[1] === c[3] && c[4] === c[6] && c[5] === c[7]
      ? `L${short(c[6])} ${short(c[7])}`
      : `C${c.slice(2).map(short).join(' ')}`,
  );
  return `M${short(x)} ${short(y)}${pieces.join('')}${shape.closed ? 'Z' : ''}`;
}

const escaped = (s: string): string => s.replace(/[<>&"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** Shapes of a frame as an SVG file of the picture's size. */
export function writeSvg(
  shapes: readonly (Pick<Posed, 'points' | 'closed' | 'spline'> & { name: string })[],
  width: number,
  height: number,
): string {
  const paths = shapes.map((s) => `  <path id="${escaped(s.name)}" d="${pathOf(s)}"/>`);
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">`,
    ...paths,
    '</svg>',
    '',
  ].join('\n');
}
