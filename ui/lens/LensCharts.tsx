'use client';
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { LensReading } from '@/core/readings';

/** What is left by how far from the middle of the frame it lies, and by chart: a lens that fits is even from the middle to the corners. */
export function LensCharts({ reading }: { reading: LensReading }) {
  const { solved, frames } = reading;
  if (solved.length === 0)
    return <div className="empty">“{reading.name}” is not solved yet: measure a chart, or draw straight lines, in Controls.</div>;
  const rings = solved[0]!.rings.map((off, i) => ({ at: `${10 * i}–${10 * (i + 1)}`, off }));
  const charts = frames.filter((f) => f.error > 0).map((f) => ({ at: String(f.frame), off: f.error }));
  return (
    <section className="reading-charts" aria-label={`Charts of ${reading.name}`}>
      <Bars
        title="Residual by radius, px"
        help="Root mean square, in ten rings from the middle (0 %) to the corners (100 %)"
        rows={rings}
        unit=" %"
      />
      {charts.length > 0 && <Bars title="Residual by chart, px" help="Root mean square, by the frame of the chart" rows={charts} unit="" />}
    </section>
  );
}

function Bars({
  title,
  help,
  rows,
  unit,
}: {
  title: string;
  help: string;
  rows: readonly { at: string; off: number | null }[];
  unit: string;
}) {
  return (
    <figure title={help}>
      <figcaption>{title}</figcaption>
      <ResponsiveContainer width="100%" height={120}>
        <BarChart data={[...rows]} margin={{ top: 6, right: 10, bottom: 0, left: 0 }}>
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis dataKey="at" unit={unit} tick={{ fontSize: 10, fill: 'var(--dust)' }} />
          <YAxis width={44} tick={{ fontSize: 10, fill: 'var(--dust)' }} />
          <Tooltip
            formatter={(v) => [`${Number(v).toFixed(3)} px`, 'residual']}
            contentStyle={{ background: 'var(--shelf)', border: 0 }}
            cursor={{ fill: 'rgb(255 255 255 / 5%)' }}
          />
          <Bar dataKey="off" fill="var(--glaze)" isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}
