'use client';
import dynamic from 'next/dynamic';
import type { StagePlace } from '../stage/place';
import { seenTap, useShot } from '../workbench/context';
import { useOnStage } from '../stage/on-stage';
import { movedSince } from '../workbench/moved';
import { useView, view } from '../workbench/state';
import { AreaGuide, useThreeOthers } from './AreaGuide';
import { useMeasuring, withLive } from './measuring';

const PointOverlay = dynamic(() => import('./PointOverlay').then((m) => m.PointOverlay), { ssr: false });
const LensOverlay = dynamic(() => import('../lens/LensOverlay').then((m) => m.LensOverlay), { ssr: false });
const CameraOverlay = dynamic(() => import('../space/CameraOverlay').then((m) => m.CameraOverlay), { ssr: false });
const PlaneOverlay = dynamic(() => import('./PlaneOverlay').then((m) => m.PlaneOverlay), { ssr: false });

interface Props {
  place: StagePlace;
  reading: string;
}

/** What of a reading is seen and touched on the stage. */
export function ReadingOverlay({ place, reading: id }: Props) {
  const shot = useShot();
  const stored = shot.readings.find((r) => r.id === id);
  const live = useMeasuring((s) => (s.reading === id ? s.results : null));
  const seen = useView((s) => s.seen);
  const wanted = useView((s) => s.frame);
  // While frames follow each other quickly the picture may lag: what lies over it belongs to the frame that is really seen.
  const frame = useOnStage((s) => s.drawn) ?? wanted;
  const guide = useView((s) => s.areaGuide);
  const three = useThreeOthers(id);
  if (!stored) return null;
  // A lens is drawn wherever its picture is seen, straightened too.
  if (stored.kind === 'lens') return <LensOverlay place={place} reading={stored} frame={frame} />;
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
  if (stored.kind === 'camera') return <CameraOverlay place={place} reading={stored} frame={frame} />;
  if (stored.kind === 'lesson') return null;
  const reading = live ? withLive(stored, live) : stored;
  if (reading.kind === 'plane') return <PlaneOverlay place={place} reading={reading} frame={frame} />;
  const others = guide && frame === reading.reference ? three : null;
  return (
    <>
      {others && <AreaGuide place={place} others={others} format={shot.format} />}
      <PointOverlay place={place} reading={reading} frame={frame} />
    </>
  );
}
