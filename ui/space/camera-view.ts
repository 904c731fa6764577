import { useMemo } from 'react';
import type { CameraReading } from '@/core/readings';
import type { Assessed, CameraView, SolveTrack } from '@/core/space';
import { tracksOf, viewOf } from '@/core/space';
import { useShotPart } from '../workbench/context';
import { useCameraWork } from './camera-jobs';

/** A camera as it is shown: while it is being solved, as it stands. */
export function useCameraAsShown(stored: CameraReading): CameraReading {
  const so = useCameraWork((s) => (s.reading === stored.id ? s.so : null));
  return useMemo(() => (so ? withWork(stored, so) : stored), [stored, so]);
}

function withWork(stored: CameraReading, so: Assessed): CameraReading {
  const { frames, ...rest } = so;
  const format = stored.solved?.format ?? { width: 2 * rest.centre[0], height: 2 * rest.centre[1] };
  return { ...stored, frames, solved: { ...rest, format }, cards: [] };
}

export function useCameraView(camera: CameraReading): CameraView | null {
  const readings = useShotPart('readings');
  return useMemo(() => viewOf(camera, readings), [camera, readings]);
}

/** Its tracks, found ones and those by hand. */
export function useTracks({ tracks, hand, settings }: CameraReading): readonly SolveTrack[] {
  const readings = useShotPart('readings');
  return useMemo(() => tracksOf({ tracks, hand, settings }, readings), [tracks, hand, settings, readings]);
}

/** Frames of a track follow each other but for gaps of tracks by hand. */
export function placeOf(track: SolveTrack, frame: number): readonly [number, number] | null {
  const { frames, at } = track;
  const guess = frame - (frames[0] ?? 0);
  const index = frames[guess] === frame ? guess : frames.indexOf(frame);
  return index < 0 ? null : [at[2 * index]!, at[2 * index + 1]!];
}
