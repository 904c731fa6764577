'use client';
import MoreVertIcon from '@mui/icons-material/MoreVert';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import LinearProgress from '@mui/material/LinearProgress';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import OutlinedInput from '@mui/material/OutlinedInput';
import Select from '@mui/material/Select';
import { liveQuery } from 'dexie';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { messageOf } from '@/core/errors';
import { WorkerPool } from '@/engine/browser/pool';
import { exportBundle, importBundle } from '@/store/bundles';
import type { ShotRow } from '@/store/db';
import { db } from '@/store/db';
import { DemoFilm, demoShots } from '@/store/demo';
import { freeName, newId, newShot } from '@/store/make';
import { StorageMeter } from '../sources/StorageMeter';
import { thumbnailOf } from '../workbench/use-library-thumbnail';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';

const SEEDED = 'demo brought in';

/** The page of shots. The first visit finds the demo film in place. */
export function Library() {
  const [rows, setRows] = useState<ShotRow[] | null>(null);
  const [text, setText] = useState('');
  const [sort, setSort] = useState<'changed' | 'name'>('changed');
  const [progress, setProgress] = useState<{ done: number; of: number } | null>(null);
  const router = useRouter();
  const bundle = useRef<HTMLInputElement>(null);

  useEffect(() => {
    const watching = liveQuery(() => db.shots.orderBy('changed').reverse().toArray()).subscribe({ next: setRows, error: toastError });
    return () => watching.unsubscribe();
  }, []);

  const demo = async (): Promise<void> => {
    const pool = new WorkerPool({ size: 1 });
    try {
      setProgress({ done: 0, of: 1 });
      const film = new DemoFilm(pool);
      for (const name of await demoShots()) {
        const shot = await film.bringIn(name, (done, of) => setProgress({ done, of }));
        await db.shots.update(shot.id, { thumbnail: await thumbnailOf(shot, (s, request) => pool.render(s, request)) });
      }
      await db.settings.put({ key: SEEDED, value: true });
    } catch (e) {
      toast('error', `The demo film could not be brought in: ${messageOf(e)}`);
    } finally {
      pool.dispose();
      setProgress(null);
    }
  };
  const started = useRef(false);
  useEffect(() => {
    if (started.current) return;
    started.current = true;
    void db.settings.get(SEEDED).then((done) => (done ? undefined : demo()));
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
  const openBundles = async (files: readonly File[]): Promise<void> => {
    for (const file of files) {
      try {
        const shot = await importBundle(file);
        toast('info', `${shot.name} was brought in.`);
      } catch (e) {
        toastError(e);
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
          sx={{ width: 220 }}
          inputProps={{ 'aria-label': 'Find a shot' }}
        />
        <Select size="small" value={sort} inputProps={{ 'aria-label': 'Order of shots' }} onChange={(e) => setSort(e.target.value)}>
          <MenuItem value="changed">Last changed first</MenuItem>
          <MenuItem value="name">By name</MenuItem>
        </Select>
        <Button variant="outlined" onClick={() => bundle.current?.click()}>
          Open bundle
        </Button>
        <Button variant="outlined" disabled={progress !== null} onClick={() => void demo()}>
          Reset demo film
        </Button>
        <Button variant="contained" color="secondary" onClick={() => void create().catch(toastError)}>
          New shot
        </Button>
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
        {progress && (
          <div style={{ marginBottom: 18 }} role="status">
            <div className="dust" style={{ marginBottom: 6 }}>
              Bringing in the demo film: {progress.done} of {progress.of} files
            </div>
            <LinearProgress variant="determinate" value={(100 * progress.done) / progress.of} />
          </div>
        )}
        <div className="cards">
          {shown.map((r) => (
            <Card key={r.id} row={r} names={(rows ?? []).map((x) => x.name)} />
          ))}
        </div>
        {rows && shown.length === 0 && !progress && (
          <div className="empty">
            {text ? 'No shot is called that.' : 'No shots yet. Make a new one, drop a bundle here, or bring back the demo film.'}
          </div>
        )}
      </main>
      <StorageMeter key={progress === null ? 'whole' : 'filling'} />
    </div>
  );
}

function Card({ row, names }: { row: ShotRow; names: readonly string[] }) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [renaming, setRenaming] = useState(false);
  const { shot } = row;
  const close = (run: () => void | Promise<unknown>) => () => {
    setMenu(null);
    Promise.resolve(run()).catch(toastError);
  };
  const rename = async (name: string): Promise<void> => {
    setRenaming(false);
    if (!name.trim() || name === row.name) return;
    const free = freeName(
      name.trim(),
      names.filter((n) => n !== row.name),
    );
    await db.shots.update(row.id, { name: free, shot: { ...shot, name: free } });
  };
  const remove = async (): Promise<void> => {
    await db.shots.delete(row.id);
    // Its versions stay until unused media is removed, so that an undo finds them.
    toast('info', `${row.name} was deleted.`, { label: 'Undo', run: () => void db.shots.put(row) });
  };
  const duplicate = async (): Promise<void> => {
    const name = freeName(row.name, names);
    const id = newId();
    await db.shots.put({ ...row, id, name, changed: Date.now(), shot: { ...shot, id, name } });
  };
  return (
    <div className="card" data-testid={`shot ${row.name}`}>
      <Link href={`/shot/${encodeURIComponent(row.id)}`} className="open" style={{ color: 'inherit', textDecoration: 'none' }}>
        {row.thumbnail ? <img className="thumb" src={row.thumbnail} alt={`Result of ${row.name}`} /> : <span className="thumb" />}
        <span className="text" style={{ display: 'block' }}>
          {renaming ? (
            <OutlinedInput
              autoFocus
              defaultValue={row.name}
              onClick={(e) => e.preventDefault()}
              onBlur={(e) => void rename(e.target.value)}
              onKeyDown={(e) => e.key === 'Enter' && void rename((e.target as HTMLInputElement).value)}
            />
          ) : (
            <b>{row.name}</b>
          )}
          <span className="mono dust">
            {shot.format.width}×{shot.format.height} · {shot.frameRate} fps · {shot.range.first}–{shot.range.last}
          </span>
          <span className="dust" style={{ display: 'block', fontSize: 11 }}>
            {shot.lanes.length} {shot.lanes.length === 1 ? 'lane' : 'lanes'} · changed{' '}
            {new Date(row.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
          </span>
        </span>
      </Link>
      <IconButton className="more" aria-label={`Menu of ${row.name}`} onClick={(e) => setMenu(e.currentTarget)}>
        <MoreVertIcon sx={{ fontSize: 16 }} />
      </IconButton>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem onClick={close(() => setRenaming(true))}>Rename</MenuItem>
        <MenuItem onClick={close(duplicate)}>Duplicate</MenuItem>
        <MenuItem onClick={close(async () => saveBlob(await exportBundle(shot), `${row.name}.ostracon`))}>Take out as a bundle</MenuItem>
        <MenuItem onClick={close(remove)}>Delete</MenuItem>
      </Menu>
    </div>
  );
}
