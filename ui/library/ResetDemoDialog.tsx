'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import type { DemoShot } from '@/store';

const STATES: Record<DemoShot['state'], string> = {
  gone: 'is not here: it comes back',
  same: 'is as it was',
  changed: 'was changed: it becomes as it was, and what it is now stays as a version of it',
};

/** Says what becomes of each shot before the demo film is put back. */
export function ResetDemoDialog({
  shots,
  onClose,
  onReset,
}: {
  shots: readonly DemoShot[];
  onClose(): void;
  onReset(chosen: readonly DemoShot[]): void;
}) {
  const chosen = shots.filter((s) => s.state !== 'same');
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-label="Reset the demo film">
      <DialogTitle>Reset the demo film?</DialogTitle>
      <DialogContent>
        <ul className="plain-list">
          {shots.map((s) => (
            <li key={s.file}>
              <b>{s.name}</b> {STATES[s.state]}.
            </li>
          ))}
        </ul>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="secondary" disabled={chosen.length === 0} onClick={() => onReset(chosen)}>
          Reset
        </Button>
      </DialogActions>
    </Dialog>
  );
}
