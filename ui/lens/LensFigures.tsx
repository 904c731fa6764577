'use client';
import type { Tap } from '@/core/document';
import type { ChartFrame } from '@/core/lens';
import { LENS_MODELS, foldInside, straightened, unseenParts } from '@/core/lens';
import type { LensReading } from '@/core/readings';
import { lensCommands, usersOfReading } from '@/core/commands';
import { Row } from '../readings/rows';
import { useBench, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { changeAndSolve } from './lens-jobs';

/** Crossings listed at most: the worst ones. */
const LISTED = 14;

/** What was solved, how well it fits, what speaks against it, and the crossings that fit least. */
export function LensFigures({ reading }: { reading: LensReading }) {
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
        void changeAndSolve(bench, id, c.used ? 'Throw out crossing' : 'Use crossing', lensCommands.countCrossings(id, frame, [c], !c.used))
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
