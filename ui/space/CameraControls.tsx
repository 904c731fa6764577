'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import type { Tap } from '@/core/document';
import type { CameraReading, LensReading, PointReading } from '@/core/readings';
import { FOCAL_WAYS, HELD_BY } from '@/core/space';
import type { Change } from '@/core/commands';
import { space } from '@/core/commands';
import { FeedField } from '../controls/FeedField';
import { JobRow } from '../jobs/Jobs';
import { useJob } from '../jobs/jobs';
import { MeasuredIn } from '../readings/MeasuredIn';
import { FrameRange } from '../readings/FrameRange';
import { ReadingHead } from '../readings/ReadingHead';
import { Choice, NumberRow, Row } from '../readings/rows';
import { useBench, useRun, useShotPart } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { CameraOut } from './CameraOut';
import { findCameraTracks, solveCameraOf, useCameraWork } from './camera-jobs';
import { useCameraAsShown, useTracks } from './camera-view';
import { CardRows } from './CardRows';
import { GroupRows } from './GroupRows';
import { SolvedRows } from './SolvedRows';
import { ThingsIn } from './things/ThingsIn';
import { WorldRows } from './WorldRows';

const FOCAL_TITLES = { found: 'Found', each: 'Found, and zooms', known: 'Known, mm', lens: 'Of the lens' };

/** The selected camera: its tracks, how it is solved, how well, and what is done with its points. */
export function CameraControls({ reading: stored }: { reading: CameraReading }) {
  const bench = useBench();
  const run = useRun();
  const job = useJob('camera');
  const stage = useCameraWork((s) => (s.reading === stored.id ? s.stage : ''));
  const reading = useCameraAsShown(stored);
  const { id, settings, tracks, hand, exclude, range } = stored;
  const leaveOut = (tap: Tap): Change => space.changeCamera(id, { exclude: [...exclude, { ...tap, invert: false }] });
  const all = useTracks(stored);
  const trails = useView((s) => s.trails);
  const readings = useShotPart('readings');
  const points = readings.filter((r): r is PointReading => r.kind === 'point' && r.frames.length > 1);
  const lenses = readings.filter((r): r is LensReading => r.kind === 'lens' && r.solved.length > 0);
  const change = (label: string, to: Partial<typeof settings>): void => void run(label, space.changeCamera(id, { settings: to }));
  const number = (
    name: 'count' | 'least' | 'margin' | 'mm' | 'sensor' | 'handWeight',
    label: string,
    min: number,
    max: number,
    help: string,
    decimals = 0,
  ) => (
    <NumberRow
      title={label}
      help={help}
      value={settings[name]}
      min={min}
      max={max}
      decimals={decimals}
      set={(v) => change(label, { [name]: v })}
    />
  );
  const fewest = fewestOn(all, range);
  return (
    <>
      <ReadingHead reading={stored} is="Where the camera was on each frame, and points of the scene, from tracks." />
      <div className="scroll" style={{ paddingBottom: 14 }}>
        <div className="group">Tracks</div>
        <div className="measure">
          {job ? (
            <>
              <JobRow job={job} />
              {stage && (
                <small className="dust" role="status">
                  {stage}
                </small>
              )}
            </>
          ) : (
            <Button variant={tracks.length ? 'outlined' : 'contained'} color="secondary" onClick={() => void findCameraTracks(bench, id)}>
              {tracks.length ? 'Find tracks again' : 'Find tracks'}
            </Button>
          )}
          <label className="inline">
            <Checkbox size="small" checked={trails} onChange={(e) => view.set({ trails: e.target.checked })} /> trails
          </label>
        </div>
        {all.length > 0 && (
          <p className="said" data-testid="track-count">
            {tracks.length} found{hand.length > 0 && `, ${hand.length} by hand`}. Fewest on frame{' '}
            <button className="pill" onClick={() => view.set({ frame: fewest.frame, playing: false })}>
              {fewest.frame}
            </button>
            : <span className={fewest.count < HELD_BY ? 'warn-text' : ''}>{fewest.count}</span>
            {fewest.count < HELD_BY && ' — eight on every frame are enough: find more, or place points by hand there.'}
          </p>
        )}
        <FrameRange reading={stored} />
        {number('count', 'Tracks a frame', 8, 4000, 'How many are followed at once, spread over the picture')}
        {number('least', 'Shortest, frames', 2, 1000, 'Tracks that last shorter are thrown away')}
        {number('margin', 'Clear edge, px', 0, 4000, 'Nothing is followed this near to the picture’s edges')}
        {exclude.map((m, i) => (
          <div key={i} className="with-button">
            <FeedField
              title={i === 0 ? 'Leave out' : 'and'}
              help="A matte of what moves by itself, people for instance: nothing is followed where it covers"
              step={id}
              feed={`exclude ${i}`}
              tap={m}
              matte
              onTap={(tap) =>
                run(
                  'Leave out',
                  space.changeCamera(id, {
                    exclude: tap ? exclude.map((x, k) => (k === i ? { ...tap, invert: x.invert } : x)) : exclude.filter((_, k) => k !== i),
                  }),
                )
              }
            />
            <label className="inline">
              <Checkbox
                size="small"
                checked={m.invert}
                onChange={(e) =>
                  run(
                    'Invert matte',
                    space.changeCamera(id, { exclude: exclude.map((x, k) => (k === i ? { ...x, invert: e.target.checked } : x)) }),
                  )
                }
              />{' '}
              the other way round
            </label>
          </div>
        ))}
        <FeedField
          title={exclude.length ? 'Leave out more' : 'Leave out'}
          help="A matte of what moves by itself, people for instance: nothing is followed where it covers"
          step={id}
          feed="exclude"
          tap={undefined}
          matte
          draw={{ on: () => stored.from, connect: leaveOut }}
          onTap={(tap) => tap && run('Leave out', leaveOut(tap))}
        />
        {points.length > 0 && (
          <Row title="By hand">
            <span className="stack" role="group" aria-label="Points by hand">
              {points.map((p) => (
                <label key={p.id} className="inline">
                  <Checkbox
                    size="small"
                    checked={hand.includes(p.id)}
                    onChange={(e) =>
                      run(
                        'Points by hand',
                        space.changeCamera(id, { hand: e.target.checked ? [...hand, p.id] : hand.filter((h) => h !== p.id) }),
                      )
                    }
                  />{' '}
                  {p.name}
                </label>
              ))}
            </span>
          </Row>
        )}
        {hand.length > 0 && number('handWeight', 'A point by hand counts', 0.01, 1000, 'Against a found track, which counts 1', 1)}
        <div className="group">Lens</div>
        <Row title="Focal length">
          <Choice
            label="Focal length"
            value={settings.focal}
            options={FOCAL_WAYS}
            titles={FOCAL_TITLES}
            set={(focal) => change('Focal length', { focal })}
          />
        </Row>
        {settings.focal === 'known' && (
          <>
            {number('mm', 'Focal length, mm', 0, 5000, 'What the lens was set to', 2)}
            {number('sensor', 'Sensor width, mm', 0, 500, 'How wide the part of the sensor is that the picture shows', 2)}
          </>
        )}
        <Row title="Pixels">
          <Choice
            label="Pixels"
            value={settings.lens ? `lens ${settings.lens}` : settings.bend ? 'bend' : 'straight'}
            options={['straight', ...lenses.map((l) => `lens ${l.id}`), 'bend']}
            titles={{
              straight: 'Straight already',
              bend: 'Bent: find k1 and k2 too',
              ...Object.fromEntries(lenses.map((l) => [`lens ${l.id}`, `Bent as by “${l.name}”`])),
            }}
            set={(v) =>
              change('Pixels', {
                lens: v.startsWith('lens ') ? v.slice(5) : '',
                bend: v === 'bend',
              })
            }
          />
        </Row>
        {stored.stale && !job && stored.solved && (
          <p className="stale" role="status">
            What it is solved from has changed: solve again.
          </p>
        )}
        <div className="measure">
          <Button
            variant={stored.solved && !stored.stale ? 'outlined' : 'contained'}
            color="secondary"
            disabled={!!job || all.length === 0}
            onClick={() => void solveCameraOf(bench, id, stored.solved !== null)}
          >
            {stored.solved ? 'Solve again' : 'Solve'}
          </Button>
          {stored.solved && !job && (
            <button
              className="pill"
              title="Forgets what was solved and starts from the first views"
              onClick={() => void solveCameraOf(bench, id, false)}
            >
              from the beginning
            </button>
          )}
        </div>
        {reading.solved && <SolvedRows reading={reading} />}
        {stored.solved && (
          <>
            <GroupRows reading={stored} />
            <WorldRows reading={stored} />
            <CardRows reading={stored} />
            <ThingsIn reading={stored} />
            <CameraOut reading={stored} />
          </>
        )}
        <div className="group">Picture</div>
        <MeasuredIn
          reading={stored}
          help="The point of a lane in which tracks are found: best where the lens has been taken out, and before it is moved or scaled."
        />
      </div>
    </>
  );
}

/** The frame that the fewest tracks are seen on. */
function fewestOn(
  tracks: readonly { frames: readonly number[] }[],
  { first, last }: { first: number; last: number },
): { frame: number; count: number } {
  const counts = new Int32Array(Math.max(1, last - first + 1));
  for (const t of tracks) for (const f of t.frames) if (f >= first && f <= last) counts[f - first]!++;
  let best = 0;
  counts.forEach((n, i) => {
    if (n < counts[best]!) best = i;
  });
  return { frame: first + best, count: counts[best]! };
}
