'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import { useState } from 'react';
import type { Tap } from '@/core/document';
import type { LessonReading } from '@/core/readings';
import { lessons } from '@/core/commands';
import { CloseIcon } from '@/ui/theme/icons';
import { FeedField } from '../controls/FeedField';
import { useBench, useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { useTraining } from './live';
import { suggestFrames } from './training';

/** A frame whose loss is so many times that of the others does not fit them. */
const HARD = 3;

/** The frames that a lesson is shown, and what is right on each. */
export function ExampleRows({ reading }: { reading: LessonReading }) {
  const run = useRun();
  const bench = useBench();
  const frame = useView((s) => s.frame);
  const hard = useTraining((s) => (s.reading === reading.id ? s.report : null));
  const [suggested, setSuggested] = useState<readonly number[]>([]);
  const [target, setTarget] = useState<Tap | null>(null);
  const { id, examples } = reading;
  // What the last frame was shown by is the first guess for the next.
  const usual = target ?? examples.at(-1)?.target ?? null;
  const losses = (hard?.hard ?? []).map(([, loss]) => loss).sort((a, b) => a - b);
  const middle = losses[Math.floor(losses.length / 2)] ?? 0;
  const stays = (f: number): boolean =>
    (hard?.step ?? 0) > 600 && losses.length > 2 && (hard?.hard.find(([x]) => x === f)?.[1] ?? 0) > HARD * middle;
  const open = suggested.filter((f) => !examples.some((e) => e.frame === f));
  return (
    <>
      <div className="group">Frames it is shown</div>
      {examples.map((e) => (
        <div key={e.frame} className={`example${e.frame === frame ? ' here' : ''}`} data-testid={`example ${e.frame}`}>
          <button className="pill mono" title="Go to this frame" onClick={() => view.set({ frame: e.frame, playing: false })}>
            {e.frame}
          </button>
          <span className="grow">
            <FeedField
              title="Target"
              help="The lane that is right on this frame"
              step={id}
              feed={`example ${e.frame}`}
              tap={e.target}
              matte={false}
              onTap={(tap) => tap && run('Target', lessons.changeExample(id, e.frame, { target: tap }))}
            />
            {stays(e.frame) && (
              <small className="warn-text" role="status">
                stays hard: does its target agree with those of the other frames?
              </small>
            )}
          </span>
          <label className="inline" title="Not learnt from: how well the lesson does is measured on it">
            <Checkbox
              size="small"
              checked={e.held}
              onChange={(x) => run('Hold back', lessons.changeExample(id, e.frame, { held: x.target.checked }))}
              slotProps={{ input: { 'aria-label': `Hold back frame ${e.frame}` } }}
            />
            hold back
          </label>
          <IconButton
            aria-label={`Take frame ${e.frame} out`}
            onClick={() => run('Take a frame out', lessons.changeExample(id, e.frame, null))}
          >
            <CloseIcon sx={{ fontSize: 14 }} />
          </IconButton>
        </div>
      ))}
      <FeedField
        title="Target of the next"
        help="A lane that is right on the frame: of a matte its alpha counts, else its colour"
        step={id}
        feed="next target"
        tap={usual ?? undefined}
        matte={false}
        onTap={setTarget}
      />
      <div className="measure">
        <Button
          variant={examples.length === 0 ? 'contained' : 'outlined'}
          color="secondary"
          disabled={!usual || examples.some((e) => e.frame === frame)}
          onClick={() => usual && run('Show a frame', lessons.addExample(id, frame, usual))}
        >
          Show frame {frame}
        </Button>
        <Button title="Frames that would teach most" onClick={() => void suggestFrames(bench, id, 4).then(setSuggested)}>
          Which next?
        </Button>
      </div>
      {open.length > 0 && (
        <p className="said" data-testid="suggested-frames">
          These would teach most:{' '}
          {open.map((f) => (
            <button key={f} className="pill mono" onClick={() => view.set({ frame: f, playing: false })}>
              {f}
            </button>
          ))}
        </p>
      )}
    </>
  );
}
