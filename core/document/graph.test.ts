import { lanesBehind, soloShot, sourceShot } from './graph';
import type { Lane, Shot, Step } from './types';

const step = (id: string, type: string, feeds: Step['feeds'] = {}): Step => ({ id, type, name: id, on: true, params: {}, feeds, mix: 1 });
const lane = (id: string, start: Lane['start'], steps: Step[] = []): Lane => ({
  id,
  name: id,
  start,
  steps,
  muted: false,
  collapsed: false,
});
const join = (front: string): Step => step(`over ${front}`, 'join', { front: { lane: front } });
const from = (source: string): Lane['start'] => ({ source });

/** Keeper, made with a core, and fog are both laid over the harbour; spray is laid over the fog. */
const shot = {
  result: 'harbour',
  lanes: [
    lane('spray', from('s')),
    lane('fog', from('f'), [join('spray')]),
    lane('keeper', from('k'), [step('key', 'screenKey', { inside: { lane: 'core' } })]),
    lane('core', { tap: { lane: 'keeper', after: '' } }),
    lane('harbour', from('h'), [join('keeper'), join('fog')]),
  ],
} as unknown as Shot;
const muted = (s: Shot): string[] => s.lanes.filter((l) => l.muted).map((l) => l.id);

test('behind a lane is all that it is made from, itself too, also where two tap each other before their steps', () => {
  expect([...lanesBehind(shot, 'keeper')].sort()).toEqual(['core', 'keeper']);
  expect([...lanesBehind(shot, 'harbour')].sort()).toEqual(['core', 'fog', 'harbour', 'keeper', 'spray']);
});

test('alone with what makes it, a lane passes the others by; what brings it to the result stays', () => {
  expect(muted(soloShot(shot, ['keeper']))).toEqual(['spray', 'fog']);
  expect(muted(soloShot(shot, ['spray']))).toEqual(['keeper']);
  expect(muted(soloShot(shot, ['spray', 'keeper']))).toEqual([]);
});

test('a lane that is gone, or none, leaves the shot as it is', () => {
  expect(soloShot(shot, [])).toBe(shot);
  expect(soloShot(shot, ['gone'])).toBe(shot);
});

test('the result alone is what it is before anything is joined to it', () => {
  expect(muted(soloShot(shot, ['harbour']))).toEqual(['spray', 'fog', 'keeper']);
  expect(muted(soloShot(shot, ['harbour', 'keeper']))).toEqual(['spray', 'fog']);
});

test('alone, a lane that is joined nowhere is the result', () => {
  expect(soloShot(shot, ['core']).result).toBe('core');
  expect(soloShot(shot, ['keeper']).result).toBe('harbour');
});

test('a source is looked at through a lane of its own, the lanes stay', () => {
  const looked = sourceShot({ ...shot, sources: [{ id: 'f', name: 'fog bank' }] } as unknown as Shot, 'f');
  expect(looked.lanes.slice(0, -1)).toEqual(shot.lanes);
  expect(looked.lanes.at(-1)).toMatchObject({ id: looked.result, start: { source: 'f' }, steps: [] });
  expect(sourceShot({ ...shot, sources: [] } as unknown as Shot, 'f').result).toBe('harbour');
});
