'use client';
import Autocomplete from '@mui/material/Autocomplete';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { Param, Shot, Step, Value } from '@/core/document';
import { followsNothing, isKeyed, isLink, paramsOf, unfollowed } from '@/core/document';
import type { ParamDefinition } from '@/core/param';
import { commands } from '@/core/commands';
import { useBench, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';

interface Target {
  step: string;
  param: string;
  label: string;
}

/** Parameters of the same kind elsewhere in the shot. */
function targetsFor(shot: Shot, own: Step, name: string, d: ParamDefinition): Target[] {
  const size = Array.isArray(d.default) ? d.default.length : 1;
  const fits = (o: ParamDefinition): boolean => {
    const numbers = ['number', 'integer'];
    if (numbers.includes(d.kind) && numbers.includes(o.kind)) return true;
    return o.kind === d.kind && (Array.isArray(o.default) ? o.default.length : 1) === size;
  };
  return shot.lanes.flatMap((lane) =>
    lane.steps.flatMap((step) =>
      Object.entries(paramsOf(step))
        .filter(([param, o]) => fits(o) && !(step.id === own.id && param === name))
        .map(([param, o]) => ({ step: step.id, param, label: `${lane.name} ▸ ${step.name} ▸ ${o.title}` })),
    ),
  );
}

/** What a linked parameter follows, as a line of its row. */
export function LinkLine({
  step,
  name,
  d,
  param,
  value,
}: {
  step: Step;
  name: string;
  d: ParamDefinition;
  param: Param | undefined;
  value: Value;
}) {
  const shot = useShot();
  const run = useRun();
  const frame = useView((s) => s.frame);
  if (!isLink(param)) return null;
  const { link } = param;
  if (followsNothing(shot, param)) {
    return (
      <span className="link-line" role="alert">
        What it followed is gone; it keeps what that was last.{' '}
        <Button onClick={() => run('Unlink', commands.setParam(step.id, name, unfollowed(shot, param)))}>Unlink</Button>
      </span>
    );
  }
  const target = targetsFor(shot, step, name, d).find((t) => t.step === link.step && t.param === link.param);
  return (
    <span className="link-line">
      follows{' '}
      <button className="pill" onClick={() => view.set({ selection: { kind: 'step', id: link.step } })}>
        <b>{target?.label ?? 'a parameter of another step'}</b>
      </button>
      <Button onClick={() => run('Unlink', commands.setLink(step.id, name, null, value, frame))}>Unlink</Button>
    </span>
  );
}

/** What can be done with a parameter besides changing it: a menu at its label, and the list of what it may follow. */
export function useParamMenu(step: Step, name: string, d: ParamDefinition, param: Param | undefined, value: Value) {
  const { session } = useBench();
  const run = useRun();
  const { frame } = view.get();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [linking, setLinking] = useState(false);
  const close = (): void => setAnchor(null);
  const act = (label: string, change: commands.Change) => () => {
    close();
    run(label, change);
  };
  const title = d.title.toLowerCase();
  const elements = (
    <>
      {anchor && (
        <Menu anchorEl={anchor} open onClose={close}>
          <MenuItem onClick={act(`Reset ${title}`, commands.resetParam(step.id, name))}>Reset</MenuItem>
          {d.animatable !== false && (
            <MenuItem
              onClick={() => {
                close();
                setLinking(true);
              }}
            >
              Follow another parameter…
            </MenuItem>
          )}
          {isLink(param) && (
            <MenuItem onClick={act('Unlink', commands.setLink(step.id, name, null, value, frame))}>Unlink, keep the value</MenuItem>
          )}
          {isKeyed(param) && (
            <MenuItem onClick={act(`Delete keys of ${title}`, commands.setKeys(step.id, name, [], frame))}>
              Delete all keys, keep the value
            </MenuItem>
          )}
          {isKeyed(param) && (
            <MenuItem
              onClick={() => {
                close();
                view.set({ tab: 'curves' });
              }}
            >
              See its curve
            </MenuItem>
          )}
        </Menu>
      )}
      {linking && (
        <Dialog open onClose={() => setLinking(false)} fullWidth maxWidth="xs" aria-label="Follow another parameter">
          <DialogTitle>{d.title} follows</DialogTitle>
          <DialogContent onKeyDown={(e) => e.stopPropagation()}>
            <Autocomplete
              open
              autoHighlight
              options={targetsFor(session.store.getState().shot, step, name, d)}
              noOptionsText="No other step has a parameter of this kind."
              renderInput={(props) => <TextField {...props} autoFocus size="small" placeholder="Lane, step or parameter" />}
              onChange={(_, t) => {
                if (t && run('Link', commands.setLink(step.id, name, { step: t.step, param: t.param }, value, frame))) setLinking(false);
              }}
            />
            <div style={{ height: 180 }} />
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setLinking(false)}>Cancel</Button>
          </DialogActions>
        </Dialog>
      )}
    </>
  );
  return { open: (e: HTMLElement) => setAnchor(e), elements };
}
