'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useState } from 'react';
import { commands } from '@/core/commands';
import { toast } from '../theme/toast';
import { useBench, useRun, useShot } from './context';
import { useView, view } from './state';

/** What else goes with a lane, told before it is deleted; of the result, which lane is the result then. */
export function DeleteLaneDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const { session } = useBench();
  const run = useRun();
  const selection = useView((s) => s.selection);
  const lane = shot.lanes.find((l) => l.id === selection?.id);
  const [result, setResult] = useState(() => (lane ? commands.nextResult(shot, lane.id) : null));
  if (!lane) return null;
  const losses = commands.lossesOfLane(shot, lane.id);
  const others = shot.lanes.filter((l) => l !== lane);
  const remove = (): void => {
    if (!run('Delete lane', commands.removeLane(lane.id, result))) return;
    view.set({ selection: null, dialog: null });
    toast('info', `${lane.name} was deleted.`, { label: 'Undo', run: () => session.undo() });
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-label="Delete lane">
      <DialogTitle>Delete {lane.name}?</DialogTitle>
      <DialogContent>
        {losses.length > 0 && (
          <ul className="plain-list">
            {losses.map((l) => (
              <li key={l}>{l}</li>
            ))}
          </ul>
        )}
        {shot.result === lane.id && others.length > 0 && (
          <div className="form">
            <label>The result is then</label>
            <Select
              size="small"
              value={result ?? ''}
              inputProps={{ 'aria-label': 'The result is then' }}
              onChange={(e) => setResult(e.target.value)}
            >
              {others.map((l) => (
                <MenuItem key={l.id} value={l.id}>
                  {l.name}
                </MenuItem>
              ))}
            </Select>
          </div>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="secondary" onClick={remove}>
          Delete
        </Button>
      </DialogActions>
    </Dialog>
  );
}
