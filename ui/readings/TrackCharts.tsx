'use client';
import { Line, LineChart, ReferenceDot, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { applyHomography } from '@/core/geometry';
import type { TrackReading } from '@/core/readings';
import { useView, view } from '../workbench/state';
import { useMeasuring, withLive } from './measuring';

interface Row {
  frame: number;
  flag: string | null;
  [series: string]: number | string | null;
}

interface Chart {
  title: string;
  help: string;
  series: readonly { key: string; colour: string; label?: string }[];
  domain?: [number, number];
}

const BONE = 'var(--bone)';
const GLAZE = 'var(--glaze)';
const OCHRE = 'var(--ochre)';
const ASH = 'var(--dust)';

const SURE: Chart = {
  title: 'Confidence',
  help: 'How sure each frame is, 0 to 1',
  series: [{ key: 'confidence', colour: GLAZE }],
  domain: [0, 1],
};
const ERROR: Chart = {
  title: 'Error, px',
  help: 'Points: what following it back misses. Planes: features against the map',
  series: [{ key: 'error', colour: OCHRE }],
};

/** The rows of a reading, and the charts that show them. */
function chartsOf(reading: TrackReading): { rows: Row[]; charts: Chart[] } {
  if (reading.kind === 'point') {
    const [x, y] = reading.at;
    const rows = reading.frames.map((f): Row => ({
      frame: f.frame,
      flag: f.flag ?? null,
      confidence: f.confidence,
      error: f.error,
      x: f.x - x,
      y: f.y - y,
    }));
    const motion: Chart = {
      title: 'Motion, px',
      help: 'Motion across and down since the reference frame',
      series: [
        { key: 'x', colour: BONE, label: 'across' },
        { key: 'y', colour: ASH, label: 'down' },
      ],
    };
    return { rows, charts: [SURE, ERROR, motion] };
  }
  const rows = reading.frames.map((f): Row => {
    const corners = reading.surface.map(([x, y]) => {
      const [u, v] = applyHomography(f.homography, x, y);
      return Math.hypot(u - x, v - y);
    });
    return {
      frame: f.frame,
      flag: f.flag ?? null,
      confidence: f.confidence,
      error: f.error,
      a: corners[0]!,
      b: corners[1]!,
      c: corners[2]!,
      d: corners[3]!,
    };
  });
  const motion: Chart = {
    title: 'Corners, px',
    help: 'How far each corner of the surface has moved since the reference frame',
    series: [
      { key: 'a', colour: BONE, label: 'left top' },
      { key: 'b', colour: ASH, label: 'right top' },
      { key: 'c', colour: GLAZE, label: 'right bottom' },
      { key: 'd', colour: OCHRE, label: 'left bottom' },
    ],
  };
  return { rows, charts: [SURE, ERROR, motion] };
}

/** Confidence, error and motion of a track by frame; a click goes to the frame. */
export function TrackCharts({ reading: stored }: { reading: TrackReading }) {
  const live = useMeasuring((m) => (m.reading === stored.id ? m.results : null));
  const reading = live ? withLive(stored, live) : stored;
  const { rows, charts } = chartsOf(reading);
  if (rows.length < 2) return <div className="empty">“{reading.name}” is not measured yet: select it and press Measure in Controls.</div>;
  return (
    <section className="reading-charts" aria-label={`Charts of ${reading.name}`}>
      {charts.map((c) => (
        <OneChart key={c.title} chart={c} rows={rows} reference={reading.reference} />
      ))}
    </section>
  );
}

function OneChart({ chart, rows, reference }: { chart: Chart; rows: readonly Row[]; reference: number }) {
  const frame = useView((s) => s.frame);
  const go = (to: number): void => view.set({ frame: to, playing: false });
  const first = chart.series[0]!.key;
  return (
    <figure data-testid={`chart ${chart.title}`}>
      <figcaption title={chart.help}>
        {chart.title}
        {chart.series.map(
          (s) =>
            s.label && (
              <span key={s.key} className="legend">
                <i style={{ background: s.colour }} /> {s.label}
              </span>
            ),
        )}
      </figcaption>
      <ResponsiveContainer width="100%" height="86%">
        <LineChart
          data={[...rows]}
          margin={{ top: 6, right: 8, bottom: 0, left: 0 }}
          onClick={({ activeLabel }) => activeLabel !== undefined && go(Number(activeLabel))}
        >
          <XAxis
            dataKey="frame"
            type="number"
            domain={['dataMin', 'dataMax']}
            tick={{ fontSize: 9.5, fill: 'var(--ash)' }}
            axisLine={false}
            tickLine={false}
            height={16}
          />
          <YAxis
            width={38}
            tickCount={4}
            tick={{ fontSize: 9.5, fill: 'var(--ash)' }}
            axisLine={false}
            tickLine={false}
            domain={chart.domain ?? ['auto', 'auto']}
            tickFormatter={(v: number) => String(Number(v.toPrecision(3)))}
          />
          <Tooltip
            formatter={(v) => Number(v).toFixed(3)}
            labelFormatter={(f) => `frame ${f}`}
            contentStyle={{ background: 'var(--shelf)', border: '1px solid var(--line)', fontSize: 11, padding: '3px 7px' }}
            itemStyle={{ color: 'var(--bone)' }}
          />
          <ReferenceLine x={reference} stroke="var(--dust)" strokeDasharray="2 4" />
          <ReferenceLine x={frame} stroke="var(--clay)" />
          {chart.series.map((s) => (
            <Line
              key={s.key}
              dataKey={s.key}
              name={s.label ?? chart.title}
              stroke={s.colour}
              dot={false}
              strokeWidth={1.2}
              isAnimationActive={false}
            />
          ))}
          {rows
            .filter((r) => r.flag)
            .map((r) => (
              <ReferenceDot key={r.frame} x={r.frame} y={Number(r[first])} r={3} fill="var(--ochre)" stroke="none" />
            ))}
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}
