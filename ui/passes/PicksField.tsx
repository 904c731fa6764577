'use client';
import IconButton from '@mui/material/IconButton';
import Autocomplete from '@mui/material/Autocomplete';
import TextField from '@mui/material/TextField';
import Button from '@mui/material/Button';
import type { ParamOf } from '@/core/param';
import type { IdPick } from '@/core/passes';
import { idSetOf } from '@/core/passes';
import { CloseIcon } from '@/ui/theme/icons';
import type { FieldProps } from '../controls/field-props';
import { useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { idNames, useInput } from './use-input';

/** Things of a render: picked on the stage, or found by name. */
export function PicksField({ value, set, step, name }: FieldProps<ParamOf<'picks'>, readonly IdPick[]>) {
  const shot = useShot();
  const { info } = useInput(step.id);
  const picking = useView((s) => s.picking);
  const on = picking?.step === step.id && picking.data === 'id';
  const ids = info && idSetOf(info, typeof step.params.set === 'string' ? step.params.set : '');
  const names = ids ? idNames(shot, ids.name) : {};
  const rest = Object.entries(names)
    .filter(([id]) => !value.some((p) => p.id === id))
    .map(([id, text]): IdPick => ({ id, name: text }))
    .sort((a, b) => a.name!.localeCompare(b.name!));
  const put = (list: readonly IdPick[]): void => set(list as never);
  return (
    <div className="samples picks">
      <Button
        variant="outlined"
        aria-pressed={on}
        color={on ? 'secondary' : 'primary'}
        disabled={!ids}
        title="Click things on the stage, or drag over them; a click on a picked one drops it; Escape ends it"
        onClick={() => view.set({ picking: on ? null : { step: step.id, param: name, data: 'id' } })}
      >
        {on ? 'Picking: click things' : 'Pick on the picture'}
      </Button>
      {value.map((p) => (
        <div key={p.id} className="sample" data-testid={`thing ${p.name ?? p.id}`}>
          <span className="ellipsis grow" title={p.id}>
            {p.name ?? names[p.id] ?? <span className="mono">{p.id}</span>}
          </span>
          <IconButton aria-label={`Drop ${p.name ?? p.id}`} onClick={() => put(value.filter((o) => o !== p))}>
            <CloseIcon sx={{ fontSize: 14 }} />
          </IconButton>
        </div>
      ))}
      {rest.length > 0 && (
        <Autocomplete
          size="small"
          options={rest}
          value={null}
          blurOnSelect
          clearOnBlur
          getOptionLabel={(p) => p.name ?? p.id}
          getOptionKey={(p) => p.id}
          onChange={(_, p) => p && put([...value, p])}
          renderInput={(params) => <TextField {...params} placeholder={`Add by name: ${rest.length} things`} />}
        />
      )}
    </div>
  );
}
