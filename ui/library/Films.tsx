'use client';
import type { DragEndEvent } from '@dnd-kit/core';
import { DndContext, PointerSensor, pointerWithin, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import Button from '@mui/material/Button';
import type { ReactNode } from 'react';
import { useState } from 'react';
import type { FilmRow, ShotRow } from '@/store';
import { deleteFilm, placeInFilm, renameFilm } from '@/store';
import { Renamable } from '../lanes/Renamable';
import { toast, toastError } from '../theme/toast';
import { MenuButton } from '../workbench/RowMenu';
import { FilmResults } from './FilmResults';
import { ShotCard } from './ShotCard';

interface Props {
  films: readonly FilmRow[];
  /** Those that are looked for, in the order of what is in no film. */
  rows: readonly ShotRow[];
  /** The film that was just made: its name is written. */
  fresh: string | null;
}

/** Films, each with its shots in their order, then the shots of none. A card is dragged to another place, film, or out of it. */
export function Films({ films, rows, fresh }: Props) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const byId = new Map(rows.map((r) => [r.id, r]));
  const taken = new Set(films.flatMap((f) => f.shots));
  const loose = rows.filter((r) => !taken.has(r.id));
  const dropped = ({ active, over }: DragEndEvent): void => {
    const to = over?.data.current as { film: string | null; before?: string } | undefined;
    if (to) placeInFilm(String(active.id), to.film, to.before).catch(toastError);
  };
  return (
    <DndContext sensors={sensors} collisionDetection={nearest} onDragEnd={dropped}>
      {films.map((film) => {
        const shots = film.shots.flatMap((id) => byId.get(id) ?? []);
        return (
          <Film key={film.id} film={film} shots={shots} fresh={film.id === fresh}>
            {shots.map((row) => (
              <ShotCard key={row.id} row={row} film={film} films={films} />
            ))}
          </Film>
        );
      })}
      <Loose heading={films.length > 0 && loose.length > 0}>
        {loose.map((row) => (
          <ShotCard key={row.id} row={row} film={null} films={films} />
        ))}
      </Loose>
    </DndContext>
  );
}

/** A card under the pointer goes before the film that it lies in. */
const nearest: typeof pointerWithin = (args) => {
  const hit = pointerWithin(args).filter((c) => c.id !== `before ${String(args.active.id)}`);
  return [...hit].sort((a, b) => Number(String(b.id).startsWith('before')) - Number(String(a.id).startsWith('before')));
};

function Film({ film, shots, fresh, children }: { film: FilmRow; shots: readonly ShotRow[]; fresh: boolean; children: ReactNode }) {
  const [renaming, setRenaming] = useState(fresh);
  const [results, setResults] = useState(false);
  const drop = useDroppable({ id: `film ${film.id}`, data: { film: film.id } });
  const remove = async (): Promise<void> => {
    const back = await deleteFilm(film.id);
    toast('info', `${film.name} is no film any more; its shots are below.`, { label: 'Undo', run: () => void back().catch(toastError) });
  };
  return (
    <section ref={drop.setNodeRef} className={`film${drop.isOver ? ' over' : ''}`} aria-label={`Film ${film.name}`}>
      <header>
        <h2>
          <Renamable
            name={film.name}
            editing={renaming}
            onEdit={setRenaming}
            onName={(name) => void renameFilm(film.id, name).catch(toastError)}
          />
        </h2>
        <span className="dust">
          {shots.length} {shots.length === 1 ? 'shot' : 'shots'}
        </span>
        <span className="grow" />
        <Button variant="outlined" disabled={shots.length === 0} onClick={() => setResults(true)}>
          Results side by side
        </Button>
        <MenuButton
          label={`Menu of film ${film.name}`}
          entries={[
            ['Rename', () => setRenaming(true)],
            ['Take the film apart: its shots stay', () => void remove().catch(toastError)],
          ]}
          size={16}
        />
      </header>
      <div className="cards">{children}</div>
      {shots.length === 0 && <div className="empty">Drag shots here; they stay in the order that you give them.</div>}
      {results && <FilmResults film={film} shots={shots} onClose={() => setResults(false)} />}
    </section>
  );
}

function Loose({ heading, children }: { heading: boolean; children: ReactNode }) {
  const drop = useDroppable({ id: 'loose', data: { film: null } });
  return (
    <section ref={drop.setNodeRef} className={`film loose${drop.isOver ? ' over' : ''}`} aria-label="Shots of no film">
      {heading && (
        <header>
          <h2>In no film</h2>
        </header>
      )}
      <div className="cards">{children}</div>
    </section>
  );
}
