import { produce } from 'immer';
import { makePlan } from '../evaluate/plan';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import { ShotError } from '../errors';
import { mapPoint } from '../geometry/homography';
import type { PlaneReading, PointReading } from '../readings/types';
import { dataOf } from '../readings/track-data';
import { stepValues } from '../document/values';
import { STEPS } from '../steps';
import { stabiliseMap } from '../steps/place/stabilise';
import { testShot } from '../testing/evaluate';
import * as c from './readings';
import type { Change } from './commands';

const flat = (r: number) => ({ width: 64, height: 48, fill: { R: r, G: r, B: r } });
const bare = (): Shot => testShot({ main: flat(0.5), picture: flat(0.2) }, [{ type: 'grade' }]);
const after = (shot: Shot, ...changes: Change[]): Shot => changes.reduce((s, change) => produce(s, change), shot);
const path = (id: string): Change =>
  c.setFrames(
    id,
    Array.from({ length: 10 }, (_, i) => ({ frame: i + 1, x: 20 + i * 0.5 + (i % 2), y: 20 + i, confidence: 1, error: 0 })),
  );

/** A shot with a measured point, and its id. */
function measured(): { shot: Shot; id: string } {
  const made: { reading?: string } = {};
  const shot = after(bare(), c.addPoint({ lane: 'main' }, [20, 20], 1, made));
  return { shot: after(shot, path(made.reading!)), id: made.reading! };
}
const valid = (shot: Shot): Shot => parseShot(JSON.parse(JSON.stringify(shot)));

describe('readings in a shot', () => {
  test('a reading is measured at the point as it was: steps added later are not in it', () => {
    const { shot, id } = measured();
    expect(shot.readings[0]).toMatchObject({ id, from: { lane: 'main', after: 'step 0' }, range: { first: 1, last: 10 } });
    expect(valid(shot).readings).toEqual(shot.readings);
  });

  test('a frame put right by hand stays through measuring, and can be freed', () => {
    const { shot, id } = measured();
    const pinned = after(shot, c.pinPoint(id, 4, 99, 98));
    expect(pinned.readings[0]!.frames[3]).toMatchObject({ frame: 4, x: 99, pinned: true });
    expect(after(pinned, c.removeFrames(id, [4])).readings[0]!.frames).toHaveLength(9);
  });

  test('moved on its reference frame the point itself is another', () => {
    const { shot, id } = measured();
    expect((after(shot, c.pinPoint(id, 1, 30, 31)).readings[0] as PointReading).at).toEqual([30, 31]);
  });

  test('what it is measured by has changed: it says so until every frame is measured again', () => {
    const { shot, id } = measured();
    const stale = (s: Shot): boolean => s.readings[0]!.stale === true;
    expect(stale(shot)).toBe(false);
    const changes = [
      c.pinPoint(id, 1, 30, 31),
      c.changePoint(id, { settings: { threshold: 0.9 } }),
      c.changeReading(id, { channel: 'red' }),
    ];
    for (const change of changes) expect(stale(after(shot, change))).toBe(true);
    const changed = valid(after(shot, changes[0]!));
    expect(stale(changed)).toBe(true);
    expect(stale(after(changed, path(id)))).toBe(false);
    const some = changed.readings[0]!.frames.slice(0, 4) as never;
    expect(stale(after(changed, c.setFrames(id, some)))).toBe(true);
    // A name, a range, a frame that is put right leave what was measured as true as it was.
    for (const change of [
      c.changeReading(id, { name: 'rope' }),
      c.changeReading(id, { range: { first: 1, last: 8 } }),
      c.pinPoint(id, 4, 9, 9),
    ])
      expect(stale(after(shot, change))).toBe(false);
  });

  test('another reference frame carries what was drawn there, and nothing moves', () => {
    const { shot, id } = measured();
    const point = after(shot, c.setReference(id, 5)).readings[0] as PointReading;
    expect(point.at).toEqual([point.frames[4]!.x, point.frames[4]!.y]);
    expect(point.frames).toEqual(shot.readings[0]!.frames);
    const made: { reading?: string } = {};
    const drawn = after(bare(), c.addPlane({ lane: 'main' }, [10, 10, 50, 12, 48, 40, 12, 38], 1, made));
    const map = [1.1, 0.02, 3, -0.03, 0.95, -2, 0.0006, 0.0002, 1] as const;
    const two = [1, 2].map((frame) => ({
      frame,
      homography: frame === 1 ? ([1, 0, 0, 0, 1, 0, 0, 0, 1] as const) : map,
      confidence: 1,
      error: 0,
    }));
    const followed = after(drawn, c.setFrames(made.reading!, two));
    const moved = after(followed, c.setReference(made.reading!, 2));
    const corner = (s: Shot, frame: number): readonly number[] => {
      const r = s.readings[0] as PlaneReading;
      return mapPoint(dataOf(r, 1).mapAt(frame), ...r.surface[2]);
    };
    for (const frame of [1, 2]) corner(moved, frame).forEach((v, i) => expect(v).toBeCloseTo(corner(followed, frame)[i]!, 6));
    expect(() => after(followed, c.setReference(made.reading!, 9))).toThrow('not measured');
  });

  test('what was looked for and not found again goes; what was put right by hand stays; all in one undo', () => {
    const { shot, id } = measured();
    const pinned = after(shot, c.pinPoint(id, 8, 60, 60));
    const again = after(pinned, c.setFrames(id, [{ frame: 5, x: 22, y: 24, confidence: 0.1, error: 0, flag: 'low' }], [6, 7, 8, 9, 10]));
    expect(again.readings[0]!.frames.map((f) => f.frame)).toEqual([1, 2, 3, 4, 5, 8]);
  });

  test('a frame is laid between its trusted neighbours', () => {
    const { shot, id } = measured();
    const broken = after(shot, (s) => {
      Object.assign(s.readings[0]!.frames[4]!, { x: 500, flag: 'jump' });
    });
    const mended = after(broken, c.interpolateFrame(id, 5)).readings[0] as PointReading;
    const [a, b] = [mended.frames[3]!, mended.frames[5]!];
    expect(mended.frames[4]!.x).toBeCloseTo((a.x + b.x) / 2, 6);
    expect(mended.frames[4]!.flag).toBeUndefined();
  });

  test('Steady this plate stands after the point that was measured; the reading is then not deleted', () => {
    const { shot, id } = measured();
    const steady = after(shot, c.steadyPlate(id));
    expect(steady.lanes[0]!.steps.map((s) => s.type)).toEqual(['grade', 'stabilise']);
    expect(() => after(steady, c.removeReading(id))).toThrow(ShotError);
    expect(() => makePlan(valid(steady), { tap: { lane: 'main' }, frame: 3, channels: ['R'], scale: 1 }, STEPS)).not.toThrow();
  });

  test('frozen, keys give the same frames; later corrections no longer reach it; unfrozen they do', () => {
    const { shot, id } = measured();
    const made: { step?: string } = {};
    const live = after(shot, c.steadyPlate(id, made));
    const keyOf = (s: Shot, frame: number): string => makePlan(s, { tap: { lane: 'main' }, frame, channels: ['R'], scale: 1 }, STEPS).key;
    const frozen = after(live, c.freezeStep(made.step!));
    expect(c.isFrozen(frozen.lanes[0]!.steps[1]!)).toBe(true);
    expect(valid(frozen).lanes[0]!.steps[1]!.params.topLeft).toHaveProperty('keys');
    // The keys are the reading's frames: both put the corners to the same places.
    const put = (shown: Shot, frame: number): unknown =>
      stabiliseMap(stepValues(shown, STEPS.get('stabilise')!.params, shown.lanes[0]!.steps[1]!, frame) as never, shown.format, frame);
    for (const frame of [1, 6, 10]) {
      const [a, b] = [put(live, frame), put(frozen, frame)] as [number[], number[]];
      a.forEach((v, i) => expect(b[i]!).toBeCloseTo(v, 6));
    }
    const corrected = after(frozen, c.pinPoint(id, 6, 40, 40));
    expect(put(corrected, 6)).toEqual(put(frozen, 6));
    // A frozen step lets its reading go.
    expect(after(frozen, c.removeReading(id)).readings).toHaveLength(0);
    const back = after(corrected, c.unfreezeStep(made.step!));
    expect(c.isFrozen(back.lanes[0]!.steps[1]!)).toBe(false);
    expect(back.lanes[0]!.steps[1]!.params.topLeft).toBeUndefined();
    expect(keyOf(back, 6)).not.toBe(keyOf(live, 6));
  });

  test('a picture is pinned to a plane with its size, light, edge, defocus and motion blur in place', () => {
    const made: { reading?: string } = {};
    const shot = after(bare(), c.addPlane({ lane: 'main' }, [10, 10, 50, 12, 48, 40, 12, 38], 1, made));
    const pinned = after(shot, c.pinPicture({ source: 'source picture', readings: [made.reading!] }));
    const lane = pinned.lanes.find((l) => l.name.endsWith('insert'))!;
    expect(lane.steps.map((s) => s.type)).toEqual(['conform', 'grade', 'crop', 'blur', 'cornerPin']);
    expect(lane.steps[4]!.params).toMatchObject({ from: 'plane', plane: made.reading, shutter: 180 });
    expect(pinned.lanes.find((l) => l.id === 'main')!.steps.at(-1)).toMatchObject({ type: 'join', feeds: { front: { lane: lane.id } } });
    expect(() => after(shot, c.pinPicture({ source: 'source picture', readings: ['x'] }))).toThrow(ShotError);
    valid(pinned);
  });

  test('a plane is unwrapped, worked on and put back; a boost is for measuring only', () => {
    const made: { reading?: string } = {};
    const shot = after(bare(), c.addPlane({ lane: 'main' }, [10, 10, 50, 12, 48, 40, 12, 38], 1, made));
    const flatLane = after(shot, c.unwrapPlane(made.reading!));
    expect(flatLane.lanes[0]!.steps.map((s) => s.name)).toEqual(['Lay flat', 'Work here', 'Put back']);
    valid(flatLane);
    const boosted = after(shot, c.boostLane(made.reading!));
    // What is built on it still belongs to the plate, not to the lane that is only measured in.
    const steady = after(boosted, c.steadyPlate(made.reading!));
    expect(steady.lanes.find((l) => l.id === 'main')!.steps.map((x) => x.type)).toEqual(['grade', 'stabilise']);
    const inserted = after(boosted, c.pinPicture({ source: 'source picture', readings: [made.reading!] }));
    expect(inserted.lanes.find((l) => l.id === 'main')!.steps.at(-1)!.type).toBe('join');
    expect(boosted.readings[0]!.from.lane).toBe(boosted.lanes[1]!.id);
    expect(boosted.lanes.find((l) => l.id === 'main')!.steps).toEqual(shot.lanes.find((l) => l.id === 'main')!.steps);
  });

  test('a document with a damaged reading is refused in words', () => {
    const { shot } = measured();
    const bad = JSON.parse(JSON.stringify(shot)) as { readings: { settings: { threshold: number } }[] };
    bad.readings[0]!.settings.threshold = 7;
    expect(() => parseShot(bad)).toThrow(/threshold/);
    const broken = (change: (r: PointReading & { settings: { pattern: number[] }; frames: unknown[] }) => void): (() => Shot) => {
      const json = JSON.parse(JSON.stringify(shot)) as { readings: never[] };
      change(json.readings[0]!);
      return () => parseShot(json);
    };
    expect(broken((r) => void (r.settings.pattern = [10, 10, -10, -10]))).toThrow(/not a box around/);
    expect(broken((r) => void r.frames.reverse())).toThrow(/not in order/);
    const twice = JSON.parse(JSON.stringify(shot)) as { readings: unknown[] };
    twice.readings.push(twice.readings[0]);
    expect(() => parseShot(twice)).toThrow(/two things have the id/);
  });
});
