'use client';
import type { PlaneReading, PointReading, TrackReading } from '@/core/readings';
import type { StagePlace } from '../stage/place';
import { useShotPart } from '../workbench/context';
import { useView } from '../workbench/state';
import { AreaGuide, useThreeOthers } from './AreaGuide';
import { useMeasuring, withLive } from './measuring';
import { PlaneOverlay } from './PlaneOverlay';
import { PointOverlay } from './PointOverlay';

interface Props<R> {
  place: StagePlace;
  reading: R;
  frame: number;
}

/** A track with what has just been measured of it. */
function useLive<R extends TrackReading>(stored: R): R {
  const live = useMeasuring((s) => (s.reading === stored.id ? s.results : null));
  return live ? withLive(stored, live) : stored;
}

export function LivePlane({ place, reading, frame }: Props<PlaneReading>) {
  return <PlaneOverlay place={place} reading={useLive(reading)} frame={frame} />;
}

/** A point, and the area that it spans with three others where that is wanted. */
export function LivePoint({ place, reading, frame }: Props<PointReading>) {
  const format = useShotPart('format');
  const guide = useView((s) => s.areaGuide);
  const three = useThreeOthers(reading.id);
  const others = guide && frame === reading.reference ? three : null;
  return (
    <>
      {others && <AreaGuide place={place} others={others} format={format} />}
      <PointOverlay place={place} reading={useLive(reading)} frame={frame} />
    </>
  );
}
