import { findCycle } from '@/core/document/graph';
import { parseShot } from '@/core/document/schema';
import { makePlan } from '@/core/evaluate/plan';
import { RGBA } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { addLane, addSource, addStep } from '@/core/commands/commands';
import { keyScreen } from '@/core/assemblies/key-screen';
import { newShot } from '@/core/commands/make';
import { openShot } from './shot-store';
import { stillSource } from '@/core/testing/sources';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

const GREEN = [0.05, 0.25, 0.07] as const;

/** A plate joined over a harbour. */
function opened() {
  const session = openShot(newShot('quay'));
  for (const [id, name] of [
    ['s1', 'harbour'],
    ['s2', 'keeper'],
  ] as const) {
    session.run('Bring in', addSource(stillSource(id, name)));
    session.run('Add lane', addLane(id));
  }
  const shot = () => session.store.getState().shot;
  const idOf = (name: string): string => shot().lanes.find((l) => l.name === name)!.id;
  return { session, shot, idOf };
}

test('makes lanes for screen, core and garbage, a whole shot without rings, and every step known', () => {
  const { session, shot, idOf } = opened();
  session.run('Key a screen', keyScreen({ lane: idOf('keeper'), screenColour: GREEN, over: idOf('harbour') }));
  expect(shot().lanes.map((l) => l.name)).toEqual(['keeper', 'keeper core', 'keeper garbage', 'keeper screen', 'harbour']);
  expect(findCycle(shot())).toBeNull();
  expect(() => parseShot(JSON.parse(JSON.stringify(shot())))).not.toThrow();
  for (const step of shot().lanes.flatMap((l) => l.steps)) {
    const d = STEPS.get(step.type)!;
    expect(Object.keys(step.params).filter((p) => !(p in d.params))).toEqual([]);
    expect(Object.keys(step.feeds).filter((f) => !d.feeds.some((x) => x.name === f))).toEqual([]);
  }
  const plan = makePlan(shot(), { tap: { lane: shot().result! }, frame: 1, scale: 1, channels: RGBA }, STEPS);
  expect(plan.remarks).toEqual([]);
});

test('a lane that is joined already is not joined twice, and one undo takes everything back', () => {
  const { session, shot, idOf } = opened();
  const before = shot();
  session.run('Key a screen', keyScreen({ lane: idOf('keeper'), screenColour: GREEN, over: idOf('harbour') }));
  expect(
    shot()
      .lanes.find((l) => l.name === 'harbour')!
      .steps.filter((s) => s.type === 'join'),
  ).toHaveLength(1);
  session.undo();
  expect(shot()).toEqual(before);
});

test('keyed twice the second key stands after the first, with names of its own', () => {
  const { session, shot, idOf } = opened();
  const lane = idOf('keeper');
  session.run('Key a screen', keyScreen({ lane, screenColour: GREEN }));
  session.run('Key a screen', keyScreen({ lane, screenColour: GREEN }));
  const names = shot()
    .lanes.find((l) => l.id === lane)!
    .steps.map((s) => s.name);
  expect(new Set(names).size).toBe(names.length);
  expect(new Set(shot().lanes.map((l) => l.name)).size).toBe(shot().lanes.length);
  expect(findCycle(shot())).toBeNull();
});

test('a result that is laid over another gives the result to it; over itself it is refused', () => {
  const { session, shot, idOf } = opened();
  const [keeper, harbour] = [idOf('keeper'), idOf('harbour')];
  expect(() => session.run('Key', keyScreen({ lane: keeper, screenColour: GREEN, over: keeper }))).toThrow('cannot be laid over itself');
  session.run('Set result', (s) => {
    s.result = keeper;
    s.lanes.find((l) => l.id === harbour)!.steps = [];
  });
  session.run('Key', keyScreen({ lane: keeper, screenColour: GREEN, over: harbour }));
  expect(shot().result).toBe(harbour);
});

test('in either order of coming in the key stands before the join, and the subject in front of the background', () => {
  const session = openShot(newShot('quay'));
  // The plate came first: the background that was dropped after it lies over it.
  for (const [id, name] of [
    ['s2', 'keeper'],
    ['s1', 'harbour'],
  ] as const) {
    session.run('Bring in', addSource(stillSource(id, name)));
    session.run('Add lane', addLane(id));
  }
  const shot = () => session.store.getState().shot;
  const [harbour, keeper] = ['harbour', 'keeper'].map((n) => shot().lanes.find((l) => l.name === n)!.id) as [string, string];
  session.run('Key a screen', keyScreen({ lane: keeper, screenColour: GREEN, over: harbour }));
  const lane = shot().lanes.find((l) => l.id === keeper)!;
  expect(lane.steps.at(-1)).toMatchObject({ type: 'join', params: { operator: 'under' }, feeds: { front: { lane: harbour } } });
  expect(lane.steps[0]!.type).toBe('screenKey');
  // The screen is made of the plate alone.
  expect(shot().lanes.find((l) => l.name === 'keeper screen')!.start).toEqual({ tap: { lane: keeper, after: '' } });
  expect(findCycle(shot())).toBeNull();
});

test('of a chip that is chosen the plate is what it delivers', () => {
  const { session, shot, idOf } = opened();
  const keeper = idOf('keeper');
  const made: { step?: string } = {};
  session.run('step', addStep(keeper, 'exposure', undefined, made));
  session.run('step', addStep(keeper, 'blur', undefined));
  session.run('Key a screen', keyScreen({ lane: keeper, after: made.step!, screenColour: GREEN }));
  const types = shot()
    .lanes.find((l) => l.id === keeper)!
    .steps.map((s) => s.type);
  expect([types[0], types[1], types.at(-1)]).toEqual(['exposure', 'screenKey', 'blur']);
});
