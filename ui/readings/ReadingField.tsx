'use client';
import { isTrack } from '@/core/readings';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useShotPart } from '../workbench/context';

interface Props {
  value: string;
  title: string;
  accepts: 'point' | 'plane' | 'lens' | 'camera' | 'lesson' | 'any';
  set(v: string): void;
}

/** A reading of the shot, of the kind that the step takes. */
export function ReadingField({ value, title, accepts, set }: Props) {
  const fitting = useShotPart('readings').filter((r) => (accepts === 'any' ? isTrack(r) : r.kind === accepts));
  return (
    <Select value={value} displayEmpty size="small" fullWidth inputProps={{ 'aria-label': title }} onChange={(e) => set(e.target.value)}>
      <MenuItem value="">None</MenuItem>
      {fitting.map((r) => (
        <MenuItem key={r.id} value={r.id}>
          {r.name}
        </MenuItem>
      ))}
      {value !== '' && !fitting.some((r) => r.id === value) && <MenuItem value={value}>A reading that is gone</MenuItem>}
    </Select>
  );
}
