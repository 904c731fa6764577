import { produce } from 'immer';
import type { Draft } from 'immer';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import { plainLens } from '../lens/lens';
import type { ChartFrame } from '../lens/reading';
import { newPoint } from '../readings/make';
import type { LensReading } from '../readings/types';
import { flat, testShot } from '../testing/evaluate';
import type { Change } from './commands';
import { emptyLane } from './commands';
import * as lens from './lens';
import { freezeStep } from './readings';

const shot = testShot({ main: flat(96, 60, 0.5) }, [{ type: 'conform' }, { type: 'grade' }]);
const made: { reading?: string } = {};
const run = (s: Shot, change: Change): Shot => parseShot(JSON.parse(JSON.stringify(produce(s, (d) => change(d as Draft<Shot>)))));
const fresh = run(shot, lens.addLens({ lane: 'main', after: '' }, 1, made));
const id = made.reading!;
const of = (s: Shot): LensReading => s.readings.find((r) => r.id === id) as LensReading;
const crossing = (column: number, row: number) => ({ column, row, x: 10 + 20 * column, y: 10 + 15 * row, used: true });
const chart: ChartFrame = {
  frame: 1,
  pattern: 'checker',
  confidence: 1,
  error: 0,
  crossings: [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => crossing(c, r))),
};
const charted = run(fresh, lens.setChart(id, chart));
const bent = { ...plainLens({ width: 96, height: 60 }), focal: 70, coefficients: { k1: -0.2 } };
const solved = run(
  charted,
  lens.setSolved(id, { frames: [chart], lines: [], solved: [{ lens: bent, rms: 0.1, max: 0.2, rings: [0.1, null] }] }),
);

describe('a lens reading', () => {
  test('keeps its charts in order of frames, one a frame, through every door', () => {
    const two = run(charted, lens.setChart(id, { ...chart, frame: 0 }));
    expect(of(two).frames.map((f) => f.frame)).toEqual([0, 1]);
    expect(of(run(two, lens.setChart(id, { ...chart, frame: 0, mm: 35 }))).frames.map((f) => f.mm)).toEqual([35, undefined]);
  });

  test('crossings are moved, thrown out, taken in by an outline, and added where one is missing', () => {
    const moved = run(solved, lens.moveCrossing(id, 1, { column: 1, row: 1 }, 31, 26));
    expect(of(moved).frames[0]!.crossings[4]).toMatchObject({ x: 31, y: 26, hand: true, used: true });
    expect(of(moved).stale).toBe(true);
    const out = run(solved, lens.countCrossingsIn(id, 1, [0, 0, 40, 0, 40, 20, 0, 20], false));
    expect(
      of(out)
        .frames[0]!.crossings.filter((c) => !c.used)
        .map((c) => [c.column, c.row]),
    ).toEqual([
      [0, 0],
      [1, 0],
    ]);
    const gap = run(fresh, lens.setChart(id, { ...chart, crossings: chart.crossings.filter((c) => c.column !== 2 || c.row !== 2) }));
    expect(of(run(gap, lens.addCrossing(id, 1, 51, 39))).frames[0]!.crossings.at(-1)).toMatchObject({ column: 2, row: 2, hand: true });
    expect(() => run(solved, lens.addCrossing(id, 1, 31, 26))).toThrow('a crossing already');
    expect(() => run(solved, lens.countCrossingsIn(id, 1, [80, 50, 90, 50, 90, 59], false))).toThrow('no crossing in that outline');
  });

  test('work without the lens: straightened after the plate is brought to size, bent at the end, with what it needs to leave pixels alone', () => {
    const steps: { straighten?: string; bend?: string } = {};
    const work = run(solved, lens.workStraight(id, 'main', steps));
    const [lane] = work.lanes;
    expect(lane!.steps.map((s) => s.name)).toEqual(['conform 0', 'Straighten', 'grade 1', 'Bend back']);
    expect(lane!.steps[3]!.feeds).toEqual({
      plate: { lane: 'main', after: 'step 0' },
      straight: { lane: 'main', after: steps.straighten },
    });
    expect(() => run(work, lens.workStraight(id, 'main'))).toThrow('has a lens step already');
    expect(() => run(fresh, lens.workStraight(id, 'main'))).toThrow('not solved yet');
    // A new lane is joined on straight pixels.
    const more = run(work, emptyLane());
    expect(more.lanes.find((l) => l.id === 'main')!.steps.map((s) => s.type)).toEqual(['conform', 'lens', 'grade', 'join', 'lens']);
  });

  test('a step whose reading lies on the other side of the lens is not frozen to corners', () => {
    const work = run(solved, lens.straightenLane(id, 'main'));
    const straight = work.lanes[0]!.steps.find((s) => s.type === 'lens')!.id;
    const point = {
      ...newPoint([30, 20], { id: 'p', from: { lane: 'main', after: straight }, reference: 1, range: { first: 1, last: 2 } }),
    };
    const follow = { id: 'f', type: 'follow', name: 'Follow', on: true, params: { reading: 'p' }, feeds: {}, mix: 1 };
    const before = produce(work, (d) => {
      d.readings.push(point as never);
      d.lanes[0]!.steps.splice(1, 0, follow as never);
    });
    expect(() => run(before, freezeStep('f'))).toThrow('other side of a lens');
    const after = produce(work, (d) => {
      d.readings.push(point as never);
      d.lanes[0]!.steps.push(follow as never);
    });
    expect(run(after, freezeStep('f')).lanes[0]!.steps.at(-1)!.params.from).toBe('keys');
  });
});
