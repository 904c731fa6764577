'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useState } from 'react';
import { Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Lane, Shot } from '@/core/document';
import { admit, resolveParam } from '@/core/document';
import { Cancelled, messageOf } from '@/core/errors';
import type { KeyedPicture, MatteFigures } from '@/core/keying';
import { STEPS } from '@/core/steps';
import { scopeWorker } from '@/engine/browser';
import { CheckIcon, WarningAmberIcon } from '@/ui/theme/icons';
import { JobRow } from '../jobs/Jobs';
import { startJob, useJob } from '../jobs/jobs';
import { toast } from '../theme/toast';
import { useBench, useShot, useShotPart } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { requestFor } from '../workbench/use-picture';

type Row = MatteFigures & { frame: number };

/**
 * What is measured, and below what it is good. The demo keeper's true matte itself has up to 30 pixels of holes (gaps in hair), no
 * specks, a chatter of 0.056 and a fringe of 10: limits lie a little above what cannot be had better. A ΔE2000 of about 2.3 is just
 * seen (Mahy et al. 1994). Pixels are counted for a frame of 960×540, and by area for others.
 */
const CHARTS: readonly { key: keyof MatteFigures; title: string; help: string; digits: number; good: number; area?: true }[] = [
  { key: 'holes', title: 'Holes, px', help: 'Pixels inside the subject that are not solid', digits: 0, good: 40, area: true },
  { key: 'specks', title: 'Specks, px', help: 'Coverage apart from the subject', digits: 0, good: 25, area: true },
  { key: 'chatter', title: 'Chatter', help: 'Change of partial coverage that no motion explains', digits: 3, good: 0.06 },
  { key: 'spill', title: 'Spill, ΔE', help: 'Screen colour left at the edge', digits: 1, good: 2.3 },
  { key: 'fringe', title: 'Fringe, ΔE', help: 'Edge colour against the solid colour beside it', digits: 1, good: 12 },
];

/** Figures are of the picture at half its size: a matte's trouble is larger than a pixel, and it takes a quarter of the time. */
const SCALE = 0.5;

/** The screen colour of the key that cuts a lane's element out, and the step after which that stands alone: before anything is joined to it. */
function keyOf(shot: Shot, lane: Lane): { colour: readonly number[]; after: string } | null {
  const at = lane.steps.findIndex((s) => s.type === 'screenKey' && s.on && s.params.output !== 'matte');
  const key = lane.steps[at];
  if (!key) return null;
  const d = STEPS.get(key.type)!.params.screenColour!;
  const colour = admit(d, resolveParam(shot, key.params.screenColour, d.default, shot.range.first)) as readonly number[];
  const join = lane.steps.findIndex((s, i) => i > at && s.type === 'join');
  return { colour, after: lane.steps[join < 0 ? lane.steps.length - 1 : join - 1]!.id };
}

/** What a key leaves to be desired, frame by frame; a click on a chart goes to the frame. */
export function MatteReport() {
  const shot = useShot();
  const { viewer } = useBench();
  const job = useJob('report');
  const selection = useView((s) => s.selection);
  const lanes = shot.lanes.filter((l) => keyOf(shot, l));
  const [chosen, setChosen] = useState<string | null>(null);
  const [rows, setRows] = useState<{ lane: string; shot: Shot; list: readonly Row[] } | null>(null);
  const lane =
    lanes.find((l) => l.id === chosen) ??
    lanes.find((l) => selection && (l.id === selection.id || l.steps.some((s) => s.id === selection.id))) ??
    lanes[0];
  if (!lane) return null;

  const measure = async (): Promise<void> => {
    const key = keyOf(shot, lane)!;
    const { first, last } = shot.range;
    const running = startJob('report', `Measuring ${lane.name}`, 'frames', last - first + 1);
    const list: Row[] = [];
    const look = async (frame: number): Promise<KeyedPicture> => {
      const tap = { lane: lane.id, after: key.after };
      const r = await viewer.fetchToKeep(shot, requestFor(tap, frame, SCALE), 'view', running.signal);
      return { pixels: r.pixels, width: r.region.x1 - r.region.x0, height: r.region.y1 - r.region.y0 };
    };
    try {
      let before: KeyedPicture | null = null;
      let next = look(first);
      for (let frame = first; frame <= last; frame++) {
        const now: KeyedPicture = await next;
        // The next frame is worked out while this one is measured.
        next = frame < last ? look(frame + 1) : next;
        next.catch(() => undefined);
        list.push({ frame, ...(await scopeWorker.call((w) => w.matte(now, before, key.colour))) });
        before = now;
        running.tell(list.length, last - first + 1);
        setRows({ lane: lane.id, shot, list: [...list] });
      }
    } catch (e) {
      if (!(e instanceof Cancelled)) toast('error', `The matte of "${lane.name}" was not measured to the end: ${messageOf(e)}`);
    } finally {
      running.end();
    }
  };

  const shown = rows?.lane === lane.id ? rows : null;
  return (
    <section className="matte-report" aria-label="Matte report">
      <div className="check head">
        <b>Matte of</b>
        <Select
          size="small"
          value={lane.id}
          inputProps={{ 'aria-label': 'Lane of the report' }}
          onChange={(e) => setChosen(e.target.value)}
        >
          {lanes.map((l) => (
            <MenuItem key={l.id} value={l.id}>
              {l.name}
            </MenuItem>
          ))}
        </Select>
        <span className="grow">
          {shown && shown.shot !== shot && !job && <span className="dust">measured before the last change</span>}
        </span>
        {job ? (
          <JobRow job={job} />
        ) : (
          <Button variant="outlined" onClick={() => void measure()}>
            {shown ? 'Measure again' : 'Measure every frame'}
          </Button>
        )}
      </div>
      {shown && (
        <div className="report-charts">
          {CHARTS.map((c) => (
            <Chart key={c.key} chart={c} rows={shown.list} />
          ))}
        </div>
      )}
    </section>
  );
}

function Chart({ chart, rows }: { chart: (typeof CHARTS)[number]; rows: readonly Row[] }) {
  const frame = useView((s) => s.frame);
  const format = useShotPart('format');
  const worst = rows.reduce((a, b) => ((b[chart.key] ?? 0) > (a[chart.key] ?? 0) ? b : a));
  const go = (to: number): void => view.set({ frame: to, playing: false });
  const good = chart.area ? Math.round((chart.good * format.width * format.height) / (960 * 540)) : chart.good;
  const over = rows.filter((r) => (r[chart.key] ?? 0) > good).length;
  const limit = `${chart.help}. Good below ${good}.`;
  return (
    <figure>
      <figcaption title={limit}>
        {over === 0 ? (
          <CheckIcon className="good" titleAccess="Good" sx={{ fontSize: 13 }} />
        ) : (
          <WarningAmberIcon className="doubt" titleAccess="Look" sx={{ fontSize: 13 }} />
        )}
        {chart.title}
        <span className="dust">{over === 0 ? `below ${good}` : `${over} of ${rows.length} over ${good}`}</span>
        <button className="pill" onClick={() => go(worst.frame)} title={`${limit} Go to the worst frame.`}>
          worst {(worst[chart.key] ?? 0).toFixed(chart.digits)} at {worst.frame}
        </button>
      </figcaption>
      <ResponsiveContainer width="100%" height={72}>
        <LineChart
          data={[...rows]}
          margin={{ top: 4, right: 4, bottom: 0, left: 0 }}
          onClick={({ activeLabel }) => activeLabel !== undefined && go(Number(activeLabel))}
        >
          <XAxis dataKey="frame" type="number" domain={['dataMin', 'dataMax']} hide />
          <YAxis
            width={34}
            tickCount={3}
            tick={{ fontSize: 9.5, fill: 'var(--ash)' }}
            axisLine={false}
            tickLine={false}
            domain={[0, 'auto']}
          />
          <Tooltip
            formatter={(v) => Number(v).toFixed(chart.digits)}
            labelFormatter={(f) => `frame ${f}`}
            contentStyle={{ background: 'var(--shelf)', border: '1px solid var(--line)', fontSize: 11, padding: '3px 7px' }}
            itemStyle={{ color: 'var(--bone)' }}
          />
          <ReferenceLine x={frame} stroke="var(--clay)" />
          <ReferenceLine y={good} stroke="var(--dust)" strokeDasharray="3 3" />
          <Line dataKey={chart.key} name={chart.title} stroke="var(--glaze)" strokeWidth={1.3} dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}
