import { produce } from 'immer';
import { checkShot } from '../document/schema';
import type { Shot } from '../document/types';
import { evenGrain } from '../grain/model';
import { newLane, newShot, newStep } from '../commands/make';
import { matchNow, matchStep, setMatch } from './seating';
import { stillSource } from '../testing/sources';

function shotOf(...types: string[]): Shot {
  const lane = { ...newLane('buoy', { source: 's' }, []), id: 'buoy' };
  lane.steps = types.map((t) => newStep(t, []));
  return { ...newShot('t'), sources: [stillSource('s', 'buoy')], lanes: [lane], result: 'buoy' };
}
const types = (s: Shot): string[] => s.lanes[0]!.steps.map((x) => x.type);
const grade = { step: 'grade', params: { slope: [0.7, 0.9, 1.25], offset: [-0.01, 0, 0.02] } } as const;

describe('what the meter sets', () => {
  test('stands where it acts, whatever comes first: light, softness, what creeps over the edge, grain', () => {
    const made = produce(shotOf('transform', 'lightWrap'), (d) => {
      setMatch('buoy', { step: 'grain', amount: 1, model: evenGrain(0.001) }, 1)(d);
      setMatch('buoy', { step: 'blur', size: 1.2 }, 1)(d);
      setMatch('buoy', grade, 1)(d);
    });
    expect(types(made)).toEqual(['transform', 'grade', 'blur', 'lightWrap', 'grain']);
    expect(() => checkShot(made)).not.toThrow();
  });

  test('is one step of a kind, changed again each time; a grade of another use is left alone', () => {
    const made = produce(shotOf('grade'), (d) => {
      setMatch('buoy', grade, 1)(d);
      setMatch('buoy', { step: 'grade', params: { saturation: 0.8 } }, 1)(d);
    });
    expect(types(made)).toEqual(['grade', 'grade']);
    expect(made.lanes[0]!.steps[0]!.params).toEqual({});
    expect(matchStep(made.lanes[0]!, 'grade')!.params).toEqual({ ...grade.params, saturation: 0.8 });
    expect(matchNow(made, 'buoy', 1)).toMatchObject({ slope: [0.7, 0.9, 1.25], saturation: 0.8, blur: 0, grain: 0, contrast: 1 });
  });

  test('is keyed where it was keyed', () => {
    const made = produce(shotOf(), (d) => {
      setMatch('buoy', { step: 'blur', size: 1 }, 1)(d);
      d.lanes[0]!.steps[0]!.params.size = { keys: [{ frame: 1, value: 1, ease: 'linear' }] };
      setMatch('buoy', { step: 'blur', size: 3 }, 9)(d);
    });
    expect(made.lanes[0]!.steps[0]!.params.size).toMatchObject({
      keys: [
        { frame: 1, value: 1 },
        { frame: 9, value: 3 },
      ],
    });
  });

  test('a lane that is gone is said', () => {
    expect(() => produce(shotOf(), (d) => setMatch('other', grade, 1)(d))).toThrow(/no longer there/);
  });
});
