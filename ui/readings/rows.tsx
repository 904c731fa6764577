'use client';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { NumberField } from '../controls/NumberField';

const TITLES: Record<string, string> = {
  shift: 'Shift',
  similarity: 'Shift, turn, scale',
  affine: 'Affine',
  perspective: 'Perspective',
  never: 'Never: the first stays',
  every: 'Every frame',
  guarded: 'Guarded: held to the first',
  stop: 'Stop there',
  predict: 'Go on, and look again',
};

/** A row of the controls: its name, and what sets it. */
export function Row({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div className="row wide">
      <label className="ellipsis">{title}</label>
      <div>{children}</div>
      <span />
    </div>
  );
}

interface NumberRowProps {
  title: string;
  help: string;
  value: number;
  min: number;
  max: number;
  /** 0 is whole numbers. */
  decimals?: number;
  /** What a step of its arrows or a pixel of a drag is. */
  step?: number;
  set(v: number, gesture?: string): void;
}

/** A number of something that is read, in a row of its own. */
export function NumberRow({ title, help, value, min, max, decimals = 0, step = 1, set }: NumberRowProps) {
  return (
    <Row title={title}>
      <span className="inline" title={help}>
        <NumberField
          label={title}
          value={value}
          min={min}
          max={max}
          decimals={decimals}
          whole={decimals === 0}
          step={step}
          onChange={set}
          onProblem={() => undefined}
        />
      </span>
    </Row>
  );
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly T[];
  /** What they are called on screen; themselves unless said. */
  titles?: Readonly<Record<string, string>>;
  set(v: T): void;
}

export function Choice<T extends string>({ label, value, options, titles = TITLES, set }: ChoiceProps<T>) {
  return (
    <Select size="small" fullWidth value={value} inputProps={{ 'aria-label': label }} onChange={(e) => set(e.target.value as T)}>
      {options.map((o) => (
        <MenuItem key={o} value={o}>
          {titles[o] ?? o}
        </MenuItem>
      ))}
    </Select>
  );
}
