'use client';
import { Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { rowOf } from '@/core/seating';
import type { Read } from './meter-job';

/** Black and white of the element and of the plate, frame by frame, in stops below and above white. */
export function MeterChart({ frames }: { frames: readonly Read[] }) {
  if (frames.length < 2) return null;
  const stop = (v: number | undefined): number | null => (v !== undefined && v > 1e-4 ? Math.log2(v) : null);
  const rows = frames.map(({ frame, element, plate }) => ({
    frame,
    elementBlack: stop(rowOf('black', element)?.value),
    elementWhite: stop(rowOf('white', element)?.value),
    plateBlack: stop(rowOf('black', plate)?.value),
    plateWhite: stop(rowOf('white', plate)?.value),
  }));
  const lines = [
    ['elementWhite', 'var(--bone)', ''],
    ['elementBlack', 'var(--bone)', ''],
    ['plateWhite', 'var(--glaze)', '5 4'],
    ['plateBlack', 'var(--glaze)', '5 4'],
  ] as const;
  return (
    <figure className="meter-chart">
      <figcaption className="dust">Black and white over the frames, stops · element solid, plate dashed</figcaption>
      <ResponsiveContainer width="100%" height={130}>
        <LineChart data={rows} margin={{ top: 4, right: 8, bottom: 0, left: -14 }}>
          <XAxis dataKey="frame" type="number" domain={['dataMin', 'dataMax']} tick={{ fontSize: 10, fill: 'var(--dust)' }} />
          <YAxis tick={{ fontSize: 10, fill: 'var(--dust)' }} tickFormatter={(v: number) => v.toFixed(1)} />
          {lines.map(([key, stroke, dash]) => (
            <Line key={key} dataKey={key} stroke={stroke} strokeDasharray={dash} dot={{ r: 2 }} isAnimationActive={false} connectNulls />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}
