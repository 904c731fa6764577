'use client';
import Button from '@mui/material/Button';
import { useEffect } from 'react';
import type { Variation } from '@/core/learn';
import { TEACHES, VARIATIONS } from '@/core/learn';
import type { LessonReading } from '@/core/readings';
import { lessons } from '@/core/commands';
import { FeedField } from '../controls/FeedField';
import { useJob } from '../jobs/jobs';
import { FrameRange } from '../readings/FrameRange';
import { ReadingHead } from '../readings/ReadingHead';
import { Choice, NumberRow, Row } from '../readings/rows';
import { UsedBy } from '../readings/UsedBy';
import { useBench, useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { ExampleRows } from './ExampleRows';
import { TEACHES_TITLES } from './titles';
import { TrainRows } from './TrainRows';
import { measureSureness, takeUpInterrupted } from './training';

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
          <NumberRow
            key={v}
            title={TITLES[v][0]}
            help={TITLES[v][1]}
            value={settings.variation[v]}
            min={0}
            max={1}
            decimals={2}
            step={0.05}
            set={(x) => run('Variation', lessons.changeLesson(id, { variation: { [v]: x } }))}
          />
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
        <NumberRow
          title="Seed"
          help="The same seed gives the same training"
          value={settings.seed}
          min={0}
          max={1e9}
          set={(seed) => run('Seed', lessons.changeLesson(id, { seed }))}
        />
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
