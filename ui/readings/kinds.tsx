'use client';
import dynamic from 'next/dynamic';
import type { ComponentType } from 'react';
import type { CameraReading, LensReading, LessonReading, PlaneReading, PointReading, Reading, TrackReading } from '@/core/readings';
import { LessonControls } from '../learn/LessonControls';
import { LessonSheet } from '../learn/LessonSheet';
import { newLessonIn } from '../learn/new-lesson';
import { train } from '../learn/training';
import { LensCharts } from '../lens/LensCharts';
import { LensControls } from '../lens/LensControls';
import { measureCharts, newLens } from '../lens/lens-jobs';
import { CameraCharts } from '../space/CameraCharts';
import { CameraControls } from '../space/CameraControls';
import { findCameraTracks, newCamera, solveCameraOf } from '../space/camera-jobs';
import type { StagePlace } from '../stage/place';
import type { Bench } from '../workbench/context';
import type { Drawing } from '../workbench/state';
import { view } from '../workbench/state';
import { bothWays, measureReading } from './measuring';
import { ReadingControls } from './ReadingControls';
import { TrackCharts } from './TrackCharts';

interface OverlayProps<R> {
  place: StagePlace;
  reading: R;
  frame: number;
}

/** What the workbench shows of a kind of readings, and how one is measured. */
export interface ReadingView<R extends Reading = Reading> {
  Controls: ComponentType<{ reading: R }>;
  Charts: ComponentType<{ reading: R }>;
  /** What lies over the picture while it is selected. */
  Overlay?: ComponentType<OverlayProps<R>>;
  /** Drawn over pictures that were moved since, too. */
  everywhere?: boolean;
  /** What it was measured from, and what came of it, in a line of the list. */
  line: (reading: R) => string;
  /** Measures it, or takes the next step of that. */
  measure: (bench: Bench, reading: R) => void;
}

const PlaneOverlay = dynamic(() => import('./TrackOverlay').then((m) => m.LivePlane), { ssr: false });
const PointOverlay = dynamic(() => import('./TrackOverlay').then((m) => m.LivePoint), { ssr: false });
const LensOverlay = dynamic(() => import('../lens/LensOverlay').then((m) => m.LensOverlay), { ssr: false });
const CameraOverlay = dynamic(() => import('../space/CameraOverlay').then((m) => m.CameraOverlay), { ssr: false });

const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;

const track = {
  Controls: ReadingControls,
  Charts: TrackCharts,
  line: ({ frames, range }: TrackReading): string =>
    frames.length < 2 ? 'not measured' : `${frames[0]!.frame}–${frames[frames.length - 1]!.frame} of ${range.first}–${range.last}`,
  measure: (bench: Bench, reading: TrackReading): void => void measureReading(bench, reading.id, { anchors: bothWays(reading.reference) }),
};

const lens: ReadingView<LensReading> = {
  Controls: LensControls,
  Charts: LensCharts,
  Overlay: LensOverlay,
  everywhere: true,
  line({ frames, lines, solved }) {
    const from = frames.length > 0 ? counted(frames.length, 'chart') : counted(lines.length, 'line');
    if (solved[0]) return `${from} · ${solved[0].rms.toFixed(3)} px off`;
    return frames.length + lines.length > 0 ? `${from}, not solved` : 'not measured';
  },
  measure: (bench, reading) => void measureCharts(bench, reading.id, [view.get().frame]),
};

const camera: ReadingView<CameraReading> = {
  Controls: CameraControls,
  Charts: CameraCharts,
  Overlay: CameraOverlay,
  line({ tracks, hand, frames, solved }) {
    if (solved)
      return solved.points.length ? `${frames.length} frames · ${solved.rms.toFixed(2)} px off` : `${frames.length} frames, from a file`;
    return tracks.length + hand.length > 0 ? `${tracks.length + hand.length} tracks, not solved` : 'no tracks yet';
  },
  measure: (bench, { id, tracks, hand, solved }) =>
    void (tracks.length + hand.length > 0 ? solveCameraOf(bench, id, solved !== null) : findCameraTracks(bench, id)),
};

const lesson: ReadingView<LessonReading> = {
  Controls: LessonControls,
  Charts: LessonSheet,
  line: ({ examples, steps, stale }) =>
    `${counted(examples.length, 'frame')} · ${steps > 0 ? `${steps} steps` : 'not trained'}${stale ? ', changed since' : ''}`,
  measure: (bench, { id, settings }) => void train(bench, id, settings.minutes),
};

const VIEWS: { readonly [K in Reading['kind']]: ReadingView<Extract<Reading, { kind: K }>> } = {
  point: { ...track, Overlay: PointOverlay } satisfies ReadingView<PointReading>,
  plane: { ...track, Overlay: PlaneOverlay } satisfies ReadingView<PlaneReading>,
  lens,
  camera,
  lesson,
};

/** What the workbench shows of a reading. */
export const viewOf = (reading: Reading): ReadingView => VIEWS[reading.kind] as unknown as ReadingView;

const draw = (drawing: Drawing) => (): void => view.set({ drawing, brushing: null, picking: null });

/** Ways to a new reading. */
export const NEW_READINGS: readonly { title: string; begin: (bench: Bench) => void }[] = [
  { title: 'A point: click a detail on the stage', begin: draw({ kind: 'point' }) },
  { title: 'Suggest details: drag a box', begin: draw({ kind: 'suggest' }) },
  { title: 'A plane: click the corners of a region', begin: draw({ kind: 'plane' }) },
  { title: 'A lens: from the chart on this frame, or from straight lines', begin: newLens },
  { title: 'A camera: from tracks over the whole picture', begin: newCamera },
  { title: 'A lesson: taught by a few frames', begin: newLessonIn },
];
