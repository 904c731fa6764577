import type { Draft } from 'immer';
import type { Lane, Shot, Step, Tap } from '../document';
import { ShotError } from '../errors';
import { inPolygon } from '../geometry';
import type { ChartFrame, Crossing, LensSettings, SolvedReading, StraightLine } from '../lens';
import { LENS_SETTINGS, numberOf } from '../lens';
import type { LensReading } from '../readings';
import type { Change } from './change';
import { laneOf, readingOf, stepNames } from './change';
import { newStep } from './make';
import { aboutReading } from './readings';

const lensOf = (s: Draft<Shot>, id: string): Draft<LensReading> => {
  const r = readingOf(s, id);
  if (r.kind !== 'lens') throw new ShotError('that reading is no lens');
  return r;
};

export const addLens =
  (from: Tap, frame: number, made: { reading?: string } = {}): Change =>
  (s) => {
    const reading: LensReading = {
      kind: 'lens',
      channel: 'luma',
      ...aboutReading(s, from, frame, 'Lens 1'),
      settings: LENS_SETTINGS,
      frames: [],
      lines: [],
      solved: [],
    };
    made.reading = reading.id;
    s.readings.push(reading as Draft<LensReading>);
  };

export const changeLens =
  (id: string, settings: Partial<LensSettings>): Change =>
  (s) => {
    const r = lensOf(s, id);
    Object.assign(r.settings, settings);
    // The pattern is for the next measuring: what is solved does not hang on it.
    const solvedBy = Object.keys(settings).some((k) => k !== 'pattern');
    if (solvedBy && r.solved.length > 0) r.stale = true;
  };

/** A chart as it was measured takes the place of what was there on its frame. */
export const setChart =
  (id: string, chart: ChartFrame): Change =>
  (s) => {
    const r = lensOf(s, id);
    r.frames = [...r.frames.filter((f) => f.frame !== chart.frame), chart as Draft<ChartFrame>].sort((a, b) => a.frame - b.frame);
  };

export const removeChart =
  (id: string, frame: number): Change =>
  (s) => {
    const r = lensOf(s, id);
    r.frames = r.frames.filter((f) => f.frame !== frame);
    r.stale = true;
  };

/** What the lens was set to when a chart was filmed; undefined is the same for all. */
export const setChartLength =
  (id: string, frame: number, mm: number | undefined): Change =>
  (s) => {
    const r = lensOf(s, id);
    const chart = r.frames.find((f) => f.frame === frame);
    if (!chart) throw new ShotError(`there is no chart on frame ${frame}`);
    if (mm === undefined) delete chart.mm;
    else chart.mm = mm;
    r.stale = true;
  };

const crossingsOf = (s: Draft<Shot>, id: string, frame: number): { reading: Draft<LensReading>; chart: Draft<ChartFrame> } => {
  const reading = lensOf(s, id);
  const chart = reading.frames.find((f) => f.frame === frame);
  if (!chart) throw new ShotError(`there is no chart on frame ${frame}: measure it first`);
  reading.stale = true;
  return { reading, chart };
};

const at = (chart: Draft<ChartFrame>, { column, row }: Pick<Crossing, 'column' | 'row'>): number =>
  chart.crossings.findIndex((c) => c.column === column && c.row === row);

/** Puts a crossing where it belongs; it counts again where it was thrown out. */
export const moveCrossing =
  (id: string, frame: number, which: Pick<Crossing, 'column' | 'row'>, x: number, y: number): Change =>
  (s) => {
    const { chart } = crossingsOf(s, id, frame);
    const i = at(chart, which);
    if (i < 0) throw new ShotError('that crossing is no longer there');
    const { column, row } = chart.crossings[i]!;
    chart.crossings[i] = { column, row, x, y, used: true, hand: true };
  };

/** Crossings that are used no more, or again. */
export const countCrossings =
  (id: string, frame: number, which: readonly Pick<Crossing, 'column' | 'row'>[], used: boolean): Change =>
  (s) => {
    const { chart } = crossingsOf(s, id, frame);
    for (const w of which) {
      const c = chart.crossings[at(chart, w)];
      if (!c) continue;
      c.used = used;
      c.hand = true;
      if (used) delete c.why;
      else c.why = 'thrown out by hand';
    }
  };

/** All crossings in an outline. */
export const countCrossingsIn =
  (id: string, frame: number, shape: readonly number[], used: boolean): Change =>
  (s) => {
    const { chart } = crossingsOf(s, id, frame);
    const inside = chart.crossings.filter((c) => inPolygon(shape, c.x, c.y));
    if (inside.length === 0) throw new ShotError('there is no crossing in that outline');
    countCrossings(id, frame, inside, used)(s);
  };

/** A crossing that was not found, at a place; its number is that of the gap it stands in. */
export const addCrossing =
  (id: string, frame: number, x: number, y: number): Change =>
  (s) => {
    const { chart } = crossingsOf(s, id, frame);
    const place = numberOf(chart.crossings, x, y);
    if (!place) throw new ShotError('there is a crossing already: drag it to where it belongs');
    chart.crossings.push({ ...place, x, y, used: true, hand: true });
  };

export const addLine =
  (id: string, line: StraightLine): Change =>
  (s) => {
    const r = lensOf(s, id);
    r.lines.push(line as Draft<StraightLine>);
    if (!line.ruler) r.stale = true;
  };

export const changeLine =
  (id: string, index: number, change: Partial<StraightLine> | null): Change =>
  (s) => {
    const r = lensOf(s, id);
    const line = r.lines[index];
    if (!line) throw new ShotError('that line is no longer there');
    if (change) Object.assign(line, change);
    else r.lines.splice(index, 1);
    r.stale = true;
  };

/** What was solved, with what is left at each crossing and line. */
export const setSolved =
  (id: string, { frames, lines, solved }: SolvedReading): Change =>
  (s) => {
    const r = lensOf(s, id);
    Object.assign(r, { frames, lines, solved });
    delete r.stale;
  };

const lensStep = (lane: Draft<Lane>, name: string, reading: string, params: Step['params'] = {}): Draft<Step> =>
  ({ ...newStep('lens', stepNames(lane)), name, params: { reading, ...params } }) as Draft<Step>;

/** Where the first step that does more than bring a plate to the shot's size would stand. */
const afterSize = (lane: Draft<Lane>): number => {
  const index = lane.steps.findIndex((x) => x.type !== 'conform');
  return index < 0 ? lane.steps.length : index;
};

const solvedLens = (s: Draft<Shot>, id: string): void => {
  if (lensOf(s, id).solved.length === 0)
    throw new ShotError('the lens is not solved yet: measure a chart, or draw straight lines, and press Solve');
};

/** Straightens the picture of a lane from its start on. */
export const straightenLane =
  (id: string, laneId: string, made: { step?: string } = {}): Change =>
  (s) => {
    solvedLens(s, id);
    const lane = laneOf(s, laneId);
    const step = lensStep(lane, 'Straighten', id);
    made.step = step.id;
    lane.steps.splice(afterSize(lane), 0, step);
  };

/**
 * Work without the lens: a lane's picture is straightened at its start and bent back at its end. What is done between lands on straight
 * pixels; what is not changed goes out as it was filmed.
 */
export const workStraight =
  (id: string, laneId: string, made: { straighten?: string; bend?: string } = {}): Change =>
  (s) => {
    solvedLens(s, id);
    const lane = laneOf(s, laneId);
    if (lane.steps.some((x) => x.type === 'lens')) throw new ShotError(`“${lane.name}” has a lens step already`);
    const index = afterSize(lane);
    const before: Tap = { lane: lane.id, after: lane.steps[index - 1]?.id ?? '' };
    const straighten = lensStep(lane, 'Straighten', id);
    const bend = lensStep(lane, 'Bend back', id, { direction: 'bend' });
    bend.feeds = { plate: before, straight: { lane: lane.id, after: straighten.id } };
    lane.steps.splice(index, 0, straighten);
    lane.steps.push(bend);
    Object.assign(made, { straighten: straighten.id, bend: bend.id });
  };
