'use client';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import type { ParamOf } from '@/core/param';
import type { FieldProps } from './field-props';
import { NumberField, useGesture } from './NumberField';

/** What an arrow press changes a number by: a hundredth of its range, as a power of ten. */
export const stepOf = (soft: readonly [number, number]): number => 10 ** Math.floor(Math.log10((soft[1] - soft[0]) / 100));

/** A number as a slider and a field. */
export function NumberPair({
  d,
  value,
  set,
  onProblem,
}: Omit<FieldProps<ParamOf<'number'> | ParamOf<'integer'>, number>, 'step' | 'name' | 'Row'>) {
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
