'use client';
import type { CameraReading } from '@/core/readings';
import { MARKS, groupFigures, upright } from '@/core/space';
import { space } from '@/core/commands';
import { Renamable } from '../lanes/Renamable';
import { Choice } from '../readings/rows';
import { useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { useCameraView } from './camera-view';
import { useState } from 'react';

const MARK_TITLES = { dot: 'Dots', cross: 'Crosses', square: 'Squares', diamond: 'Diamonds' };

/** Points under names: where their middle is, and how flat they lie. */
export function GroupRows({ reading }: { reading: CameraReading }) {
  const run = useRun();
  const chosen = useView((s) => s.tracks);
  return (
    <>
      <div className="group">Groups of points</div>
      <div className="uses">
        <button
          className="pill"
          disabled={chosen.length === 0}
          title="Of the points that are chosen on the stage"
          onClick={() => run('New group', space.addGroup(reading.id, chosen))}
        >
          Group {chosen.length > 0 ? `these ${chosen.length}` : 'chosen points'}
        </button>
      </div>
      {reading.groups.map((g) => (
        <GroupLine key={g.id} reading={reading} group={g} />
      ))}
    </>
  );
}

function GroupLine({ reading, group: g }: { reading: CameraReading; group: CameraReading['groups'][number] }) {
  const run = useRun();
  const cameraView = useCameraView(reading);
  const [naming, setNaming] = useState(false);
  const figures = cameraView && groupFigures(cameraView, g.tracks);
  const change = (label: string, to: Parameters<typeof space.changeGroup>[2]): void =>
    void run(label, space.changeGroup(reading.id, g.id, to));
  return (
    <div data-testid={`group ${g.name}`}>
      <div className="flagged">
        <input
          type="color"
          className="swatch"
          aria-label={`Colour of ${g.name}`}
          value={g.colour}
          onChange={(e) => change('Colour of a group', { colour: e.target.value })}
        />
        <b className="grow ellipsis">
          <Renamable name={g.name} editing={naming} onEdit={setNaming} onName={(name) => change('Rename group', { name })} />
        </b>
        <span style={{ width: 96 }}>
          <Choice
            label={`Marks of ${g.name}`}
            value={g.mark}
            options={MARKS}
            titles={MARK_TITLES}
            set={(mark) => change('Marks of a group', { mark })}
          />
        </span>
        <button className="pill" onClick={() => view.set({ tracks: g.tracks })}>
          choose
        </button>
        <button className="pill" aria-label={`Delete ${g.name}`} onClick={() => change('Delete group', null)}>
          ×
        </button>
      </div>
      {figures && (
        <p className="said dust">
          {figures.count} {figures.count === 1 ? 'point' : 'points'}, middle at{' '}
          {figures.centre &&
            upright(figures.centre)
              .map((v) => v.toFixed(2))
              .join(', ')}
          {figures.plane && `, flat to ${figures.plane.residual.toPrecision(2)}`}
        </p>
      )}
    </div>
  );
}
