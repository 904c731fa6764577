import { angleBetween } from '../geometry/rotation';
import type { Mat3 } from '../geometry/rotation';
import { turnOf } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { along3, scale3 } from '../geometry/vec3';
import { random } from '../random';
import { near } from '../testing/near';
import type { Placing } from './align';
import { UNPLACED, afterPlacing, alignCameras, placed, placedPose, similarityBetween } from './align';
import { invertSymmetric, takeRow, takeSix } from './blocks';
import { Envelope } from './cholesky';
import { gric, keyFrames, keyPairs } from './keys';
import type { Pose } from './pose';
import { STILL, afterPose, eyeOf, matrixOf, poseBetween, poseOfMatrix, seenFrom, shownAt, standing } from './pose';
import { resect } from './resection';
import { movePose } from './scene';
import { CLIP_FORMAT, makeClip } from './testing';
import { TrackTable, checkTracks, median } from './tracks';
import { rayOf, triangulate } from './triangulate';

const next = random(11);
const any = (size = 1): Vec3 => [size * (2 * next() - 1), size * (2 * next() - 1), size * (2 * next() - 1)];

describe('a camera’s pose', () => {
  test('stands where it was put, and looks ahead along +z', () => {
    const pose = standing([1, -2, 3], 0, 0);
    near(eyeOf(pose), [1, -2, 3]);
    near(seenFrom(pose, [1, -2, 8]), [0, 0, 5]);
    near(seenFrom(STILL, [4, 5, 6]), [4, 5, 6]);
  });

  test('goes through its twelve numbers, and one after the other is both', () => {
    const [a, b] = [standing([1, 2, 3], 0.4, -0.2, 0.1), standing([-1, 0.5, 2], -0.3, 0.6)];
    expect(poseOfMatrix(matrixOf(a))).toEqual(a);
    const p: Vec3 = [0.3, -1.2, 5];
    near(seenFrom(afterPose(b, a), p), seenFrom(b, seenFrom(a, p)));
  });

  test('half way between two has the eye in the middle and half of the turn; the ends are the two', () => {
    const [a, b] = [standing([0, 0, 0], 0, 0), standing([2, 0, 4], 0.5, 0)];
    const half = poseBetween(a, b, 0.5);
    near(eyeOf(half), [1, 0, 2]);
    expect((angleBetween(a.turn, half.turn) * 180) / Math.PI).toBeCloseTo((0.25 * 180) / Math.PI, 6);
    near(matrixOf(poseBetween(a, b, 0)), matrixOf(a));
    near(matrixOf(poseBetween(a, b, 1)), matrixOf(b));
  });

  test('shows a place by focal length and centre, and bends it outwards or inwards', () => {
    expect(shownAt([1, 2, 4], 800, [480, 270], [0, 0])).toEqual([680, 670]);
    const [x] = shownAt([1, 0, 2], 800, [480, 270], [-0.1, 0]);
    expect(x).toBeCloseTo(480 + 800 * 0.5 * (1 - 0.1 * 0.25), 9);
  });

  test('moved in place by a small turn and shift, it is what it was after them', () => {
    const poses = Float64Array.from([...matrixOf(STILL), ...matrixOf(standing([1, 0, 0], 0.2, 0))]);
    movePose(poses, 1, [0, 0, 0], [0.5, 0, -1]);
    near([...poses.subarray(0, 12)], matrixOf(STILL));
    near(
      [...poses.subarray(12)],
      matrixOf({ ...standing([1, 0, 0], 0.2, 0), shift: along3(standing([1, 0, 0], 0.2, 0).shift, [0.5, 0, -1]) }),
    );
  });
});

describe('a place in another frame of reference', () => {
  const placing: Placing = { turn: turnOf([0.2, -0.5, 0.9]), scale: 2.5, shift: [4, -1, 7] };

  test('is found again from points that were placed, however they were', () => {
    const from = Array.from({ length: 12 }, () => any(3));
    const found = similarityBetween(
      from,
      from.map((p) => placed(placing, p)),
    )!;
    near(found.turn, placing.turn);
    expect(found.scale).toBeCloseTo(2.5, 9);
    near(found.shift, placing.shift, 8);
  });

  test('is a turn, not a mirror, even where a mirror would fit better', () => {
    const from = Array.from({ length: 8 }, () => any(2));
    const { turn: m } = similarityBetween(
      from,
      from.map(([x, y, z]) => [-x, y, z] as const),
    )!;
    const det = (t: Mat3): number =>
      t[0] * (t[4] * t[8] - t[5] * t[7]) - t[1] * (t[3] * t[8] - t[5] * t[6]) + t[2] * (t[3] * t[7] - t[4] * t[6]);
    expect(det(m)).toBeCloseTo(1, 9);
  });

  test('cannot be told from two points, nor from points on a line', () => {
    expect(similarityBetween([any(), any()], [any(), any()])).toBeNull();
    const line = [1, 2, 3, 4].map((k) => scale3([1, 2, 3], k));
    expect(similarityBetween(line, line)).toBeNull();
  });

  test('a placed camera sees placed points where it saw them', () => {
    const pose = standing([0.5, -1, 2], 0.3, 0.1, -0.2);
    for (const p of [any(4), any(4)]) {
      const [a, b] = [seenFrom(pose, p), seenFrom(placedPose(placing, pose), placed(placing, p))];
      near([b[0] / b[2], b[1] / b[2]], [a[0] / a[2], a[1] / a[2]]);
    }
  });

  test('two after each other are one', () => {
    const other: Placing = { turn: turnOf([1, 0, 0.3]), scale: 0.25, shift: [0, 3, 0] };
    const p = any(5);
    near(placed(afterPlacing(other, placing), p), placed(other, placed(placing, p)));
    near(placed(UNPLACED, p), p);
  });

  test.each([
    ['a path with width', (k: number): Vec3 => [k, 0.3 * k * k, Math.sin(k)]],
    ['a straight path', (k: number): Vec3 => [k, 0, 0]],
    ['a turn on the spot', (): Vec3 => [2, 1, 0]],
  ])('cameras on %s are laid on each other by eyes and looks', (_, eye) => {
    const from = Array.from({ length: 7 }, (__, k) => standing(eye(k), 0.15 * k, -0.05 * k, 0.02));
    const still = eye(0) === eye(1) || Math.hypot(...along3(eye(0), eye(1), -1)) === 0;
    const there: Placing = still ? { ...placing, scale: 1 } : placing;
    const to = from.map((p) => placedPose(there, p));
    const found = alignCameras(from, to)!;
    from
      .map((p) => placedPose(found, p))
      .forEach((p, k) => {
        expect(angleBetween(p.turn, to[k]!.turn)).toBeLessThan(1e-6);
        near(eyeOf(p), eyeOf(to[k]!), 6);
      });
  });
});

describe('a point from its sights', () => {
  const poses = [standing([-1, 0, 0], 0, 0), standing([1, 0, 0], -0.2, 0), standing([0, -1, -1], 0, 0.1)];
  const sightsOf = (p: Vec3, list: readonly Pose[] = poses) =>
    list.map((pose) => {
      const [x, y, z] = seenFrom(pose, p);
      return { pose, x: x / z, y: y / z };
    });

  test('stands where all the rays meet, with the widest angle between two of them', () => {
    const p: Vec3 = [0.4, -0.3, 5];
    const found = triangulate(sightsOf(p))!;
    near(found.at, p, 8);
    const [a, b] = [along3(p, [-1, 0, 0], -1), along3(p, [1, 0, 0], -1)];
    const widest = Math.acos((a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / (Math.hypot(...a) * Math.hypot(...b)));
    expect(found.angle).toBeCloseTo(widest, 9);
  });

  test('has none where rays run side by side, or meet behind the cameras', () => {
    const ahead = poses.slice(0, 1).flatMap((pose) => [
      { pose, x: 0.1, y: 0 },
      { pose, x: 0.1, y: 0 },
    ]);
    expect(triangulate(ahead)).toBeNull();
    const apart = [
      { pose: standing([-1, 0, 0], 0, 0), x: -0.5, y: 0 },
      { pose: standing([1, 0, 0], 0, 0), x: 0.5, y: 0 },
    ];
    expect(triangulate(apart)).toBeNull();
  });

  test('a sight’s ray is one long, and points at what is seen', () => {
    const p: Vec3 = [2, 1, 7];
    sightsOf(p).forEach((s) => {
      const way = along3(p, eyeOf(s.pose), -1);
      near(rayOf(s), scale3(way, 1 / Math.hypot(...way)));
    });
  });
});

describe('a pose from points that are known', () => {
  const pose = standing([0.4, -1.2, -0.5], 0.25, -0.1, 0.05);
  const sights = Array.from({ length: 40 }, () => {
    const at = along3(any(2), [0, 0, 6]);
    const [x, y, z] = seenFrom(pose, at);
    return { at, x: x / z, y: y / z, weight: 1 };
  });

  test('is the one that saw them, though a third of them are wrong', () => {
    const wrong = sights.map((s, i) => (i % 3 === 0 ? { ...s, x: s.x + 0.2, y: s.y - 0.1 } : s));
    const found = resect(wrong, 0.004)!;
    expect(found.inliers.filter(Boolean)).toHaveLength(sights.length - Math.ceil(sights.length / 3));
    near(matrixOf(found.pose), matrixOf(pose), 6);
  });

  test('cannot be told of three', () => {
    expect(resect(sights.slice(0, 3), 0.004)).toBeNull();
  });
});

describe('matrices of the bundle', () => {
  test('a factorised envelope solves what a full matrix would, and says where it is not positive', () => {
    const n = 7;
    const first = Int32Array.from([0, 0, 1, 0, 3, 2, 4]);
    const full = Array.from({ length: n }, () => new Float64Array(n));
    const matrix = new Envelope(first);
    for (let r = 0; r < n; r++)
      for (let c = first[r]!; c <= r; c++) {
        const v = r === c ? 6 + next() : next() - 0.5;
        matrix.values[matrix.base[r]! + c] = v;
        full[r]![c] = full[c]![r] = v;
      }
    expect(matrix.values).toHaveLength(n + [...first].reduce((s, f, r) => s + r - f, 0));
    const x = Float64Array.from({ length: n }, () => next());
    const b = Float64Array.from(full, (row) => row.reduce((s, v, i) => s + v * x[i]!, 0));
    expect(matrix.factorise()).toBe(true);
    near([...matrix.solve(b)], [...x]);

    const bad = new Envelope(Int32Array.from([0, 0]));
    bad.values.set([1, 2, 1]);
    expect(bad.factorise()).toBe(false);
  });

  test('six rows at once are taken off as one by one', () => {
    const y = Float64Array.from({ length: 18 }, () => next());
    const w = Float64Array.from({ length: 18 }, () => next());
    const base = Int32Array.from({ length: 6 }, (_, r) => 8 * r);
    const [whole, rows] = [new Float64Array(48), new Float64Array(48)];
    takeSix(whole, base, 0, 1, y, 0, w, 0);
    for (let r = 0; r < 6; r++) takeRow(rows, 8 * r + 1, 6, y, 3 * r, w, 0);
    near([...whole], [...rows], 12);
    expect(whole[0]).toBe(0);
  });

  test('a symmetric matrix times its inverse is one; a singular one has none', () => {
    const m = Float64Array.from([4, 1, 0.5, 1, 3, -0.2, 0.5, -0.2, 2]);
    const to = new Float64Array(9);
    expect(invertSymmetric(m, to)).toBe(true);
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++)
        expect([0, 1, 2].reduce((s, k) => s + m[3 * r + k]! * to[3 * k + c]!, 0)).toBeCloseTo(r === c ? 1 : 0, 12);
    expect(invertSymmetric(Float64Array.from([1, 1, 0, 1, 1, 0, 0, 0, 1]), to)).toBe(false);
  });
});

describe('tracks by frame', () => {
  const table = new TrackTable(
    [
      { id: 'a', weight: 1, frames: [1, 2, 3], at: [10, 10, 13, 14, 16, 18] },
      { id: 'b', weight: 1, frames: [2, 3, 9], at: [50, 50, 50, 52, 0, 0] },
    ],
    { first: 1, last: 4 },
  );

  test('where each is, what two frames share, and how far that moves', () => {
    expect(table.count).toBe(4);
    expect(table.at(0, 1)).toEqual([13, 14]);
    expect(table.at(1, 0)).toBeNull();
    expect(table.common(1, 2)).toEqual([0, 1]);
    expect(table.common(0, 3)).toEqual([]);
    // Beyond the range there is nothing.
    expect(table.framesOf(1)).toEqual([1, 2]);
    expect(table.moved(0, 1)).toBe(5);
    expect([median([5, 1, 9]), median([])]).toEqual([5, 0]);
  });

  test('too few of them are refused with what to do', () => {
    expect(() => checkTracks(new TrackTable([], { first: 1, last: 9 }))).toThrow(/no tracks in the range: find tracks first/);
    expect(() => checkTracks(table)).toThrow(/only 1 track is seen on three frames or more, and a camera needs 6/);
  });
});

describe('frames from which a camera is found first', () => {
  const { tracks, frames } = makeClip('dolly', { noise: 0 });
  const table = new TrackTable(tracks, frames);
  const keys = keyFrames(table, CLIP_FORMAT.width);

  test('begin and end the shot, lie in order, and share enough tracks with the next', () => {
    expect([keys[0], keys.at(-1)]).toEqual([0, table.count - 1]);
    expect([...keys].sort((a, b) => a - b)).toEqual(keys);
    expect(keys.length).toBeGreaterThanOrEqual(5);
    keys.slice(1).forEach((k, i) => expect(table.common(keys[i]!, k).length).toBeGreaterThan(12));
  });

  test('pairs with depth come first, and none is told of a camera that only turns', () => {
    const pairs = keyPairs(table, keys, 0.2);
    expect(pairs[0]!.parallax).toBeGreaterThan(3);
    const turn = makeClip('turn', { noise: 0 });
    const turning = new TrackTable(turn.tracks, turn.frames);
    keyPairs(turning, keyFrames(turning, CLIP_FORMAT.width), 0.2).forEach((p) => expect(p.parallax).toBeLessThan(0.01));
  });

  test('of two models that fit alike, the one with fewer parameters counts as better', () => {
    const squares = new Array<number>(60).fill(0.04);
    expect(gric(squares, 0.2, 2, 8)).toBeLessThan(gric(squares, 0.2, 3, 7));
    // A plane that explains nothing is the worse one all the same.
    expect(gric(new Array<number>(60).fill(100), 0.2, 2, 8)).toBeGreaterThan(gric(squares, 0.2, 3, 7));
  });
});
