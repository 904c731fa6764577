'use client';
import Button from '@mui/material/Button';
import { useRef } from 'react';
import { levelledOff } from '@/core/learn';
import type { LessonReading } from '@/core/readings';
import { messageOf } from '@/core/errors';
import { blobOf } from '@/engine/browser';
import { lessons } from '@/core/commands';
import { JobRow } from '../jobs/Jobs';
import { useJob } from '../jobs/jobs';
import { NumberRow } from '../readings/rows';
import { saveBlob } from '../theme/save-blob';
import { toast } from '../theme/toast';
import { useBench, useRun } from '../workbench/context';
import { view } from '../workbench/state';
import { useTraining } from './live';
import { TEACHES_TITLES } from './titles';
import { bytesOfWeights, learntFrom, train } from './training';

/** How long, from what, and how it went. */
export function TrainRows({ reading }: { reading: LessonReading }) {
  const bench = useBench();
  const run = useRun();
  const job = useJob('training');
  const training = useTraining();
  const file = useRef<HTMLInputElement>(null);
  const { id, settings, examples, weights, snapshots } = reading;
  const own = training.reading === id ? training.report : null;
  const { steps, seconds, losses } = own ? { steps: own.step, seconds: own.seconds, losses: own.losses } : reading;
  const last = losses.at(-1);
  return (
    <>
      <div className="group">Training</div>
      <NumberRow
        title="Minutes"
        help="It stops by itself after so long"
        value={settings.minutes}
        min={0.1}
        max={600}
        decimals={1}
        step={0.5}
        set={(minutes) => run('Minutes', lessons.changeLesson(id, { minutes }))}
      />
      <div className="measure">
        {job ? (
          <JobRow job={job} stop={training.stage === 'training' ? 'Pause' : 'Stop'} />
        ) : (
          <Button
            variant={weights && !reading.stale ? 'outlined' : 'contained'}
            color="secondary"
            disabled={examples.length === 0}
            onClick={() => void startTraining()}
          >
            {weights ? 'Go on training' : 'Train'}
          </Button>
        )}
        {weights && !job && (
          <button className="pill" title="Forgets what was learnt" onClick={() => run('Forget what was learnt', lessons.forgetLearnt(id))}>
            forget
          </button>
        )}
      </div>
      {reading.stale && !job && (
        <p className="stale" role="status">
          What it is shown has changed: go on training.
        </p>
      )}
      {steps > 0 && (
        <p className="said" data-testid="training-state">
          {steps} steps in {(seconds / 60).toFixed(1)} minutes
          {own && own.perSecond > 0 && `, ${own.perSecond.toFixed(0)} a second`}
          {last && ` · loss ${last[1].toPrecision(3)}`}
          {last && last[2] >= 0 && `, held back ${last[2].toPrecision(3)}`}
          {levelledOff(losses) && <b> · no longer improving</b>}
        </p>
      )}
      {snapshots.map((s) => (
        <div key={s.id} className="flagged">
          <span className="grow">
            step {s.steps} · loss {s.loss.toPrecision(3)}
          </span>
          <button className="pill" disabled={!!job} onClick={() => run('Back to a kept state', lessons.backToSnapshot(id, s.id))}>
            back to it
          </button>
          <button className="pill" onClick={() => run('Forget a kept state', lessons.removeSnapshot(id, s.id))}>
            forget
          </button>
        </div>
      ))}
      <div className="measure">
        <Button disabled={!weights || !!job} onClick={() => run('Keep this state', lessons.keepSnapshot(id))}>
          Keep this state
        </Button>
        <Button
          disabled={!weights}
          onClick={() => weights && void blobOf(weights.hash, weights.name).then((b) => saveBlob(b, `${reading.name}.lesson`))}
        >
          Save as file
        </Button>
        <Button
          disabled={!!job}
          onClick={() => file.current?.click()}
          title="What a file has learnt; with frames shown it goes on from there"
        >
          From a file
        </Button>
      </div>
      <OtherLessons reading={reading} />
      <input
        ref={file}
        type="file"
        accept=".lesson"
        hidden
        aria-label="A lesson from a file"
        onChange={(e) => {
          const given = e.target.files?.[0];
          e.target.value = '';
          if (!given) return;
          learntFrom(given)
            .then(({ learnt, note }) => {
              if (note.teaches === reading.teaches) return void run('Lesson from a file', lessons.setLearnt(id, learnt));
              const titles = TEACHES_TITLES;
              toast(
                'error',
                `${given.name} teaches ${titles[note.teaches].toLowerCase()}, this lesson ${titles[reading.teaches].toLowerCase()}: change what it learns first`,
              );
            })
            .catch((problem: unknown) => toast('error', messageOf(problem)));
        }}
      />
    </>
  );

  async function startTraining(): Promise<void> {
    view.set({ tab: 'readings' });
    await train(bench, id, settings.minutes);
  }
}

/** Starts from what another lesson of the shot has learnt. */
function OtherLessons({ reading }: { reading: LessonReading }) {
  const bench = useBench();
  const job = useJob('training');
  const others = bench.session.store
    .getState()
    .shot.readings.filter((r): r is LessonReading => r.kind === 'lesson' && r.id !== reading.id && r.weights !== null);
  if (others.length === 0) return null;
  return (
    <div className="flagged">
      <span className="dust">start from</span>
      {others.map((o) => (
        <button
          key={o.id}
          className="pill"
          disabled={!!job || reading.examples.length === 0}
          onClick={() =>
            void bytesOfWeights(o.weights!)
              .then((bytes) => train(bench, reading.id, reading.settings.minutes, { bytes, name: o.name }))
              .catch((e: unknown) => toast('error', messageOf(e)))
          }
        >
          {o.name}
        </button>
      ))}
    </div>
  );
}
