'use client';
import Button from '@mui/material/Button';
import { PLANE_MODELS } from '@/core/geometry';
import type { Anchor, Flag, PlaneReading, PointReading, TrackReading } from '@/core/readings';
import { POINT_MODELS, fourPointTrouble } from '@/core/readings';
import type { Tap } from '@/core/document';
import type { Change } from '@/core/commands';
import { readingCommands } from '@/core/commands';
import { FeedField } from '../controls/FeedField';
import { NumberField } from '../controls/NumberField';
import { JobRow } from '../jobs/Jobs';
import { useJob } from '../jobs/jobs';
import { useBench, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { bothWays, measureAgainFrom, measureReading, openEnds, useMeasuring, withLive } from './measuring';
import { useThreeOthers } from './AreaGuide';
import { PlaceDoubtLine } from './PlaceDoubtLine';
import { FrameRange } from './FrameRange';
import { MeasuredIn } from './MeasuredIn';
import { ReadingHead } from './ReadingHead';
import { ReadingUses } from './ReadingUses';
import { Choice, Row } from './rows';

const WHY: Record<Flag, string> = {
  low: 'low confidence: it was lost here',
  predicted: 'not seen: laid where it should be',
  jump: 'jumps away from its neighbours',
  repeat: 'repeats the frame before exactly',
  left: 'left the frame',
  degenerate: 'the surface folds or vanishes',
  changed: 'the first pattern no longer fits: may drift',
  edge: 'slides along an edge: there is nothing to hold it that way',
  astray: 'jumped, and the first pattern has not agreed since',
  alike: 'looks like its neighbour: it may have changed places',
};

/** The selected reading: how it is measured, what came of it, and what can be done with it. */
export function ReadingControls({ reading: stored }: { reading: TrackReading }) {
  const bench = useBench();
  const run = useRun();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const held = useView((s) => s.held);
  const job = useJob('reading');
  const live = useMeasuring((s) => (s.reading === stored.id ? s.results : null));
  const reading = live ? withLive(stored, live) : stored;
  const { id, reference } = reading;
  const measure = (anchors: readonly Anchor[], most?: number) => () => void measureReading(bench, id, { anchors, ...(most && { most }) });
  const away = (direction: 1 | -1, most?: number) => measure([{ frame, direction }], most);
  const open = openEnds(reading);
  const here = reading.frames.some((f) => f.frame === frame) || frame === reference;
  const flagged = (reading.frames as readonly { frame: number; flag?: Flag; confidence: number }[]).filter((f) => f.flag);
  const pinned = reading.frames.filter((f) => f.pinned);
  return (
    <>
      <ReadingHead
        reading={reading}
        is={reading.kind === 'point' ? 'A detail, followed frame by frame.' : 'A flat part of the picture, followed frame by frame.'}
      />
      <div className="scroll" style={{ paddingBottom: 14 }}>
        <div className="group">Measure</div>
        <div className="measure">
          {job ? (
            <JobRow job={job} />
          ) : (
            <>
              <Button variant="contained" color="secondary" onClick={measure(bothWays(reference))}>
                Measure
              </Button>
              <span className="inline">
                <button className="pill" disabled={!here} onClick={away(-1)} title="From this frame back to the first">
                  ⇤ back
                </button>
                <button className="pill" disabled={!here} onClick={away(-1, 1)} title="One frame back">
                  ‹ one
                </button>
                <button className="pill" disabled={!here} onClick={away(1, 1)} title="One frame on">
                  one ›
                </button>
                <button className="pill" disabled={!here} onClick={away(1)} title="From this frame on to the last">
                  on ⇥
                </button>
              </span>
            </>
          )}
        </div>
        {reading.stale && !job && (
          <p className="stale" role="status">
            What it is measured by has changed: measure again.
          </p>
        )}
        {reading.kind === 'point' && <PlaceDoubtLine reading={reading} />}
        {open.length > 0 && !job && (
          <Row title="Not whole yet">
            <button className="pill" onClick={measure(open)} title="Measures the frames beyond those that are measured">
              Go on from {open.map((a) => a.frame).join(' and ')}
            </button>
          </Row>
        )}
        <MeasuredIn reading={reading} help="The point of a lane whose picture is measured, after a contrast boost for instance." />
        <Row title="Reference">
          <NumberField
            label="Reference frame"
            value={reference}
            whole
            min={shot.range.first}
            max={shot.range.last}
            step={1}
            onChange={(v) => run('Reference frame', readingCommands.setReference(id, v))}
            onProblem={() => undefined}
          />
        </Row>
        <FrameRange reading={reading} />
        {reading.kind === 'point' ? <PointSettingsRows reading={reading} /> : <PlaneSettingsRows reading={reading} />}
        <div className="group">Look</div>
        {reading.kind === 'point' && <FourPoints reading={reading} />}
        <Row title="Steadied view">
          <button
            className={`pill${held === id ? ' on' : ''}`}
            aria-pressed={held === id}
            title={`The picture is moved so that ${reading.kind === 'point' ? 'the detail' : 'the middle of the surface'} stays where it is; nothing is changed`}
            onClick={() => view.set({ held: held === id ? null : id })}
          >
            {reading.kind === 'point' ? 'Hold the detail still' : 'Hold its middle still'}
          </button>
        </Row>
        <Row title="Charts">
          <button className="pill" onClick={() => view.set({ tab: 'readings' })}>
            Confidence, error, motion
          </button>
        </Row>
        <ReadingUses reading={reading} />
        {pinned.length > 0 && <div className="group">Put right by hand</div>}
        {pinned.map((f) => (
          <div key={f.frame} className="flagged">
            <button className="pill" onClick={() => view.set({ frame: f.frame, playing: false })}>
              {f.frame}
            </button>
            <span className="dust grow">kept by measuring</span>
            <button className="pill" onClick={() => run('Free the frame', readingCommands.removeFrames(id, [f.frame]))}>
              Free
            </button>
          </div>
        ))}
        <div className="group">{flagged.length ? `Frames to look at: ${flagged.length}` : 'Frames to look at'}</div>
        {flagged.length === 0 && <small className="dust pad">{reading.frames.length < 2 ? 'Not measured yet.' : 'None.'}</small>}
        {flagged.slice(0, 60).map((f) => (
          <div key={f.frame} className="flagged" data-testid={`flagged ${f.frame}`}>
            <button className="pill" onClick={() => view.set({ frame: f.frame, playing: false })}>
              {f.frame}
            </button>
            <span className="grow" title={WHY[f.flag!]}>
              {WHY[f.flag!]}
            </span>
            <button className="pill" title="Measure from here on again" onClick={() => void measureAgainFrom(bench, stored, f.frame)}>
              again
            </button>
            <button
              className="pill"
              title="Lay it between its trusted neighbours"
              onClick={() => run('Interpolate', readingCommands.interpolateFrame(id, f.frame))}
            >
              between
            </button>
            <button
              className="pill"
              title="Delete this frame of the reading"
              onClick={() => run('Delete frame', readingCommands.removeFrames(id, [f.frame]))}
            >
              ×
            </button>
          </div>
        ))}
      </div>
    </>
  );
}

/** With three others: whether the four can hold a perspective, and where this one could not. */
function FourPoints({ reading }: { reading: PointReading }) {
  const guide = useView((s) => s.areaGuide);
  const others = useThreeOthers(reading.id);
  if (!others) return null;
  const trouble = fourPointTrouble([reading.at, ...others]);
  return (
    <>
      <Row title="Four points">
        <button
          className={`pill${guide ? ' on' : ''}`}
          aria-pressed={guide}
          title="Hatches where this point would be too near the others, or on a line with two of them"
          onClick={() => view.set({ areaGuide: !guide })}
        >
          Area guide
        </button>
      </Row>
      {trouble && (
        <div className="source-note" role="note">
          {trouble}
        </div>
      )}
    </>
  );
}

function Threshold({ value, set }: { value: number; set(v: number): void }) {
  return (
    <Row title="Lost under">
      <NumberField
        label="Confidence under which it is lost"
        value={value}
        min={0}
        max={1}
        decimals={2}
        step={0.01}
        onChange={set}
        onProblem={() => undefined}
      />
    </Row>
  );
}

function PointSettingsRows({ reading: { id, settings } }: { reading: PointReading }) {
  const run = useRun();
  const set = (change: Partial<PointReading['settings']>): void =>
    void run('Change reading', readingCommands.changePoint(id, { settings: change }));
  return (
    <>
      <Row title="Motion">
        <Choice label="Motion model" value={settings.model} options={POINT_MODELS} set={(model) => set({ model })} />
      </Row>
      <Row title="Renew pattern">
        <Choice
          label="Renew pattern"
          value={settings.renew}
          options={['never', 'every', 'guarded'] as const}
          set={(renew) => set({ renew })}
        />
      </Row>
      <Row title="When lost">
        <Choice label="When lost" value={settings.lost} options={['predict', 'stop'] as const} set={(lost) => set({ lost })} />
      </Row>
      <Threshold value={settings.threshold} set={(threshold) => set({ threshold })} />
    </>
  );
}

function PlaneSettingsRows({ reading: { id, from, settings, region, matte } }: { reading: PlaneReading }) {
  const run = useRun();
  const set = (change: Partial<PlaneReading['settings']>): void =>
    void run('Change reading', readingCommands.changePlane(id, { settings: change }));
  const matteTo = (tap: Tap | null): Change =>
    readingCommands.changePlane(id, { matte: tap ? { ...tap, invert: matte?.invert ?? false } : (undefined as never) });
  return (
    <>
      <Row title="Motion">
        <Choice label="Motion model" value={settings.model} options={PLANE_MODELS} set={(model) => set({ model })} />
      </Row>
      <Row title="When lost">
        <Choice label="When lost" value={settings.lost} options={['predict', 'stop'] as const} set={(lost) => set({ lost })} />
      </Row>
      <Threshold value={settings.threshold} set={(threshold) => set({ threshold })} />
      <Row title="Region">
        <span className="inline">
          <button
            className="pill"
            onClick={() => view.set({ drawing: { kind: 'shape', reading: id } })}
            title="A further shape that belongs to the plane"
          >
            + shape
          </button>
          <button className="pill" onClick={() => view.set({ drawing: { kind: 'without', reading: id } })} title="A shape that does not">
            − shape
          </button>
          {region.without.length > 0 && (
            <button
              className="pill"
              onClick={() => run('Remove shapes', readingCommands.changePlane(id, { region: { ...region, without: [] } }))}
            >
              clear −
            </button>
          )}
        </span>
      </Row>
      <FeedField
        title="Matte"
        help="Says which pixels belong to the plane, a key for instance."
        step={id}
        tap={matte}
        matte
        draw={{ on: () => from, connect: matteTo }}
        onTap={(tap) => run('Matte', matteTo(tap))}
      />
      {matte && (
        <Row title="">
          <button
            className={`pill${matte.invert ? ' on' : ''}`}
            onClick={() => run('Invert matte', readingCommands.changePlane(id, { matte: { ...matte, invert: !matte.invert } }))}
          >
            Inverted
          </button>
        </Row>
      )}
    </>
  );
}
