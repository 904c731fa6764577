'use client';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import Tooltip from '@mui/material/Tooltip';
import type { ComponentType } from 'react';
import { useState } from 'react';
import type { Curve } from '@/core/curves';
import type { ColourSample } from '@/core/keying';
import { passesOf } from '@/core/layers';
import type { ParamDefinition, ParamOf } from '@/core/param';
import type { Stroke } from '@/core/paint';
import { passOf } from '@/core/passes';
import { ColorizeIcon } from '@/ui/theme/icons';
import { useInput } from '../passes/use-input';
import { PartsField } from '../passes/PartsField';
import { PicksField } from '../passes/PicksField';
import { ReadingField } from '../readings/ReadingField';
import { useShotPart } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { CurvesField } from './CurvesField';
import { fromHex, hexOf } from './hex';
import type { FieldProps } from './field-props';
import { FormulaField } from './FormulaField';
import { GrainField } from '../clean/GrainField';
import { NumberField, newGesture } from './NumberField';
import { NumberPair, stepOf } from './NumberPair';
import { ShapesField } from '../shapes/ShapesField';
import { NameField } from '../space/NameField';
import { SamplesField } from './SamplesField';
import { StrokesField } from '../paint/StrokesField';

function ToggleField({ d, value, set }: FieldProps<ParamOf<'toggle'>, boolean>) {
  return <Switch size="small" checked={value} slotProps={{ input: { 'aria-label': d.title } }} onChange={(e) => set(e.target.checked)} />;
}

function ChoiceField({ d, value, set }: FieldProps<ParamOf<'choice'>, string>) {
  return (
    <Select value={value} size="small" fullWidth inputProps={{ 'aria-label': d.title }} onChange={(e) => set(e.target.value)}>
      {d.options.map((o) => (
        <MenuItem key={o.value} value={o.value} title={o.help ?? ''}>
          {o.title}
        </MenuItem>
      ))}
    </Select>
  );
}

function Numbers({ d, value, set, onProblem }: FieldProps<ParamOf<'triple'> | ParamOf<'point'> | ParamOf<'box'>, readonly number[]>) {
  const soft = d.kind === 'triple' ? d.soft : ([0, 100] as const);
  const factor = ('unit' in d && d.unit === 'px') || d.kind === 'box';
  const parts = d.kind === 'triple' ? ['red', 'green', 'blue'] : ['x', 'y', 'x 2', 'y 2'];
  const limits = d.kind === 'triple' || d.kind === 'point' ? { min: d.min, max: d.max } : {};
  return (
    <div className={`triple${value.length % 2 === 0 ? ' two' : ''}`}>
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
  d: { title, pick },
  value,
  set,
  step: { id: step },
  name,
  onProblem,
}: FieldProps<ParamOf<'colour'>, readonly number[]>) {
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

function LayerField({ d: { title, role, none }, value, set, step }: FieldProps<ParamOf<'layer'>, string>) {
  const sources = useShotPart('sources');
  const { info } = useInput(step.id);
  const passes = info?.passes;
  // Of data those that it may be come first.
  const layers = passes
    ? [...passes].sort((a, b) => Number(b.role === role) - Number(a.role === role)).map((p) => p.name)
    : [...new Set(passesOf(['R', ...sources.flatMap((s) => s.channels)]).map((p) => p.name))];
  const own = role || none ? layers.filter((l) => l !== '') : layers;
  const all = [...(role || none ? [''] : []), ...own, ...(value !== '' && !own.includes(value) ? [value] : [])];
  const found = role && passOf(passes, '', role)?.name;
  const empty = none ?? (role ? `Found: ${found ?? 'none'}` : 'main');
  return (
    <Select value={value} displayEmpty size="small" fullWidth inputProps={{ 'aria-label': title }} onChange={(e) => set(e.target.value)}>
      {all.map((l) => (
        <MenuItem key={l} value={l}>
          {l || empty}
        </MenuItem>
      ))}
    </Select>
  );
}

/** A source that is no picture. */
function SourceField({ kind, gone, hint, title, value, set }: SourceFieldProps) {
  const fitting = useShotPart('sources').filter((s) => s.kind === kind);
  return (
    <>
      <Select value={value} displayEmpty size="small" fullWidth inputProps={{ 'aria-label': title }} onChange={(e) => set(e.target.value)}>
        <MenuItem value="">None</MenuItem>
        {fitting.map((t) => (
          <MenuItem key={t.id} value={t.id}>
            {t.name}
          </MenuItem>
        ))}
        {value !== '' && !fitting.some((t) => t.id === value) && <MenuItem value={value}>{gone}</MenuItem>}
      </Select>
      {fitting.length === 0 && <small className="bad-note dust">{hint}</small>}
    </>
  );
}
interface SourceFieldProps {
  kind: 'lut' | 'model';
  gone: string;
  hint: string;
  title: string;
  value: string;
  set(v: string): void;
}

const TableField = ({ d, value, set }: FieldProps<ParamOf<'table'>, string>) => (
  <SourceField
    kind="lut"
    gone="A table that is gone"
    hint="Bring in a .cube file: it becomes a source, and can be chosen here."
    title={d.title}
    value={value}
    set={set}
  />
);

const ModelField = ({ d, value, set }: FieldProps<ParamOf<'model'>, string>) => (
  <SourceField
    kind="model"
    gone="A model that is gone"
    hint="Bring in a .glb, .gltf or .obj file: it becomes a source, and can be chosen here."
    title={d.title}
    value={value}
    set={set}
  />
);

type Fields = { readonly [K in ParamDefinition['kind']]: ComponentType<FieldProps<ParamOf<K>, never>> };

/** How each kind of parameters is edited. */
const BY_KIND: Fields = {
  number: NumberPair,
  integer: NumberPair,
  toggle: ToggleField,
  choice: ChoiceField,
  colour: ColourField,
  triple: Numbers,
  point: Numbers,
  box: Numbers,
  layer: LayerField,
  table: TableField,
  model: ModelField,
  name: NameField,
  camera: ({ d, value, set }: FieldProps<ParamOf<'camera'>, string>) => (
    <ReadingField value={value} set={set} title={d.title} accepts="camera" />
  ),
  lesson: ({ d, value, set }: FieldProps<ParamOf<'lesson'>, string>) => (
    <ReadingField value={value} set={set} title={d.title} accepts="lesson" />
  ),
  reading: ({ d, value, set }: FieldProps<ParamOf<'reading'>, string>) => (
    <ReadingField value={value} set={set} title={d.title} accepts={d.accepts} />
  ),
  lens: ({ d, value, set }: FieldProps<ParamOf<'lens'>, string>) => <ReadingField value={value} set={set} title={d.title} accepts="lens" />,
  samples: ({ value, set, step, name }: FieldProps<ParamOf<'samples'>, readonly ColourSample[]>) => (
    <SamplesField value={value} set={set} step={step.id} name={name} />
  ),
  strokes: ({ value, set, step }: FieldProps<ParamOf<'strokes'>, readonly Stroke[]>) => (
    <StrokesField value={value} set={set} step={step.id} />
  ),
  grain: GrainField,
  formula: FormulaField,
  shapes: ({ step }: FieldProps<ParamOf<'shapes'>>) => <ShapesField step={step} />,
  parts: PartsField,
  picks: PicksField,
  curves: ({ d, value, set }: FieldProps<ParamOf<'curves'>, readonly Curve[]>) => <CurvesField value={value} set={set} title={d.title} />,
};

export const FIELDS = BY_KIND as unknown as Record<ParamDefinition['kind'], ComponentType<FieldProps>>;

/** Kinds whose field lies under the label, across the panel. */
export const STACKED: readonly ParamDefinition['kind'][] = ['strokes', 'curves', 'shapes', 'grain', 'formula', 'parts', 'picks'];
