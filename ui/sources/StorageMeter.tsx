'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import { useEffect, useState } from 'react';
import type { Storage } from '@/store';
import { freeUnused, sizeText, storage } from '@/store';
import { toast, toastError } from '../theme/toast';
import { useJob } from '../jobs/jobs';

/** What this browser keeps, as a line that opens the whole account. */
export function StorageMeter({ before }: { before?: () => Promise<void> }) {
  const [state, setState] = useState<Storage | null>(null);
  const [open, setOpen] = useState(false);
  const busy = useJob('bring in') !== undefined;
  const look = (): void => void storage().then(setState, toastError);
  useEffect(look, [busy, open]);
  if (!state) return null;
  const share = Math.min(100, (100 * state.usage) / Math.max(1, state.quota));
  const free = async (): Promise<void> => {
    // What was brought in a moment ago is named by the shot before anything is counted as unused.
    await before?.();
    toast('info', `${sizeText(await freeUnused())} were freed.`);
    look();
  };
  return (
    <>
      <button className="meter" aria-label="Storage" aria-haspopup="dialog" onClick={() => setOpen(true)}>
        <LinearProgress variant="determinate" value={share} color={share > 85 ? 'warning' : 'primary'} aria-hidden />
        <span className="dust">
          {sizeText(state.usage)} of {sizeText(state.quota)} kept
        </span>
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} maxWidth="xs" fullWidth aria-label="Storage">
        <DialogTitle>Storage</DialogTitle>
        <DialogContent>
          <div className="form">
            <label>Media, copied</label>
            <span className="mono">{sizeText(state.media)}</span>
            <label>Proxies</label>
            <span className="mono">{sizeText(state.proxies)}</span>
            <label>Files, linked</label>
            <span className="mono">{state.linked}</span>
            <label>In all</label>
            <span className="mono">
              {sizeText(state.usage)} of the {sizeText(state.quota)} that this browser grants
            </span>
          </div>
          <p role="note">
            {state.stays
              ? 'The browser keeps all of this until you remove it.'
              : 'The browser may clear all of this when the disk is full: take shots out as bundles, or allow this site to store data for good.'}
          </p>
          <p className="dust">
            Files stay on this computer. Linked files are read where they lie; copied ones are kept even when the originals are moved.
          </p>
        </DialogContent>
        <DialogActions>
          <Button onClick={() => void free().catch(toastError)}>Remove proxies and media that no shot uses</Button>
          <Button variant="outlined" onClick={() => setOpen(false)}>
            Close
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
