'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Link from 'next/link';
import { useShotState } from './context';
import { saveBundle } from './save-bundle';

/** Asked before a shot is left that could not be saved. */
export function UnsavedDialog({ onClose }: { onClose(): void }) {
  const { problem, shot } = useShotState((s) => s);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-label="Not saved">
      <DialogTitle>{problem ? 'This shot is not saved' : 'This shot is saved now'}</DialogTitle>
      <DialogContent>{problem ?? 'It can be left.'}</DialogContent>
      <DialogActions>
        <Button component={Link} href="/" color="warning">
          {problem ? 'Leave and lose the changes' : 'To the Library'}
        </Button>
        <Button onClick={() => void saveBundle(shot)}>Take out as a bundle</Button>
        <Button variant="contained" color="secondary" onClick={onClose}>
          Stay
        </Button>
      </DialogActions>
    </Dialog>
  );
}
