'use client';
import ColorizeIcon from '@mui/icons-material/Colorize';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import Switch from '@mui/material/Switch';
import Tooltip from '@mui/material/Tooltip';
import { memo, useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { admit, isKeyed, isLink, resolveParam } from '@/core/document/params';
import type { Param, Step, Value } from '@/core/document/types';
import type { ParamDefinition } from '@/core/param';
import { passesOf } from '@/core/layers';
import * as commands from '@/store/commands';
import { useRun, useShotPart, useShotState } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { LinkLine, useParamMenu } from './ParamMenu';
import { fromHex, hexOf } from './hex';
import { SamplesField } from './SamplesField';
import { ReadingField } from '../readings/ReadingField';
import { StrokesField } from './StrokesField';
import { NumberField, newGesture, useGesture } from './NumberField';

interface RowProps {
  step: Step;
  name: string;
  definition: ParamDefinition;
}

const paramOf = (step: Step, name: string): Param | undefined => (name === 'mix' ? step.mix : step.params[name]);

/** One parameter: label, field and key diamond, all from its definition. Drawn anew only where its own value is another. */
export const ParamRow = memo(
  Row,
  (a, b) =>
    a.step.id === b.step.id && a.name === b.name && a.definition === b.definition && paramOf(a.step, a.name) === paramOf(b.step, b.name),
);

function Row({ step, name, definition: d }: RowProps) {
  const run = useRun();
  const param = paramOf(step, name);
  const moves = isKeyed(param) || isLink(param);
  // A constant is the same at every frame: its row is not drawn for each.
  const shownAt = useView((s) => (moves ? s.frame : null));
  const frame = shownAt ?? view.get().frame;
  const [problem, setProblem] = useState<string | null>(null);
  // What it follows may change while its own parameter stays.
  const value = useShotState(useShallow(({ shot }) => admit(d, resolveParam(shot, param, d.default, frame))));
  const changed = name === 'mix' ? step.mix !== 1 : param !== undefined;
  const set = (v: Value, gesture?: string): void =>
    void run(`Change ${d.title.toLowerCase()}`, commands.setParams(step.id, { [name]: v }, view.get().frame), gesture);
  const keyed = isKeyed(param);
  const here = keyed && param.keys.some((k) => k.frame === frame);
  const menu = useParamMenu(step, name, d, param, value);
  const single = d.kind === 'number' || d.kind === 'integer';
  return (
    <div className={`row${single ? '' : d.kind === 'strokes' ? ' stacked' : ' wide'}`}>
      <Tooltip title={[d.help, 'Double-click resets, right-click offers more.'].filter(Boolean).join(' ')} placement="left">
        <label
          className={`ellipsis${changed ? ' changed' : ''}`}
          onContextMenu={(e) => {
            e.preventDefault();
            menu.open(e.currentTarget);
          }}
          onDoubleClick={() => run(`Reset ${d.title.toLowerCase()}`, commands.resetParam(step.id, name))}
        >
          {d.title}
        </label>
      </Tooltip>
      <Field d={d} value={value} set={set} step={step} name={name} onProblem={setProblem} />
      {d.animatable === false ? (
        <span />
      ) : (
        <Tooltip title={here ? 'Take the key at this frame away' : keyed ? 'Set a key at this frame' : 'Set a first key at this frame'}>
          <button
            className={`diamond${keyed ? ' keyed' : ''}${here ? ' here' : ''}`}
            aria-label={`Key of ${d.title}`}
            aria-pressed={here}
            onClick={() => run(here ? 'Remove key' : 'Set key', commands.toggleKey(step.id, name, value, view.get().frame))}
          />
        </Tooltip>
      )}
      {isLink(param) && <LinkLine step={step} name={name} d={d} param={param} value={value} />}
      {menu.elements}
      {problem && (
        <span className="bad-note" role="alert">
          {problem}
        </span>
      )}
    </div>
  );
}

interface FieldProps {
  d: ParamDefinition;
  value: Value;
  set(v: Value, gesture?: string): void;
  step: Step;
  name: string;
  onProblem(p: string | null): void;
}

function Field({ d, value, set, step, name, onProblem }: FieldProps) {
  switch (d.kind) {
    case 'number':
    case 'integer':
      return <NumberPair d={d} value={value as number} set={set} onProblem={onProblem} />;
    case 'toggle':
      return (
        <Switch
          size="small"
          checked={value as boolean}
          slotProps={{ input: { 'aria-label': d.title } }}
          onChange={(e) => set(e.target.checked)}
        />
      );
    case 'choice':
      return (
        <Select value={value as string} size="small" fullWidth inputProps={{ 'aria-label': d.title }} onChange={(e) => set(e.target.value)}>
          {d.options.map((o) => (
            <MenuItem key={o.value} value={o.value} title={o.help ?? ''}>
              {o.title}
            </MenuItem>
          ))}
        </Select>
      );
    case 'samples':
      return <SamplesField value={value as string} set={set} step={step.id} name={name} />;
    case 'strokes':
      return <StrokesField value={value as string} set={set} step={step.id} />;
    case 'reading':
      return <ReadingField value={value as string} set={set} title={d.title} accepts={d.accepts} />;
    case 'table':
      return <TableField value={value as string} set={set} title={d.title} />;
    case 'layer':
      return <LayerField value={value as string} set={set} title={d.title} />;
    case 'colour':
      return (
        <ColourField
          title={d.title}
          value={value as readonly number[]}
          set={set}
          step={step.id}
          name={name}
          pick={d.pick === true}
          onProblem={onProblem}
        />
      );
    default:
      return <Numbers d={d} value={value as readonly number[]} set={set} onProblem={onProblem} />;
  }
}

const stepOf = (soft: readonly [number, number]): number => 10 ** Math.floor(Math.log10((soft[1] - soft[0]) / 100));

function NumberPair({
  d,
  value,
  set,
  onProblem,
}: { d: ParamDefinition & { kind: 'number' | 'integer' }; value: number } & Pick<FieldProps, 'set' | 'onProblem'>) {
  const gesture = useGesture();
  const step = d.kind === 'integer' ? 1 : stepOf(d.soft);
  const title = d.unit ? `${d.title} (${d.unit})` : d.title;
  return (
    <>
      <Slider
        size="small"
        aria-label={`${d.title} slider`}
        min={d.soft[0]}
        max={d.soft[1]}
        step={step}
        value={Math.min(d.soft[1], Math.max(d.soft[0], value))}
        onPointerDown={gesture.begin}
        onChange={(_, v) => set(v as number, gesture.id())}
        onChangeCommitted={gesture.end}
      />
      <Tooltip title={d.unit ?? ''}>
        <span>
          <NumberField
            label={title}
            value={value}
            min={d.min}
            max={d.max}
            whole={d.kind === 'integer'}
            decimals={d.decimals}
            step={step}
            onChange={set}
            onProblem={onProblem}
          />
        </span>
      </Tooltip>
    </>
  );
}

function Numbers({ d, value, set, onProblem }: { d: ParamDefinition; value: readonly number[] } & Pick<FieldProps, 'set' | 'onProblem'>) {
  const soft = d.kind === 'triple' ? d.soft : ([0, 100] as const);
  const factor = 'unit' in d && d.unit === 'px';
  const parts = d.kind === 'triple' ? ['red', 'green', 'blue'] : ['x', 'y', 'x 2', 'y 2'];
  const limits = d.kind === 'triple' || d.kind === 'point' ? { min: d.min, max: d.max } : {};
  return (
    <div className={`triple${value.length === 2 ? ' two' : ''}`}>
      {value.map((v, i) => (
        <NumberField
          key={i}
          label={`${d.title} ${parts[i]}`}
          value={v}
          {...limits}
          decimals={factor ? 1 : 3}
          step={factor ? 1 : d.kind === 'triple' ? stepOf(soft) : 0.01}
          onChange={(x, gesture) =>
            set(
              value.map((o, k) => (k === i ? x : o)),
              gesture,
            )
          }
          onProblem={onProblem}
        />
      ))}
    </div>
  );
}

function ColourField({
  title,
  value,
  set,
  step,
  name,
  pick,
  onProblem,
}: { title: string; value: readonly number[]; step: string; name: string; pick: boolean } & Pick<FieldProps, 'set' | 'onProblem'>) {
  const picking = useView((s) => s.picking);
  const on = picking?.step === step && picking.param === name;
  const [gesture, setGesture] = useState(newGesture);
  return (
    <div className="colourfield">
      <input
        type="color"
        className="swatch"
        aria-label={`${title} swatch`}
        value={hexOf(value)}
        onFocus={() => setGesture(newGesture())}
        onChange={(e) => set(fromHex(e.target.value), gesture)}
        style={{ background: hexOf(value) }}
      />
      <div className="triple grow">
        {value.map((v, i) => (
          <NumberField
            key={i}
            label={`${title} ${['red', 'green', 'blue'][i]}`}
            value={v}
            decimals={3}
            bare
            step={0.002}
            onChange={(x, g) =>
              set(
                value.map((o, k) => (k === i ? x : o)),
                g,
              )
            }
            onProblem={onProblem}
          />
        ))}
      </div>
      {pick && (
        <Tooltip title="Pick from the stage: click, or drag a box">
          <IconButton
            aria-label={`Pick ${title}`}
            aria-pressed={on}
            color={on ? 'secondary' : 'default'}
            onClick={() => view.set({ picking: on ? null : { step, param: name } })}
          >
            <ColorizeIcon sx={{ fontSize: 15 }} />
          </IconButton>
        </Tooltip>
      )}
    </div>
  );
}

function LayerField({ value, set, title }: { value: string; set(v: Value): void; title: string }) {
  const sources = useShotPart('sources');
  const layers = [...new Set(passesOf(['R', ...sources.flatMap((s) => s.channels)]).map((p) => p.name))];
  const all = layers.includes(value) ? layers : [...layers, value];
  return (
    <Select value={value} displayEmpty size="small" fullWidth inputProps={{ 'aria-label': title }} onChange={(e) => set(e.target.value)}>
      {all.map((l) => (
        <MenuItem key={l} value={l}>
          {l || 'main'}
        </MenuItem>
      ))}
    </Select>
  );
}

function TableField({ value, set, title }: { value: string; set(v: Value): void; title: string }) {
  const tables = useShotPart('sources').filter((s) => s.kind === 'lut');
  return (
    <>
      <Select value={value} displayEmpty size="small" fullWidth inputProps={{ 'aria-label': title }} onChange={(e) => set(e.target.value)}>
        <MenuItem value="">None</MenuItem>
        {tables.map((t) => (
          <MenuItem key={t.id} value={t.id}>
            {t.name}
          </MenuItem>
        ))}
        {value !== '' && !tables.some((t) => t.id === value) && <MenuItem value={value}>A table that is gone</MenuItem>}
      </Select>
      {tables.length === 0 && <small className="bad-note dust">Bring in a .cube file: it becomes a source, and can be chosen here.</small>}
    </>
  );
}
