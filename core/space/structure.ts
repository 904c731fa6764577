import type { Vec3 } from '../geometry/vec3';
import type { Observations, Scene } from './scene';
import { observationsOf } from './scene';
import type { Pose } from './pose';
import { matrixOf, poseOfMatrix } from './pose';
import type { Sight } from './triangulate';
import { triangulate } from './triangulate';
import type { PointSight } from './resection';
import type { TrackTable } from './tracks';

/** Radians between the widest two rays from which a point is taken. */
const LEAST_ANGLE = 0.012;
/** Sights of a track that place its point. */
const SIGHTS = 12;

/** What is known while a camera is being found: poses by frame, counted from the first, and points by track. */
export class Structure {
  readonly poses: (Pose | null)[];
  readonly points: (Vec3 | null)[];
  /** Focal length by frame, px. */
  readonly focals: Float64Array;
  bend: readonly [number, number] = [0, 0];
  /** Sights that are far off although their track is not: `key` of each. */
  readonly skipped = new Set<number>();

  constructor(
    readonly table: TrackTable,
    readonly centre: readonly [number, number],
    focal: number,
    readonly turning = false,
  ) {
    this.poses = Array.from({ length: table.count }, () => null);
    this.points = table.tracks.map(() => null);
    this.focals = new Float64Array(table.count).fill(focal);
  }

  key(track: number, frame: number): number {
    return track * this.table.count + frame;
  }

  /** Frames with a pose that see a track well. */
  sightedBy(track: number): number[] {
    return this.table.framesOf(track).filter((t) => this.poses[t] && !this.skipped.has(this.key(track, t)));
  }

  /** The direction x/z, y/z of a position on a frame; the lens's bend taken off by a few rounds. */
  direction(frame: number, [x, y]: readonly [number, number]): [number, number] {
    const f = this.focals[frame]!;
    const [u, v] = [(x - this.centre[0]) / f, (y - this.centre[1]) / f];
    const [k1, k2] = this.bend;
    if (k1 === 0 && k2 === 0) return [u, v];
    let [a, b] = [u, v];
    for (let i = 0; i < 12; i++) {
      const r2 = a * a + b * b;
      const g = 1 + r2 * (k1 + k2 * r2);
      [a, b] = [u / g, v / g];
    }
    return [a, b];
  }

  /** Points and the directions in which a frame sees them. */
  sights(frame: number): (PointSight & { track: number })[] {
    return this.table.seen[frame]!.flatMap(({ track }) => {
      const at = this.points[track];
      if (!at || this.skipped.has(this.key(track, frame))) return [];
      const [x, y] = this.direction(frame, this.table.at(track, frame)!);
      return [{ at, x, y, weight: this.table.tracks[track]!.weight, track }];
    });
  }

  /** Places the points of tracks that have none and are seen wide enough from frames that have a pose; of all of them where said. */
  place(tracks: Iterable<number>, again = false): void {
    for (const k of tracks) {
      if (this.points[k] && !again) continue;
      const frames = this.sightedBy(k);
      if (frames.length < 2) continue;
      const few =
        frames.length <= SIGHTS
          ? frames
          : Array.from({ length: SIGHTS }, (_, i) => frames[Math.round((i * (frames.length - 1)) / (SIGHTS - 1))]!);
      const sights = few.map((t): Sight => {
        const [x, y] = this.direction(t, this.table.at(k, t)!);
        return { pose: this.poses[t]!, x, y };
      });
      const found = triangulate(sights);
      this.points[k] = found && found.angle > LEAST_ANGLE ? found.at : null;
    }
  }

  /** As numbers for the bundle: frames with a pose and tracks with a point, those of them that are wanted. */
  scene(
    use: (track: number) => boolean,
    on: (frame: number) => boolean = () => true,
  ): { scene: Scene; seen: Observations; frames: number[]; tracks: number[] } {
    const frames = this.poses.flatMap((p, t) => (p && on(t) ? [t] : []));
    const camera = new Map(frames.map((t, i) => [t, i]));
    const tracks: number[] = [];
    const rows: (readonly [number, number, number, number, number])[] = [];
    this.points.forEach((p, k) => {
      if (!p || !use(k)) return;
      const own = this.sightedBy(k).filter((t) => camera.has(t));
      if (own.length < 2) return;
      const { weight } = this.table.tracks[k]!;
      for (const t of own.sort((a, b) => a - b)) rows.push([camera.get(t)!, tracks.length, ...this.table.at(k, t)!, weight]);
      tracks.push(k);
    });
    return {
      frames,
      tracks,
      scene: {
        poses: Float64Array.from(frames.flatMap((t) => matrixOf(this.poses[t]!))),
        focals: Float64Array.from(frames, (t) => this.focals[t]!),
        bend: Float64Array.from(this.bend),
        centre: this.centre,
        points: Float64Array.from(tracks.flatMap((k) => [...this.points[k]!])),
      },
      seen: observationsOf(rows),
    };
  }

  /** Takes over what a bundle made of its scene. */
  take({ scene, frames, tracks }: Pick<ReturnType<Structure['scene']>, 'scene' | 'frames' | 'tracks'>): void {
    frames.forEach((t, i) => {
      this.poses[t] = poseOfMatrix(scene.poses.subarray(12 * i, 12 * i + 12));
      this.focals[t] = scene.focals[i]!;
    });
    tracks.forEach((k, i) => (this.points[k] = [scene.points[3 * i]!, scene.points[3 * i + 1]!, scene.points[3 * i + 2]!]));
    this.bend = [scene.bend[0]!, scene.bend[1]!];
  }
}
