'use client';
import Button from '@mui/material/Button';
import { useEffect, useRef } from 'react';
import { TEACHES, VARIATIONS } from '@/core/learn/lesson';
import type { Variation } from '@/core/learn/lesson';
import { levelledOff } from '@/core/learn/progress';
import type { LessonReading } from '@/core/readings/types';
import { messageOf } from '@/core/errors';
import { blobOf } from '@/engine/browser/media-db';
import * as lessons from '@/store/lessons';
import { NumberField } from '../controls/NumberField';
import { FeedField } from '../controls/FeedField';
import { JobRow } from '../jobs/Jobs';
import { useJob } from '../jobs/jobs';
import { FrameRange } from '../readings/FrameRange';
import { ReadingHead } from '../readings/ReadingHead';
import { Choice, Row } from '../readings/rows';
import { UsedBy } from '../readings/UsedBy';
import { saveBlob } from '../theme/save-blob';
import { toast } from '../theme/toast';
import { useBench, useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { ExampleRows } from './ExampleRows';
import { useTraining } from './live';
import { bytesOfWeights, learntFrom, measureSureness, takeUpInterrupted, train } from './training';

const TEACHES_TITLES = { matte: 'A matte', change: 'A change', carry: 'Colour and light' };
const TITLES: Record<keyof Variation, [title: string, help: string]> = {
  mirror: ['Mirrored', 'Left and right exchanged'],
  turn: ['Turned', 'By up to 20° at 1'],
  size: ['Larger and smaller', 'By up to twice at 1'],
  exposure: ['Brighter and darker', 'By up to three stops at 1'],
  contrast: ['Contrast', 'Steeper and flatter'],
  tint: ['Colour casts', 'Channels brighter and darker apart'],
  noise: ['Noise', 'As of a sensor'],
  blur: ['Soft', 'A little out of focus'],
  motion: ['Motion blur', 'Blurred along a line'],
  light: ['Light of other frames', 'Brightness and contrast of other frames laid on the ones shown'],
  occluders: ['Things in front', 'Made-up things, and the passers below, laid over picture and target alike'],
};

/** The selected lesson: what it is shown, how it is varied, trained, how sure it is, and what is done with it. */
export function LessonControls({ reading }: { reading: LessonReading }) {
  const bench = useBench();
  const run = useRun();
  const { id, settings, teaches, passers } = reading;
  useEffect(() => {
    void takeUpInterrupted(bench, reading);
    // Once when it is opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [bench, id]);
  return (
    <>
      <ReadingHead reading={reading} is="A small net that is taught by a few frames what is right, for all the others." />
      <div className="scroll" style={{ paddingBottom: 14 }}>
        <Row title="It learns">
          <Choice
            label="It learns"
            value={teaches}
            options={TEACHES}
            titles={TEACHES_TITLES}
            set={(v) => run('It learns', lessons.setTeaches(id, v))}
          />
        </Row>
        <OnStage reading={reading} />
        <ExampleRows reading={reading} />
        <TrainRows reading={reading} />
        <SurenessRows reading={reading} />
        <UseRows reading={reading} />
        <div className="group">Varied</div>
        {VARIATIONS.filter(
          (v) => teaches !== 'matte' || (v !== 'light' && v !== 'occluders') || settings.variation[v] > 0 || passers.length > 0,
        ).map((v) => (
          <Row key={v} title={TITLES[v][0]}>
            <span className="inline" title={TITLES[v][1]}>
              <NumberField
                label={TITLES[v][0]}
                value={settings.variation[v]}
                min={0}
                max={1}
                decimals={2}
                step={0.05}
                onChange={(x) => run('Variation', lessons.changeLesson(id, { variation: { [v]: x } }))}
                onProblem={() => undefined}
              />
            </span>
          </Row>
        ))}
        {[...passers, null].map((tap, i) => (
          <FeedField
            key={i}
            title={i === 0 ? 'Passers' : 'and'}
            help="A lane with a matte of what passes in front: it is laid over other frames too"
            step={id}
            feed={`passer ${i}`}
            tap={tap ?? undefined}
            matte={false}
            onTap={(t) =>
              run(
                'Passers',
                lessons.changeLesson(id, {
                  passers: t ? [...passers.slice(0, i), t, ...passers.slice(i + 1)] : passers.filter((_, k) => k !== i),
                }),
              )
            }
          />
        ))}
        <div className="group">Picture</div>
        <FeedField
          title="Looks at"
          help="The point of a lane that it is taught on, and applied after"
          step={id}
          tap={reading.from}
          matte={false}
          onTap={(tap) => tap && run('Looks at', lessons.lookAt(id, tap))}
        />
        <FrameRange reading={reading} />
        <Row title="Seed">
          <span className="inline" title="The same seed gives the same training">
            <NumberField
              label="Seed"
              value={settings.seed}
              whole
              min={0}
              max={1e9}
              step={1}
              onChange={(seed) => run('Seed', lessons.changeLesson(id, { seed }))}
              onProblem={() => undefined}
            />
          </span>
        </Row>
      </div>
    </>
  );
}

/** Which of picture, target and what is made now stands on the stage. */
function OnStage({ reading }: { reading: LessonReading }) {
  const now = useView((s) => s.lessonNow);
  const frame = useView((s) => s.frame);
  const seen = useView((s) => s.seen);
  const example = reading.examples.find((e) => e.frame === frame);
  const isTarget = !now && !!example && seen?.lane === example.target.lane && seen.after === example.target.after;
  const options = ['picture', 'now', ...(example ? ['target'] : [])] as const;
  return (
    <Row title="On the stage">
      <Choice
        label="On the stage"
        value={now ? 'now' : isTarget ? 'target' : 'picture'}
        options={options}
        titles={{ picture: 'The picture', now: 'What it makes of it', target: 'The target of this frame' }}
        set={(v) => view.set({ lessonNow: v === 'now', seen: v === 'target' ? example!.target : reading.from, layer: '' })}
      />
    </Row>
  );
}

function TrainRows({ reading }: { reading: LessonReading }) {
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
      <Row title="Minutes">
        <span className="inline" title="It stops by itself after so long">
          <NumberField
            label="Minutes"
            value={settings.minutes}
            min={0.1}
            max={600}
            decimals={1}
            step={0.5}
            onChange={(minutes) => run('Minutes', lessons.changeLesson(id, { minutes }))}
            onProblem={() => undefined}
          />
        </span>
      </Row>
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

function SurenessRows({ reading }: { reading: LessonReading }) {
  const bench = useBench();
  const job = useJob('training');
  const doubtful = reading.frames.filter((f) => f.flag);
  return (
    <>
      <div className="group">Sureness</div>
      <div className="measure">
        <Button disabled={!reading.weights || !!job} onClick={() => void measureSureness(bench, reading.id)}>
          {reading.frames.length ? 'Measure again' : 'Measure'}
        </Button>
      </div>
      {reading.frames.length > 0 && (
        <p className="said" data-testid="doubtful-frames">
          {doubtful.length === 0 ? 'No frame stands out.' : 'In doubt, to be drawn next: '}
          {doubtful.map((f) => (
            <button key={f.frame} className="pill mono" onClick={() => view.set({ frame: f.frame, playing: false })}>
              {f.frame}
            </button>
          ))}
        </p>
      )}
    </>
  );
}

/** Puts it into its lane. */
function UseRows({ reading }: { reading: LessonReading }) {
  const run = useRun();
  return (
    <>
      <div className="group">Use</div>
      <div className="measure">
        <Button
          variant="outlined"
          disabled={!reading.weights}
          onClick={() => {
            const made: { step?: string } = {};
            if (run('Apply a lesson', lessons.applyLesson(reading.id, made)))
              view.set({
                selection: { kind: 'step', id: made.step! },
                seen: { lane: reading.from.lane, after: made.step! },
                lessonNow: false,
                tab: 'lanes',
              });
          }}
        >
          Put it in the lane
        </Button>
      </div>
      <UsedBy reading={reading.id} />
    </>
  );
}
