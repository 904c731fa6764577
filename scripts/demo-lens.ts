import type { Draft } from 'immer';
import { produce } from 'immer';
import type { Shot, Tap } from '@/core/document';
import type { ChartFrame } from '@/core/lens';
import { LENS_SETTINGS, measureChart, measureLine, snapCrossing, solveReading, straightLensAt } from '@/core/lens';
import type { CameraView, Placing, Pose } from '@/core/space';
import {
  NEW_CAMERA,
  alignCameras,
  foundTracks,
  onGround,
  placed,
  poseOfMatrix,
  scaledTo,
  seenFrom,
  solveInputOf,
  solvedCamera,
  suggestPrunes,
  viewOf,
  withOrigin,
} from '@/core/space';
import { cameraOf, moveCrossing, removeTracks, setCamera, setPlacing, workStraight } from '@/core/commands';
import type { CameraReading, Gray, LensReading } from '@/core/readings';
import { measurePlane, newPlane } from '@/core/readings';
import { CRATES, slipwayCamera } from '@/demo/sg050';
import { CHART_FRAMES } from '@/demo/sg070';
import { filmedAt } from '@/demo/wide-lens';
import { nodeHost, nodeKernels, openShotFile } from '@/engine/node';
import { picturesOf } from '@/engine';
import type { Written } from './demo-parts';
import { slipwayThings } from './demo-things';
import { film, lane, lean, step, tenth, written } from './demo-parts';

type Write = (name: string, shot: Written) => string;
type Host = Awaited<ReturnType<typeof nodeHost>>;

const CHART = { id: 'src-chart', name: 'lens chart', path: '../media/sg070/chart.####.jpg', colourSpace: 'Rec.709' };
const FORMAT = { width: 960, height: 540 };

async function grayAt(host: Host, shot: Shot, from: Tap, frame: number): Promise<Gray> {
  const seen = await picturesOf(host, shot, from).frame(frame);
  return seen.read(0, 0, seen.width, seen.height);
}

const lensReading = (id: string, name: string, from: Tap, more: Partial<LensReading>): LensReading => ({
  kind: 'lens',
  id,
  name,
  from,
  channel: 'luma',
  reference: 1,
  range: CHART_FRAMES,
  settings: LENS_SETTINGS,
  frames: [],
  lines: [],
  solved: [],
  ...more,
});

/** The slipway lens, measured from its chart. */
async function chartLens(host: Host, shot: Shot, from: Tap): Promise<LensReading> {
  const frames: ChartFrame[] = [];
  for (let f = CHART_FRAMES.first; f <= CHART_FRAMES.last; f++)
    frames.push(measureChart(await grayAt(host, shot, from, f), f, LENS_SETTINGS));
  const reading = lensReading('wide-lens', 'The slipway lens', from, { frames });
  return { ...reading, ...solveReading(reading, FORMAT) };
}

/** SG070: the chart in three tilts, its lens, two crossings put right by hand, and the chart straightened as the proof. */
export async function chart(write: Write): Promise<void> {
  const shot = film('sg070', 'SG070 lens chart');
  shot.range = CHART_FRAMES;
  shot.sources = [CHART];
  shot.lanes = [lane('chart', 'chart', { source: CHART.id }, [])];
  shot.result = 'chart';
  const opened = await openShotFile(write('sg070', shot));
  const host = await nodeHost(opened.files);
  const from: Tap = { lane: 'chart', after: '' };
  let reading = await chartLens(host, opened.shot, from);
  // The two that fit least, beside the glare, are put anew.
  const glare = reading.frames.find((f) => f.frame === 2)!;
  const worst = [...glare.crossings].sort((a, b) => Math.hypot(...(b.off ?? [0, 0])) - Math.hypot(...(a.off ?? [0, 0]))).slice(0, 2);
  const gray = await grayAt(host, opened.shot, from, 2);
  for (const c of worst) {
    const [x, y] = snapCrossing(gray, glare, c.x + 1, c.y - 1);
    const moved = produce({ ...opened.shot, readings: [reading] }, (d) => moveCrossing(reading.id, 2, c, x, y)(d as Draft<Shot>));
    reading = moved.readings[0] as LensReading;
  }
  const { stale: _, ...fresh } = reading;
  shot.readings = lean([{ ...fresh, ...solveReading(fresh, FORMAT) }]);
  shot.lanes[0]!.steps = [step('chart-straight', 'lens', 'Straighten', { params: { reading: 'wide-lens' } })];
  write('sg070', shot);
}

/** Edges of the slipway that are straight, px as filmed: the beam, the wall's top. */
const STRAIGHT: readonly (readonly [frame: number, from: readonly [number, number, number], to: readonly [number, number, number]])[] = [
  [1, [-3.9, -3.66, 9.59], [4.7, -3.66, 9.59]],
  [1, [-8, -2.6, 11.5], [8.5, -2.6, 11.5]],
  [96, [-3.9, -3.66, 9.59], [4.7, -3.66, 9.59]],
  [96, [-6.5, -2.6, 11.5], [8.5, -2.6, 11.5]],
  [60, [-3.9, -3.44, 9.59], [4.7, -3.44, 9.59]],
];

function filmedLine(frame: number, ends: readonly (readonly [number, number, number])[]): number[] {
  const m = slipwayCamera(frame).pose;
  const [a, b] = [ends[0]!, ends[1]!];
  return [0, 0.25, 0.5, 0.75, 1].flatMap((t) => {
    const p = a.map((v, i) => v + t * (b[i]! - v));
    const [x, y, z] = [0, 1, 2].map((r) => m[4 * r]! * p[0]! + m[4 * r + 1]! * p[1]! + m[4 * r + 2]! * p[2]! + m[4 * r + 3]!) as [
      number,
      number,
      number,
    ];
    const at = filmedAt(x / z, y / z).map(tenth);
    return at[0]! > 3 && at[0]! < 957 && at[1]! > 3 && at[1]! < 537 ? at : [];
  });
}

/** The frame at which the crate's face is drawn, and the face: shares of its width and height. */
const FACE_FRAME = 60;
const CRATE = CRATES[2]!;

/** From the world of a solved camera to the slipway's own, as it was surveyed. */
function surveyOf(view: CameraView): Placing {
  const eyes = (list: readonly Pose[]): Pose[] => list.filter((_, i) => i % 5 === 0);
  const { frames } = view;
  return alignCameras(eyes(frames.map((f) => view.poseAt(f)!)), eyes(frames.map((f) => poseOfMatrix(slipwayCamera(f).pose))))!;
}

/** The camera of the slipway: tracks found on straight pixels, solved and pruned once, laid on its ground and grown to metres, cards put up. */
async function slipwayCameraReading(host: Host, shot: Shot, from: Tap): Promise<CameraReading> {
  const range = { first: 1, last: 96 };
  const settings = { ...NEW_CAMERA.settings, count: 110, least: 14, focal: 'lens' as const };
  const empty: CameraReading = {
    ...NEW_CAMERA,
    kind: 'camera',
    id: 'camera',
    name: 'The dolly',
    from,
    channel: 'luma',
    reference: 48,
    range,
    settings,
  };
  const tracks = await foundTracks(await nodeKernels(), range, settings, picturesOf(host, shot, from));
  let camera: CameraReading = { ...empty, tracks };
  const run = (change: (s: Draft<Shot>) => void): void => {
    const next = produce({ ...shot, readings: [...shot.readings, camera] }, (d) => change(d as Draft<Shot>));
    camera = next.readings.find((r) => r.id === 'camera') as CameraReading;
  };
  const lens = straightLensAt(shot, from, 48);
  const solve = (again: boolean): void =>
    run(setCamera('camera', solvedCamera(solveInputOf(camera, shot.readings, FORMAT, again, lens)), FORMAT));
  solve(false);
  const prune = suggestPrunes({ ...camera.solved!, frames: camera.frames });
  if (prune) {
    run(removeTracks('camera', prune.tracks, prune.expected));
    solve(true);
  }
  const view = (): CameraView => viewOf(camera, shot.readings)!;
  const used = camera.solved!.points.filter((p) => p.used && !p.why);
  // What was surveyed on the slipway: which points lie on its ground, and how far apart two of them are.
  const truth = surveyOf(view());
  const surveyed = new Map(used.map((p) => [p.track, placed(truth, view().point(p.track)!)]));
  /** In the middle of the picture on the reference frame, on its lower part where said. */
  const shown = (track: string, top: number): boolean => {
    const at = view().project(48, view().point(track)!);
    return at !== null && at[0] > 90 && at[0] < 870 && at[1] > top && at[1] < 515;
  };
  const floor = used.filter((p) => Math.abs(surveyed.get(p.track)![1]) < 0.03 && shown(p.track, 330)).slice(0, 16);
  run(
    setPlacing(
      'camera',
      onGround(
        view(),
        floor.map((p) => p.track),
        48,
      ),
    ),
  );
  const [a, b] = [used[0]!.track, used[used.length - 1]!.track];
  const apart = Math.hypot(...surveyed.get(a)!.map((v, i) => v - surveyed.get(b)![i]!));
  run(setPlacing('camera', scaledTo(view(), [a, b], Number(apart.toFixed(3)))));
  run(
    setPlacing(
      'camera',
      withOrigin(
        view(),
        floor.map((p) => p.track),
      ),
    ),
  );
  // Cards near, at middle distance and far, as large on the picture as each other.
  const far = (track: string): number => seenFrom(view().poseAt(48)!, view().point(track)!)[2];
  const standing = used.filter((p) => !floor.includes(p) && p.count > 70 && shown(p.track, 60)).sort((p, q) => far(p.track) - far(q.track));
  const tried = [0.02, 0.3, 0.6, 0.95].map((share) => standing[Math.floor(share * standing.length)]!);
  run((s) => {
    const r = cameraOf(s, 'camera');
    r.groups = [{ id: 'ground', name: 'Ground', colour: '#e0a458', mark: 'square', tracks: floor.map((p) => p.track) }];
    r.cards = [
      { id: 'card-ground', track: '', lies: 'ground', size: 0.8 },
      ...tried.map((p, k) => ({
        id: `card-${k + 1}`,
        track: p.track,
        lies: 'facing' as const,
        size: Number((0.1 * far(p.track)).toPrecision(2)),
      })),
    ];
  });
  return camera;
}

/** SG050: the plate straightened, a tide table on a crate by a plane measured on straight pixels, and bent back. */
export async function slipway(write: Write): Promise<void> {
  const shot = film('sg050', 'SG050 slipway');
  shot.range = { first: 1, last: 96 };
  shot.sources = [
    { id: 'src-slipway', name: 'slipway plate', path: '../media/sg050/slipway.####.jpg', colourSpace: 'Rec.709' },
    CHART,
    { id: 'src-table', name: 'tide table', path: '../media/sg020/tide.0048.png', colourSpace: 'sRGB' },
  ];
  shot.lanes = [lane('slipway', 'slipway', { source: 'src-slipway' }, []), lane('lens-chart', 'lens chart', { source: CHART.id }, [])];
  shot.result = 'slipway';
  const opened = await openShotFile(write('sg050', shot));
  const host = await nodeHost(opened.files);
  const lens = await chartLens(host, opened.shot, { lane: 'lens-chart', after: '' });
  // Lines that were straight, as rulers over the plate.
  const plate: Tap = { lane: 'slipway', after: '' };
  const lines = [];
  for (const [frame, ...ends] of STRAIGHT)
    lines.push(
      measureLine(await grayAt(host, opened.shot, plate, frame), { frame, drawn: filmedLine(frame, ends), found: [], ruler: true }),
    );
  const rulers = lensReading('rulers', 'Lines of the slipway', plate, {
    range: shot.range,
    lines: lines.map((l) => ({ ...l, ruler: false })),
  });
  const readings = [lens, { ...rulers, ...solveReading(rulers, FORMAT) }];
  const made: { straighten?: string; bend?: string } = {};
  const work = produce({ ...opened.shot, readings }, (d) => workStraight(lens.id, 'slipway', made)(d as Draft<Shot>));
  const named = JSON.parse(JSON.stringify(work).replaceAll(made.straighten!, 'straighten').replaceAll(made.bend!, 'bend')) as Shot;
  // The crate's face on straight pixels.
  const { focal, centre } = lens.solved[0]!.lens;
  /** Where a straightened frame shows a place on the near face of a crate, in shares of half its sides. */
  const facePlace = (crate: (typeof CRATES)[number], frame: number, u: number, v: number): [number, number] => {
    const m = slipwayCamera(frame).pose;
    const [c, s] = [Math.cos(crate.yaw), Math.sin(crate.yaw)];
    const [x, y, z] = [u * crate.half[0], v * crate.half[1], -crate.half[2]];
    const p = [crate.at[0] + c * x + s * z, crate.at[1] + y, crate.at[2] - s * x + c * z];
    const [a, b, w] = [0, 1, 2].map((r) => m[4 * r]! * p[0]! + m[4 * r + 1]! * p[1]! + m[4 * r + 2]! * p[2]! + m[4 * r + 3]!) as [
      number,
      number,
      number,
    ];
    return [tenth(centre[0] + (focal * a) / w), tenth(centre[1] + (focal * b) / w)];
  };
  const onFace = (u: number, v: number): [number, number] => facePlace(CRATE, FACE_FRAME, u, v);
  const square = (left: number, top: number, right: number, bottom: number) => [
    onFace(left, top),
    onFace(right, top),
    onFace(right, bottom),
    onFace(left, bottom),
  ];
  const straight: Tap = { lane: 'slipway', after: 'straighten' };
  const plane = {
    ...newPlane([square(-0.97, -0.96, 0.97, 0.96).flat()], {
      id: 'crate',
      name: 'The crate',
      from: straight,
      reference: FACE_FRAME,
      range: shot.range,
    }),
    surface: square(-0.5, -0.62, 0.5, 0.5) as never,
  };
  const frames = await measurePlane(await nodeKernels(), plane, picturesOf(host, named, straight));
  const camera = await slipwayCameraReading(host, named, straight);
  const corner = (u: number, v: number, x: number, y: number): [number, number] => {
    const [px, py] = facePlace(CRATES[0]!, 40, u, v);
    return [tenth(px - x), tenth(py - y)];
  };
  const sign = {
    topLeft: corner(-0.34, -0.86, 0, 0),
    topRight: corner(0.34, -0.86, 960, 0),
    bottomRight: corner(0.34, 0.72, 960, 540),
    bottomLeft: corner(-0.34, 0.72, 0, 540),
  };
  const things = slipwayThings(surveyOf(viewOf(camera, readings)!), sign);
  const finished: Written = {
    ...written(named, [...shot.sources, ...things.sources]),
    readings: lean([lens, readings[1]!, { ...plane, frames }, camera]),
    lanes: [
      ...things.lanes,
      lane('table', 'tide table', { source: 'src-table' }, [
        step('table-size', 'conform', 'Size', { params: { fit: 'stretch' } }),
        step('table-light', 'grade', 'Match the light', { params: { exposure: -0.75, slope: [1.04, 1, 0.94] } }),
        step('table-soft', 'blur', 'Defocus', { params: { size: 1.5, channels: 'colour' } }),
        step('table-pin', 'cornerPin', 'Pin', { params: { from: 'plane', plane: 'crate', shutter: 180 } }),
      ]),
      {
        ...named.lanes[0]!,
        steps: [
          named.lanes[0]!.steps[0]!,
          step('slipway-over', 'join', 'over', { feeds: { front: { lane: 'table' } } }),
          ...things.steps,
          named.lanes[0]!.steps[1]!,
        ],
      },
      named.lanes[1]!,
    ],
  };
  write('sg050', finished);
}
