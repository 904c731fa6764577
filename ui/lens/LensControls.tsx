'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { foldInside } from '@/core/lens/lens';
import { lensFile } from '@/core/lens/exchange';
import { patternName, unseenParts } from '@/core/lens/measure';
import { LENS_MODELS, LENS_MODEL_NAMES } from '@/core/lens/models';
import { straightened } from '@/core/lens/of-step';
import type { ChartFrame } from '@/core/lens/reading';
import type { Tap } from '@/core/document/types';
import type { LensReading } from '@/core/readings/types';
import { READING_CHANNELS } from '@/core/readings/gray';
import { readingWorker } from '@/engine/browser/reading-worker';
import * as commands from '@/store/lens';
import { changeReading, usersOfReading } from '@/store/readings';
import { FeedField } from '../controls/FeedField';
import { NumberField } from '../controls/NumberField';
import { JobRow } from '../jobs/Jobs';
import { useJob } from '../jobs/jobs';
import { Choice, Row } from '../readings/rows';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';
import { tapName, useBench, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { changeAndSolve, measureCharts, solve } from './lens-jobs';

const PATTERNS = { auto: 'Found out', checker: 'Checkerboard', grid: 'Grid of lines' };
const MODELS: Record<string, string> = {
  auto: 'The simplest that fits',
  ...Object.fromEntries(LENS_MODEL_NAMES.map((m) => [m, LENS_MODELS[m].title])),
};
/** Crossings listed at most: the worst ones. */
const LISTED = 14;

/** The selected lens: its charts and straight lines, what was solved, and what can be done with it. */
export function LensControls({ reading }: { reading: LensReading }) {
  const bench = useBench();
  const run = useRun();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const job = useJob('lens');
  const { id, settings, frames, lines, solved } = reading;
  const draw = (kind: 'straight' | 'ruler' | 'crossing' | 'lasso' | 'lassoBack') => () =>
    view.set({ drawing: { kind, reading: id }, brushing: null, picking: null, seen: { ...reading.from } });
  const here = frames.find((f) => f.frame === frame);
  return (
    <>
      <div className="controls-head">
        <div className="name">
          <b className="ellipsis">{reading.name}</b>
        </div>
        <p>
          What a lens does to straight lines, from a chart or from straight things.{' '}
          <span className="ash">{tapName(shot, reading.from)}</span>
        </p>
      </div>
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
                title="Looks for a chart on each frame of the range"
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
              onClick={() => void changeAndSolve(bench, id, 'Use of a line', commands.changeLine(id, i, { ruler: !l.ruler }))}
            >
              {l.ruler ? 'use' : 'look'}
            </button>
            <button
              className="pill"
              aria-label={`Delete line ${i + 1}`}
              onClick={() => void changeAndSolve(bench, id, 'Delete line', commands.changeLine(id, i, null))}
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
        {solved.length > 0 && <Solved reading={reading} />}
        {solved.length > 0 && <Uses reading={reading} />}
        <div className="group">Solved as</div>
        <Row title="Pattern">
          <Choice
            label="Pattern"
            value={settings.pattern}
            options={['auto', 'checker', 'grid'] as const}
            titles={PATTERNS}
            set={(pattern) => run('Pattern', commands.changeLens(id, { pattern }))}
          />
        </Row>
        <Row title="Model">
          <Choice
            label="Model"
            value={settings.model}
            options={['auto', ...LENS_MODEL_NAMES] as const}
            titles={MODELS}
            set={(model) => void changeAndSolve(bench, id, 'Lens model', commands.changeLens(id, { model }))}
          />
        </Row>
        <Lengths reading={reading} />
        <FeedField
          title="Measured in"
          help="The point of a lane whose picture is measured: as it was filmed, before it is moved or scaled."
          step={id}
          tap={reading.from}
          matte={false}
          onTap={(from) => from && run('Measure in', changeReading(id, { from }))}
        />
        <Row title="Channel">
          <Choice
            label="Channel"
            value={reading.channel}
            options={READING_CHANNELS}
            set={(channel) => run('Channel', changeReading(id, { channel }))}
          />
        </Row>
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
            void changeAndSolve(bench, id, 'Focal length of a chart', commands.setChartLength(id, chart.frame, mm > 0 ? mm : undefined))
          }
          onProblem={() => undefined}
        />
      </span>
      <small className="dust">mm</small>
      <button
        className="pill"
        aria-label={`Delete chart ${chart.frame}`}
        onClick={() => void changeAndSolve(bench, id, 'Delete chart', commands.removeChart(id, chart.frame))}
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
        onChange={(v) => void changeAndSolve(bench, id, label, commands.changeLens(id, { [name]: v }))}
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

function Solved({ reading }: { reading: LensReading }) {
  const vectors = useView((s) => s.lensVectors);
  const [{ lens, rms, max, assumed }] = reading.solved as [LensReading['solved'][0]];
  const fold = foldInside(lens);
  const unseen = unseenParts(reading, lens.format);
  const [left, top, right, bottom] = straightened(lens, { ...lens.format, pixelAspect: 1 }, 'same').beyond;
  const worst = reading.frames
    .flatMap((f) => f.crossings.filter((c) => c.off || c.why).map((c) => ({ frame: f.frame, c, off: c.off ? Math.hypot(...c.off) : 0 })))
    .sort((a, b) => Number(a.c.used) - Number(b.c.used) || b.off - a.off);
  const flat = reading.frames.length > 0;
  return (
    <>
      <div className="group">Lens</div>
      <dl className="lens-figures" data-testid="lens-figures">
        <dt>Model</dt>
        <dd>{LENS_MODELS[lens.model].title}</dd>
        {Object.entries(lens.coefficients).map(([k, v]) => (
          <Figure key={k} name={k} value={v.toPrecision(5)} />
        ))}
        <Figure name="Centre, px" value={lens.centre.map((v) => v.toFixed(1)).join(', ')} />
        <Figure
          name="Focal length, px"
          value={`${lens.focal.toFixed(1)}${assumed && flat ? ' (assumed)' : assumed ? ' (not told by lines)' : ''}`}
        />
        <Figure name="Residual, px" value={`${rms.toFixed(3)} mean · ${max.toFixed(3)} at most`} />
        <Figure name="Beyond frame, px" value={`← ${left}  ↑ ${top}  → ${right}  ↓ ${bottom}`} />
      </dl>
      {assumed && flat && (
        <div className="source-note" role="note">
          Flat views do not tell the focal length, so it was assumed. Straightening is right all the same; film the chart tilted, or give
          focal length and sensor, to have it.
        </div>
      )}
      {unseen.length > 0 && (
        <div className="source-note" role="note">
          Nothing was measured at the {unseen.join(', ')}: there the lens is only continued.
        </div>
      )}
      {fold !== null && (
        <div className="source-note warn-text" role="note">
          It folds {Math.round(fold)} px from its centre, inside the frame: pixels beyond that stay empty. Take a simpler model, or measure
          more towards the corners.
        </div>
      )}
      <Look reading={reading} />
      <Row title="Residuals">
        <span className="inline">
          <button
            className={`pill${vectors ? ' on' : ''}`}
            aria-pressed={vectors}
            title="What is left at each crossing, drawn 60 times as long"
            onClick={() => view.set({ lensVectors: !vectors })}
          >
            On the stage
          </button>
          <button className="pill" onClick={() => view.set({ tab: 'readings' })}>
            By radius
          </button>
        </span>
      </Row>
      {worst.slice(0, LISTED).map(({ frame, c, off }) => (
        <div key={`${frame} ${c.column} ${c.row}`} className="flagged" data-testid="crossing">
          <button
            className="pill"
            onClick={() =>
              view.set({ frame, playing: false, crossing: { frame, column: c.column, row: c.row }, seen: { ...reading.from } })
            }
          >
            {frame}
          </button>
          <span className={`grow${c.used ? '' : ' warn-text'}`} title={c.why}>
            column {c.column + 1}, row {c.row + 1}: {c.used || c.off ? `${off.toFixed(3)} px` : 'not used'}
          </span>
          <UseCrossing id={reading.id} frame={frame} crossing={c} />
        </div>
      ))}
    </>
  );
}

/** The picture as it was filmed, or straightened where a step does that: the crossings' rulers lie on it either way. */
function Look({ reading }: { reading: LensReading }) {
  const shot = useShot();
  const seen = useView((s) => s.seen);
  const { from } = reading;
  const step = usersOfReading(shot, reading.id).find(({ lane, step: s }) => lane.id === from.lane && s.params.direction !== 'bend')?.step;
  const straight = step ? { lane: from.lane, after: step.id } : null;
  const on = (tap: Tap | null): boolean => tap !== null && seen?.lane === tap.lane && seen.after === tap.after;
  return (
    <Row title="Picture">
      <span className="inline">
        <button className={`pill${on(from) ? ' on' : ''}`} aria-pressed={on(from)} onClick={() => view.set({ seen: { ...from } })}>
          As filmed
        </button>
        <button
          className={`pill${on(straight) ? ' on' : ''}`}
          aria-pressed={on(straight)}
          disabled={!straight}
          title={straight ? 'The rulers have to lie on the rows and columns' : 'Straighten the lane first, below'}
          onClick={() => view.set({ seen: straight })}
        >
          Straightened
        </button>
      </span>
    </Row>
  );
}

function UseCrossing({ id, frame, crossing: c }: { id: string; frame: number; crossing: ChartFrame['crossings'][0] }) {
  const bench = useBench();
  return (
    <button
      className="pill"
      onClick={() =>
        void changeAndSolve(bench, id, c.used ? 'Throw out crossing' : 'Use crossing', commands.countCrossings(id, frame, [c], !c.used))
      }
    >
      {c.used ? '×' : 'use'}
    </button>
  );
}

function Figure({ name, value }: { name: string; value: string }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </>
  );
}

function Uses({ reading }: { reading: LensReading }) {
  const run = useRun();
  const shot = useShot();
  const [menu, setMenu] = useState<{ anchor: HTMLElement; what: 'straighten' | 'work' } | null>(null);
  const { lens } = reading.solved[0]!;
  const onLane = (lane: string): void => {
    const what = menu!.what;
    setMenu(null);
    if (what === 'straighten') {
      const made: { step?: string } = {};
      if (run('Straighten', commands.straightenLane(reading.id, lane, made)))
        view.set({ selection: { kind: 'step', id: made.step! }, tab: 'lanes', seen: { lane } });
      return;
    }
    const made: { straighten?: string; bend?: string } = {};
    if (!run('Work without the lens', commands.workStraight(reading.id, lane, made))) return;
    view.set({ selection: { kind: 'step', id: made.bend! }, tab: 'lanes', seen: { lane, after: made.straighten! } });
    toast('info', 'What is added between Straighten and Bend back lands on straight pixels; what is not changed goes out as filmed.');
  };
  const stMap = (direction: 'straighten' | 'bend') => () =>
    void readingWorker
      .call((w) => w.stMap(lens, direction))
      .then((bytes) => saveBlob(new Blob([bytes as Uint8Array<ArrayBuffer>]), `${reading.name} ${direction}.exr`))
      .catch(toastError);
  return (
    <>
      <div className="group">Use</div>
      <div className="uses">
        <button className="pill" aria-haspopup="menu" onClick={(e) => setMenu({ anchor: e.currentTarget, what: 'work' })}>
          Work without the lens
        </button>
        <button className="pill" aria-haspopup="menu" onClick={(e) => setMenu({ anchor: e.currentTarget, what: 'straighten' })}>
          Straighten a lane
        </button>
        <button
          className="pill"
          title="Model, coefficients, centre and focal length, with every crossing"
          onClick={() => saveBlob(new Blob([JSON.stringify(lensFile(reading), null, 1)]), `${reading.name}.json`)}
        >
          Save as JSON
        </button>
        <button className="pill" title="32-bit OpenEXR: where each straight pixel was filmed" onClick={stMap('straighten')}>
          ST map, straighten
        </button>
        <button className="pill" title="32-bit OpenEXR: where each filmed pixel lies in the straight picture" onClick={stMap('bend')}>
          ST map, bend
        </button>
      </div>
      <Menu anchorEl={menu?.anchor ?? null} open={menu !== null} onClose={() => setMenu(null)}>
        {shot.lanes.map((l) => (
          <MenuItem key={l.id} onClick={() => onLane(l.id)}>
            {l.name}
          </MenuItem>
        ))}
      </Menu>
      {usersOfReading(shot, reading.id).map(({ lane, step }) => (
        <div key={step.id} className="flagged">
          <span className="dust">used by</span>
          <button className="pill" onClick={() => view.set({ selection: { kind: 'step', id: step.id } })}>
            {lane.name} ▸ {step.name}
          </button>
        </div>
      ))}
    </>
  );
}
