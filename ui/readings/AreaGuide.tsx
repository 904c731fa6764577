'use client';
import { useMemo } from 'react';
import type { PointReading } from '@/core/readings';
import { fourPointTrouble } from '@/core/readings';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { useShotPart } from '../workbench/context';

type Point = readonly [number, number];

/** Where the first three points but one lie; null where there are fewer. The same list until a reading changes. */
export function useThreeOthers(but: string | null): readonly Point[] | null {
  const readings = useShotPart('readings');
  return useMemo(() => {
    const list = readings.filter((r): r is PointReading => r.kind === 'point' && r.id !== but).slice(0, 3);
    return list.length === 3 ? list.map((r) => r.at) : null;
  }, [readings, but]);
}

/** CSS pixels from one mark of the hatching to the next. */
const STEP = 9;

/** Hatches where a fourth point would not hold a perspective with three others, and draws the triangle of those. */
export function AreaGuide({
  place,
  others,
  format,
}: {
  place: StagePlace;
  others: readonly Point[];
  format: { width: number; height: number };
}) {
  const marks = useMemo(() => {
    const list: string[] = [];
    const [right, bottom] = [place.x + format.width * place.zoom, place.y + format.height * place.zoom];
    for (let y = Math.max(0, place.y); y < Math.min(place.height, bottom); y += STEP) {
      for (let x = Math.max(0, place.x); x < Math.min(place.width, right); x += STEP) {
        const at: Point = [(x + STEP / 2 - place.x) / place.zoom, (y + STEP / 2 - place.y) / place.zoom];
        if (fourPointTrouble([...others, at])) list.push(`M${x.toFixed(1)} ${(y + STEP).toFixed(1)}l${STEP} ${-STEP}`);
      }
    }
    return list.join('');
  }, [place.x, place.y, place.zoom, place.width, place.height, format.width, format.height, others]);
  const triangle = others.map(([x, y]) => `${place.x + x * place.zoom},${place.y + y * place.zoom}`).join(' ');
  return (
    <svg
      className="overlay"
      width={place.width}
      height={place.height}
      data-testid="area-guide"
      role="img"
      aria-label="Hatched: no good place for the fourth point"
    >
      <path d={marks} stroke={tokens.ochre} strokeOpacity={0.55} strokeWidth={1} />
      <polygon points={triangle} fill="none" stroke={tokens.bone} strokeDasharray="2 4" />
    </svg>
  );
}
