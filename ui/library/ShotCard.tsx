'use client';
import { useDraggable, useDroppable } from '@dnd-kit/core';
import Link from 'next/link';
import { useState } from 'react';
import type { FilmRow, ShotRow } from '@/store';
import { deleteRow, duplicateRow, moveInFilm, placeInFilm, renameRow } from '@/store';
import { Renamable } from '../lanes/Renamable';
import { toast, toastError } from '../theme/toast';
import type { MenuEntry } from '../workbench/RowMenu';
import { MenuButton } from '../workbench/RowMenu';
import { saveBundle } from '../workbench/save-bundle';

/** A shot in the Library: opened by a click, put into a film or to another place of it by dragging or from its menu. */
export function ShotCard({ row, film, films }: { row: ShotRow; film: FilmRow | null; films: readonly FilmRow[] }) {
  const [renaming, setRenaming] = useState(false);
  const drag = useDraggable({ id: row.id, data: { shot: row.id } });
  const drop = useDroppable({ id: `before ${row.id}`, data: { film: film?.id ?? null, before: row.id }, disabled: !film });
  const { shot } = row;
  const act = (run: () => Promise<unknown>) => () => void run().catch(toastError);
  const remove = async (): Promise<void> => {
    const back = await deleteRow(row);
    toast('info', `${row.name} was deleted.`, { label: 'Undo', run: () => void back().catch(toastError) });
  };
  const order: readonly MenuEntry[] = film
    ? [
        ['Earlier in the film', act(() => moveInFilm(row.id, film.id, -1))],
        ['Later in the film', act(() => moveInFilm(row.id, film.id, 1))],
        [`Take out of ${film.name}`, act(() => placeInFilm(row.id, null))],
      ]
    : [];
  const others = films.filter((f) => f !== film);
  return (
    <div
      ref={(e) => {
        drag.setNodeRef(e);
        drop.setNodeRef(e);
      }}
      className={`card${drop.isOver ? ' over' : ''}${drag.isDragging ? ' dragged' : ''}`}
      data-testid={`shot ${row.name}`}
      style={drag.transform ? { transform: `translate(${drag.transform.x}px, ${drag.transform.y}px)` } : undefined}
      {...drag.listeners}
    >
      <Link
        href={`/shot/${encodeURIComponent(row.id)}`}
        className="open"
        draggable={false}
        style={{ color: 'inherit', textDecoration: 'none' }}
        // The end of a drag is no click.
        onClickCapture={(e) => drag.isDragging && e.preventDefault()}
      >
        {row.thumbnail ? (
          <img className="thumb" src={row.thumbnail} alt={`Result of ${row.name}`} draggable={false} />
        ) : (
          <span className="thumb" />
        )}
        <span className="text" style={{ display: 'block' }}>
          <b>
            <Renamable name={row.name} editing={renaming} onEdit={setRenaming} onName={(name) => act(() => renameRow(row, name))()} />
          </b>
          <span className="mono dust">
            {shot.format.width}×{shot.format.height} · {shot.frameRate} fps · {shot.range.first}–{shot.range.last}
          </span>
          <span className="dust" style={{ display: 'block', fontSize: 11 }}>
            {shot.lanes.length} {shot.lanes.length === 1 ? 'lane' : 'lanes'} · changed{' '}
            {new Date(row.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
          </span>
        </span>
      </Link>
      <MenuButton
        label={`Menu of ${row.name}`}
        entries={[
          ['Rename', () => setRenaming(true)],
          ['Duplicate', act(() => duplicateRow(row))],
          ['Take out as a bundle', act(() => saveBundle(shot))],
          ...order,
          ...others.map((f): MenuEntry => [`Put into ${f.name}`, act(() => placeInFilm(row.id, f.id))]),
          ['Delete', act(remove)],
        ]}
        size={16}
        className="more"
      />
    </div>
  );
}
