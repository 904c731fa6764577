'use client';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';

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
