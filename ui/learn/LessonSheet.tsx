'use client';
import Button from '@mui/material/Button';
import { memo } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { LessonReading } from '@/core/readings';
import { useBench } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { CropCanvas } from './CropCanvas';
import { useTraining } from './live';
import { lookAtFed } from './training';

const DUST = 'var(--dust)';
const TICK = { fontSize: 10, fill: DUST };

/** How a lesson goes: what it is shown beside what it makes of it, its loss by step, and how sure it is by frame. */
export function LessonSheet({ reading }: { reading: LessonReading }) {
  // Each picture by itself: what comes a few times a second draws nothing else again.
  return (
    <section className="reading-charts lesson" aria-label={`Charts of ${reading.name}`}>
      <SheetFigure id={reading.id} />
      <LossFigure reading={reading} />
      <SurenessChart reading={reading} />
      <FedFigure id={reading.id} />
    </section>
  );
}

/** Whether what a training shows is of this lesson, or was last. */
const useHere = (id: string): boolean => useTraining((s) => s.reading === id || s.reading === null);

function LossFigure({ reading }: { reading: LessonReading }) {
  const live = useTraining((s) => (s.reading === reading.id ? s.report?.losses : undefined));
  return <LossChart losses={live ?? reading.losses} />;
}

function SheetFigure({ id }: { id: string }) {
  const here = useHere(id);
  const all = useTraining((s) => s.sheet);
  const sheet = here ? all : [];
  return (
    <figure
      title="Pieces of the frames it is shown: the picture, what is right there, and what it makes of it now"
      data-testid="lesson-sheet"
    >
      <figcaption>Picture · target · now</figcaption>
      {sheet.length === 0 ? (
        <div className="empty">While it is trained, what it makes of its frames stands here beside what is right.</div>
      ) : (
        <div className="sheet">
          {sheet.map((row, i) => (
            <div key={i} className="sheet-column">
              <span
                className={`mono${row.held ? ' accent' : ''}`}
                title={row.held ? 'Held back: it never learnt from this frame' : undefined}
              >
                {row.frame}
                {row.held && ' held'}
              </span>
              <CropCanvas values={row.input} label={`Frame ${row.frame}, picture`} />
              <CropCanvas values={row.target} label={`Frame ${row.frame}, target`} />
              <CropCanvas values={row.now} label={`Frame ${row.frame}, now`} />
            </div>
          ))}
        </div>
      )}
    </figure>
  );
}

function FedFigure({ id }: { id: string }) {
  const bench = useBench();
  const here = useHere(id);
  const all = useTraining((s) => s.fed);
  const fed = here ? all : [];
  return (
    <figure
      title="What the net is fed: pieces of the frames, each varied anew at every step, with what is right there"
      data-testid="lesson-fed"
    >
      <figcaption>
        Variations{' '}
        <Button size="small" onClick={() => void lookAtFed(bench, id)}>
          {fed.length ? 'Others' : 'Look at some'}
        </Button>
      </figcaption>
      <div className="fed">
        {fed.map((crop, i) => (
          <span key={i} title={`of frame ${crop.frame}`}>
            <CropCanvas values={crop.input} label={`Variation ${i + 1}`} />
            <CropCanvas values={crop.target} label={`Variation ${i + 1}, target`} />
          </span>
        ))}
      </div>
    </figure>
  );
}

const LossChart = memo(function LossChart({ losses }: { losses: LessonReading['losses'] }) {
  const rows = losses.map(([step, loss, held]) => ({ step, loss: Math.max(1e-5, loss), ...(held >= 0 && { held: Math.max(1e-5, held) }) }));
  const measured = rows.some((r) => r.held !== undefined);
  return (
    <figure title="How far what it makes is from the targets, by training steps; the lower the better" data-testid="chart Loss">
      <figcaption>
        Loss <span style={{ color: 'var(--glaze)' }}>varied pieces</span>
        {measured && <span style={{ color: 'var(--ochre)' }}> held back</span>}
      </figcaption>
      {rows.length < 2 ? (
        <div className="empty">Not trained yet.</div>
      ) : (
        <ResponsiveContainer width="100%" height={130}>
          <LineChart data={rows} margin={{ top: 6, right: 10, bottom: 0, left: 0 }}>
            <CartesianGrid stroke="var(--line)" vertical={false} />
            <XAxis dataKey="step" type="number" domain={['dataMin', 'dataMax']} tick={TICK} height={16} />
            <YAxis
              width={44}
              scale="log"
              domain={['auto', 'auto']}
              tick={TICK}
              allowDataOverflow
              tickFormatter={(v: number) => v.toPrecision(2)}
            />
            <Tooltip
              formatter={(v, name) => [Number(v).toPrecision(3), name === 'held' ? 'held back' : 'varied pieces']}
              labelFormatter={(l) => `step ${String(l)}`}
              contentStyle={{ background: 'var(--shelf)', border: 0 }}
            />
            <Line dataKey="loss" stroke="var(--glaze)" dot={false} isAnimationActive={false} />
            {measured && <Line dataKey="held" stroke="var(--ochre)" dot={false} isAnimationActive={false} />}
          </LineChart>
        </ResponsiveContainer>
      )}
    </figure>
  );
});

function SurenessChart({ reading }: { reading: LessonReading }) {
  const frame = useView((s) => s.frame);
  const rows = reading.frames.map((f) => ({ frame: f.frame, sure: Math.round(100 * f.confidence) }));
  return (
    <figure title="How well three looks at the same frame agree; doubtful frames are those to draw next" data-testid="chart Sureness, %">
      <figcaption>Sureness, %</figcaption>
      {rows.length < 2 ? (
        <div className="empty">Not measured: see Sureness in Controls.</div>
      ) : (
        <ResponsiveContainer width="100%" height={130}>
          <LineChart
            data={rows}
            margin={{ top: 6, right: 10, bottom: 0, left: 0 }}
            onClick={(e) => e?.activeLabel !== undefined && view.set({ frame: Number(e.activeLabel), playing: false })}
          >
            <CartesianGrid stroke="var(--line)" vertical={false} />
            <XAxis dataKey="frame" type="number" domain={['dataMin', 'dataMax']} tick={TICK} height={16} />
            <YAxis width={36} domain={[0, 100]} tick={TICK} />
            <Tooltip labelFormatter={(l) => `frame ${String(l)}`} contentStyle={{ background: 'var(--shelf)', border: 0 }} />
            <ReferenceLine x={frame} stroke={DUST} />
            {reading.examples.map((e) => (
              <ReferenceLine key={e.frame} x={e.frame} stroke="var(--glaze)" strokeDasharray="2 3" />
            ))}
            <Line dataKey="sure" stroke="var(--ochre)" dot={false} isAnimationActive={false} />
          </LineChart>
        </ResponsiveContainer>
      )}
    </figure>
  );
}
