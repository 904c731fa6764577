import type { Shot } from '@/core/document';
import { mapPoint } from '@/core/geometry';
import type { Stroke } from '@/core/paint';
import { copies, growthAt, neededPoints } from '@/core/paint';
import { carryOf, uncarryOf } from '@/core/shape';
import type { BrushTip } from '../workbench/state';
import { hasAmount } from './brushing';

/** A line drawn by hand on a frame, in the step's own pixels. */
export interface Drawn {
  points: readonly number[];
  /** Of a pen: as many as points. */
  pressure: readonly number[] | null;
  frame: number;
  span: { first: number; last: number };
}

const round = (v: number, k = 10): number => Math.round(v * k) / k;

/** What a brush that copies still has to be told; null where it knows from where. */
export function sourceProblem(tip: BrushTip, connected: boolean): string | null {
  if (!copies(tip.tool)) return null;
  if (tip.other && !connected) return 'Connect the other picture first, or switch it off under From.';
  if (tip.tool === 'reveal') return tip.other || tip.from !== null ? null : 'Say which frame to reveal, or take the other picture.';
  return tip.source || tip.shift ? null : 'Alt-click the place to copy from first.';
}

/** How far from a stroke's place what it copies lies, as it is kept; null where nothing says so yet. */
export function shiftOf(
  shot: Pick<Shot, 'readings'>,
  tip: BrushTip,
  start: readonly [number, number],
  frame: number,
): readonly [number, number] | null {
  if (tip.shift) return tip.shift;
  if (!tip.source) return null;
  const follows = tip.follows ? [tip.follows] : [];
  const home = (x: number, y: number, f: number): readonly [number, number] => {
    const back = uncarryOf(shot, { follows }, f);
    return back ? mapPoint(back, x, y) : [x, y];
  };
  const [a, b] = [home(...tip.source.at, tip.source.frame), home(...start, frame)];
  return [round(a[0] - b[0], 100), round(a[1] - b[1], 100)];
}

/** The stroke of a line, by the brush's tip; null where a brush that copies does not know from where. */
export function strokeOf(shot: Pick<Shot, 'readings'>, tip: BrushTip, { points, pressure, frame, span }: Drawn): Stroke | null {
  const { tool } = tip;
  const start = [points[0]!, points[1]!] as const;
  const shift = tool === 'clone' || tool === 'heal' ? shiftOf(shot, tip, start, frame) : null;
  if ((tool === 'clone' || tool === 'heal') && !shift) return null;
  const follows = tip.follows ? [tip.follows] : [];
  const back = uncarryOf(shot, { follows }, frame);
  const kept = pressure
    ? points
        .map((_, i) => i)
        .filter((i) => i % 2 === 0)
        .map((i) => i / 2)
    : neededPoints(points, 0.4);
  const home = kept.flatMap((i) => {
    const [x, y] = [points[2 * i]!, points[2 * i + 1]!];
    const [u, v] = back && follows.length > 0 ? mapPoint(back, x, y) : [x, y];
    return [round(u), round(v)];
  });
  const grown = follows.length > 0 ? growthAt(carryOf(shot, { follows }, frame), home[0]!, home[1]!) : 1;
  const from = tool === 'reveal' ? tip.from : copies(tool) && tip.source && tip.source.frame !== frame ? tip.source.frame : null;
  return {
    tool,
    first: span.first,
    last: span.last,
    size: round(tip.size / grown),
    hardness: tip.hardness,
    flow: tip.flow,
    colour: tip.colour.map((v) => Number(v.toPrecision(5))),
    points: home,
    ...(pressure && { pressure: kept.map((i) => round(pressure[i]!, 100)) }),
    ...(follows.length > 0 && { follows }),
    ...(shift && { shift }),
    ...(from !== null && { from }),
    ...(copies(tool) && tip.other && { other: true }),
    ...(hasAmount(tool) && { amount: tip.amount }),
  };
}
