import { leastSquares } from '../geometry/least-squares';
import { axisOf, multiply3, turnOf } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { random } from '../random';
import type { BundleSettings, Observations, Scene } from './scene';
import { observationsOf } from './scene';
import { slideOf, uncertaintyOf } from './uncertainty';
import { Bundle } from './bundle';
import { essentialOf, fivePoint, posesOf, sampson } from './essential';
import { makeClip } from './testing';
import type { Pose } from './pose';
import { matrixOf, poseOfMatrix, seenFrom } from './pose';
import { resect, threePoint } from './resection';
import { triangulate } from './triangulate';

const focal = 800;

/** A small scene a little off its truth, and what is seen of it. */
function small(noise: number): { scene: Scene; seen: Observations } {
  const clip = makeClip('dolly', { frames: 6, tracks: 14, noise, hand: true, seed: 3, k1: -0.04 });
  const next = random(9);
  const poses = Float64Array.from(
    clip.truth.flatMap(({ pose }) =>
      matrixOf({
        turn: multiply3(turnOf([0.01 * next(), 0.01 * next(), 0]), pose.turn),
        shift: pose.shift.map((v) => v + 0.03 * next()) as unknown as Vec3,
      }),
    ),
  );
  const points = Float64Array.from(clip.points.flatMap((p) => p.map((v) => v + 0.1 * next())));
  const rows = clip.tracks.flatMap((t, p) => t.frames.map((f, i) => [f - 1, p, t.at[2 * i]!, t.at[2 * i + 1]!, 1 + (p % 2)] as const));
  return {
    scene: { poses, focals: new Float64Array(6).fill(focal * 1.05), bend: new Float64Array(2), centre: [480, 270], points },
    seen: observationsOf(rows),
  };
}

describe('bundle adjustment', () => {
  const settings: BundleSettings = { focal: 'one', bend: true, turning: false, scale: 2, rounds: 200 };

  it('reaches the same optimum as a dense solver that knows nothing of its structure', () => {
    const { scene, seen } = small(0.3);
    const cost = new Bundle(scene, seen, settings).run();
    // The dense one starts there, and finds nothing better than rounding.
    const cams = 6;
    const start = [
      ...Array.from({ length: cams }, (_, k) => {
        const { turn, shift } = poseOfMatrix(scene.poses.subarray(12 * k, 12 * k + 12));
        return [...axisOf(turn), ...shift];
      }).flat(),
      ...scene.points,
      Math.log(scene.focals[0]!),
      ...scene.bend,
    ];
    const lossOf = (r: number): number => Math.sqrt(4 * Math.log1p((r * r) / 4)) * Math.sign(r || 1);
    const dense = leastSquares(
      start.map((v, i) => v + 1e-4 * Math.sin(7 * i)),
      start.map((_, i) => i),
      {
        count: seen.x.length,
        steps: new Float64Array(start.length).fill(1e-6),
        rounds: 400,
        residuals(p, to) {
          const f = Math.exp(p[start.length - 3]!);
          const [k1, k2] = [p[start.length - 2]!, p[start.length - 1]!];
          for (let i = 0; i < seen.x.length; i++) {
            const c = 6 * seen.camera[i]!;
            const q = 6 * cams + 3 * seen.point[i]!;
            const pose: Pose = { turn: turnOf([p[c]!, p[c + 1]!, p[c + 2]!]), shift: [p[c + 3]!, p[c + 4]!, p[c + 5]!] };
            const [X, Y, Z] = seenFrom(pose, [p[q]!, p[q + 1]!, p[q + 2]!]);
            const [x, y] = [X / Z, Y / Z];
            const r2 = x * x + y * y;
            const g = 1 + k1 * r2 + k2 * r2 * r2;
            // One residual a sight, of Cauchy's loss itself: no reweighting is shared with what it judges.
            to[i] = Math.sqrt(seen.weight[i]!) * lossOf(Math.hypot(480 + f * x * g - seen.x[i]!, 270 + f * y * g - seen.y[i]!));
          }
          return true;
        },
      },
    );
    expect(dense.cost).toBeGreaterThan(0);
    expect(Math.abs(cost - dense.cost) / dense.cost).toBeLessThan(1e-6);
  });

  it('finds the truth where nothing is noisy, the lens too', () => {
    const { scene, seen } = small(0);
    const cost = new Bundle(scene, seen, settings).run();
    expect(cost).toBeLessThan(1e-10);
    expect(scene.focals[0]! / 780).toBeCloseTo(1, 4);
    expect(scene.bend[0]!).toBeCloseTo(-0.04, 3);
  });

  it('tells how far a card slides as it does when it is solved from other noise', () => {
    const fixed: BundleSettings = { ...settings, focal: 'fixed', bend: false };
    const clip = makeClip('dolly', { frames: 8, tracks: 24, noise: 0, hand: true, seed: 3 });
    const next = random(31);
    const gauss = (): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
    const [frames, point, sigma] = [8, 11, 0.2];
    const squares = new Float64Array(frames);
    let told: Float64Array = new Float64Array(frames);
    const rounds = 60;
    for (let round = 0; round < rounds; round++) {
      const rows = clip.tracks.flatMap((t, p) => t.frames.map((f, i) => [f - 1, p, t.at[2 * i]!, t.at[2 * i + 1]!] as const));
      const bundle = new Bundle(
        {
          poses: Float64Array.from(clip.truth.flatMap(({ pose }) => matrixOf(pose))),
          focals: new Float64Array(frames).fill(780),
          bend: new Float64Array(2),
          centre: [480, 270],
          points: Float64Array.from(clip.points.flat()),
        },
        observationsOf(rows.map(([k, p, x, y]) => [k, p, x + sigma * gauss(), y + sigma * gauss(), 1])),
        { ...fixed, rounds: 30, scale: 100 },
      );
      bundle.run();
      const { poses, points } = bundle.scene;
      const off = Array.from({ length: frames }, (_, t) => {
        const [x, y, z] = seenFrom(poseOfMatrix(poses.subarray(12 * t, 12 * t + 12)), [
          points[3 * point]!,
          points[3 * point + 1]!,
          points[3 * point + 2]!,
        ]);
        const { at } = clip.tracks[point]!;
        return [480 + (780 * x) / z - at[2 * t]!, 270 + (780 * y) / z - at[2 * t + 1]!];
      });
      const mean = [0, 1].map((k) => off.reduce((s, o) => s + o[k]!, 0) / frames);
      off.forEach((o, t) => (squares[t]! += ((o[0]! - mean[0]!) ** 2 + (o[1]! - mean[1]!) ** 2) / rounds));
      if (round === 0) told = slideOf(bundle, point, uncertaintyOf(bundle)!);
    }
    // Sixty solutions tell a deviation to a tenth or so; the noise that the first one was told by is its own.
    for (let t = 0; t < frames; t++) expect(told[t]! / Math.sqrt(squares[t]!)).toBeCloseTo(1, 0);
    const all = (list: ArrayLike<number>): number => Array.from(list).reduce((s, v) => s + v, 0);
    expect(all(told) / all(squares.map(Math.sqrt))).toBeGreaterThan(0.8);
    expect(all(told) / all(squares.map(Math.sqrt))).toBeLessThan(1.25);
  });
});

describe('two views and three points', () => {
  const clip = makeClip('dolly', { frames: 5, tracks: 40, noise: 0, hand: true, seed: 5 });
  const direction = (t: number, p: number): [number, number] => [
    (clip.tracks[p]!.at[2 * t]! - 480) / 780,
    (clip.tracks[p]!.at[2 * t + 1]! - 270) / 780,
  ];

  it('five pairs allow the true essential matrix, and it the true pose', () => {
    const pairs = [0, 7, 13, 21, 33].map((p) => [...direction(0, p), ...direction(4, p)] as const);
    const best = fivePoint(pairs)
      .map((e) => ({ e, off: Math.max(...clip.tracks.map((_, p) => sampson(e, [...direction(0, p), ...direction(4, p)]))) }))
      .sort((a, b) => a.off - b.off)[0]!;
    expect(Math.sqrt(best.off) * 780).toBeLessThan(1e-5);
    const [a, b] = [clip.truth[0]!.pose, clip.truth[4]!.pose];
    const turn = multiply3(b.turn, [a.turn[0], a.turn[3], a.turn[6], a.turn[1], a.turn[4], a.turn[7], a.turn[2], a.turn[5], a.turn[8]]);
    const nearest = Math.min(
      ...posesOf(best.e).map((p) =>
        Math.hypot(...axisOf(multiply3(p.turn, [turn[0], turn[3], turn[6], turn[1], turn[4], turn[7], turn[2], turn[5], turn[8]]))),
      ),
    );
    expect(nearest).toBeLessThan(1e-6);
    const again = essentialOf(posesOf(best.e)[0]!);
    expect(Math.abs(again.reduce((s, v, i) => s + v * best.e[i]!, 0)) / Math.hypot(...again)).toBeCloseTo(1, 6);
  });

  it('three points allow the true pose, and most decide', () => {
    const sights = clip.tracks.map((_, p) => ({ at: clip.points[p]!, x: direction(2, p)[0], y: direction(2, p)[1] }));
    const truth = clip.truth[2]!.pose;
    const found = threePoint([sights[0]!, sights[9]!, sights[17]!]);
    expect(Math.min(...found.map((p) => Math.hypot(...p.shift.map((v, i) => v - truth.shift[i]!))))).toBeLessThan(1e-6);
    const wrong = sights.map((s, i) => (i % 3 === 0 ? { ...s, x: s.x + 0.2 } : s));
    const { pose, inliers } = resect(wrong, 0.005)!;
    expect(Math.hypot(...pose.shift.map((v, i) => v - truth.shift[i]!))).toBeLessThan(1e-5);
    expect(inliers).toEqual(wrong.map((_, i) => i % 3 !== 0));
  });

  it('rays meet where the point is', () => {
    const found = triangulate([0, 2, 4].map((t) => ({ pose: clip.truth[t]!.pose, x: direction(t, 3)[0], y: direction(t, 3)[1] })))!;
    expect(Math.hypot(...found.at.map((v, i) => v - clip.points[3]![i]!))).toBeLessThan(1e-6);
    expect(found.angle).toBeGreaterThan(0.02);
  });
});
