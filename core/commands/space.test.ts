import { produce } from 'immer';
import type { Draft } from 'immer';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import { plainLens } from '../lens/lens';
import { newPoint } from '../readings/make';
import { formatReadings, formatTable, parseReadings } from '../readings/exchange';
import type { CameraReading } from '../readings/types';
import { solveInputOf, viewOf } from '../space/reading';
import { solvedCamera } from '../space/solve';
import { CLIP_FORMAT, makeClip } from '../space/testing';
import { flat, testShot } from '../testing/evaluate';
import type { Change } from './commands';
import { addLens, setSolved, workStraight } from './lens';
import { removeReading, setFrames } from './readings';
import * as space from './space';

const shot = testShot({ main: flat(96, 60, 0.5) }, [{ type: 'conform' }, { type: 'grade' }]);
const run = (s: Shot, ...changes: Change[]): Shot =>
  parseShot(JSON.parse(JSON.stringify(produce(s, (d) => changes.forEach((c) => c(d as Draft<Shot>))))));
const made: { reading?: string } = {};
const fresh = run(shot, space.addCamera({ lane: 'main' }, 1, made));
const id = made.reading!;
const of = (s: Shot): CameraReading => s.readings.find((r) => r.id === id) as CameraReading;

const clip = makeClip('dolly', { frames: 10, tracks: 24, hand: true, noise: 0.05 });
const found = clip.tracks.map((t) => ({ id: t.id, first: 1, at: [...t.at] }));
const input = { tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 780, bend: false };
const solution = solvedCamera(input);
const solved = run(fresh, space.setTracks(id, found), space.setCamera(id, solution, CLIP_FORMAT));

describe('a camera reading', () => {
  test('goes through every door with its tracks, what was solved, and as a file', () => {
    expect(of(solved).tracks).toHaveLength(24);
    expect(of(solved).solved!.kind).toBe('moving');
    expect(of(solved).frames).toHaveLength(10);
    const [back] = parseReadings(formatReadings([of(solved)]), 'camera.json');
    expect(back).toEqual(of(solved));
    const rows = formatTable(of(solved)).trim().split('\n');
    expect(rows[0]).toBe('track,x,y,z,error,frames');
    expect(rows).toHaveLength(1 + solution.points.filter((p) => p.used).length);
  });

  test('a file whose numbers are not numbers is refused with the place', () => {
    const broken = JSON.parse(formatReadings([of(solved)])) as { readings: { tracks: { at: unknown[] }[] }[] };
    broken.readings[0]!.tracks[3]!.at[2] = 'x';
    expect(() => parseReadings(JSON.stringify(broken), 'camera.json')).toThrow(/camera\.json: it holds no readings .*tracks\[3\]\.at/);
  });

  test('a point by hand that is measured again makes what was solved with it old', () => {
    const point = newPoint([20, 20], { id: 'hand', name: 'Hand', from: { lane: 'main' }, reference: 1, range: { first: 1, last: 4 } });
    const withHand = run(
      { ...solved, readings: [...solved.readings, point] },
      space.changeCamera(id, { hand: ['hand'] }),
      space.setCamera(id, solution, CLIP_FORMAT),
    );
    expect(of(withHand).stale).toBeUndefined();
    const frames = [1, 2].map((frame) => ({ frame, x: 20 + frame, y: 20, error: 0, confidence: 1 }));
    expect(of(run(withHand, setFrames('hand', frames as never))).stale).toBe(true);
    expect(of(run(solved, space.changeCamera(id, { hand: [] }), space.setCamera(id, solution, CLIP_FORMAT))).stale).toBeUndefined();
  });

  test('what it is solved from changes: it says so; tracks that go take their points, marks and cards along', () => {
    const [a, b] = [clip.tracks[0]!.id, clip.tracks[1]!.id];
    const marked = run(solved, space.addGroup(id, [a, b]), space.addCards(id, [a, b, ''], 'facing', 1));
    expect(of(marked).stale).toBeUndefined();
    const less = run(marked, space.removeTracks(id, [a], 0.04));
    expect(of(less).stale).toBe(true);
    expect(of(less).groups[0]!.tracks).toEqual([b]);
    expect(of(less).cards.map((c) => c.track)).toEqual([b, '']);
    expect(of(less).solved!.points.some((p) => p.track === a)).toBe(false);
    const again = solvedCamera({ ...input, tracks: clip.tracks.slice(1), from: { ...of(less).solved!, frames: of(less).frames } });
    const kept = run(less, space.setCamera(id, again, CLIP_FORMAT));
    expect(of(kept).stale).toBeUndefined();
    expect(of(kept).solved!.expected).toBe(0.04);
    // The world stays where it was put: the points that both have are where they were.
    const [before, after] = [viewOf(of(marked), [])!, viewOf(of(kept), [])!];
    for (const t of clip.tracks.slice(1)) {
      const [p, q] = [before.point(t.id)!, after.point(t.id)!];
      expect(Math.hypot(...p.map((v, i) => v - q[i]!))).toBeLessThan(0.05);
    }
  });

  test('how tracks are found says nothing of those that are there; how they are used does', () => {
    expect(of(run(solved, space.changeCamera(id, { settings: { count: 50, margin: 3 } }))).stale).toBeUndefined();
    expect(of(run(solved, space.changeCamera(id, { exclude: [{ lane: 'main', invert: false }] }))).stale).toBeUndefined();
    expect(of(run(solved, space.changeCamera(id, { settings: { focal: 'each' } }))).stale).toBe(true);
    expect(of(run(solved, space.changeCamera(id, { hand: ['p'] }))).stale).toBe(true);
  });

  test('a lens of pictures of another shape is refused, one of a larger picture is scaled', () => {
    const lensOf = (width: number, height: number): Shot['readings'][number] =>
      ({
        kind: 'lens',
        id: 'l',
        solved: [{ lens: { ...plainLens({ width, height }), focal: width }, rms: 0, max: 0, rings: [] }],
      }) as never;
    const camera = { ...of(fresh), settings: { ...of(fresh).settings, lens: 'l', focal: 'lens' as const } };
    expect(solveInputOf(camera, [lensOf(1920, 1080)], CLIP_FORMAT, false)).toMatchObject({ focal: 960, centre: [480, 270] });
    expect(() => solveInputOf(camera, [lensOf(1000, 1000)], CLIP_FORMAT, false)).toThrow(
      /measured for pictures of 1000×1000 and this one is 960×540/,
    );
  });

  test('new tracks: what was solved goes', () => {
    const anew = of(run(solved, space.setTracks(id, found.slice(4))));
    expect([anew.solved, anew.frames.length, anew.cards.length]).toEqual([null, 0, 0]);
  });

  test('takes points by hand of the same picture, and lets go of them and of lenses that are deleted', () => {
    const point = {
      ...newPoint([5, 5], {
        id: 'p',
        name: 'P',
        from: { lane: 'main', after: of(fresh).from.after! },
        reference: 1,
        range: { first: 1, last: 2 },
      }),
    };
    const frames = [1, 2].map((frame) => ({ frame, x: 5, y: 5, confidence: 1, error: 0 }));
    const lens: { reading?: string } = {};
    const bent = { ...plainLens({ width: 96, height: 60 }), focal: 70, coefficients: { k1: -0.2 } };
    const withBoth = run(
      shot,
      (s) => void s.readings.push({ ...point, frames } as never),
      addLens({ lane: 'main', after: '' }, 1, lens),
      (s) => setSolved(lens.reading!, { frames: [], lines: [], solved: [{ lens: bent, rms: 0.1, max: 0.2, rings: [] }] })(s),
      space.addCamera({ lane: 'main' }, 1, made),
    );
    const camera = (s: Shot): CameraReading => s.readings.find((r) => r.kind === 'camera') as CameraReading;
    expect(camera(withBoth).hand).toEqual(['p']);
    expect(camera(withBoth).settings).toMatchObject({ lens: lens.reading, focal: 'lens' });
    const without = run(withBoth, removeReading('p'), removeReading(lens.reading!));
    expect(camera(without).hand).toEqual([]);
    expect(camera(without).settings.lens).toBe('');
    // Where the lane has been straightened the camera is found there, and needs no lens of its own.
    const straight: { straighten?: string } = {};
    const worked = run(
      withBoth,
      (s) => void (s.readings = s.readings.filter((r) => r.kind !== 'camera')),
      workStraight(lens.reading!, 'main', straight),
      space.addCamera({ lane: 'main' }, 1, made),
    );
    expect(camera(worked).from).toEqual({ lane: 'main', after: straight.straighten });
    expect(camera(worked).settings).toMatchObject({ lens: '', focal: 'lens' });
  });

  test('groups and cards are renamed, changed and taken away; what is gone says so', () => {
    const one = run(solved, space.addGroup(id, [clip.tracks[0]!.id]));
    const group = of(one).groups[0]!.id;
    const named = run(one, space.changeGroup(id, group, { name: 'Quay', mark: 'cross', colour: '#112233' }));
    expect(of(named).groups[0]).toMatchObject({ name: 'Quay', mark: 'cross', colour: '#112233' });
    expect(of(run(named, space.changeGroup(id, group, null))).groups).toEqual([]);
    expect(() => run(named, space.changeGroup(id, 'x', null))).toThrow(/no longer there/);
    expect(() => run(named, space.addGroup(id, []))).toThrow(/select some on the stage/);
    expect(() => run(named, space.changeGroup(id, group, { colour: 'red' }))).toThrow(/colour/);
  });
});
