'use client';
import Button from '@mui/material/Button';
import type { ChartFrame } from '@/core/lens';
import { LENS_MODELS, LENS_MODEL_NAMES, patternName } from '@/core/lens';
import type { LensReading } from '@/core/readings';
import { lensCommands } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { JobRow } from '../jobs/Jobs';
import { useJob } from '../jobs/jobs';
import { MeasuredIn } from '../readings/MeasuredIn';
import { ReadingHead } from '../readings/ReadingHead';
import { Choice, Row } from '../readings/rows';
import { toastError } from '../theme/toast';
import { useBench, useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { changeAndSolve, measureCharts, solve } from './lens-jobs';
import { LensFigures } from './LensFigures';
import { LensUses } from './LensUses';

const PATTERNS = { auto: 'Automatic', checker: 'Checkerboard', grid: 'Grid of lines' };
const MODELS: Record<string, string> = {
  auto: 'The simplest that fits',
  ...Object.fromEntries(LENS_MODEL_NAMES.map((m) => [m, LENS_MODELS[m].title])),
};

/** The selected lens: its charts and straight lines, what was solved, and what can be done with it. */
export function LensControls({ reading }: { reading: LensReading }) {
  const bench = useBench();
  const run = useRun();
  const frame = useView((s) => s.frame);
  const job = useJob('lens');
  const { id, settings, frames, lines, solved } = reading;
  const draw = (kind: 'straight' | 'ruler' | 'crossing' | 'lasso' | 'lassoBack') => () =>
    view.set({ drawing: { kind, reading: id }, brushing: null, picking: null, seen: { ...reading.from } });
  const here = frames.find((f) => f.frame === frame);
  return (
    <>
      <ReadingHead reading={reading} is="What a lens does to straight lines, from a chart or from straight things." />
      <div className="scroll" style={{ paddingBottom: 14 }}>
        <div className="group">Charts</div>
        <div className="measure">
          {job ? (
            <JobRow job={job} />
          ) : (
            <>
              <Button variant="contained" color="secondary" onClick={() => void measureCharts(bench, id, [frame])}>
                Measure this frame
              </Button>
              <button
                className="pill"
                title="Looks for a chart on the frames of the range, on twelve at most: a lens stands still"
                onClick={() => void measureCharts(bench, id, listed(reading.range))}
              >
                frames {reading.range.first}–{reading.range.last}
              </button>
            </>
          )}
        </div>
        {frames.map((f) => (
          <ChartLine key={f.frame} id={id} chart={f} here={f.frame === frame} />
        ))}
        {here && (
          <div className="uses" role="group" aria-label="Crossings">
            <button className="pill" onClick={draw('crossing')} title="Click where a crossing was missed">
              Add crossings
            </button>
            <button className="pill" onClick={draw('lasso')} title="Click around crossings that are wrong">
              Throw out around
            </button>
            <button className="pill" onClick={draw('lassoBack')} title="Click around crossings that shall count again">
              Use again around
            </button>
          </div>
        )}
        <div className="group">Straight things</div>
        <div className="uses">
          <button className="pill" onClick={draw('straight')} title="Click along an edge that is straight in truth">
            Draw a straight line
          </button>
          <button className="pill" onClick={draw('ruler')} title="The same, to look at only: it tells how far the picture bends there">
            Lay a ruler
          </button>
        </div>
        {lines.map((l, i) => (
          <div key={i} className="flagged" data-testid={`straight ${i + 1}`}>
            <button className="pill" onClick={() => view.set({ frame: l.frame, playing: false, seen: { ...reading.from } })}>
              {l.frame}
            </button>
            <span
              className={`grow${l.out ? ' warn-text' : ''}`}
              title={l.out ? 'It does not go with the other lines: the lens is solved without it' : ''}
            >
              {l.ruler ? 'ruler' : 'line'}: {(l.bend ?? 0).toFixed(2)} px{l.left !== undefined && ` → ${l.left.toFixed(2)} px`}
              {l.out && ' · not used'}
            </span>
            <button
              className="pill"
              title="Solve from it, or only look at it"
              onClick={() => void changeAndSolve(bench, id, 'Use of a line', lensCommands.changeLine(id, i, { ruler: !l.ruler }))}
            >
              {l.ruler ? 'use' : 'look'}
            </button>
            <button
              className="pill"
              aria-label={`Delete line ${i + 1}`}
              onClick={() => void changeAndSolve(bench, id, 'Delete line', lensCommands.changeLine(id, i, null))}
            >
              ×
            </button>
          </div>
        ))}
        {reading.stale && !job && solved.length > 0 && (
          <p className="stale" role="status">
            What it is solved from has changed: solve again.
          </p>
        )}
        <div className="measure">
          <Button disabled={frames.length === 0 && lines.length === 0} onClick={() => void solve(bench, id).catch(toastError)}>
            Solve
          </Button>
        </div>
        {solved.length > 0 && <LensFigures reading={reading} />}
        {solved.length > 0 && <LensUses reading={reading} />}
        <div className="group">Solved as</div>
        <Row title="Pattern">
          <Choice
            label="Pattern"
            value={settings.pattern}
            options={['auto', 'checker', 'grid'] as const}
            titles={PATTERNS}
            set={(pattern) => run('Pattern', lensCommands.changeLens(id, { pattern }))}
          />
        </Row>
        <Row title="Model">
          <Choice
            label="Model"
            value={settings.model}
            options={['auto', ...LENS_MODEL_NAMES] as const}
            titles={MODELS}
            set={(model) => void changeAndSolve(bench, id, 'Lens model', lensCommands.changeLens(id, { model }))}
          />
        </Row>
        <Lengths reading={reading} />
        <MeasuredIn
          reading={reading}
          help="The point of a lane whose picture is measured: as it was filmed, before it is moved or scaled."
        />
      </div>
    </>
  );
}

const listed = ({ first, last }: { first: number; last: number }): number[] => {
  // A lens stands still: a dozen frames of a long take tell it as well as all.
  const count = Math.min(12, last - first + 1);
  return Array.from({ length: count }, (_, i) => first + Math.round((i * (last - first)) / Math.max(1, count - 1)));
};

function ChartLine({ id, chart, here }: { id: string; chart: ChartFrame; here: boolean }) {
  const bench = useBench();
  const used = chart.crossings.filter((c) => c.used).length;
  return (
    <div className="flagged" data-testid={`chart ${chart.frame}`}>
      <button className={`pill${here ? ' on' : ''}`} onClick={() => view.set({ frame: chart.frame, playing: false })}>
        {chart.frame}
      </button>
      <span className="grow" title={`A ${patternName(chart.pattern)}`}>
        {used} of {chart.crossings.length} crossings{chart.error > 0 && ` · ${chart.error.toFixed(3)} px`}
      </span>
      <span className="short-field" title="What the lens was set to for this chart; 0 where all are alike">
        <NumberField
          label={`Focal length at frame ${chart.frame}, mm`}
          value={chart.mm ?? 0}
          min={0}
          max={5000}
          decimals={1}
          step={1}
          onChange={(mm) =>
            void changeAndSolve(bench, id, 'Focal length of a chart', lensCommands.setChartLength(id, chart.frame, mm > 0 ? mm : undefined))
          }
          onProblem={() => undefined}
        />
      </span>
      <small className="dust">mm</small>
      <button
        className="pill"
        aria-label={`Delete chart ${chart.frame}`}
        onClick={() => void changeAndSolve(bench, id, 'Delete chart', lensCommands.removeChart(id, chart.frame))}
      >
        ×
      </button>
    </div>
  );
}

/** What is known of the lens before anything is measured. */
function Lengths({ reading: { id, settings } }: { reading: LensReading }) {
  const bench = useBench();
  const field = (name: 'mm' | 'sensor' | 'squeeze', label: string, least: number, help: string) => (
    <span className="inline" title={help}>
      <NumberField
        label={label}
        value={settings[name]}
        min={least}
        max={5000}
        decimals={2}
        step={1}
        onChange={(v) => void changeAndSolve(bench, id, label, lensCommands.changeLens(id, { [name]: v }))}
        onProblem={() => undefined}
      />
    </span>
  );
  return (
    <>
      <Row title="Focal length, mm">
        {field('mm', 'Focal length, mm', 0, 'With the sensor’s width; 0 where it is not known: it is then solved from tilted charts')}
      </Row>
      <Row title="Sensor width, mm">{field('sensor', 'Sensor width, mm', 0, '0 where it is not known')}</Row>
      <Row title="Squeeze">
        {field(
          'squeeze',
          'Squeeze',
          0.1,
          'How many times wider the picture is seen than it is stored: 2 for the classical anamorphic lens',
        )}
      </Row>
    </>
  );
}
