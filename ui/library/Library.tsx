'use client';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import OutlinedInput from '@mui/material/OutlinedInput';
import Select from '@mui/material/Select';
import { liveQuery } from 'dexie';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { messageOf } from '@/core/errors';
import { WorkerPool } from '@/engine/browser';
import type { DemoShot, FilmRow, ShotRow } from '@/store';
import { freeName, newId, newShot } from '@/core/commands';
import { DemoFilm, db, demoState, importBundle, newFilm } from '@/store';
import { MoreVertIcon } from '@/ui/theme/icons';
import { startJob } from '../jobs/jobs';
import { StorageMeter } from '../sources/StorageMeter';
import { thumbnailOf } from '../workbench/use-library-thumbnail';
import { BringingIn, setBringing, useBringing } from './BringingIn';
import { Films } from './Films';
import { ResetDemoDialog } from './ResetDemoDialog';
import { toast, toastError } from '../theme/toast';

/** The page of shots. The first visit brings the demo film in. */
export function Library() {
  const [rows, setRows] = useState<ShotRow[] | null>(null);
  const [films, setFilms] = useState<FilmRow[] | null>(null);
  const [fresh, setFresh] = useState<string | null>(null);
  const [text, setText] = useState('');
  const [sort, setSort] = useState<'changed' | 'name'>('changed');
  const bringing = useBringing((s) => s.now !== null);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [asked, setAsked] = useState<readonly DemoShot[] | null>(null);
  const router = useRouter();
  const bundle = useRef<HTMLInputElement>(null);

  useEffect(() => {
    const shots = liveQuery(() => db.shots.orderBy('changed').reverse().toArray()).subscribe({ next: setRows, error: toastError });
    const all = liveQuery(() => db.films.orderBy('name').toArray()).subscribe({ next: setFilms, error: toastError });
    return () => {
      shots.unsubscribe();
      all.unsubscribe();
    };
  }, []);

  /** Brings shots of the demo film in: those that were never here, or those that are to be as they were. */
  const demo = async (again: readonly DemoShot[] | null): Promise<void> => {
    const pools: WorkerPool[] = [];
    // Mostly all of it is here already, and no worker is needed.
    const pool = (): WorkerPool => {
      if (pools.length === 0) {
        pools.push(new WorkerPool({ size: 1 }));
        pools[0]!.onTrouble = (message) => toast('error', message);
      }
      return pools[0]!;
    };
    try {
      const film = new DemoFilm(pool, (shot) => thumbnailOf(shot, (s, request) => pool().render(s, request)));
      const told = (done: number, of: number): void => setBringing({ what: 'Bringing in the demo film', done, of });
      if (again) {
        const back = await film.reset(again, told);
        toast('info', 'The demo film is as it was; what it replaced stays as versions.', {
          label: 'Undo',
          run: () => void back().catch(toastError),
        });
      } else await film.seed(told);
    } catch (e) {
      toast('error', `The demo film could not be brought in: ${messageOf(e)}`);
    } finally {
      pools[0]?.dispose();
      setBringing(null);
    }
  };
  const started = useRef(false);
  useEffect(() => {
    if (started.current) return;
    started.current = true;
    void demo(null);
  }, []);

  const create = async (): Promise<void> => {
    const shot = newShot(
      freeName(
        'New shot',
        (rows ?? []).map((r) => r.name),
      ),
    );
    await db.shots.put({ id: shot.id, name: shot.name, changed: Date.now(), shot });
    router.push(`/shot/${shot.id}`);
  };
  const createFilm = (): void => {
    const id = newId();
    // Known before the film is there: its name is written from the start.
    setFresh(id);
    newFilm('New film', [], id).catch(toastError);
  };
  const openBundles = async (files: readonly File[]): Promise<void> => {
    for (const file of files) {
      const job = startJob('bundle', `Opening ${file.name}`, 'files', 1);
      try {
        const shot = await importBundle(file, (done, of) => setBringing({ what: `Opening ${file.name}`, done, of }), job.signal);
        toast('info', `${shot.name} was brought in.`);
      } catch (e) {
        toastError(e);
      } finally {
        job.end();
        setBringing(null);
      }
    }
  };
  const shown = (rows ?? []).filter((r) => r.name.toLowerCase().includes(text.toLowerCase()));
  // They come the last changed first.
  if (sort === 'name') shown.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
  return (
    <div
      className="library"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        void openBundles([...e.dataTransfer.files]);
      }}
    >
      <header className="bar top">
        <span className="mark" />
        <h1>Ostracon</h1>
        <span className="dust">Library</span>
        <span className="grow" />
        <OutlinedInput
          placeholder="Find a shot"
          value={text}
          onChange={(e) => setText(e.target.value)}
          sx={{ width: 200 }}
          inputProps={{ 'aria-label': 'Find a shot' }}
        />
        <Select size="small" value={sort} inputProps={{ 'aria-label': 'Order of shots' }} onChange={(e) => setSort(e.target.value)}>
          <MenuItem value="changed">Last changed first</MenuItem>
          <MenuItem value="name">By name</MenuItem>
        </Select>
        <Button variant="outlined" onClick={createFilm}>
          New film
        </Button>
        <Button variant="outlined" onClick={() => bundle.current?.click()}>
          Open bundle
        </Button>
        <Button variant="contained" color="secondary" onClick={() => void create().catch(toastError)}>
          New shot
        </Button>
        <IconButton aria-label="More of the Library" onClick={(e) => setMenu(e.currentTarget)}>
          <MoreVertIcon fontSize="small" />
        </IconButton>
        <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
          <MenuItem
            disabled={bringing}
            onClick={() => {
              setMenu(null);
              void demoState().then(setAsked, toastError);
            }}
          >
            Reset the demo film…
          </MenuItem>
        </Menu>
        {asked && (
          <ResetDemoDialog
            shots={asked}
            onClose={() => setAsked(null)}
            onReset={(chosen) => {
              setAsked(null);
              void demo(chosen);
            }}
          />
        )}
        <input
          ref={bundle}
          type="file"
          multiple
          accept=".ostracon"
          hidden
          aria-label="Bundle file"
          onChange={(e) => {
            void openBundles([...(e.target.files ?? [])]);
            e.target.value = '';
          }}
        />
      </header>
      <main>
        <BringingIn />
        {rows && films && (
          <Films
            films={text ? films.filter((f) => f.shots.some((id) => shown.some((r) => r.id === id))) : films}
            rows={shown}
            fresh={fresh}
          />
        )}
        {rows && shown.length === 0 && !bringing && (
          <div className="empty">
            {text ? 'No shot is called that.' : 'No shots yet. Make a new one, drop a bundle here, or bring back the demo film.'}
          </div>
        )}
      </main>
      <StorageMeter key={bringing ? 'filling' : 'whole'} />
    </div>
  );
}
