import { ShotError } from '../errors';
import type { Vec3 } from '../geometry/vec3';
import { scale3 } from '../geometry/vec3';
import type { Lens, LensMap } from '../lens/lens';
import { lensFor, lensMapOf, sameShape } from '../lens/lens';
import type { LensReading, PointReading, Reading } from '../readings/types';
import type { Placing } from './align';
import { afterPlacing, placed, placedPose, similarityBetween } from './align';
import type { Assessed, CameraFrame } from './assess';
import type { CameraParts, SolvedCamera } from './camera-parts';
import type { Pose } from './pose';
import { poseOfMatrix, seenFrom, shownAt } from './pose';
import type { SolveInput } from './solve';
import type { SolveTrack } from './tracks';

/** All tracks of a camera, found ones and those by hand, as they lie in the picture. */
export function tracksOf(camera: Pick<CameraParts, 'tracks' | 'hand' | 'settings'>, readings: readonly Reading[]): SolveTrack[] {
  const found = camera.tracks.map((t) => ({
    id: t.id,
    weight: 1,
    frames: Array.from({ length: t.at.length / 2 }, (_, i) => t.first + i),
    at: t.at,
  }));
  const hand = camera.hand.flatMap((id) => {
    const r = readings.find((x): x is PointReading => x.id === id && x.kind === 'point');
    // Where a point was lost it says nothing.
    const seen = r?.frames.filter((f) => !f.flag) ?? [];
    return r ? [{ id, weight: camera.settings.handWeight, frames: seen.map((f) => f.frame), at: seen.flatMap((f) => [f.x, f.y]) }] : [];
  });
  return [...found, ...hand];
}

/** The lens by which a camera's tracks are straightened, for pictures of a size. */
function lensOf(camera: CameraParts, readings: readonly Reading[], format: Lens['format']): LensMap | null {
  if (!camera.settings.lens) return null;
  const r = readings.find((x): x is LensReading => x.id === camera.settings.lens && x.kind === 'lens');
  const lens = r?.solved[0]?.lens;
  if (!lens)
    throw new ShotError('the lens by which the tracks shall be straightened is not solved: solve it first, or choose straight pixels');
  if (!sameShape(lens.format, format))
    throw new ShotError(
      `the lens was measured for pictures of ${lens.format.width}×${lens.format.height} and this one is ${format.width}×${format.height}: choose a lens of its shape`,
    );
  return lensMapOf(lensFor(lens, format));
}

/** What the solver is given. */
export function solveInputOf(
  camera: CameraParts & { readonly range: SolveInput['range'] },
  readings: readonly Reading[],
  format: { readonly width: number; readonly height: number },
  again: boolean,
  /** Of a picture that has been straightened: the lens that it was straightened by. */
  straight: { readonly centre: readonly [number, number]; readonly focal: number } | null = null,
): SolveInput {
  const { settings } = camera;
  const lens = lensOf(camera, readings, format);
  const raw = tracksOf(camera, readings);
  const tracks = lens ? raw.map((t) => ({ ...t, ...straightened(t, lens) })) : raw;
  const known = lens ? lens.lens : straight;
  if (settings.focal === 'lens' && !known)
    throw new ShotError(
      'there is no lens whose focal length could be used: straighten the picture, choose a lens reading, or let it be found',
    );
  if (settings.focal === 'known' && !(settings.mm > 0 && settings.sensor > 0))
    throw new ShotError('the focal length is known by two numbers: give it and the sensor’s width, both in mm');
  const focal =
    settings.focal === 'known' ? (settings.mm / settings.sensor) * format.width : settings.focal === 'lens' ? known!.focal : settings.focal;
  const { solved } = camera;
  return {
    tracks,
    range: camera.range,
    format,
    ...(known && { centre: known.centre }),
    focal,
    bend: settings.bend && !lens,
    ...(again && solved && { from: { ...solved, frames: camera.frames } }),
  };
}

function straightened(t: SolveTrack, lens: LensMap): Pick<SolveTrack, 'frames' | 'at'> {
  const [frames, at]: [number[], number[]] = [[], []];
  const to = new Float64Array(2);
  t.frames.forEach((f, i) => {
    lens.straighten(t.at[2 * i]!, t.at[2 * i + 1]!, to);
    if (!Number.isFinite(to[0]! + to[1]!)) return;
    frames.push(f);
    at.push(to[0]!, to[1]!);
  });
  return { frames, at };
}

/** A solved camera in the frame of reference that was chosen. */
export class CameraView {
  private readonly byFrame: ReadonlyMap<number, CameraFrame>;
  private readonly places = new Map<string, Vec3>();
  private readonly poses = new Map<number, Pose>();
  private readonly at = new Float64Array(2);

  constructor(
    readonly solved: SolvedCamera,
    frames: readonly CameraFrame[],
    readonly placing: Placing,
    /** Where the tracks lie in pictures that are not straightened. */
    readonly lens: LensMap | null = null,
  ) {
    this.byFrame = new Map(frames.map((f) => [f.frame, f]));
    for (const p of solved.points) if (p.why !== 'unplaced') this.places.set(p.track, placed(placing, p.at));
  }

  /** Frames that are solved. */
  get frames(): number[] {
    return [...this.byFrame.keys()];
  }

  has(frame: number): boolean {
    return this.byFrame.has(frame);
  }

  /** World to camera; null where the frame was not solved. */
  poseAt(frame: number): Pose | null {
    const f = this.byFrame.get(frame);
    if (!f) return null;
    let pose = this.poses.get(frame);
    if (!pose) this.poses.set(frame, (pose = placedPose(this.placing, poseOfMatrix(f.matrix))));
    return pose;
  }

  focalAt(frame: number): number {
    return this.byFrame.get(frame)?.focal ?? 0;
  }

  /** Where a track's point stands; null where it has none. */
  point(track: string): Vec3 | null {
    return this.places.get(track) ?? null;
  }

  /** Where the picture shows a place of the world, px, and how far along the view it lies; null behind the camera. */
  project(frame: number, at: Vec3): readonly [number, number, number] | null {
    const pose = this.poseAt(frame);
    if (!pose) return null;
    const p = seenFrom(pose, at);
    if (!(p[2] > 1e-9)) return null;
    const [x, y] = shownAt(p, this.focalAt(frame), this.solved.centre, this.solved.bend);
    if (!this.lens) return [x, y, p[2]];
    this.lens.bend(x, y, this.at);
    const [u, v] = [this.at[0]!, this.at[1]!];
    return Number.isFinite(u + v) ? [u, v, p[2]] : null;
  }
}

/** A camera reading's view; null where nothing is solved. */
export function viewOf(camera: CameraParts, readings: readonly Reading[]): CameraView | null {
  if (!camera.solved) return null;
  let lens: LensMap | null = null;
  try {
    lens = lensOf(camera, readings, camera.solved.format);
  } catch {
    // What was solved stays to be seen where its lens has gone since.
  }
  return new CameraView(camera.solved, camera.frames, camera.placing, lens);
}

/** A new solution laid onto the one before, by the points that both have: the frame of reference stays where it was chosen. */
export function placingFor(made: Assessed, before: CameraParts): Placing {
  if (!before.solved) return firstPlacing(made);
  const had = new Map(before.solved.points.filter((p) => p.used).map((p) => [p.track, p.at]));
  const shared = made.points.filter((p) => p.used && had.has(p.track));
  if (made.kind === 'turning' || before.solved.kind === 'turning') {
    const turn = similarityBetween(
      shared.map((p) => p.at),
      shared.map((p) => had.get(p.track)!),
      false,
    );
    return made.kind === before.solved.kind && turn ? afterPlacing(before.placing, { ...turn, shift: [0, 0, 0] }) : firstPlacing(made);
  }
  const like = similarityBetween(
    shared.map((p) => p.at),
    shared.map((p) => had.get(p.track)!),
  );
  return like ? afterPlacing(before.placing, like) : firstPlacing(made);
}

/** The world as the first camera sees it; what stands at middle distance is ten units away. */
function firstPlacing(made: Assessed): Placing {
  const first = poseOfMatrix(made.frames[0]!.matrix);
  const scale = made.kind === 'turning' ? 1 : 10 / made.depths[1];
  return { turn: first.turn, scale, shift: scale3(first.shift, scale) };
}
