'use client';
import ListSubheader from '@mui/material/ListSubheader';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import type { ParamOf } from '@/core/param';
import type { Part } from '@/core/params';
import type { CameraReading } from '@/core/readings';
import type { FieldProps } from '../controls/field-props';
import { useShotPart } from '../workbench/context';

const NONE = { part: 'Nothing', anchor: 'The origin', group: 'All points' } as const;

/** Another thing of the step, a group of points, or where something stands: a group's middle, its plane, or a point. */
export function NameField({ d, value, set, step, name }: FieldProps<ParamOf<'name'>, string>) {
  const camera = useShotPart('readings').find((r): r is CameraReading => r.id === step.params.camera && r.kind === 'camera');
  const own = name.split('.')[0];
  const entries: { value: string; title: string; head?: string }[] = [];
  if (d.of === 'part') {
    const parts = (Array.isArray(step.params.things) ? step.params.things : []) as unknown as readonly Part[];
    entries.push(...parts.filter((p) => p.id !== own).map((p) => ({ value: p.id, title: p.name })));
  } else if (camera && d.of === 'group') {
    entries.push(...camera.groups.map((g) => ({ value: g.id, title: g.name })));
  } else if (camera) {
    entries.push(
      ...camera.groups.flatMap((g) => [
        { value: `group:${g.id}`, title: `Middle of ${g.name}` },
        { value: `plane:${g.id}`, title: `On the plane of ${g.name}` },
      ]),
    );
  }
  const point = value.startsWith('point:') ? value.slice(6) : null;
  const known = value === '' || point !== null || entries.some((e) => e.value === value);
  return (
    <Select value={value} displayEmpty size="small" fullWidth inputProps={{ 'aria-label': d.title }} onChange={(e) => set(e.target.value)}>
      <MenuItem value="">{NONE[d.of]}</MenuItem>
      {entries.length > 0 && d.of === 'anchor' && <ListSubheader>Groups</ListSubheader>}
      {entries.map((e) => (
        <MenuItem key={e.value} value={e.value}>
          {e.title}
        </MenuItem>
      ))}
      {point !== null && <MenuItem value={value}>Point {point}</MenuItem>}
      {!known && <MenuItem value={value}>Something that is gone</MenuItem>}
    </Select>
  );
}
