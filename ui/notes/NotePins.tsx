'use client';
import type { StagePlace } from '../stage/place';
import { DragBox } from '../stage/DragBox';
import { changeNote } from '@/core/commands';
import { useRun, useShotPart } from '../workbench/context';
import { useView, view } from '../workbench/state';

interface Props {
  place: StagePlace;
  toPicture(e: { clientX: number; clientY: number }): [number, number];
}

/** Pins of the notes at the frame that is seen; while one is being placed, a click puts it down. */
export function NotePins({ place, toPicture }: Props) {
  const notes = useShotPart('notes');
  const run = useRun();
  const frame = useView((s) => s.frame);
  const placing = useView((s) => s.placing);
  const here = notes.filter((n) => n.at && !n.done && frame >= n.frame && frame <= (n.last ?? n.frame));
  return (
    <>
      {here.map((n) => (
        <button
          key={n.id}
          className={`note-pin ${n.colour ?? 'clay'}`}
          style={{ left: place.x + n.at![0] * place.zoom, top: place.y + n.at![1] * place.zoom }}
          aria-label={`Note: ${n.text}`}
          title={n.text}
          onClick={() => view.set({ tab: 'notes' })}
        />
      ))}
      {placing && (
        <DragBox
          place={place}
          testId="place note"
          toPicture={toPicture}
          onBox={([x, y]) => {
            run('Pin note', changeNote(placing, { at: [Math.round(x), Math.round(y)] }));
            view.set({ placing: null });
          }}
        />
      )}
    </>
  );
}
