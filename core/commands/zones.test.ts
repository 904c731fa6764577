import { produce } from 'immer';
import { parseShot } from '../document/schema';
import type { Shot } from '../document/types';
import { stepsOfZone } from '../document/zones';
import { addRecipe, clipLane, parseRecipe, pasteLanes, recipeOf } from './clipboard';
import * as commands from './commands';
import { newShot } from './make';

const after = (shot: Shot, ...changes: commands.Change[]): Shot => {
  const next = changes.reduce((s, c) => produce(s, c), shot);
  parseShot(JSON.parse(JSON.stringify(next)));
  return next;
};
const made: { lane?: string } = {};
const second: { lane?: string } = {};
const bare = after(newShot('t'), commands.emptyLane(made), commands.emptyLane(second));
const [main, other] = [made.lane!, second.lane!];
const TYPES = ['solid', 'grade', 'blur', 'invert', 'clamp'];
/** The join that brings the other lane comes last. */
const plain = after(
  bare,
  ...TYPES.map((type) => commands.addStep(main, type, undefined)),
  ...TYPES.slice(0, 1).map((t) => commands.addStep(other, t, undefined)),
);
const laneOf = (s: Shot, id = main) => s.lanes.find((l) => l.id === id)!;
const idOf = (s: Shot, name: string): string => s.lanes.flatMap((l) => l.steps).find((x) => x.name === name)!.id;
const named: { zone?: string } = {};
const zoned = after(
  plain,
  commands.gatherZone(
    ['Grade', 'Blur', 'Invert'].map((n) => idOf(plain, n)),
    named,
  ),
);
const zone = named.zone!;
const members = (s: Shot, lane = main): string[][] =>
  (laneOf(s, lane).zones ?? []).map((z) => stepsOfZone(laneOf(s, lane), z).map((x) => x.name));
const names = (s: Shot, lane = main): string[] => laneOf(s, lane).steps.map((x) => x.name);

describe('zones', () => {
  test('are gathered from steps of a lane, around all between; over each other they are refused', () => {
    expect(members(zoned)).toEqual([['Grade', 'Blur', 'Invert']]);
    const gap = after(plain, commands.gatherZone([idOf(plain, 'Invert'), idOf(plain, 'Grade')]));
    expect(members(gap)).toEqual([['Grade', 'Blur', 'Invert']]);
    expect(() => after(zoned, commands.gatherZone([idOf(zoned, 'Invert'), idOf(zoned, 'Clamp')]))).toThrow(/lie over each other/);
    expect(() => after(plain, commands.gatherZone(['none']))).toThrow(/choose steps of one lane/);
  });

  test('change as steps do: name, on, box, mix, mask', () => {
    const s = after(
      zoned,
      commands.changeStep(zone, { name: 'mark', on: false }),
      commands.setParams(zone, { box: [1, 2, 3, 4], mix: 0.5 }, 1),
      commands.setMask(zone, { lane: other, channel: 'A', invert: true }),
    );
    expect(laneOf(s).zones![0]).toMatchObject({ name: 'mark', on: false, mix: 0.5, params: { box: [1, 2, 3, 4] }, mask: { lane: other } });
    // A lane that masks a zone cannot start from it.
    expect(commands.lossesOfLane(s, other).join()).toMatch(/mask of empty ▸ mark is cut/);
  });

  test('a step that goes leaves them; the last one takes its zone along', () => {
    const less = after(zoned, commands.removeStep(idOf(zoned, 'Grade')));
    expect(members(less)).toEqual([['Blur', 'Invert']]);
    const gone = after(zoned, ...['Grade', 'Blur', 'Invert'].map((n) => commands.removeStep(idOf(zoned, n))));
    expect(laneOf(gone).zones).toBeUndefined();
  });

  test('steps are dragged in, out and within; what is added after its last is in it', () => {
    const out = after(zoned, commands.moveStep(idOf(zoned, 'Invert'), main, names(zoned).length));
    expect(members(out)).toEqual([['Grade', 'Blur']]);
    const into = after(zoned, commands.moveStep(idOf(zoned, 'Clamp'), main, names(zoned).indexOf('Blur')));
    expect(members(into)).toEqual([['Grade', 'Clamp', 'Blur', 'Invert']]);
    const within = after(zoned, commands.moveStep(idOf(zoned, 'Invert'), main, names(zoned).indexOf('Blur')));
    expect(members(within)).toEqual([['Grade', 'Invert', 'Blur']]);
    expect(members(after(zoned, commands.addStep(main, 'levels', idOf(zoned, 'Invert'))))).toEqual([['Grade', 'Blur', 'Invert', 'Levels']]);
    expect(members(after(zoned, commands.addStep(main, 'levels', idOf(zoned, 'Invert'), {}, false)))).toEqual([
      ['Grade', 'Blur', 'Invert'],
    ]);
  });

  test('move as one, also to another lane; copied both stand', () => {
    const start = after(zoned, commands.moveZone(zone, main, 0));
    expect(names(start).slice(0, 3)).toEqual(['Grade', 'Blur', 'Invert']);
    expect(members(start)).toEqual([['Grade', 'Blur', 'Invert']]);
    const away = after(zoned, commands.moveZone(zone, other, 1));
    expect([members(away), members(away, other)]).toEqual([[], [['Grade', 'Blur', 'Invert']]]);
    const both = after(zoned, commands.moveZone(zone, other, 1, true));
    expect([members(both).length, members(both, other).length]).toEqual([1, 1]);
    expect(new Set(both.lanes.flatMap((l) => l.zones ?? []).map((z) => z.id)).size).toBe(2);
  });

  test('dissolved its steps stay, deleted they go', () => {
    const loose = after(zoned, commands.dissolveZone(zone));
    expect([laneOf(loose).zones, names(loose)]).toEqual([undefined, names(zoned)]);
    expect(names(after(zoned, commands.removeZone(zone)))).toEqual(
      ['Solid', 'Clamp']
        .flatMap((n) => names(zoned).filter((x) => x === n || (x === 'Join' && n === 'Solid')))
        .sort((a, b) => names(zoned).indexOf(a) - names(zoned).indexOf(b)),
    );
  });

  test('go along in recipes and with copied lanes, to other shots too', () => {
    const recipe = recipeOf(zoned, stepsOfZone(laneOf(zoned), laneOf(zoned).zones![0]!), 'look');
    const read = parseRecipe(JSON.stringify(recipe), 'look.json');
    const used = after(plain, addRecipe(read, other, undefined));
    expect(members(used, other)).toEqual([['Grade', 'Blur', 'Invert']]);
    const pasted = after(newShot('elsewhere'), pasteLanes(clipLane(zoned, main)));
    const zones = pasted.lanes.flatMap((l) => (l.zones ?? []).map((z) => stepsOfZone(l, z).map((x) => x.name)));
    expect(zones).toEqual([['Grade', 'Blur', 'Invert']]);
  });
});
