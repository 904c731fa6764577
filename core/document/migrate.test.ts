import { readFileSync } from 'node:fs';
import type { ColourSample } from '../keying/samples';
import type { Stroke } from '../paint/strokes';
import { evaluate, flat, testShot } from '../testing/evaluate';
import { FORM, migrate, migrateSteps } from './migrate';
import { parseShot } from './schema';
import type { Shot } from './types';

const stroke: Stroke = { tool: 'paint', first: 1, last: 9, size: 6, hardness: 1, flow: 1, colour: [1, 0.5, 0], points: [2, 4, 12, 4] };
const sample = (of: ColourSample['of'], colour: number[]): ColourSample => ({ frame: 1, box: [0, 0, 2, 2], of, colours: colour });
const picture = { main: flat(16, 8, 0.1, 0.4, 0.1) };
const now = testShot(picture, [
  { type: 'rangeKey', params: { samples: [sample('screen', [0.1, 0.4, 0.1]), sample('subject', [0.4, 0.3, 0.2])] } },
  { type: 'paint', params: { strokes: [stroke] } },
  {
    type: 'blur',
    params: {
      size: {
        keys: [
          { frame: 1, value: 2, ease: 'smooth', after: [1, 2] },
          { frame: 9, value: 4, ease: 'hold' },
        ],
      },
    },
  },
]);

/** The same as form 1 had it: lists as text. */
function asForm1(shot: Shot): unknown {
  const doc = JSON.parse(JSON.stringify({ ...shot, schema: 'ostracon/1' })) as Shot;
  for (const lane of doc.lanes) for (const step of lane.steps) if (step.type === 'paint') step.params.effect = 'colour';
  for (const lane of doc.lanes)
    for (const step of lane.steps)
      for (const name of ['samples', 'strokes', 'brush'])
        if (Array.isArray(step.params[name])) step.params[name] = JSON.stringify(step.params[name]);
  return doc;
}

describe('documents of older forms', () => {
  test('form 1 is the same shot in the form of today, to the pixel', async () => {
    const was = asForm1(now);
    expect(JSON.stringify(was)).not.toBe(JSON.stringify({ ...now, schema: 'ostracon/1' }));
    const read = parseShot(was);
    expect(read).toEqual(now);
    const steps = (shot: Shot) => shot.lanes[0]!.steps.map(({ type, params }) => ({ type, params }));
    const [a, b] = [await evaluate(picture, steps(read)), await evaluate(picture, steps(now))];
    expect(a.planes).toEqual(b.planes);
  });

  test('up to form 3 steps that pin and follow had filters by other names', () => {
    const step = (type: string, filter: string) => ({ type, params: { filter } });
    const old = [step('cornerPin', 'cubic'), step('follow', 'linear'), step('stabilise', 'cubic'), step('transform', 'bilinear')];
    const filters = (migrateSteps(old, 3) as { params: { filter: string } }[]).map((s) => s.params.filter);
    expect(filters).toEqual(['catmullRom', 'bilinear', 'catmullRom', 'bilinear']);
  });

  test('a whole shot of the film as form 1 had it can be read, and nothing of it is lost', () => {
    const json = JSON.parse(readFileSync('core/document/fixtures/ostracon-1.json', 'utf8')) as Shot;
    const today = migrate(json) as Shot;
    expect(today.schema).toBe(`ostracon/${FORM}`);
    const brushes = today.lanes.flatMap((l) => l.steps.flatMap((s) => [s.params.strokes, s.params.brush].filter((v) => v !== undefined)));
    expect(brushes.length).toBeGreaterThan(2);
    for (const list of brushes) expect(Array.isArray(list)).toBe(true);
    // The shot of the film as it is now is what that one becomes.
    const film = JSON.parse(readFileSync('demo/shots/sg010-regions.json', 'utf8')) as Shot;
    expect(today.lanes).toEqual(film.lanes);
  });

  test('up to form 2 a paint step had one effect for all of its strokes: each has it now', () => {
    const erased: Stroke = { ...stroke, tool: 'erase' };
    const old = (effect?: string) => [{ type: 'paint', params: { strokes: [stroke, erased], ...(effect && { effect }) } }];
    const toolsOf = (steps: unknown): unknown => (steps as { params: { strokes: Stroke[] } }[])[0]!.params.strokes.map((s) => s.tool);
    expect(toolsOf(migrateSteps(old(), 2))).toEqual(['tint', 'erase']);
    expect(toolsOf(migrateSteps(old('colourOnly'), 2))).toEqual(['tint', 'erase']);
    expect(toolsOf(migrateSteps(old('colour'), 2))).toEqual(['paint', 'erase']);
    expect(migrateSteps(old('matte'), 2)).toEqual([{ type: 'paint', params: { strokes: [stroke, erased], output: 'matte' } }]);
  });

  test('a list that is damaged is left for the repair, which names it', () => {
    const was = asForm1(now) as Shot;
    was.lanes[0]!.steps[0]!.params.samples = '[{"frame"';
    expect(() => parseShot(was)).toThrow(/samples are damaged/);
  });

  test('what is of today, or of nobody, stays as it is; a later form is told', () => {
    expect(migrate(now)).toBe(now);
    expect(migrate({ any: 1 })).toEqual({ any: 1 });
    expect(migrate(null)).toBeNull();
    expect(() => migrate({ schema: 'ostracon/99' })).toThrow(/later version/);
  });

  test('steps of recipes are brought along in the same way', () => {
    const old = (asForm1(now) as Shot).lanes[0]!.steps;
    expect(migrateSteps(old, 1)).toEqual(now.lanes[0]!.steps);
    expect(migrateSteps('no list', 1)).toBe('no list');
  });
});
