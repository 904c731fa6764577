'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import type { SliderProps } from '@mui/material/Slider';
import Slider from '@mui/material/Slider';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { messageOf } from '@/core/errors';
import { WorkerPool } from '@/engine/browser';
import type { FilmRow, ShotRow } from '@/store';
import { frameAt, thumbnailOf } from '../workbench/use-library-thumbnail';

/** Milliseconds that the sliders must stand before pictures are asked for. */
const REST = 250;

/** The results of a film beside each other in its order, all at the same share of their range: a look is judged over all of them. */
export function FilmResults({ film, shots, onClose }: { film: FilmRow; shots: readonly ShotRow[]; onClose(): void }) {
  const [share, setShare] = useState(0.5);
  const [columns, setColumns] = useState(Math.min(3, shots.length));
  const pictures = usePictures(shots, share);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth={false} aria-label={`Results of ${film.name}`}>
      <DialogTitle>Results of {film.name}</DialogTitle>
      <DialogContent>
        <div className="film-results" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
          {shots.map((row) => {
            const got = pictures[row.id];
            return (
              <figure key={row.id} data-testid={`result ${row.name}`} data-frame={got?.frame}>
                <Link href={`/shot/${encodeURIComponent(row.id)}`}>
                  {got?.url || row.thumbnail ? (
                    <img src={got?.url || row.thumbnail} alt={`Result of ${row.name}`} className={got?.url ? '' : 'waiting'} />
                  ) : (
                    <span className="thumb" />
                  )}
                </Link>
                <figcaption>
                  <b>{row.name}</b>{' '}
                  <span className={got?.problem ? 'doubt' : 'dust mono'}>{got?.problem ?? (got ? `frame ${got.frame}` : 'rendering')}</span>
                </figcaption>
              </figure>
            );
          })}
        </div>
      </DialogContent>
      <DialogActions>
        <Turned
          title="In the range"
          label="Place in the range"
          width={180}
          value={share}
          min={0}
          max={1}
          step={0.05}
          valueLabelDisplay="auto"
          valueLabelFormat={(v: number) => `${Math.round(100 * v)} %`}
          set={setShare}
        />
        <Turned title="In a row" label="Pictures in a row" width={110} value={columns} min={1} max={6} step={1} marks set={setColumns} />
        <span style={{ flex: 1 }} />
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

interface TurnedProps extends Pick<SliderProps, 'min' | 'max' | 'step' | 'marks' | 'valueLabelDisplay' | 'valueLabelFormat'> {
  title: string;
  label: string;
  width: number;
  value: number;
  set(v: number): void;
}

function Turned({ title, label, width, set, ...slider }: TurnedProps) {
  return (
    <label className="inline">
      <span className="dust">{title}</span>
      <Slider size="small" sx={{ width, mx: 1.5 }} aria-label={label} onChange={(_, v) => set(v as number)} {...slider} />
    </label>
  );
}

interface Picture {
  frame: number;
  url: string;
  problem?: string;
}

/** Renders each shot's result, one after the other, by workers of its own that go with the dialog. */
function usePictures(shots: readonly ShotRow[], share: number): Readonly<Record<string, Picture>> {
  const [pictures, setPictures] = useState<Readonly<Record<string, Picture>>>({});
  const [pool, setPool] = useState<WorkerPool | null>(null);
  const ids = shots.map((s) => s.id).join(' ');
  useEffect(() => {
    const made = new WorkerPool({ size: 1 });
    setPool(made);
    return () => made.dispose();
  }, []);
  useEffect(() => {
    if (!pool) return undefined;
    let live = true;
    const timer = setTimeout(() => {
      void (async () => {
        for (const { id, shot } of shots) {
          if (!live) return;
          const frame = frameAt(shot, share);
          const got = await thumbnailOf(shot, (s, request) => pool.render(s, request), frame).then(
            (url): Picture => (url ? { frame, url } : { frame, url, problem: 'has no result yet' }),
            (e: unknown): Picture => ({ frame, url: '', problem: messageOf(e) }),
          );
          if (live) setPictures((had) => ({ ...had, [id]: got }));
        }
      })();
    }, REST);
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // The same shots stay the same: rows are made anew by each look at the database.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pool, ids, share]);
  return pictures;
}
