'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import IconButton from '@mui/material/IconButton';
import OutlinedInput from '@mui/material/OutlinedInput';
import { liveQuery } from 'dexie';
import { useEffect, useState } from 'react';
import { ShotError } from '@/core/errors';
import type { VersionRow } from '@/store';
import { db, restore, saveVersion, versionsOf } from '@/store';
import { DeleteOutlineIcon } from '@/ui/theme/icons';
import { setCompare } from '../stage/compare';
import { toast, toastError } from '../theme/toast';
import { useBench, useRun, useShot } from '../workbench/context';
import type { Pin } from '../workbench/state';
import { view } from '../workbench/state';
import { thumbnailOf } from '../workbench/use-library-thumbnail';
import { requestFor } from '../workbench/use-picture';

const when = (t: number): string => new Date(t).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** The shot as it was at named points: kept here, opened again, or set against what it is now. */
export function VersionsDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const { viewer } = useBench();
  const [rows, setRows] = useState<VersionRow[] | null>(null);
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const [against, setAgainst] = useState<VersionRow | null>(null);
  useEffect(() => {
    const watching = liveQuery(() => versionsOf(shot.id)).subscribe({ next: setRows, error: toastError });
    return () => watching.unsubscribe();
  }, [shot.id]);
  const save = async (): Promise<void> => {
    setBusy(true);
    try {
      const thumbnail = await thumbnailOf(shot, (s, request) => viewer.fetch(s, request, 'view')).catch(() => '');
      const row = await saveVersion(shot, name.trim() || `Version ${(rows?.length ?? 0) + 1}`, thumbnail);
      setName('');
      toast('info', `Kept as "${row.name}".`);
    } catch (e) {
      toastError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Versions">
      <DialogTitle>Versions of {shot.name}</DialogTitle>
      <DialogContent>
        <div className="inline" style={{ display: 'flex', gap: 8, marginBottom: 12 }}>
          <OutlinedInput
            fullWidth
            autoFocus
            value={name}
            placeholder={`Version ${(rows?.length ?? 0) + 1}`}
            inputProps={{ 'aria-label': 'Name of the version' }}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => e.key === 'Enter' && void save()}
          />
          <Button variant="contained" color="secondary" disabled={busy} onClick={() => void save()}>
            Keep as it is now
          </Button>
        </div>
        {rows?.map((r) => (
          <Version key={r.id} row={r} against={against} onAgainst={setAgainst} onClose={onClose} />
        ))}
        {rows?.length === 0 && (
          <div className="empty">No versions yet. Undo goes back step by step; a version goes back to a point with a name.</div>
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

interface VersionProps {
  row: VersionRow;
  /** Another version that was chosen to be compared with; the shot as it is now without one. */
  against: VersionRow | null;
  onAgainst(row: VersionRow | null): void;
  onClose(): void;
}

function Version({ row, against, onAgainst, onClose }: VersionProps) {
  const run = useRun();
  const { viewer, session } = useBench();
  const open = (): void => {
    if (run(`Open version ${row.name}`, restore(row))) {
      toast('info', `The shot is as in "${row.name}" again.`, { label: 'Undo', run: () => session.undo() });
      onClose();
    }
  };
  /** A version's picture at this frame, as a pin that stays. */
  const pinned = async ({ shot, name }: VersionRow): Promise<Pin> => {
    const { frame, scale } = view.get();
    if (shot.result === null) throw new ShotError(`version "${name}" has no result to compare`);
    const rendered = await viewer.fetchToKeep(shot, requestFor({ lane: shot.result }, frame, scale), 'view');
    return { label: `${name}, frame ${frame}`, tap: null, layer: '', snapshot: { rendered, scale } };
  };
  const compare = async (): Promise<void> => {
    const { pins, compare: now } = view.get();
    try {
      const pin = await pinned(row);
      // Two versions: the one stands in the place of what is seen, the other is wiped against it.
      const base = against ? await pinned(against) : null;
      view.set({ seen: null, layer: '', pins: pins.map((p, i) => (i === now.pin ? pin : p)) });
      setCompare({ mode: 'wipe', base });
      onClose();
    } catch (e) {
      toastError(e);
    }
  };
  const remove = async (): Promise<void> => {
    await db.versions.delete(row.id);
    toast('info', `"${row.name}" was deleted.`, { label: 'Undo', run: () => void db.versions.put(row) });
  };
  return (
    <div className="version" data-testid={`version ${row.name}`}>
      {row.thumbnail ? <img src={row.thumbnail} alt="" /> : <span className="blank" />}
      <span className="grow">
        <b>{row.name}</b>
        <small className="dust">
          {when(row.made)} · {row.shot.lanes.length} lanes
        </small>
      </span>
      {against?.id === row.id ? (
        <Button onClick={() => onAgainst(null)}>Chosen ×</Button>
      ) : against ? (
        <Button onClick={() => void compare()}>With {against.name}</Button>
      ) : (
        <>
          <Button onClick={() => void compare()}>Compare with now</Button>
          <Button onClick={() => onAgainst(row)}>with another</Button>
        </>
      )}
      <Button variant="outlined" onClick={open}>
        Open
      </Button>
      <IconButton aria-label={`Delete version ${row.name}`} onClick={() => void remove().catch(toastError)}>
        <DeleteOutlineIcon sx={{ fontSize: 16 }} />
      </IconButton>
    </div>
  );
}
