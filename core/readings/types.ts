import type { Tap } from '../document/tap';
import type { Quad } from '../geometry/homography';
import type { ChartFrame, LensSettings, SolvedLens, StraightLine } from '../lens/reading';
import type { ReadingChannel } from './gray';
import type { PlaneFrame, PlaneRegion, PlaneSettings } from './plane';
import type { PointFrame, PointSettings } from './point';
import type { LessonParts } from '../learn/reading';
import type { CameraParts } from '../space/camera-parts';

interface Common {
  id: string;
  name: string;
  /** The point of a lane whose picture it is measured in, and what of it. */
  from: Tap;
  channel: ReadingChannel;
  /** The reference frame: positions and maps are counted from it. */
  reference: number;
  /** Frames that are measured. */
  range: { first: number; last: number };
  /** What it is measured by has been changed since. */
  stale?: boolean;
}

/** A point track: where a detail is, frame by frame, in full-size pixels. */
export interface PointReading extends Common {
  kind: 'point';
  settings: PointSettings;
  /** The point on the reference frame. */
  at: readonly [number, number];
  frames: readonly PointFrame[];
}

/** A plane track: how a plane has moved since the reference frame. */
export interface PlaneReading extends Common {
  kind: 'plane';
  settings: PlaneSettings;
  region: PlaneRegion;
  /** A matte that says which pixels belong to the plane. */
  matte?: Tap & { invert: boolean };
  /** Four corners on the reference frame, for looking at it and for pinning pictures to it. */
  surface: Quad;
  frames: readonly PlaneFrame[];
}

/** A lens, measured from charts or from straight things. */
export interface LensReading extends Common {
  kind: 'lens';
  settings: LensSettings;
  /** Its charts; the range says nothing of them. */
  frames: readonly ChartFrame[];
  lines: readonly StraightLine[];
  /** What came of it: one lens, or one a focal length. */
  solved: readonly SolvedLens[];
}

/** Where the camera was on each frame, and points of the scene. */
export interface CameraReading extends Common, CameraParts {
  kind: 'camera';
}

/** What a small net is taught by a few frames. */
export interface LessonReading extends Common, LessonParts {
  kind: 'lesson';
}

/** What follows something through the frames. */
export type TrackReading = PointReading | PlaneReading;
export type Reading = TrackReading | LensReading | CameraReading | LessonReading;

export const isTrack = (r: Reading | undefined): r is TrackReading => r?.kind === 'point' || r?.kind === 'plane';
