import { produce } from 'immer';
import type { Draft } from 'immer';
import type { Shot } from '../document/types';
import { parseShot } from '../document/schema';
import { NEW_CAMERA } from '../space/camera-parts';
import type { Change } from './change';
import { newLane, newShot, newStep } from './make';
import { removePart } from './passes';
import { addThing, putThingsIn, renameThing } from './things';

const apply = (shot: Shot, change: Change): Shot => parseShot(JSON.parse(JSON.stringify(produce(shot, (d) => change(d as Draft<Shot>)))));

function begun(): Shot {
  const shot = newShot('x');
  const plate = { ...newLane('plate', { empty: true }, []), id: 'plate' };
  plate.steps = [
    { ...newStep('lens', []), id: 'straighten' },
    { ...newStep('lens', []), id: 'bend', params: { direction: 'bend' } },
  ];
  const solved = {
    kind: 'moving' as const,
    zooms: false,
    centre: [960, 540] as const,
    bend: [0, 0] as const,
    rms: 0,
    points: [],
    depths: [1, 2, 3] as const,
    format: { width: 1920, height: 1080 },
  };
  const camera = {
    ...NEW_CAMERA,
    kind: 'camera' as const,
    id: 'camera',
    name: 'Camera',
    from: { lane: 'plate', after: 'straighten' },
    channel: 'luma' as const,
    reference: 1,
    range: { first: 1, last: 2 },
    solved,
    frames: [1, 2].map((frame) => ({ frame, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], focal: 900, error: 0, count: 9, confidence: 1 })),
  };
  return { ...shot, lanes: [plate], result: 'plate', readings: [camera as never] };
}

describe('things in a shot', () => {
  test('are put in right after the point that the camera was found in, before the lens bends', () => {
    const made: { lane?: string; step?: string } = {};
    const shot = apply(begun(), putThingsIn('camera', made));
    const plate = shot.lanes.find((l) => l.id === 'plate')!;
    expect(plate.steps.map((s) => s.type)).toEqual(['lens', 'join', 'lens']);
    expect(plate.steps[1]!.feeds.front).toEqual({ lane: made.lane });
    const lane = shot.lanes.find((l) => l.id === made.lane)!;
    expect(lane.start).toEqual({ empty: true });
    expect(lane.steps[0]).toMatchObject({ id: made.step, type: 'scene', params: { camera: 'camera' } });
  });

  test('a camera that is not solved has no places for them', () => {
    const shot = begun();
    const unsolved = { ...shot, readings: [{ ...shot.readings[0]!, solved: null, frames: [] } as never] };
    expect(() => apply(unsolved, putThingsIn('camera'))).toThrow('not solved yet');
  });

  test('are added with what they begin with, named apart, renamed, and taken away with all that was theirs', () => {
    const step: { step?: string } = {};
    let shot = apply(begun(), putThingsIn('camera', step));
    const [a, b]: { thing?: string }[] = [{}, {}];
    shot = apply(shot, addThing(step.step!, 'card', { picture: { lane: 'plate', after: '' } }, a));
    shot = apply(shot, addThing(step.step!, 'card', {}, b));
    const scene = () => shot.lanes.flatMap((l) => l.steps).find((s) => s.id === step.step)!;
    expect((scene().params.things as unknown as { name: string }[]).map((t) => t.name)).toEqual(['Card', 'Card 2']);
    expect(scene().params[`${a!.thing!}.casts`]).toBe(false);
    expect(scene().feeds[`${a!.thing!}.picture`]).toEqual({ lane: 'plate', after: '' });
    shot = apply(shot, renameThing(step.step!, b!.thing!, 'Fog'));
    expect((scene().params.things as unknown as { name: string }[])[1]!.name).toBe('Fog');
    shot = apply(shot, removePart(step.step!, 'things', a!.thing!));
    expect(Object.keys(scene().params).some((k) => k.startsWith(`${a!.thing!}.`))).toBe(false);
    expect(Object.keys(scene().feeds)).toEqual([]);
  });
});
