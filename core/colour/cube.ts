import type { Kernels, Plane } from '@/kernels';
import { MediaError } from '../errors';

/** A table's own range, one number a channel. */
type Triple = readonly [number, number, number];

interface Table {
  size: number;
  /** Input values that the first and the last entry stand for. */
  low: Triple;
  high: Triple;
  /** Red, green, blue of each entry; of a cube, red runs fastest. */
  data: Float32Array;
}

/** A colour table of a .cube file: a curve a channel, a cube, or the one before the other. */
export interface Cube {
  title: string;
  curves?: Table;
  cube?: Table;
}

const MAX_CURVE = 65536;
const MAX_CUBE = 256;
const LIMIT = 512 * 2 ** 20;

/** Lines between two signs of life: a cube of 256 entries a side has 16.8 million. */
const LINES = 200_000;

/** The lines of a text, one after the other: a list of all of them would take several times the text's memory. */
function* linesOf(text: string): Generator<string> {
  for (let from = 0; from <= text.length;) {
    const end = text.indexOf('\n', from);
    yield text.slice(from, end < 0 ? text.length : end).trim();
    if (end < 0) return;
    from = end + 1;
  }
}

/** Numbers without a known end, in a typed array that grows. */
class Rows {
  private data = new Float32Array(3 * 4096);
  length = 0;

  push(a: number, b: number, c: number): void {
    if (this.length + 3 > this.data.length) {
      const more = new Float32Array(2 * this.data.length);
      more.set(this.data);
      this.data = more;
    }
    this.data[this.length++] = a;
    this.data[this.length++] = b;
    this.data[this.length++] = c;
  }

  slice(from: number, to: number): Float32Array {
    return this.data.slice(from, to);
  }
}

/**
 * Reads a .cube file (Cube LUT Specification 1.0, and files that hold curves before a cube). `alive` is told now and then. Throws
 * MediaError with the line.
 */
export function parseCube(text: string, file: string, alive: () => void = () => undefined): Cube {
  if (text.length > LIMIT) throw new MediaError(file, 'it is too large to be a table');
  const wrong = (line: number, what: string): never => {
    throw new MediaError(file, `line ${line + 1}: ${what}`);
  };
  let title = '';
  let sizes = { curves: 0, cube: 0 };
  const ranges: Record<'curves' | 'cube' | 'both', { low?: Triple; high?: Triple }> = { curves: {}, cube: {}, both: {} };
  const rows = new Rows();
  let i = -1;
  for (const line of linesOf(text)) {
    if (++i % LINES === 0) alive();
    if (line === '' || line.startsWith('#')) continue;
    const words = line.split(/\s+/);
    const [word, ...rest] = words as [string, ...string[]];
    if (/^[-+.\d]/.test(word)) {
      const [a, b, c] = [Number(word), Number(words[1]), Number(words[2])];
      if (words.length !== 3 || !Number.isFinite(a + b + c)) wrong(i, `three numbers are wanted, not "${line.slice(0, 60)}"`);
      rows.push(a, b, c);
      continue;
    }
    const numbers = rest.map(Number);
    const size = (most: number): number => {
      const n = numbers[0]!;
      return Number.isInteger(n) && n >= 2 && n <= most
        ? n
        : wrong(i, `${word} is a whole number from 2 to ${most}, not "${rest.join(' ')}"`);
    };
    const triple = (): Triple => {
      if (numbers.length !== 3 || !numbers.every(Number.isFinite)) wrong(i, `${word} takes three numbers`);
      return numbers as unknown as Triple;
    };
    const range = (part: 'curves' | 'cube'): void => {
      const [low, high] = numbers;
      if (numbers.length !== 2 || !(low! < high!)) wrong(i, `${word} takes two numbers, the lower first`);
      ranges[part] = { low: [low!, low!, low!], high: [high!, high!, high!] };
    };
    if (word === 'TITLE') title = line.slice(5).trim().replace(/^"|"$/g, '');
    else if (word === 'LUT_1D_SIZE') sizes = { ...sizes, curves: size(MAX_CURVE) };
    else if (word === 'LUT_3D_SIZE') sizes = { ...sizes, cube: size(MAX_CUBE) };
    else if (word === 'DOMAIN_MIN') ranges.both.low = triple();
    else if (word === 'DOMAIN_MAX') ranges.both.high = triple();
    else if (word === 'LUT_1D_INPUT_RANGE') range('curves');
    else if (word === 'LUT_3D_INPUT_RANGE') range('cube');
    // Other words are somebody's own and say nothing of the table.
  }
  if (sizes.curves + sizes.cube === 0) throw new MediaError(file, 'it says neither LUT_1D_SIZE nor LUT_3D_SIZE: it is no .cube file');
  const wanted = sizes.curves + sizes.cube ** 3;
  if (rows.length !== 3 * wanted) {
    throw new MediaError(file, `it should hold ${wanted} lines of three numbers and holds ${rows.length / 3}`);
  }
  const table = (part: 'curves' | 'cube', from: number, count: number): Table => {
    const { low, high } = { low: [0, 0, 0] as const, high: [1, 1, 1] as const, ...ranges.both, ...ranges[part] };
    if (!low.every((v, c) => v < high[c]!)) throw new MediaError(file, 'its DOMAIN_MAX is not above its DOMAIN_MIN');
    return { size: sizes[part], low, high, data: rows.slice(3 * from, 3 * (from + count)) };
  };
  return {
    title,
    ...(sizes.curves && { curves: table('curves', 0, sizes.curves) }),
    ...(sizes.cube && { cube: table('cube', sizes.curves, sizes.cube ** 3) }),
  };
}

/** A table as a .cube file. */
export function formatCube({ title, curves, cube }: Cube): string {
  const out: string[] = [];
  if (title) out.push(`TITLE "${title.replace(/"/g, "'")}"`);
  const list = (v: Triple): string => v.join(' ');
  const both = curves && cube;
  for (const [name, t] of [
    ['1D', curves],
    ['3D', cube],
  ] as const) {
    if (!t) continue;
    out.push(`LUT_${name}_SIZE ${t.size}`);
    if (both) out.push(`LUT_${name}_INPUT_RANGE ${t.low[0]} ${t.high[0]}`);
    else out.push(`DOMAIN_MIN ${list(t.low)}`, `DOMAIN_MAX ${list(t.high)}`);
  }
  for (const t of [curves, cube]) {
    for (let i = 0; t && i < t.data.length; i += 3) {
      out.push([0, 1, 2].map((c) => Number(t.data[i + c]!.toPrecision(9))).join(' '));
    }
  }
  return `${out.join('\n')}\n`;
}

/** Entries a value apart, and the first entry's place, on one axis. */
const scaleOf = (t: Table, c: number): [scale: number, shift: number] => {
  const scale = (t.size - 1) / (t.high[c]! - t.low[c]!);
  return [scale, -t.low[c]! * scale];
};

/** A table laid out for the kernels. Whoever made it gives it back with `giveCube`. */
export interface PreparedCube {
  curves?: { size: number; planes: readonly Plane[]; axes: readonly (readonly [number, number])[] };
  cube?: { size: number; table: Plane; domain: Plane };
  bytes: number;
}

export function prepareCube({ curves, cube }: Cube, kernels: Kernels): PreparedCube {
  const prepared: PreparedCube = { bytes: 12 * (curves?.size ?? 0) + 16 * (cube?.size ?? 0) ** 3 };
  if (curves) {
    const { size, data } = curves;
    prepared.curves = {
      size,
      planes: [0, 1, 2].map((c) => kernels.copy(Float32Array.from({ length: size }, (_, i) => data[3 * i + c]!))),
      axes: [0, 1, 2].map((c) => scaleOf(curves, c)),
    };
  }
  if (cube) {
    const { size, data } = cube;
    const table = kernels.take(4 * size ** 3);
    for (let i = 0; i < size ** 3; i++) for (let c = 0; c < 3; c++) table[4 * i + c] = data[3 * i + c]!;
    const axes = [0, 1, 2].map((c) => scaleOf(cube, c));
    prepared.cube = { size, table, domain: kernels.copy([...axes.map((a) => a[0]), ...axes.map((a) => a[1])]) };
  }
  return prepared;
}

export function giveCube({ curves, cube }: PreparedCube, kernels: Kernels): void {
  [...(curves?.planes ?? []), ...(cube ? [cube.table, cube.domain] : [])].forEach((p) => kernels.give(p));
}

/** Puts three planes of the same length through a table, in place. */
export function applyCube({ curves, cube }: PreparedCube, planes: readonly [Plane, Plane, Plane], kernels: Kernels): void {
  const { fn } = kernels;
  if (curves) {
    planes.forEach((p, c) => fn.lutCurve(p.byteOffset, p.length, curves.planes[c]!.byteOffset, curves.size, ...curves.axes[c]!));
  }
  if (cube) {
    const [r, g, b] = planes;
    fn.lutCube(r.byteOffset, g.byteOffset, b.byteOffset, r.length, cube.table.byteOffset, cube.size, cube.domain.byteOffset);
  }
}
