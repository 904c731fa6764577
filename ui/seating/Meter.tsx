'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import { behindOf } from '@/core/document';
import type { Around, Figures, Row, Triple } from '@/core/seating';
import { ROWS, differenceOf, matchOf, rowOf } from '@/core/seating';
import { matchNow, setMatch } from '@/core/assemblies';
import { useJob } from '../jobs/jobs';
import { toast } from '../theme/toast';
import { tapName, useBench, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { MeterChart } from './MeterChart';
import type { MeterReading } from './meter-job';
import { askedOf, framesOf, isFresh, readMeter, useMeter } from './meter-job';

const TITLES: Record<Row, { title: string; help: string; digits: number; unit: string }> = {
  softness: { title: 'Softness', help: 'σ of the blur of its edges. A blur is set.', digits: 2, unit: 'px' },
  black: {
    title: 'Black',
    help: 'The mean of its darkest, by channel. Slope and offset of a grade are set; white stays.',
    digits: 3,
    unit: '',
  },
  white: {
    title: 'White',
    help: 'The mean of its brightest, by channel. Slope and offset of a grade are set; black stays.',
    digits: 3,
    unit: '',
  },
  contrast: { title: 'Contrast', help: 'Stops from its tenth to its ninetieth part.', digits: 2, unit: 'stops' },
  saturation: { title: 'Saturation', help: 'Colourfulness beside light.', digits: 3, unit: '' },
  grain: { title: 'Grain', help: 'σ at its middle tone, and the size of a grain. The plate’s grain is given.', digits: 4, unit: '' },
};
/** What "Match all" does, in this order; contrast is of the picture, not of the camera, and is left to a choice. */
const ALL: readonly Row[] = ['softness', 'white', 'black', 'grain'];

type Place = 'ring' | 'whole' | 'box';

/** An element beside the plate around it, row by row, each with a button that brings it there. */
export function Meter() {
  const bench = useBench();
  const shot = useShot();
  const run = useRun();
  const selected = useView((s) => s.selection);
  const probe = useView((s) => s.probe);
  const busy = useJob('meter');
  const last = useMeter((s) => s.last);
  const [place, setPlace] = useState<Place>('ring');
  const [ring, setRing] = useState(40);
  const [scope, setScope] = useState<'all' | 'one'>('all');
  // Only where one is asked for does it matter which one is seen.
  const frame = useView((s) => (scope === 'one' ? s.frame : null));
  const frames = frame === null ? framesOf(shot.range) : [frame];
  const lane = laneSelected(shot, selected) ?? shot.lanes.find((l) => behindOf(shot, l));
  const plate = lane && behindOf(shot, lane);
  if (!lane || !plate) {
    return (
      <div className="match-meter empty">
        <p className="dust">
          {lane ? `No join brings “${lane.name}” in over a background.` : 'No lane is joined over a background.'} Select an element’s lane:
          it is measured against the picture right before the join that brings it in.
        </p>
      </div>
    );
  }
  const around: Around = place === 'ring' ? { ring } : place === 'box' && probe ? { box: probe } : { whole: true };
  // Lanes of other shots may have the same id.
  const reading = last?.shot.id === shot.id && last.lane === lane.id ? last : null;
  const fresh = reading !== null && isFresh(reading, shot, askedOf(around, frames));
  const read = (known?: MeterReading): Promise<MeterReading | null> => readMeter(bench, lane.id, around, frames, known);
  const match = async (rows: readonly Row[]): Promise<void> => {
    let now = fresh ? reading : null;
    for (const row of rows) {
      now ??= await read();
      if (!now) return;
      const { shot: is } = bench.session.store.getState();
      const found = matchOf(row, now.element, now.plate, matchNow(is, lane.id, view.get().frame));
      if ('why' in found) {
        if (rows.length === 1) toast('info', `${TITLES[row].title}: ${found.why}.`);
        continue;
      }
      if (!run(`Match ${TITLES[row].title.toLowerCase()}`, setMatch(lane.id, found, view.get().frame))) return;
      now = await read(now);
    }
  };
  return (
    <div className="match-meter">
      <div className="meter-bar">
        <span>
          <b>{lane.name}</b> <span className="dust">against</span> {tapName(shot, plate)}
        </span>
        <Select size="small" value={place} inputProps={{ 'aria-label': 'Plate' }} onChange={(e) => setPlace(e.target.value)}>
          <MenuItem value="ring">A ring around it</MenuItem>
          <MenuItem value="whole">All of the plate</MenuItem>
          <MenuItem value="box" disabled={!probe}>
            The probed box
          </MenuItem>
        </Select>
        {place === 'ring' && (
          <Tooltip title="Pixels that the ring is wide">
            <input
              className="num"
              aria-label="Ring width"
              key={ring}
              defaultValue={ring}
              onBlur={(e) => setRing(Math.max(4, Math.min(2000, Math.round(Number(e.target.value)) || ring)))}
              onKeyDown={(e) => {
                e.stopPropagation();
                if (e.key === 'Enter') e.currentTarget.blur();
              }}
            />
          </Tooltip>
        )}
        <Select size="small" value={scope} inputProps={{ 'aria-label': 'Frames' }} onChange={(e) => setScope(e.target.value)}>
          <MenuItem value="all">Over the shot</MenuItem>
          <MenuItem value="one">This frame</MenuItem>
        </Select>
        <Button variant="outlined" disabled={!!busy} onClick={() => void read()}>
          {reading ? 'Read again' : 'Read'}
        </Button>
        <Tooltip title="Softness, white, black and grain, one after the other; each is read again.">
          <span>
            <Button variant="outlined" disabled={!!busy || !reading} onClick={() => void match(ALL)}>
              Match all
            </Button>
          </span>
        </Tooltip>
        {busy ? (
          <span className="dust">reading …</span>
        ) : (
          reading && !fresh && <span className="was-read">read before the last change</span>
        )}
      </div>
      {reading && (
        <div className={`meter-body${fresh ? '' : ' was-read'}`}>
          <table className="figures" data-testid="meter">
            <thead>
              <tr>
                <th />
                <th>element</th>
                <th>plate</th>
                <th>difference</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {ROWS.map((row) => (
                <MeterRow key={row} row={row} reading={reading} busy={!!busy} onMatch={() => void match([row])} />
              ))}
            </tbody>
          </table>
          <MeterChart frames={reading.frames} />
          {reading.left.length > 0 && <p className="dust">Left out: {reading.left.join('; ')}.</p>}
        </div>
      )}
    </div>
  );
}

/** The lane that is selected, or that of the step that is. */
function laneSelected(
  shot: ReturnType<typeof useShot>,
  selection: { id: string } | null,
): ReturnType<typeof useShot>['lanes'][number] | undefined {
  if (!selection) return undefined;
  return shot.lanes.find((l) => l.id === selection.id || l.steps.some((s) => s.id === selection.id));
}

function MeterRow({
  row,
  reading: { element, plate },
  busy,
  onMatch,
}: {
  row: Row;
  reading: MeterReading;
  busy: boolean;
  onMatch(): void;
}) {
  const { title, help, digits, unit } = TITLES[row];
  const difference = differenceOf(row, element, plate);
  const told = (f: Figures): string => {
    const figure = rowOf(row, f);
    if (!figure) return '—';
    const size = row === 'grain' && f.grain ? ` · ${f.grain.size.value.toFixed(1)} px` : '';
    return `${figure.value.toFixed(digits)}${size}`;
  };
  return (
    <tr className={difference?.matters ? 'apart' : ''}>
      <td>
        <Tooltip title={help} placement="left">
          <span>
            {title} {unit && <span className="dust">{unit}</span>}
          </span>
        </Tooltip>
      </td>
      {[element, plate].map((f, i) => (
        <td key={i}>
          <Swatch row={row} figures={f} />
          {told(f)}
        </td>
      ))}
      <td aria-label={`${title} difference`}>
        {difference ? (
          <>
            {difference.matters ? '' : '✓ '}
            {difference.value > 0 ? '+' : ''}
            {difference.value.toFixed(digits)} <span className="dust">± {difference.sure.toFixed(digits)}</span>
          </>
        ) : (
          <span className="dust">cannot be read</span>
        )}
      </td>
      <td>
        <Button size="small" disabled={busy || !difference} aria-label={`Match ${title.toLowerCase()}`} onClick={onMatch}>
          Match
        </Button>
      </td>
    </tr>
  );
}

/** The colour of black or white, made as bright as it can be seen. */
function Swatch({ row, figures }: { row: Row; figures: Figures }) {
  if (row !== 'black' && row !== 'white') return null;
  const triple: Triple = figures[row];
  const most = Math.max(1e-4, ...triple.map((f) => f.value));
  const scale = row === 'white' ? Math.max(1, most) : most / 0.5;
  const code = triple.map((f) => Math.round(255 * Math.min(1, Math.max(0, f.value / scale)) ** (1 / 2.2)));
  return <i className="swatch" style={{ background: `rgb(${code.join(' ')})` }} title={triple.map((f) => f.value.toFixed(3)).join(', ')} />;
}
