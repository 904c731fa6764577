import type { Vec3 } from '../geometry/vec3';
import type { CameraReading } from '../readings/types';
import { pointA3 } from '../render/affine';
import type { Placing } from './align';
import { UNPLACED, placed } from './align';
import { CameraData } from './camera-data';
import { cardCorners, onCard } from './cards';
import { standing } from './pose';
import { CameraView, placingFor } from './reading';
import {
  alongAxis,
  groupFigures,
  nudged,
  onGround,
  onLevelLines,
  onUprightLines,
  planeThrough,
  scaledTo,
  upright,
  withOrigin,
} from './reference';

/** Places of a quay as some solver left it: tipped, small, and far from the origin. */
const quay: Record<string, Vec3> = {
  corner: [0, 0, 6],
  left: [-2, 0, 6],
  right: [2, 0, 6],
  far: [0, 0, 10],
  foot: [1, 0, 8],
  lamp: [1, -3, 8],
  crate: [-1, -1, 7],
  lid: [-1, -1, 9],
};
const tipped: Placing = {
  turn: [1, 0, 0, 0, Math.cos(0.5), -Math.sin(0.5), 0, Math.sin(0.5), Math.cos(0.5)],
  scale: 0.2,
  shift: [3, 2, 9],
};
const eye: Vec3 = [0.5, -1.6, 0];

function viewWith(placing: Placing = UNPLACED): CameraView {
  const points = Object.entries(quay).map(([track, at]) => ({ track, at: placed(tipped, at), error: 0.1, count: 9, used: true, angle: 4 }));
  // A camera that stands on the quay and looks a little down, in the solver's axes.
  const turn = standing([0, 0, 0], 0, -0.05).turn;
  const t = tipped.turn;
  const look = [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => [0, 1, 2].reduce((s, k) => s + turn[3 * r + k]! * t[3 * c + k]!, 0)));
  const e = placed(tipped, eye);
  const shift = [0, 1, 2].map((r) => -[0, 1, 2].reduce((s, k) => s + look[3 * r + k]! * e[k]!, 0));
  const matrix = [0, 1, 2].flatMap((r) => [...look.slice(3 * r, 3 * r + 3), shift[r]!]);
  const solved = { points, centre: [480, 270], bend: [0, 0], format: { width: 960, height: 540 }, kind: 'moving' };
  const frames = [1, 2, 3].map((frame) => ({ frame, matrix, focal: 800, error: 0.1, count: 9, confidence: 1 }));
  return new CameraView(solved as never, frames, placing);
}
const at = (placing: Placing, track: string): Vec3 => viewWith(placing).point(track)!;
const apart = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

describe('a plane through points', () => {
  test('lies where most of them do, however far one is off', () => {
    const flat: Vec3[] = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((i) => [i % 3, 2, Math.floor(i / 3)]);
    const plane = planeThrough([...flat, [1, 9, 1]])!;
    expect(Math.abs(plane.normal[1])).toBeCloseTo(1, 6);
    expect(plane.centre[1]).toBeCloseTo(2, 3);
    expect(planeThrough(flat)!.residual).toBeCloseTo(0, 9);
  });

  test('is none of two points, nor of points on a line', () => {
    expect(planeThrough([[0, 0, 0] as Vec3, [1, 0, 0]])).toBeNull();
    expect(planeThrough([0, 1, 2, 3].map((k): Vec3 => [k, 2 * k, -k]))).toBeNull();
  });
});

describe('the world that a solved camera stands in', () => {
  test('the ground is laid through three points: they are at height 0, what stands is above, the camera too', () => {
    const placing = onGround(viewWith(), ['left', 'right', 'far'], 1);
    for (const track of ['left', 'right', 'far', 'corner', 'foot']) expect(upright(at(placing, track))[1]).toBeCloseTo(0, 9);
    expect(upright(at(placing, 'lamp'))[1]).toBeCloseTo(3 * 0.2, 9);
    const seen = viewWith(placing).project(1, at(placing, 'corner'))!;
    const before = viewWith().project(1, at(UNPLACED, 'corner'))!;
    expect(seen[0]).toBeCloseTo(before[0], 6);
    expect(seen[1]).toBeCloseTo(before[1], 6);
  });

  test('lines that are level, at any height, lay it too; those that run one way only are refused', () => {
    const placing = onLevelLines(viewWith(), ['left', 'right', 'crate', 'lid'], 1);
    const heights = ['left', 'right', 'crate', 'lid', 'lamp'].map((t) => upright(at(placing, t))[1] / 0.2);
    [0, 0, 1, 1, 3].forEach((h, i) => expect(heights[i]).toBeCloseTo(h, 6));
    expect(() => onLevelLines(viewWith(), ['left', 'right', 'left', 'corner'], 1)).toThrow(/all run the same way/);
  });

  test('a post lays it by what is upright, its foot on the ground', () => {
    const placing = onUprightLines(viewWith(), ['foot', 'lamp'], 1);
    expect(upright(at(placing, 'foot'))[1]).toBeCloseTo(0, 9);
    const [foot, lamp] = [at(placing, 'foot'), at(placing, 'lamp')];
    expect([lamp[0] - foot[0], lamp[2] - foot[2]].map((v) => Number(v.toFixed(9)) + 0)).toEqual([0, 0]);
    expect(upright(lamp)[1]).toBeCloseTo(0.6, 9);
    expect(() => onUprightLines(viewWith(), ['foot', 'foot'], 1)).toThrow(/same place/);
  });

  test('its origin, an axis and its scale are set by points, one after the other, and each keeps what was set before', () => {
    let placing = onGround(viewWith(), ['left', 'right', 'far'], 1);
    placing = withOrigin(viewWith(placing), ['corner']);
    placing = alongAxis(viewWith(placing), ['corner', 'far'], 'z');
    placing = scaledTo(viewWith(placing), ['left', 'right'], 4);
    expect(apart(at(placing, 'left'), at(placing, 'right'))).toBeCloseTo(4, 9);
    for (const [track, place] of Object.entries(quay)) {
      // With y up and z towards the camera, the corner as the origin, and what lies farther in at −z.
      const [x, y, z] = upright(at(placing, track));
      expect(Math.abs(x)).toBeCloseTo(Math.abs(place[0]), 6);
      expect(y).toBeCloseTo(-place[1], 6);
      expect(Math.abs(z)).toBeCloseTo(Math.abs(6 - place[2]), 6);
    }
    expect(upright(at(placing, 'far')).map((v) => Number(v.toFixed(6)) + 0)).toEqual([0, 0, -4]);
  });

  test('x may be the axis instead', () => {
    const laid = onGround(viewWith(), ['left', 'right', 'far'], 1);
    const placing = alongAxis(viewWith(withOrigin(viewWith(laid), ['corner'])), ['corner', 'far'], 'x');
    const [x, y, z] = upright(at(placing, 'far'));
    expect(x).toBeCloseTo(0.8, 9);
    expect(Math.hypot(y, z)).toBeLessThan(1e-9);
  });

  test('what points cannot tell is refused with what to do, and what is missing is asked for', () => {
    const view = viewWith();
    expect(() => onGround(view, ['left', 'gone', 'right'], 1)).toThrow('the ground needs 3 points; select them on the stage first');
    expect(() => onGround(view, ['left', 'corner', 'right'], 1)).toThrow(/lie on a line/);
    expect(() => withOrigin(view, [])).toThrow('the origin needs a point; select them on the stage first');
    expect(() => scaledTo(view, ['left', 'right'], 0)).toThrow(/greater than 0/);
    expect(() => scaledTo(view, ['left', 'left'], 2)).toThrow(/same place/);
    const laid = viewWith(onGround(view, ['left', 'right', 'far'], 1));
    expect(() => alongAxis(laid, ['foot', 'lamp'], 'x')).toThrow(/one above the other/);
  });

  test('it is moved and turned by numbers about its own axes, y up', () => {
    const [x, y, z] = placed(nudged(UNPLACED, [1, 2, 3], [0, 0, 0]), [0, 0, 0]);
    expect(upright([x, y, z])).toEqual([1, 2, 3]);
    // A quarter turn about the upright takes what is to the right away from the camera.
    const [a, b, c] = upright(placed(nudged(UNPLACED, [0, 0, 0], [0, 90, 0]), upright([1, 0, 0])));
    expect([a, b, c].map((v) => Number(v.toFixed(9)) + 0)).toEqual([0, 0, -1]);
  });

  test('a new solution is laid onto the one before by the points that both have', () => {
    const old = viewWith(onGround(viewWith(), ['left', 'right', 'far'], 1));
    // The same places, as another run of the solver left them.
    const other: Placing = { turn: [0, 0, 1, 0, 1, 0, -1, 0, 0], scale: 3, shift: [1, 1, 1] };
    const made = {
      ...old.solved,
      points: old.solved.points.map((p) => ({ ...p, at: placed(other, p.at) })),
      frames: [],
      depths: [1, 2, 3],
    };
    const placing = placingFor(made as never, { solved: old.solved, placing: old.placing } as never);
    old.solved.points.forEach((p, i) => expect(apart(placed(placing, made.points[i]!.at), old.point(p.track)!)).toBeLessThan(1e-9));
  });
});

describe('what stands in it', () => {
  const view = viewWith(onGround(viewWith(), ['left', 'right', 'far'], 1));
  const reading = {
    groups: [
      { id: 'floor', name: 'floor', colour: '#ff8000', tracks: ['left', 'right', 'far', 'foot'] },
      { id: 'post', name: 'post', colour: '#0000ff', tracks: ['foot', 'lamp', 'gone'] },
    ],
  } as unknown as CameraReading;
  const data = new CameraData(view, reading, 'key', 0.5);

  test('a group has a middle, a plane and a count; of no points nothing', () => {
    const floor = groupFigures(view, ['left', 'right', 'far', 'foot'])!;
    expect([floor.count, Number(floor.plane!.residual.toFixed(9))]).toEqual([4, 0]);
    expect(groupFigures(view, ['foot', 'lamp'])!.plane).toBeNull();
    expect(groupFigures(view, ['gone'])).toBeNull();
  });

  test('a test card lies on the ground or stands upright at a point, as large as it says', () => {
    const lying = cardCorners(view, { track: 'corner', lies: 'ground', size: 0.4 } as never, 1)!;
    const place = view.point('corner')!;
    lying.forEach(([, y]) => expect(y).toBeCloseTo(place[1], 9));
    expect(apart(lying[0], lying[1])).toBeCloseTo(0.4, 9);
    const standingUp = cardCorners(view, { track: 'corner', lies: 'facing', size: 0.4 } as never, 1)!;
    expect(standingUp[0][1] - standingUp[3][1]).toBeCloseTo(-0.4, 9);
    expect(onCard(view, { track: '', lies: 'ground', size: 1 } as never, 1)!(0, 0)).toEqual([0, 0, 0]);
    expect(onCard(view, { track: 'gone', lies: 'ground', size: 1 } as never, 1)).toBeNull();
  });

  test('steps stand things at a point, at a group’s middle, or on its plane with y along the normal', () => {
    const corner = upright(view.point('corner')!);
    pointA3(data.anchor('point:corner')!, [0, 0, 0]).forEach((v, i) => expect(v).toBeCloseTo(corner[i]!, 12));
    const plane = data.anchor('plane:floor')!;
    const [up, down] = [pointA3(plane, [0, 1, 0]), pointA3(plane, [0, 0, 0])];
    [0, 1, 0].forEach((v, i) => expect(up[i]! - down[i]!).toBeCloseTo(v, 6));
    expect(pointA3(data.anchor('group:post')!, [0, 0, 0])[1]).toBeCloseTo(0.3, 9);
    for (const none of ['point:gone', 'group:gone', 'plane:post', 'what']) expect(data.anchor(none)).toBeNull();
  });

  test('its points are a cloud in the colours of their groups, grey without one', () => {
    const post = data.cloud('post');
    expect(post.places).toHaveLength(6);
    expect([...post.colours.subarray(3)]).toEqual([0, 0, 1]);
    const all = data.cloud('');
    expect(all.places).toHaveLength(3 * Object.keys(quay).length);
    expect([...all.colours.subarray(0, 3)]).toEqual([0.5, 0.5, 0.5]);
  });

  test('its camera is there between frames and beyond its ends, at the scale of the work', () => {
    expect(data.frames).toEqual([1, 2, 3]);
    const [whole, between, before] = [data.viewAt(2)!, data.viewAt(2.5)!, data.viewAt(-7)!];
    expect([whole.focal, whole.centre]).toEqual([400, [240, 135]]);
    between.matrix.forEach((v, i) => expect(v).toBeCloseTo(whole.matrix[i]!, 9));
    expect(before.focal).toBe(400);
  });
});
