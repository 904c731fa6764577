'use client';
import dynamic from 'next/dynamic';
import type { StagePlace } from '../stage/Stage';
import { useShotPart } from '../workbench/context';
import { useMeasuring, withLive } from './measuring';

const PointOverlay = dynamic(() => import('./PointOverlay').then((m) => m.PointOverlay), { ssr: false });
const PlaneOverlay = dynamic(() => import('./PlaneOverlay').then((m) => m.PlaneOverlay), { ssr: false });

/** What of a reading is seen and touched on the stage. */
export function ReadingOverlay({ place, reading: id }: { place: StagePlace; reading: string }) {
  const stored = useShotPart('readings').find((r) => r.id === id);
  const live = useMeasuring((s) => (s.reading === id ? s.results : null));
  if (!stored) return null;
  const reading = live ? withLive(stored, live) : stored;
  return reading.kind === 'point' ? <PointOverlay place={place} reading={reading} /> : <PlaneOverlay place={place} reading={reading} />;
}
