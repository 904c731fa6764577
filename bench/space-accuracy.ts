import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { angleBetween, multiply3, transpose3 } from '@/core/geometry/rotation';
import { rect } from '@/core/geometry/rect';
import { lensMapOf } from '@/core/lens/lens';
import { solveCharts } from '@/core/lens/solve-charts';
import { detectChart } from '@/core/lens/chart/detect';
import { grayFrame } from '@/core/readings/gray';
import { measurePoint } from '@/core/readings/measure';
import type { Pictures } from '@/core/readings/measure';
import { newPoint } from '@/core/readings/make';
import { alignCameras, placedPose } from '@/core/space/align';
import type { Assessed } from '@/core/space/assess';
import type { FoundTrack } from '@/core/space/camera-parts';
import { FIND_SETTINGS } from '@/core/space/camera-parts';
import { fivePoint, posesOf, sampson } from '@/core/space/essential';
import { foundTracks } from '@/core/space/find-tracks';
import type { Pose } from '@/core/space/pose';
import { eyeOf, poseOfMatrix, seenFrom } from '@/core/space/pose';
import { refinePose } from '@/core/space/resection';
import { solvedCamera } from '@/core/space/solve';
import type { SolveTrack } from '@/core/space/tracks';
import { triangulate } from '@/core/space/triangulate';
import { channelOf, decoded } from '@/cli/read-pictures';
import { slipwayCamera } from '@/demo/sg050';
import { SPACE_CLIP, renderSpaceClip, spaceCamera } from '@/demo/space-clips';
import type { SpaceClip } from '@/demo/space-clips';
import { nodeKernels } from '@/engine/node/host';
import { table } from './timing';

const root = process.env.OSTRACON_ROOT ?? '.';

interface Truth {
  readonly pose: Pose;
  readonly focal: number;
}

const listed = (t: FoundTrack): SolveTrack => ({
  id: t.id,
  weight: 1,
  frames: Array.from({ length: t.at.length / 2 }, (_, i) => t.first + i),
  at: t.at,
});

const found = async (pictures: Pictures, last: number): Promise<FoundTrack[]> =>
  foundTracks(await nodeKernels(), { first: 1, last }, FIND_SETTINGS, pictures);

/** Points by hand: places that are spread over the picture and last long, followed by the point tracker. */
async function byHand(
  pictures: Pictures,
  tracks: readonly FoundTrack[],
  last: number,
  count: number,
  width: number,
): Promise<SolveTrack[]> {
  const reference = Math.round(last / 2);
  const there = tracks
    .map(listed)
    .filter((t) => t.frames.includes(reference))
    .map((t) => ({ t, x: t.at[2 * t.frames.indexOf(reference)]!, y: t.at[2 * t.frames.indexOf(reference) + 1]! }));
  const chosen: typeof there = [];
  const worth = (p: (typeof there)[number]): number =>
    Math.min(0.25 * width, ...chosen.map((q) => Math.hypot(p.x - q.x, p.y - q.y))) * (p.t.frames.length / last) ** 2;
  while (chosen.length < count) chosen.push(there.reduce((a, b) => (worth(b) > worth(a) ? b : a)));
  const kernels = await nodeKernels();
  const made: SolveTrack[] = [];
  for (const [i, { x, y }] of chosen.entries()) {
    const reading = newPoint([x, y], { reference, range: { first: 1, last } });
    const frames = (await measurePoint(kernels, reading, pictures)).filter((f) => !f.flag);
    made.push({ id: `hand ${i + 1}`, weight: 4, frames: frames.map((f) => f.frame), at: frames.flatMap((f) => [f.x, f.y]) });
  }
  return made;
}

const apart = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((v, i) => v - b[i]!));

/** A row: the camera against the truth. */
function against(
  name: string,
  made: Assessed,
  truth: (frame: number) => Truth,
  tracks: readonly SolveTrack[],
  centre: readonly [number, number],
): string[] {
  const poses = made.frames.map((f) => poseOfMatrix(f.matrix));
  const true_ = made.frames.map((f) => truth(f.frame));
  const placing = alignCameras(
    poses,
    true_.map((t) => t.pose),
  )!;
  const laid = poses.map((p) => placedPose(placing, p));
  const eyes = true_.map((t) => eyeOf(t.pose));
  const length = eyes.slice(1).reduce((s, e, i) => s + apart(e, eyes[i]!), 0);
  const off = Math.sqrt(laid.reduce((s, p, i) => s + apart(eyeOf(p), eyes[i]!) ** 2, 0) / laid.length);
  const turn = (Math.max(...laid.map((p, i) => angleBetween(p.turn, true_[i]!.pose.turn))) * 180) / Math.PI;
  const ratios = made.frames.map((f, i) => f.focal / true_[i]!.focal);
  const middle = [...ratios].sort((a, b) => a - b)[ratios.length >> 1]!;
  const zoom = Math.max(...ratios.map((r) => Math.abs(r / middle - 1)));
  // Cards at points of three depths: where the camera and where the truth show them, less what is the same on all frames.
  const slides = made.depths.map((depth) => {
    const all = made.points.filter((p) => p.used && !p.why && p.count > 0.6 * made.frames.length);
    const near = [...all]
      .sort(
        (a, b) =>
          Math.abs(seenFrom(poses[poses.length >> 1]!, a.at)[2] - depth) - Math.abs(seenFrom(poses[poses.length >> 1]!, b.at)[2] - depth),
      )
      .slice(0, 5);
    let [sum, n] = [0, 0];
    for (const p of near) {
      // The place in the scene that the track is on: seen by the true cameras.
      const track = tracks.find((t) => t.id === p.track)!;
      const sights = track.frames.map((f, i) => ({ f, i })).filter(({ i }) => i % 3 === 0);
      const at = triangulate(
        sights.map(({ f, i }) => ({
          pose: truth(f).pose,
          x: (track.at[2 * i]! - centre[0]) / truth(f).focal,
          y: (track.at[2 * i + 1]! - centre[1]) / truth(f).focal,
        })),
      )?.at;
      if (!at) continue;
      const offs = made.frames.flatMap((f, i) => {
        const own = seenFrom(poses[i]!, p.at);
        const there = seenFrom(true_[i]!.pose, at);
        if (own[2] <= 0 || there[2] <= 0) return [];
        const [x, y] = [(true_[i]!.focal * there[0]) / there[2], (true_[i]!.focal * there[1]) / there[2]];
        if (Math.abs(x) > centre[0] || Math.abs(y) > centre[1]) return [];
        return [[(f.focal * own[0]) / own[2] - x, (f.focal * own[1]) / own[2] - y]];
      });
      const mean = [0, 1].map((k) => offs.reduce((s, o) => s + o[k]!, 0) / Math.max(1, offs.length));
      for (const o of offs) {
        sum += (o[0]! - mean[0]!) ** 2 + (o[1]! - mean[1]!) ** 2;
        n++;
      }
    }
    return Math.sqrt(sum / Math.max(1, n));
  });
  const told = [0, 1, 2].map((k) => Math.sqrt(made.frames.reduce((s, f) => s + (f.slide?.[k] ?? 0) ** 2, 0) / made.frames.length));
  const used = made.points.filter((p) => p.used).length;
  return [
    name,
    `${made.kind}${made.zooms ? ', zooms' : ''}`,
    `${used} of ${made.points.length}`,
    made.rms.toFixed(3),
    length > 1e-6 ? `${((100 * off) / length).toFixed(3)} %` : '–',
    `${turn.toFixed(3)}°`,
    `${(100 * (middle - 1)).toFixed(2)} %`,
    made.zooms ? `${(100 * zoom).toFixed(2)} %` : '–',
    made.kind === 'turning' ? '–' : slides.map((v) => v.toFixed(2)).join(' · '),
    made.kind === 'turning' ? '–' : told.map((v) => v.toFixed(2)).join(' · '),
  ];
}

const HEAD = ['clip', 'found as', 'tracks used', 'error, px', 'path', 'turn', 'focal', 'zoom', 'slide near · middle · far, px', 'told'];

async function clips(): Promise<string> {
  const rows: string[][] = [];
  const { width, height, frames } = SPACE_CLIP;
  const list: readonly (readonly [string, SpaceClip])[] = [
    ['dolly', { move: 'dolly' }],
    ['handheld', { move: 'handheld' }],
    ['orbit', { move: 'orbit' }],
    ['turn on the spot', { move: 'turn' }],
    ['flat wall', { move: 'wall' }],
    ['slow zoom', { move: 'zoom' }],
    ['dolly, balls that swing', { move: 'dolly', movers: true }],
    ['handheld, a passer-by', { move: 'handheld', passers: true }],
  ];
  for (const [name, clip] of list) {
    const seen = Array.from({ length: frames }, (_, i) =>
      grayFrame(renderSpaceClip(clip, i), rect(0, 0, width, height), { width, height }, 'luma'),
    );
    const pictures: Pictures = { frame: (f) => Promise.resolve(seen[f - 1]!) };
    const truth = (f: number): Truth => spaceCamera(clip.move, (f - 1) / (frames - 1));
    const tracks = await found(pictures, frames);
    const input = { range: { first: 1, last: frames }, format: { width, height }, focal: 'found' as const, bend: false };
    const solve = (row: string, of: SolveTrack[]): void => {
      try {
        rows.push(against(row, solvedCamera({ ...input, tracks: of }), truth, of, [width / 2, height / 2]));
      } catch (e) {
        rows.push([row, `not solved: ${(e as Error).message}`, ...HEAD.slice(2).map(() => '')]);
      }
    };
    solve(name, tracks.map(listed));
    if (['dolly', 'handheld', 'orbit'].includes(name)) {
      const hand = await byHand(pictures, tracks, frames, 8, width);
      solve(`${name}, eight by hand only`, hand);
      solve(`${name}, both`, [...tracks.map(listed), ...hand]);
    }
  }
  return `The slipway filmed by other cameras (${width}×${height}, ${frames} frames, straight pixels, noise), the focal length unknown. Path and turn after the cameras are laid on the true ones; *slide* is how far cards at points slide against the truth over the frames, *told* what the application expects:\n\n${table(HEAD, rows)}`;
}

async function slipway(): Promise<string> {
  const grayOf = async (path: string) => {
    const g = channelOf(await decoded(path), 'luma');
    return g.read(0, 0, g.width, g.height);
  };
  const boards = await Promise.all(
    [1, 2, 3].map(async (f) => detectChart(await grayOf(join(root, `demo/media/sg070/chart.000${f}.jpg`)), 'auto')!.crossings),
  );
  const { lens } = solveCharts({ charts: boards, format: { width: 960, height: 540 }, model: 'auto' });
  const map = lensMapOf(lens);
  const pictures: Pictures = {
    frame: async (f) => channelOf(await decoded(join(root, `demo/media/sg050/slipway.${String(f).padStart(4, '0')}.jpg`)), 'luma'),
  };
  const straight = (t: SolveTrack): SolveTrack => {
    const to = new Float64Array(2);
    return {
      ...t,
      at: t.frames.flatMap((_, i) => {
        map.straighten(t.at[2 * i]!, t.at[2 * i + 1]!, to);
        return [to[0]!, to[1]!];
      }),
    };
  };
  const tracks = await found(pictures, 96);
  const hand = await byHand(pictures, tracks, 96, 12, 960);
  const truth = (f: number): Truth => ({ pose: poseOfMatrix(slipwayCamera(f).pose), focal: 604 });
  const solve = (of: readonly SolveTrack[]): Assessed =>
    solvedCamera({
      tracks: of.map(straight),
      range: { first: 1, last: 96 },
      format: { width: 960, height: 540 },
      centre: lens.centre,
      focal: 'found',
      bend: false,
    });
  const row = (name: string, of: readonly SolveTrack[]): string[] => against(name, solve(of), truth, of.map(straight), lens.centre);
  const rows = [row('found only', tracks.map(listed)), row('twelve by hand only', hand), row('both', [...tracks.map(listed), ...hand])];
  return `SG050 as it ships (JPEG), tracks straightened by the lens that its chart gives, the focal length found anew:\n\n${table(HEAD, rows)}\n\n${beside(tracks.map(listed).map(straight), lens.centre)}`;
}

const PYTHON = `
import json, sys, cv2, numpy as np
d = json.load(sys.stdin); out = {}
a = np.array(d['a']); b = np.array(d['b'])
E, mask = cv2.findEssentialMat(a, b, np.eye(3), method=cv2.RANSAC, prob=0.9999, threshold=d['tolerance'])
n, R, t, m = cv2.recoverPose(E[:3], a, b, np.eye(3), mask=mask.copy())
out['R'] = R.flatten().tolist(); out['t'] = t.flatten().tolist(); out['inliers'] = int(mask.sum())
p3 = np.array(d['points']); p2 = np.array(d['sights'])
ok, rv, tv, inl = cv2.solvePnPRansac(p3, p2, np.eye(3), None, iterationsCount=500, reprojectionError=d['tolerance'] * 3, confidence=0.9999)
rv, tv = cv2.solvePnPRefineLM(p3[inl[:, 0]], p2[inl[:, 0]], np.eye(3), None, rv, tv)
out['pnpR'] = cv2.Rodrigues(rv)[0].flatten().tolist(); out['pnpT'] = tv.flatten().tolist()
P = [np.array(m).reshape(3, 4) for m in d['cameras']]
X = cv2.triangulatePoints(P[0], P[1], a.T, b.T); out['X'] = (X[:3] / X[3]).T.tolist()
print(json.dumps(out))
`;

/** Two views, resection and triangulation beside OpenCV's, on the same tracks of SG050. */
function beside(tracks: readonly SolveTrack[], centre: readonly [number, number]): string {
  const focal = 604;
  const at = (t: SolveTrack, f: number): readonly [number, number] | null => {
    const i = t.frames.indexOf(f);
    return i < 0 ? null : [(t.at[2 * i]! - centre[0]) / focal, (t.at[2 * i + 1]! - centre[1]) / focal];
  };
  const [from, to] = [20, 70];
  const both = tracks.filter((t) => at(t, from) && at(t, to));
  const [a, b] = [both.map((t) => at(t, from)!), both.map((t) => at(t, to)!)];
  const [p, q] = [poseOfMatrix(slipwayCamera(from).pose), poseOfMatrix(slipwayCamera(to).pose)];
  // Points by the true cameras from all frames; sights of a frame between.
  const placedOf = both.map((t) =>
    triangulate(
      t.frames.filter((_, i) => i % 8 === 0).map((f) => ({ pose: poseOfMatrix(slipwayCamera(f).pose), x: at(t, f)![0], y: at(t, f)![1] })),
    ),
  );
  const known = both.flatMap((t, i) => (placedOf[i] && at(t, 45) ? [{ at: placedOf[i].at, x: at(t, 45)![0], y: at(t, 45)![1] }] : []));
  const tolerance = 1 / focal;
  const run = spawnSync('/usr/bin/python3', ['-c', PYTHON], {
    input: JSON.stringify({
      a,
      b,
      tolerance,
      points: known.map((k) => k.at),
      sights: known.map((k) => [k.x, k.y]),
      cameras: [slipwayCamera(from).pose, slipwayCamera(to).pose],
    }),
    maxBuffer: 1 << 26,
  });
  if (run.status !== 0) return 'OpenCV was not there to be compared with.';
  const cv = JSON.parse(run.stdout.toString()) as {
    R: Pose['turn'];
    t: number[];
    inliers: number;
    pnpR: Pose['turn'];
    pnpT: number[];
    X: number[][];
  };
  const relative = multiply3(q.turn, transpose3(p.turn));
  const wayOf = (eye: readonly number[]): number[] => eye.map((v) => v / Math.hypot(...eye));
  const shift = [0, 1, 2].map(
    (r) => q.shift[r]! - (relative[3 * r]! * p.shift[0] + relative[3 * r + 1]! * p.shift[1] + relative[3 * r + 2]! * p.shift[2]),
  );
  const degrees = (v: number): string => `${((v * 180) / Math.PI).toFixed(3)}°`;
  const angle = (u: readonly number[], v: readonly number[]): number =>
    Math.acos(Math.min(1, Math.abs(u.reduce((s, x, i) => s + x * v[i]!, 0))));
  // Our own: samples of five, the best by Sampson's distance, no refinement on either side.
  const pairs = both.map((_, i) => [...a[i]!, ...b[i]!] as const);
  let best = { cost: Infinity, pose: null as Pose | null };
  for (let k = 0; k < 200; k++) {
    const five = [0, 1, 2, 3, 4].map((j) => pairs[(k * 37 + j * 61 + k * j * 13) % pairs.length]!);
    if (new Set(five).size < 5) continue;
    for (const e of fivePoint(five)) {
      const cost = pairs.reduce((s, x) => s + Math.min(tolerance ** 2, sampson(e, x)), 0);
      if (cost >= best.cost) continue;
      const pose = posesOf(e).reduce((m, x) => (angleBetween(x.turn, relative) < angleBetween(m.turn, relative) ? x : m));
      best = { cost, pose };
    }
  }
  const own = best.pose!;
  const resected = refinePose({ turn: p.turn, shift: p.shift }, known, tolerance);
  const t45 = poseOfMatrix(slipwayCamera(45).pose);
  const ours = both.map(
    (_, i) =>
      triangulate([
        { pose: p, x: a[i]![0], y: a[i]![1] },
        { pose: q, x: b[i]![0], y: b[i]![1] },
      ])?.at,
  );
  const median = (list: number[]): string => [...list].sort((x, y) => x - y)[list.length >> 1]!.toFixed(4);
  const offs = (xs: readonly (readonly number[] | undefined)[]): string =>
    median(xs.flatMap((x, i) => (x && placedOf[i] ? [apart(x, placedOf[i].at)] : [])));
  return `Beside OpenCV on the same tracks, against the truth (frames ${from} and ${to}, ${both.length} tracks; resection of frame 45 from ${known.length} points; metres):\n\n${table(
    ['', 'here', 'OpenCV'],
    [
      ['two views (five points), turn', degrees(angleBetween(own.turn, relative)), degrees(angleBetween(cv.R, relative))],
      ['two views, direction of the shift', degrees(angle(wayOf(own.shift), wayOf(shift))), degrees(angle(wayOf(cv.t), wayOf(shift)))],
      [
        'resection, eye off by',
        apart(eyeOf(resected), eyeOf(t45)).toFixed(4),
        apart(eyeOf({ turn: cv.pnpR, shift: cv.pnpT as never }), eyeOf(t45)).toFixed(4),
      ],
      ['two-view triangulation, median off by', offs(ours), offs(cv.X)],
    ],
  )}`;
}

export async function spaceAccuracy(): Promise<string> {
  return [await slipway(), await clips()].join('\n\n');
}
