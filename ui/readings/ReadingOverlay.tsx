'use client';
import dynamic from 'next/dynamic';
import type { StagePlace } from '../stage/Stage';
import { seenTap, useShot } from '../workbench/context';
import { movedSince } from '../workbench/moved';
import { useView, view } from '../workbench/state';
import { useMeasuring, withLive } from './measuring';

const PointOverlay = dynamic(() => import('./PointOverlay').then((m) => m.PointOverlay), { ssr: false });
const PlaneOverlay = dynamic(() => import('./PlaneOverlay').then((m) => m.PlaneOverlay), { ssr: false });

/** What of a reading is seen and touched on the stage. */
export function ReadingOverlay({ place, reading: id }: { place: StagePlace; reading: string }) {
  const shot = useShot();
  const stored = shot.readings.find((r) => r.id === id);
  const live = useMeasuring((s) => (s.reading === id ? s.results : null));
  const seen = useView((s) => s.seen);
  if (!stored) return null;
  const tap = seenTap(shot, seen);
  if (tap && movedSince(shot, stored.from, tap)) {
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
  const reading = live ? withLive(stored, live) : stored;
  return reading.kind === 'point' ? <PointOverlay place={place} reading={reading} /> : <PlaneOverlay place={place} reading={reading} />;
}
