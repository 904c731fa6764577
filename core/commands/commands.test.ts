import { produce } from 'immer';
import type { Shot, Source } from '../document/types';
import { resolveParam } from '../document/params';
import { parseShot } from '../document/schema';
import * as commands from './commands';
import { newShot } from './make';
import { addPoint } from './readings';

const source = (id: string, name: string, width = 960): Source => ({
  id,
  name,
  kind: 'sequence',
  format: { width, height: 540, pixelAspect: 1 },
  channels: ['R', 'G', 'B'],
  container: 'JPEG',
  colourSpace: 'Rec.709',
  alpha: 'ignore',
  missing: 'error',
  start: 5,
  frames: [1, 2, 3].map((frame) => ({ frame, hash: 'a'.repeat(63) + frame, name: `k.${frame}.jpg` })),
});
const after = (shot: Shot, ...changes: commands.Change[]): Shot => changes.reduce((s, c) => produce(s, (d) => void c(d)), shot);
const two = after(
  newShot('t'),
  commands.addSource(source('a', 'harbour')),
  commands.addLane('a'),
  commands.addSource(source('b', 'keeper', 640)),
  commands.addLane('b'),
);

describe('commands', () => {
  test('the first source sets format and range; its lane is the result, the second is conformed and joined over it', () => {
    expect([two.format.width, two.range]).toEqual([960, { first: 5, last: 7 }]);
    expect(two.lanes.map((l) => [l.name, l.steps.map((s) => s.type)])).toEqual([
      ['keeper', ['conform']],
      ['harbour', ['join']],
    ]);
    expect(two.result).toBe(two.lanes[1]!.id);
    expect(() => parseShot(JSON.parse(JSON.stringify(two)))).not.toThrow();
  });

  test('names that are taken get a number', () => {
    const more = after(two, commands.addLane('b'), commands.addLane('b'));
    expect(new Set(more.lanes.map((l) => l.name)).size).toBe(4);
    const steps = after(two, commands.addStep(two.lanes[0]!.id, 'blur', undefined), commands.addStep(two.lanes[0]!.id, 'blur', undefined));
    expect(steps.lanes[0]!.steps.map((s) => s.name)).toEqual(['Conform', 'Blur', 'Blur 2']);
  });

  test('a lane that others use: its joins go with it, its taps forbid it', () => {
    const [keeper, harbour] = two.lanes as [Shot['lanes'][0], Shot['lanes'][0]];
    expect(after(two, commands.removeLane(keeper.id)).lanes[0]!.steps).toEqual([]);
    const tapped = after(two, commands.tapLane({ lane: harbour.id, after: '' }));
    expect(() => after(tapped, commands.removeLane(harbour.id))).toThrow(/starts from this one/);
    expect(() => after(two, commands.removeSource('a'))).toThrow(/"harbour" starts from this source/);
  });

  test('moving a step into a ring is refused', () => {
    const [keeper, harbour] = two.lanes as [Shot['lanes'][0], Shot['lanes'][0]];
    const join = harbour.steps[0]!;
    expect(() => after(two, commands.moveStep(join.id, keeper.id, 1))).toThrow(/ring/);
  });

  test('a copy is a step of its own, placed where it was dropped', () => {
    const [keeper, harbour] = two.lanes as [Shot['lanes'][0], Shot['lanes'][0]];
    const copied = after(two, commands.moveStep(keeper.steps[0]!.id, harbour.id, 0, true));
    expect(copied.lanes[1]!.steps.map((s) => s.type)).toEqual(['conform', 'join']);
    expect(copied.lanes[1]!.steps[0]!.id).not.toBe(keeper.steps[0]!.id);
    expect(copied.lanes[0]!.steps).toHaveLength(1);
  });

  test('whoever tapped after a step that goes taps after the one before it', () => {
    const [keeper] = two.lanes as [Shot['lanes'][0]];
    const made: { step?: string } = {};
    const grown = after(two, commands.addStep(keeper.id, 'blur', undefined, made));
    const tapped = after(grown, commands.tapLane({ lane: keeper.id, after: made.step! }), commands.removeStep(made.step!));
    const tap = tapped.lanes.find((l) => 'tap' in l.start)!.start;
    expect(tap).toEqual({ tap: { lane: keeper.id, after: keeper.steps[0]!.id } });
  });

  test('deleting what others follow leaves them with what it last was', () => {
    const made: { step?: string } = {};
    const lane = two.lanes[0]!.id;
    const choke: { step?: string } = {};
    const grown = after(two, commands.addStep(lane, 'choke', undefined, choke), commands.addStep(lane, 'blur', undefined, made));
    const linked = after(
      grown,
      commands.setParams(choke.step!, { radius: 7 }, 1),
      commands.setLink(made.step!, 'size', { step: choke.step!, param: 'radius' }, 0, 1),
    );
    for (const change of [commands.removeStep(choke.step!), commands.removeLane(lane)]) {
      const left = after(linked, commands.moveStep(made.step!, two.lanes[1]!.id, 0), change);
      const blur = left.lanes.at(-1)!.steps.find((x) => x.id === made.step)!;
      expect(blur.params.size).toEqual({ link: { step: choke.step, param: 'radius', was: 7 } });
      expect(resolveParam(left, blur.params.size, 0, 1)).toBe(7);
      expect(() => parseShot(JSON.parse(JSON.stringify(left)))).not.toThrow();
    }
  });

  test('a step that is moved to another lane leaves what was tapped after it where it stood, or takes it along', () => {
    const [keeper, harbour] = two.lanes as [Shot['lanes'][0], Shot['lanes'][0]];
    const made: { step?: string } = {};
    const grown = after(two, commands.addStep(keeper.id, 'blur', undefined, made), commands.addStep(harbour.id, 'grade', undefined));
    const grade = grown.lanes[1]!.steps.at(-1)!.id;
    const tapped = after(
      grown,
      commands.setMask(grade, { lane: keeper.id, after: made.step!, channel: 'A', invert: false }),
      addPoint({ lane: keeper.id, after: made.step! }, [3, 3], 5),
    );
    const stays = after(tapped, commands.moveStep(made.step!, harbour.id, 0));
    expect(stays.lanes[1]!.steps.at(-1)!.mask).toMatchObject({ lane: keeper.id, after: keeper.steps[0]!.id });
    expect(stays.readings[0]!.from).toEqual({ lane: keeper.id, after: keeper.steps[0]!.id });
    const along = after(tapped, commands.moveStep(made.step!, harbour.id, 0, false, {}, true));
    expect(along.lanes[1]!.steps.at(-1)!.mask).toMatchObject({ lane: harbour.id, after: made.step });
    expect(along.readings[0]!.from).toEqual({ lane: harbour.id, after: made.step });
    // A reading that was measured after a step reads the same picture as before when that is deleted.
    expect(after(tapped, commands.removeStep(made.step!)).readings[0]!.from).toEqual({ lane: keeper.id, after: keeper.steps[0]!.id });
    expect(commands.usersAfter(tapped, made.step!)).toEqual(['the mask of harbour ▸ Grade', 'the reading "Point 1"']);
  });

  test('what goes with a lane is told before, and another lane becomes the result by choice', () => {
    const [keeper, harbour] = two.lanes as [Shot['lanes'][0], Shot['lanes'][0]];
    expect(commands.lossesOfLane(two, keeper.id)).toEqual(['harbour ▸ Join goes with it']);
    const more = after(two, commands.addLane('b'));
    const gone = after(more, commands.removeLane(harbour.id, more.lanes[0]!.id));
    expect(gone.result).toBe(more.lanes[0]!.id);
  });

  test('a name that is too long is cut where a number is put behind it', () => {
    const long = 'k'.repeat(200);
    const named = after(two, commands.changeLane(two.lanes[0]!.id, { name: long }), commands.changeLane(two.lanes[1]!.id, { name: long }));
    expect(named.lanes.map((l) => l.name.length)).toEqual([200, 200]);
    expect(named.lanes[1]!.name.endsWith(' 2')).toBe(true);
  });

  test('a keyed parameter gets a key where it is set, a constant one changes', () => {
    const id = two.lanes[0]!.steps[0]!.id;
    const constant = after(two, commands.setParams(id, { x: 2 }, 5));
    expect(constant.lanes[0]!.steps[0]!.params.x).toBe(2);
    const keyed = after(constant, commands.toggleKey(id, 'x', 2, 5), commands.setParams(id, { x: 4 }, 9));
    expect(keyed.lanes[0]!.steps[0]!.params.x).toEqual({
      keys: [
        { frame: 5, value: 2, ease: 'smooth' },
        { frame: 9, value: 4, ease: 'smooth' },
      ],
    });
    expect(after(keyed, commands.toggleKey(id, 'x', 4, 9), commands.toggleKey(id, 'x', 2, 5)).lanes[0]!.steps[0]!.params.x).toBe(2);
  });

  test('another version takes a source’s place: what was chosen stays, what its files say is new', () => {
    const chosen = after(two, commands.changeSource('b', { colourSpace: 'LogC3', missing: 'hold', trim: { first: 2, last: 3 } }));
    const by: Source = { ...source('new', 'keeper_v2', 1280), colourReason: 'a guess', start: 99, channels: ['R', 'G', 'B', 'A'] };
    const s = after(chosen, commands.replaceSource('b', by)).sources.find((x) => x.id === 'b')!;
    expect([s.name, s.colourSpace, s.missing, s.start, s.format.width, s.channels.length]).toEqual(['keeper', 'LogC3', 'hold', 5, 1280, 4]);
    expect([s.trim, s.colourReason]).toEqual([undefined, undefined]);
    const table: Source = { ...source('lut', 'look'), kind: 'lut' };
    expect(() => after(two, commands.replaceSource('b', table))).toThrow(/cannot stand for each other/);
  });

  test('files found under other contents are named by their new hash, those of further layers too', () => {
    const parts = [{ layer: 'N', hash: 'c'.repeat(64), name: 'k_N.exr' }];
    const set = after(two, (d) => void Object.assign(d.sources[1]!.frames![0]!, { parts }));
    const found = new Map([
      ['a'.repeat(63) + '2', { hash: 'd'.repeat(64), name: 'k.2.jpg' }],
      ['c'.repeat(64), { hash: 'e'.repeat(64), name: 'k_N.exr' }],
    ]);
    const frames = after(set, commands.relinkSource('b', found)).sources[1]!.frames!;
    expect([frames[1]!.hash[0], frames[0]!.parts![0]!.hash[0], frames[2]!.hash[0]]).toEqual(['d', 'e', 'a']);
  });

  test('a choice of alpha ends the doubt; an undone trim is gone from the document', () => {
    const doubted = after(
      two,
      (d) => void (d.sources[1]!.alphaDoubt = 'it may be straight'),
      commands.changeSource('b', { trim: { first: 2, last: 3 } }),
    );
    const s = after(doubted, commands.changeSource('b', { alpha: 'straight', trim: undefined })).sources[1]!;
    expect('alphaDoubt' in s || 'trim' in s).toBe(false);
    // All of its frames is no trim.
    expect('trim' in after(doubted, commands.changeSource('b', { trim: { first: 1, last: 3 } })).sources[1]!).toBe(false);
    expect(() => after(two, commands.changeSource('b', { trim: { first: 3, last: 2 } }))).toThrow(/ends before it starts/);
  });

  test('a colour table sets no format, makes no lane, and stays while a step uses it', () => {
    const table: Source = { ...source('t', 'look'), kind: 'lut', channels: [], format: { width: 1, height: 1, pixelAspect: 1 } };
    const first = after(newShot('t'), commands.addSource(table));
    expect(first.format.width).toBe(1920);
    expect(() => after(first, commands.addLane('t'))).toThrow(/no picture/);
    const made: { step?: string } = {};
    const used = after(two, commands.addSource(table), commands.addStep(two.result!, 'lut', undefined, made));
    const set = after(used, commands.setParams(made.step!, { table: 't' }, 1));
    expect(() => after(set, commands.removeSource('t'))).toThrow(/the step "LUT" of "harbour" uses this table/);
    expect(after(used, commands.removeSource('t')).sources).toHaveLength(2);
  });

  test('a layer of a source as a lane of its own is joined to nothing', () => {
    const made: { lane?: string } = {};
    const s = after(two, commands.layerLane('b', 'N', made));
    expect(s.lanes[0]).toMatchObject({ id: made.lane, name: 'keeper N', start: { source: 'b' } });
    expect(s.lanes[0]!.steps.map((x) => [x.type, x.params.layer])).toEqual([['pickLayer', 'N']]);
    expect(s.lanes.slice(1)).toEqual(two.lanes);
  });
});
