import { ShotError } from '../errors';
import type { Gray } from '../readings/gray';
import type { LensReading } from '../readings/types';
import { detectChart } from './chart/detect';
import { refineCrossing } from './chart/refine';
import { bendOf, followEdge } from './edges';
import type { Lens } from './lens';
import { lensMapOf } from './lens';
import { solveLines } from './plumb';
import type { ChartFrame, ChartPattern, Crossing, LensSettings, SolvedLens, StraightLine } from './reading';
import type { ChartProblem } from './solve-charts';
import { solveCharts } from './solve-charts';

const RINGS = 10;

/** The chart on a frame. What was set by hand on it before stays. Throws ShotError where there is none. */
export function measureChart(gray: Gray, frame: number, settings: LensSettings, before?: ChartFrame, poll?: () => void): ChartFrame {
  const chart = detectChart(gray, settings.pattern, poll);
  if (!chart) {
    throw new ShotError(
      `no chart was found on frame ${frame}: it needs a checkerboard, or a grid of lines, of which ten crossings or so are sharp and whole. Look whether the frame shows one, or choose the pattern`,
    );
  }
  const kept = before?.pattern === chart.pattern ? before.crossings.filter((c) => c.hand) : [];
  const crossings = kept.length > 0 ? withHand(chart.crossings, kept) : chart.crossings;
  return { frame, pattern: chart.pattern, crossings, confidence: 1, error: 0, ...(before?.mm !== undefined && { mm: before.mm }) };
}

/** Crossings that were set by hand, in the numbers of a new measurement: by the one that lies nearest to each. */
function withHand(found: readonly Crossing[], hand: readonly Crossing[]): Crossing[] {
  const out = [...found];
  for (const h of hand) {
    let nearest = 0;
    out.forEach((c, i) => {
      if (Math.hypot(c.x - h.x, c.y - h.y) < Math.hypot(out[nearest]!.x - h.x, out[nearest]!.y - h.y)) nearest = i;
    });
    const { column, row, x, y } = out[nearest]!;
    if (Math.hypot(x - h.x, y - h.y) < 8) out[nearest] = { ...h, column, row };
  }
  return out;
}

/** A place put by hand, snapped to the crossing near it; itself where there is none. */
export function snapCrossing(gray: Gray, { pattern, crossings }: ChartFrame, x: number, y: number): readonly [number, number] {
  const near = [...crossings].sort((a, b) => Math.hypot(a.x - x, a.y - y) - Math.hypot(b.x - x, b.y - y)).slice(1, 9);
  const spacing = near.length ? Math.hypot(near[0]!.x - x, near[0]!.y - y) : 20;
  const made = refineCrossing(gray, pattern, { x, y, axes: axesNear(near, x, y) }, Math.min(10, Math.max(4, 0.36 * spacing)));
  return made && made.fit > 0.5 && Math.hypot(made.x - x, made.y - y) < Math.max(3, 0.25 * spacing) ? [made.x, made.y] : [x, y];
}

/** The board's directions around a place: to the neighbours along rows and along columns. */
function axesNear(near: readonly Crossing[], x: number, y: number): readonly [number, number] {
  const half = (a: number): number => ((a % Math.PI) + Math.PI) % Math.PI;
  const angles = near.slice(0, 4).map((c) => half(Math.atan2(c.y - y, c.x - x)));
  const first = angles[0] ?? 0;
  const other = angles.find((a) => Math.abs(Math.sin(a - first)) > 0.6) ?? first + Math.PI / 2;
  return [first, half(other)];
}

/** The number on the board that a place has: next to the crossings around it; null where another has it, or it lies off the board. */
export function numberOf(crossings: readonly Crossing[], x: number, y: number): { column: number; row: number } | null {
  const near = [...crossings].sort((a, b) => Math.hypot(a.x - x, a.y - y) - Math.hypot(b.x - x, b.y - y));
  const origin = near[0];
  if (!origin) return { column: 0, row: 0 };
  // Steps along columns and rows as they are nearby.
  const step = (key: 'column' | 'row', other: 'column' | 'row'): [number, number] | null => {
    for (const a of near.slice(0, 12)) {
      const b = near.find((c) => c[other] === a[other] && c[key] === a[key] + 1);
      if (b) return [b.x - a.x, b.y - a.y];
    }
    return null;
  };
  const [u, v] = [step('column', 'row'), step('row', 'column')];
  if (!u || !v) return null;
  const det = u[0] * v[1] - u[1] * v[0];
  const [dx, dy] = [x - origin.x, y - origin.y];
  const column = origin.column + Math.round((dx * v[1] - dy * v[0]) / det);
  const row = origin.row + Math.round((u[0] * dy - u[1] * dx) / det);
  return crossings.some((c) => c.column === column && c.row === row) ? null : { column, row };
}

/** The edge of a straight thing under a drawn line. Throws ShotError where there is none. */
export function measureLine(gray: Gray, line: StraightLine): StraightLine {
  const found = followEdge(gray, line.drawn);
  if (found.length === 0) throw new ShotError('no edge was found along that line: draw it within a few pixels of one, from end to end');
  return { ...line, found, bend: bendOf(found) };
}

/** The focal length in px, where the settings say it. */
function knownFocal({ mm, sensor, squeeze }: LensSettings, own: number | undefined, width: number): number | undefined {
  const used = own ?? mm;
  return used > 0 && sensor > 0 ? (used / sensor) * width * squeeze : undefined;
}

export interface SolvedReading {
  frames: ChartFrame[];
  lines: StraightLine[];
  solved: SolvedLens[];
}

/** The lens of a reading's charts, or, without any, of its lines; and what is left at each crossing and line. Throws ShotError. */
export function solveReading(
  reading: Pick<LensReading, 'frames' | 'lines' | 'settings'>,
  format: { width: number; height: number },
  poll?: () => void,
): SolvedReading {
  const { settings, frames, lines } = reading;
  const withCharts = frames.filter((f) => f.crossings.some((c) => c.used));
  if (withCharts.length === 0) return solvedFromLines(reading, format);
  const groups = new Map<number | undefined, ChartFrame[]>();
  for (const f of withCharts) groups.set(f.mm, [...(groups.get(f.mm) ?? []), f]);
  const solved: SolvedLens[] = [];
  const done = new Map<ChartFrame, ChartFrame>();
  // All focal lengths of a zoom by one model, that of the first: lenses of two models have nothing between them.
  let model = settings.model;
  for (const [mm, group] of [...groups].sort(([a], [b]) => (a ?? 0) - (b ?? 0))) {
    const charts = group.map((f) => f.crossings.filter((c) => c.used || (c.why !== undefined && !c.hand)));
    const focal = knownFocal(settings, mm, format.width);
    const problem: ChartProblem = { charts, format, model, squeeze: settings.squeeze, ...(focal !== undefined && { focal }) };
    const made = solveCharts(problem, poll);
    if (groups.size > 1) model = made.lens.model;
    const far: { radius: number; off: number }[] = [];
    group.forEach((f, i) => {
      // A chart of which too little is seen says nothing, and is told nothing.
      if (made.residuals[i]!.length === 0) return void done.set(f, { ...f, error: 0, confidence: 0 });
      const { crossings, error, confidence } = judged(f, charts[i]!, made.residuals[i]!, made.out[i]!);
      done.set(f, { ...f, crossings, error, confidence });
      for (const c of crossings)
        if (c.used && c.off) far.push({ radius: Math.hypot(c.x - format.width / 2, c.y - format.height / 2), off: Math.hypot(...c.off) });
    });
    const rings = ringsOf(far, Math.hypot(format.width, format.height) / 2);
    solved.push({
      lens: made.lens,
      rms: made.rms,
      max: made.max,
      rings,
      ...(mm !== undefined && { mm }),
      ...(made.assumed && { assumed: true }),
    });
  }
  return { frames: frames.map((f) => done.get(f) ?? f), lines: straightenedLines(lines, solved[0]!.lens), solved };
}

function judged(
  f: ChartFrame,
  points: readonly Crossing[],
  residuals: Float64Array,
  out: readonly boolean[],
): Pick<ChartFrame, 'crossings' | 'error' | 'confidence'> {
  const index = new Map(points.map((c, i) => [c, i]));
  let [sum, used] = [0, 0];
  const crossings = f.crossings.map((c): Crossing => {
    const i = index.get(c);
    if (i === undefined) return c;
    const off = [-residuals[2 * i]!, -residuals[2 * i + 1]!] as const;
    const size = Math.hypot(...off);
    // What was put there by hand is only told, never thrown out.
    if (out[i] && !c.hand) return { ...c, used: false, off, why: `lies ${size.toFixed(2)} px off where the lens has it` };
    sum += size * size;
    used++;
    return { column: c.column, row: c.row, x: c.x, y: c.y, used: true, off, ...(c.hand && { hand: true }) };
  });
  return { crossings, error: Math.sqrt(sum / Math.max(1, used)), confidence: used / Math.max(1, f.crossings.length) };
}

function ringsOf(far: readonly { radius: number; off: number }[], most: number): (number | null)[] {
  return Array.from({ length: RINGS }, (_, i) => {
    const own = far.filter((f) => Math.min(RINGS - 1, Math.floor((f.radius / most) * RINGS)) === i);
    return own.length ? Math.sqrt(own.reduce((s, f) => s + f.off * f.off, 0) / own.length) : null;
  });
}

function solvedFromLines(
  { settings, lines, frames }: Pick<LensReading, 'frames' | 'lines' | 'settings'>,
  format: { width: number; height: number },
): SolvedReading {
  const known = knownFocal(settings, undefined, format.width);
  const used = lines.map((l) => (l.ruler ? [] : l.found));
  if (!used.some((l) => l.length > 0)) {
    throw new ShotError('there is nothing to solve a lens from: measure a chart, or draw along things that are straight');
  }
  const made = solveLines(used, format, settings.model, known ?? format.width * settings.squeeze, settings.squeeze);
  const far = made.places.flatMap((l, i) =>
    Array.from(made.residuals[i]!, (off, k) => ({
      radius: Math.hypot(l[2 * k]! - format.width / 2, l[2 * k + 1]! - format.height / 2),
      off,
    })),
  );
  const rings = ringsOf(far, Math.hypot(format.width, format.height) / 2);
  const solved = [{ lens: made.lens, rms: made.rms, max: made.max, rings, ...(known === undefined && { assumed: true }) }];
  return { frames: [...frames], lines: straightenedLines(lines, made.lens, (i) => made.out[i]!), solved };
}

/** Lines with what is left of their bend once straightened. */
export function straightenedLines(lines: readonly StraightLine[], lens: Lens, isOut?: (i: number) => boolean): StraightLine[] {
  const map = lensMapOf(lens);
  const to = new Float64Array(2);
  return lines.map((line, i) => {
    const straight: number[] = [];
    for (let k = 0; k < line.found.length; k += 2) {
      map.straighten(line.found[k]!, line.found[k + 1]!, to);
      if (Number.isFinite(to[0])) straight.push(to[0]!, to[1]!);
    }
    const { out: _, ...rest } = line;
    return { ...rest, left: bendOf(straight), ...(!line.ruler && isOut?.(i) && { out: true }) };
  });
}

/** Parts of the frame, three by three, that no used crossing or line reaches: there the lens is only continued. */
export function unseenParts(
  { frames, lines }: Pick<LensReading, 'frames' | 'lines'>,
  { width, height }: { width: number; height: number },
): string[] {
  const seen = new Set<number>();
  const see = (x: number, y: number): void => {
    if (x >= 0 && y >= 0 && x < width && y < height) seen.add(3 * Math.floor((3 * y) / height) + Math.floor((3 * x) / width));
  };
  for (const f of frames) for (const c of f.crossings) if (c.used) see(c.x, c.y);
  for (const l of lines) if (!l.ruler) for (let k = 0; k < l.found.length; k += 2) see(l.found[k]!, l.found[k + 1]!);
  return PARTS.filter((_, i) => !seen.has(i));
}
const PARTS = ['top left', 'top', 'top right', 'left', 'middle', 'right', 'bottom left', 'bottom', 'bottom right'];

export const patternName = (p: ChartPattern): string => (p === 'checker' ? 'checkerboard' : 'grid of lines');
