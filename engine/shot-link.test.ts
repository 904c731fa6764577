import fc from 'fast-check';
import type { Lane, Shot } from '@/core/document/types';
import { flat, testShot } from '@/core/testing/evaluate';
import { ShotReceiver, ShotSender } from './shot-link';

const base = testShot({ main: flat(4, 4, 0), front: flat(4, 4, 1) }, [{ type: 'blur' }, { type: 'join', feeds: ['front'] }]);
/** What a message is on the other side of a thread. */
const across = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T;
const renamed = (shot: Shot, i: number, name: string): Shot => ({
  ...shot,
  lanes: shot.lanes.map((l, k) => (k === i ? { ...l, name } : l)),
});

let serial = 0;
/** One change of a shot or another, by a number; ids are never used twice. */
function changed(shot: Shot, n: number): Shot {
  const lane = (id: string): Lane => ({ id, name: id, start: { empty: true }, steps: [], muted: false, collapsed: false });
  switch (n % 7) {
    case 0:
      return renamed(shot, n % shot.lanes.length, `name ${n}`);
    case 1:
      return { ...shot, lanes: [lane(`l${++serial}`), ...shot.lanes] };
    case 2:
      return { ...shot, lanes: shot.lanes.slice(0, -1).length ? shot.lanes.slice(1) : shot.lanes };
    case 3:
      return { ...shot, lanes: [...shot.lanes].reverse() };
    case 4:
      return { ...shot, range: { first: 1, last: n + 1 } };
    case 5:
      return { ...shot, notes: [...shot.notes, { id: `n${++serial}`, frame: n, text: 'x' }] };
    default:
      return shot;
  }
}

describe('a shot across threads', () => {
  test('is whole at first, then what differs; whatever is done, it arrives', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(200), { maxLength: 12 }), (changes) => {
        const [from, to] = [new ShotSender(), new ShotReceiver()];
        let shot = base;
        expect(to.take(across(from.message(shot)))).toEqual(shot);
        for (const n of changes) {
          shot = changed(shot, n);
          expect(to.take(across(from.message(shot)))).toEqual(shot);
        }
      }),
    );
  });

  test('an edit of one lane sends that lane alone; the others stay the same objects', () => {
    const [from, to] = [new ShotSender(), new ShotReceiver()];
    const before = to.take(across(from.message(base)));
    const message = from.message(renamed(base, 1, 'other'));
    expect(JSON.stringify(message).length).toBeLessThan(400);
    const after = to.take(across(message));
    expect([after.lanes[0] === before.lanes[0], after.sources === before.sources]).toEqual([true, true]);
    expect(after.lanes[1]!.name).toBe('other');
  });

  test('the same shot again sends nothing, and is the same object', () => {
    const [from, to] = [new ShotSender(), new ShotReceiver()];
    const first = to.take(across(from.message(base)));
    const message = across(from.message(base));
    expect(message).toEqual({ fields: {}, gone: [], lists: {} });
    expect(to.take(message)).toBe(first);
    expect(() => new ShotReceiver().take(message)).toThrow(/before the shot/);
  });

  test('what an edited lane keeps stays the same object, to the single shape, and what is new is frozen', () => {
    const shapes = ['a', 'b', 'c'].map((id) => ({ id, keys: [{ frame: 1, value: [1, 2, 3] }] }));
    const withShapes = (list: readonly object[]): Shot => ({
      ...base,
      lanes: base.lanes.map((l, i) => (i === 0 ? { ...l, steps: [{ ...l.steps[0]!, params: { shapes: list as never } }] } : l)),
    });
    const listOf = (s: Shot) => s.lanes[0]!.steps[0]!.params.shapes as unknown as readonly { id: string }[];
    const [from, to] = [new ShotSender(), new ShotReceiver()];
    const before = listOf(to.take(across(from.message(withShapes(shapes)))));
    const edited = [{ ...shapes[2]! }, shapes[0]!, { ...shapes[1]!, keys: [] }];
    const after = listOf(to.take(across(from.message(withShapes(edited)))));
    expect(after).toEqual(edited);
    expect([after[0] === before[2], after[1] === before[0], after[2] === before[1]]).toEqual([true, true, false]);
    expect(Object.isFrozen(after[2])).toBe(true);
    // Threads keep what is one object at several places as one.
    const [same, link] = [[1, 2, 3], new ShotReceiver()];
    const twice = structuredClone(
      from.message(
        withShapes([
          { id: 'd', same },
          { id: 'e', same },
        ]),
      ),
    );
    link.take(structuredClone(new ShotSender().message(base)));
    expect(listOf(link.take(twice))).toEqual([
      { id: 'd', same },
      { id: 'e', same },
    ]);
  });
});
