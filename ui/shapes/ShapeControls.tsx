'use client';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import type { ReactNode } from 'react';
import type { Ease, Key, Step } from '@/core/document';
import { thinKeys } from '@/core/document';
import { number } from '@/core/param';
import type { Falloff, Operation, Shape, Spline } from '@/core/shape';
import {
  DOUBTFUL,
  FALLOFFS,
  KEYINGS,
  OPERATIONS,
  SPLINES,
  frozenShape,
  pointsAt,
  thawedShape,
  withFollows,
  withKeyAt,
  withoutKeyAt,
  writeSvg,
} from '@/core/shape';
import { changeSome } from '@/core/commands';
import { NumberPair } from '../controls/NumberPair';
import { saveBlob } from '../theme/save-blob';
import { toast } from '../theme/toast';
import { useBench, useRun, useSelectedLimited, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { snapShape } from './snapping';
import { shaping, useShaping } from './shaping';

const OPERATION_TITLES: Record<Operation, string> = { add: 'Add', subtract: 'Subtract', intersect: 'Intersect', exclude: 'Exclude' };
const FALLOFF_TITLES: Record<Falloff, string> = { linear: 'Linear', smooth: 'Smooth', gamma: 'Squared' };
const SPLINE_TITLES: Record<Spline, string> = { bezier: 'Bézier', smooth: 'B-spline' };
const EASE_TITLES: Record<Ease, string> = { linear: 'Linear', smooth: 'Smooth', hold: 'Hold' };
const KEYING_TITLES = { here: 'A key here', keyed: 'Keyed frames only', all: 'Every key alike' } as const;

const OPACITY = number('Opacity', 1, [0, 1], { min: 0, max: 1 });
const FEATHER = number('Feather', 0, [-60, 60], {
  unit: 'px',
  min: -4096,
  max: 4096,
  help: 'Outward where it is more than 0, inward where less.',
});
const WIDTH = number('Width', 8, [0, 60], { unit: 'px', min: 0, max: 4096 });

/** Keys that lie within this of what the others make are left out by Thin out, px. */
const THIN = 0.5;

function Row({ label, children, single }: { label: string; children: ReactNode; single?: boolean }) {
  return (
    <div className={`row${single ? '' : ' wide'}`}>
      <label className="ellipsis">{label}</label>
      {children}
      <span />
    </div>
  );
}

interface OneOfProps<T extends string> {
  label: string;
  value: T;
  of: readonly T[];
  titles: Record<T, string>;
  set(v: T): void;
}

function OneOf<T extends string>({ label, value, of, titles, set }: OneOfProps<T>) {
  return (
    <Row label={label}>
      <Select value={value} size="small" fullWidth inputProps={{ 'aria-label': label }} onChange={(e) => set(e.target.value as T)}>
        {of.map((o) => (
          <MenuItem key={o} value={o}>
            {titles[o]}
          </MenuItem>
        ))}
      </Select>
    </Row>
  );
}

/** What the shape in hand is like, what carries it, and its keys. */
export function ShapeControls({ step, shape }: { step: Step; shape: Shape }) {
  const run = useRun();
  const shot = useShot();
  const bench = useBench();
  const { lane } = useSelectedLimited()!;
  const frame = useView((s) => s.frame);
  const { keying, onion } = useShaping();
  const edit = (label: string, change: (s: Shape) => Shape, gesture?: string): void =>
    void run(
      label,
      changeSome(step.id, [shape.id], (s) => change(s)),
      gesture,
    );
  const set = (label: string, by: Partial<Shape>, gesture?: string): void => edit(label, (s) => ({ ...s, ...by }), gesture);
  const numberRow = (d: typeof OPACITY, name: 'opacity' | 'feather' | 'width'): ReactNode => {
    return (
      <Row label={d.title} single>
        <NumberPair
          d={d}
          value={shape[name]}
          set={(v, g) => set(`Shape ${d.title.toLowerCase()}`, { [name]: v }, g)}
          onProblem={(p) => p && toast('error', p)}
        />
      </Row>
    );
  };
  const { keys } = shape;
  const here = keys.find((k) => k.frame === frame);
  const snapped = keys.filter((k) => k.sure !== undefined).length;
  const unsure = keys.filter((k) => k.sure !== undefined && k.sure < DOUBTFUL);
  const doubtful = unsure.find((k) => k.frame > frame) ?? unsure[0];
  const before = keys.findLast((k) => k.frame < frame);
  const after = keys.find((k) => k.frame > frame);
  const go = (k: { frame: number } | undefined): void => k && view.set({ frame: k.frame, playing: false });

  const follow = (ids: readonly string[]): void => {
    const added = ids.find((id) => !shape.follows.includes(id));
    const kind = (id: string): string | undefined => shot.readings.find((r) => r.id === id)?.kind;
    // A plane carries it alone; of points up to four together.
    const next = added && kind(added) === 'plane' ? [added] : ids.filter((id) => kind(id) !== 'plane').slice(0, 4);
    run(
      'Follow',
      changeSome(step.id, [shape.id], (s, now) => withFollows(now, s, next)),
    );
  };
  const nameOf = (id: string): string => shot.readings.find((r) => r.id === id)?.name ?? 'a reading that is gone';
  const say = shape.follows.length === 3 ? 'Of three points the first two carry it.' : null;

  const saveSvg = (): void => {
    const { width, height } = shot.format;
    const text = writeSvg([{ ...shape, points: pointsAt(shot, shape, frame) }], width, height);
    saveBlob(new Blob([text], { type: 'image/svg+xml' }), `${shape.name}.${frame}.svg`);
  };
  const thin = (): void => {
    const left = thinKeys(keys as readonly Key[], new Set(keys.map((k) => k.frame)), THIN);
    set('Thin out keys', { keys: left as Shape['keys'] });
    toast('info', `${keys.length - left.length} of ${keys.length} keys went; no point is off by more than ${THIN} px.`);
  };

  return (
    <div className="shape-controls" inert={shape.locked === true}>
      <OneOf
        label="Operation"
        value={shape.operation}
        of={OPERATIONS}
        titles={OPERATION_TITLES}
        set={(operation) => set('Operation', { operation })}
      />
      <Row label="Follows">
        <Select
          multiple
          displayEmpty
          size="small"
          fullWidth
          value={[...shape.follows]}
          inputProps={{ 'aria-label': 'Follows' }}
          renderValue={(ids) => (ids.length === 0 ? 'Nothing' : ids.map(nameOf).join(', '))}
          onChange={(e) => follow(e.target.value as string[])}
        >
          {shot.readings.map((r) => (
            <MenuItem key={r.id} value={r.id}>
              {r.name} <small className="ash">&nbsp;{r.kind}</small>
            </MenuItem>
          ))}
          {shot.readings.length === 0 && <MenuItem disabled>Measure a point or a plane first</MenuItem>}
        </Select>
      </Row>
      {say && <small className="dust note-line">{say}</small>}
      {(shape.follows.length > 0 || shape.live) && (
        <div className="inline note-line">
          {shape.follows.length > 0 ? (
            <button
              className="pill"
              title="Writes where it is carried into keys, frame by frame"
              onClick={() =>
                run(
                  'Freeze shape',
                  changeSome(step.id, [shape.id], (s, now) => frozenShape(now, s, now.range)),
                )
              }
            >
              Freeze to keys
            </button>
          ) : (
            <button
              className="pill"
              title="What carried it carries it again, with the keys that it had"
              onClick={() => edit('Unfreeze shape', thawedShape)}
            >
              Unfreeze
            </button>
          )}
        </div>
      )}
      {numberRow(FEATHER, 'feather')}
      <OneOf label="Falloff" value={shape.falloff} of={FALLOFFS} titles={FALLOFF_TITLES} set={(falloff) => set('Falloff', { falloff })} />
      {numberRow(OPACITY, 'opacity')}
      {!shape.closed && numberRow(WIDTH, 'width')}
      <OneOf label="Curve" value={shape.spline} of={SPLINES} titles={SPLINE_TITLES} set={(spline) => set('Curve', { spline })} />
      <Row label="Closed">
        <Switch
          size="small"
          checked={shape.closed}
          slotProps={{ input: { 'aria-label': 'Closed' } }}
          onChange={() => set(shape.closed ? 'Open shape' : 'Close shape', { closed: !shape.closed })}
        />
      </Row>
      <div className="group">Keys</div>
      <div className="inline note-line">
        <button className="pill" disabled={!before} aria-label="Shape's previous key" onClick={() => go(before)}>
          ◂
        </button>
        <button
          className={`diamond keyed${here ? ' here' : ''}`}
          aria-label="Shape's key"
          aria-pressed={here !== undefined}
          title={here ? 'Take the key at this frame away' : 'Set a key at this frame'}
          onClick={() =>
            run(
              here ? 'Remove shape key' : 'Set shape key',
              changeSome(step.id, [shape.id], (s, now) => (here ? withoutKeyAt(s, frame) : withKeyAt(now, s, frame))),
            )
          }
        />
        <button className="pill" disabled={!after} aria-label="Shape's next key" onClick={() => go(after)}>
          ▸
        </button>
        <span className="dust">
          {keys.length === 1 ? 'one key' : `${keys.length} keys`}
          {keys.length <= 6 ? `: ${keys.map((k) => k.frame).join(', ')}` : ''}
        </span>
        <span className="grow" />
        {keys.length > 2 && (
          <button className="pill" title={`Leaves out keys that the others make within ${THIN} px`} onClick={thin}>
            Thin out
          </button>
        )}
      </div>
      {keys.length > 1 && (
        <div className="inline note-line">
          <button
            className="pill"
            title="On the frames between its keys the outline is drawn to the picture's edges, as they are at the keys"
            onClick={() => void snapShape(bench, lane, step, shape)}
          >
            Snap between keys
          </button>
          {snapped > 0 && (
            <button
              className="pill"
              title="Takes away the keys that were found in the picture; your own stay"
              onClick={() => edit('Remove snapped keys', (s) => ({ ...s, keys: s.keys.filter((k) => k.sure === undefined) }))}
            >
              Remove {snapped} snapped
            </button>
          )}
          {doubtful && (
            <button className="pill mod" title="The next key that was found and is not sure" onClick={() => go(doubtful)}>
              Next doubtful ▸
            </button>
          )}
        </div>
      )}
      {here?.sure !== undefined && (
        <small className={`note-line ${here.sure < DOUBTFUL ? 'doubt' : 'dust'}`}>
          Found in the picture, confidence {Math.round(100 * here.sure)} %. Moving it makes it yours.
        </small>
      )}
      <OneOf
        label="Between keys"
        value={(here ?? before ?? keys[0]!).ease}
        of={['linear', 'smooth', 'hold']}
        titles={EASE_TITLES}
        set={(ease) => edit('Between keys', (s) => ({ ...s, keys: s.keys.map((k) => ({ ...k, ease })) }))}
      />
      <OneOf label="Moving sets" value={keying} of={KEYINGS} titles={KEYING_TITLES} set={(k) => shaping.set({ keying: k })} />
      <Row label="Onion skin">
        <Switch
          size="small"
          checked={onion}
          slotProps={{ input: { 'aria-label': 'Onion skin' } }}
          onChange={() => shaping.set({ onion: !onion })}
        />
      </Row>
      <div className="inline note-line">
        <button className="pill" title="The outline on this frame as an SVG file" onClick={saveSvg}>
          Save as SVG
        </button>
      </div>
    </div>
  );
}
