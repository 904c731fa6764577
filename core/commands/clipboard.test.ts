import { produce } from 'immer';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import { addRecipe, clipLane, parseRecipe, pasteLanes, recipeOf } from './clipboard';
import * as commands from './commands';
import type { Change } from './commands';
import { newShot } from './make';
import { stillSource } from '../testing/sources';
import { addThing } from './things';

const after = (shot: Shot, ...changes: Change[]): Shot => changes.reduce((s, c) => produce(s, (d) => void c(d)), shot);

const base = after(
  newShot('a'),
  commands.addSource(stillSource('a', 'harbour')),
  commands.addLane('a'),
  commands.addSource(stillSource('b', 'keeper')),
  commands.addLane('b'),
);
const [keeper, harbour] = base.lanes.map((l) => l.id) as [string, string];
const made: { step?: string } = {};
const worked = after(
  base,
  commands.addStep(keeper, 'exposure', undefined, made),
  (s) => commands.setParams(made.step!, { stops: 1.5 }, 1)(s),
  commands.addStep(keeper, 'blur', undefined),
  (s) => commands.setFeed(s.lanes[1]!.steps[0]!.id, 'front', { lane: keeper })(s),
);
const steps = worked.lanes[0]!.steps;

describe('recipes', () => {
  test('a scene goes into another shot without the model and the camera that are not there', () => {
    const scene: { step?: string } = {};
    const model = { ...stillSource('m', 'marker'), kind: 'model' as const };
    const full = after(worked, commands.addSource(model), commands.addStep(harbour, 'scene', undefined, scene), (s) =>
      addThing(scene.step!, 'model', { params: { model: 'm' } })(s),
    );
    const of = (s: Shot, id: string) => s.lanes.flatMap((l) => l.steps).find((x) => x.id === id)!;
    const into: { steps?: string[] } = {};
    const modelIn = (s: Shot, id: string): unknown => Object.entries(of(s, id).params).find(([k]) => k.endsWith('.model'))![1];
    const recipe = recipeOf(full, [of(full, scene.step!)], 'things');
    const same = after(full, addRecipe(recipe, harbour, undefined, into));
    expect(modelIn(same, into.steps![0]!)).toBe('m');
    const other: { steps?: string[] } = {};
    const pasted = after(worked, addRecipe(recipe, harbour, undefined, other));
    expect(modelIn(pasted, other.steps![0]!)).toBe('');
    expect(() => after(full, commands.removeSource('m'))).toThrow();
  });

  test('a run of steps goes into another lane under new ids and free names, values and all', () => {
    const recipe = recipeOf(worked, steps, 'soften');
    const into: { steps?: string[] } = {};
    const s = after(worked, addRecipe(recipe, harbour, undefined, into), addRecipe(recipe, harbour, undefined));
    const names = s.lanes[1]!.steps.map((x) => x.name);
    expect(names).toEqual(['Join', 'Exposure', 'Blur', 'Exposure 2', 'Blur 2']);
    expect(s.lanes[1]!.steps[1]!.params.stops).toBe(1.5);
    expect(into.steps).toHaveLength(2);
    expect(() => parseShot(JSON.parse(JSON.stringify(s)))).not.toThrow();
  });

  test('links inside the run stay, links and feeds to what is outside do not', () => {
    const [first, second] = steps as [(typeof steps)[0], (typeof steps)[0]];
    const linked = [
      { ...first, mask: { lane: harbour, channel: 'A', invert: false } },
      { ...second, params: { size: { link: { step: first.id, param: 'stops' } }, ratio: { link: { step: 'elsewhere', param: 'x' } } } },
    ];
    const recipe = recipeOf(worked, linked, 'linked');
    expect(recipe.steps[0]).not.toHaveProperty('mask');
    expect(Object.keys(recipe.steps[1]!.params)).toEqual(['size']);
    const s = after(worked, addRecipe(recipe, harbour, undefined));
    const [, a, b] = s.lanes[1]!.steps;
    expect(b!.params.size).toEqual({ link: { step: a!.id, param: 'stops' } });
  });

  test('written and read it is the same; what is none is refused in words', () => {
    const recipe = recipeOf(worked, [...steps], 'soften');
    expect(parseRecipe(JSON.stringify(recipe), 'soften.json')).toEqual(recipe);
    expect(() => parseRecipe('{', 'x.json')).toThrow(/x\.json: this is no recipe: it is not JSON/);
    expect(() => parseRecipe('{"format":"other"}', 'x.json')).toThrow(/this is no recipe/);
    expect(() => parseRecipe(JSON.stringify({ ...recipe, steps: [] }), 'x.json')).toThrow(/this is no recipe/);
    const strange = { ...recipe, steps: [{ ...recipe.steps[0]!, type: 'teleport' }] };
    expect(() => after(worked, addRecipe(strange, harbour, undefined))).toThrow(/"teleport" that is not known/);
  });
});

describe('lanes between shots', () => {
  test('a lane comes with the lanes it needs and their sources', () => {
    const clip = clipLane(worked, harbour);
    expect([clip.lanes.length, clip.sources.map((x) => x.name).sort()]).toEqual([2, ['harbour', 'keeper']]);
    const other = after(newShot('b'), pasteLanes(clip));
    expect(other.lanes.map((l) => l.name)).toEqual(['keeper', 'harbour']);
    expect(other.lanes[1]!.steps[0]!.feeds.front!.lane).toBe(other.lanes[0]!.id);
    expect(other.lanes.map((l) => l.id)).not.toContain(keeper);
    expect(() => parseShot(JSON.parse(JSON.stringify(other)))).not.toThrow();
  });

  test('what is called like an id keeps its name', () => {
    const twin = after(worked, (s) => {
      s.lanes[0]!.name = s.lanes[0]!.id;
      s.lanes[0]!.steps[0]!.name = s.lanes[0]!.steps[0]!.id;
    });
    const pasted = after(newShot('c'), pasteLanes(clipLane(twin, harbour)));
    expect(pasted.lanes[0]!.name).toBe(twin.lanes[0]!.name);
    expect(pasted.lanes[0]!.steps[0]!.name).toBe(twin.lanes[0]!.steps[0]!.name);
  });

  test('in the same shot sources are shared and names get a number', () => {
    const s = after(worked, pasteLanes(clipLane(worked, keeper)));
    expect([s.sources.length, s.lanes.map((l) => l.name)]).toEqual([2, ['keeper 2', 'keeper', 'harbour']]);
    expect(s.lanes[0]!.start).toEqual(worked.lanes[0]!.start);
  });
});
