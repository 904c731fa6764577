'use client';
import type { StagePlace } from '../stage/place';
import { seenTap, useShot } from '../workbench/context';
import { useOnStage } from '../stage/on-stage';
import { movedSince } from '../workbench/moved-since';
import { useView, view } from '../workbench/state';
import { viewOf } from './kinds';

interface Props {
  place: StagePlace;
  reading: string;
}

/** What of a reading is seen and touched on the stage. */
export function ReadingOverlay({ place, reading: id }: Props) {
  const shot = useShot();
  const stored = shot.readings.find((r) => r.id === id);
  const seen = useView((s) => s.seen);
  const wanted = useView((s) => s.frame);
  // While frames follow each other quickly the picture may lag: what lies over it belongs to the frame that is really seen.
  const frame = useOnStage((s) => s.drawn) ?? wanted;
  if (!stored) return null;
  const { Overlay, everywhere } = viewOf(stored);
  const tap = seenTap(shot, seen);
  if (!everywhere && tap && movedSince(shot, stored.from, tap)) {
    return (
      <button
        className="before-flag"
        title="It is drawn over the picture that it was measured in"
        onClick={() => view.set({ seen: stored.from, layer: '' })}
      >
        {stored.name} was measured before this picture was moved: see it there
      </button>
    );
  }
  return Overlay ? <Overlay place={place} reading={stored} frame={frame} /> : null;
}
