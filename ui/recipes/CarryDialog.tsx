'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useEffect, useState } from 'react';
import { spanOfZone, stepsOfZone } from '@/core/document';
import type { Carried, FilmRow, LookPlace, ShotRow } from '@/store';
import { findZone, recipeOf } from '@/core/commands';
import { carryLook, db } from '@/store';
import { toast, toastError } from '../theme/toast';
import { useShot } from '../workbench/context';
import { chosenSteps } from '../workbench/copying';
import { view } from '../workbench/state';

/** The chosen steps or the selected zone, to be put at the same place of other shots; then what was done, and what could not be. */
export function CarryDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const [rows, setRows] = useState<readonly ShotRow[]>([]);
  const [film, setFilm] = useState<FilmRow | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [told, setTold] = useState<readonly Carried[] | null>(null);
  useEffect(() => {
    Promise.all([db.shots.orderBy('name').toArray(), db.films.toArray()]).then(([all, films]) => {
      const own = films.find((f) => f.shots.includes(shot.id)) ?? null;
      const place = (r: ShotRow): number => (own?.shots.includes(r.id) ? own.shots.indexOf(r.id) : Infinity);
      setRows(all.filter((r) => r.id !== shot.id).sort((a, b) => (place(a) === place(b) ? 0 : place(a) - place(b))));
      setFilm(own);
    }, toastError);
  }, [shot.id]);
  const ofFilm = rows.filter((r) => film?.shots.includes(r.id));
  const { selection } = view.get();
  const zone = selection?.kind === 'zone' ? findZone(shot, selection.id) : null;
  const steps = zone ? stepsOfZone(zone.lane, zone.zone) : chosenSteps(shot);
  const lane = shot.lanes.find((l) => l.steps.some((s) => s.id === steps[0]?.id));
  const name = zone?.zone.name ?? steps.map((s) => s.name).join(', ');

  const carry = async (): Promise<void> => {
    const first = zone ? spanOfZone(zone.lane, zone.zone).first : lane!.steps.findIndex((s) => s.id === steps[0]!.id);
    const place: LookPlace = { lane: lane!.name, before: lane!.steps[first - 1]?.name ?? null };
    const done = await carryLook(
      recipeOf(shot, steps, name),
      place,
      rows.filter((r) => chosen.has(r.id)),
    );
    setTold(done.told);
    const count = done.told.filter((t) => !t.problem).length;
    if (count > 0)
      toast('info', `${name} went into ${count === 1 ? 'one shot' : `${count} shots`}.`, {
        label: 'Undo',
        run: () => void done.undo().catch(toastError),
      });
  };

  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Carry this look on">
      <DialogTitle>Carry this look on</DialogTitle>
      <DialogContent>
        {steps.length === 0 ? (
          <div className="empty">Select a zone, or choose steps of a lane, first.</div>
        ) : told ? (
          told.map((t) => (
            <div key={t.shot} className="version" data-testid={`carried ${t.shot}`}>
              <span className="grow">
                <b>{t.shot}</b>
                <small className={t.problem ? 'doubt' : 'dust'}>
                  {t.problem ??
                    `Into ${t.lane}.${t.loose.length > 0 ? ` What these follow or look through is not there: ${t.loose.join(', ')}.` : ''}`}
                </small>
              </span>
            </div>
          ))
        ) : (
          <>
            <p className="dust" style={{ marginTop: 0 }}>
              {name} of {lane?.name}: into the lane of that name, behind the step that it stands behind here. Each shot stays as a version
              of itself.
            </p>
            {ofFilm.length > 0 && (
              <div className="inline">
                <b>{film!.name}</b>
                <button className="pill" onClick={() => setChosen(new Set([...chosen, ...ofFilm.map((r) => r.id)]))}>
                  all of the film
                </button>
              </div>
            )}
            {rows.map((r, i) => (
              <div key={r.id}>
                {ofFilm.length > 0 && i === ofFilm.length && <b>Other shots</b>}
                <div>
                  <FormControlLabel
                    label={r.name}
                    control={
                      <Checkbox
                        size="small"
                        checked={chosen.has(r.id)}
                        onChange={() => setChosen(new Set(chosen.has(r.id) ? [...chosen].filter((id) => id !== r.id) : [...chosen, r.id]))}
                      />
                    }
                  />
                </div>
              </div>
            ))}
            {rows.length === 0 && <div className="empty">There is no other shot.</div>}
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
        {!told && (
          <Button variant="contained" disabled={chosen.size === 0 || steps.length === 0} onClick={() => void carry().catch(toastError)}>
            Carry on
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
