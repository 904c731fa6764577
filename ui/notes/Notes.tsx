'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import OutlinedInput from '@mui/material/OutlinedInput';
import { useState } from 'react';
import type { Note } from '@/core/document';
import { NOTE_COLOURS } from '@/core/document';
import { commands, notesCsv, notesEdl, notesText } from '@/core/commands';
import { DeleteOutlineIcon, PlaceIcon } from '@/ui/theme/icons';
import { NumberField } from '../controls/NumberField';
import { saveBlob } from '../theme/save-blob';
import { useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';

/** Remarks on frames: written here, seen on the time strip and on the picture, taken out as a table or an edit list. */
export function Notes() {
  const shot = useShot();
  const run = useRun();
  const frame = useView((s) => s.frame);
  const [open, setOpen] = useState(false);
  const [colour, setColour] = useState<Note['colour'] | null>(null);
  const shown = shot.notes.filter((n) => (!open || !n.done) && (!colour || (n.colour ?? 'clay') === colour));
  const listed = { ...shot, notes: shown };
  const [fresh, setFresh] = useState<string | null>(null);
  const add = (): void => {
    const made: { note?: string } = {};
    // A new note is there to be written.
    if (run('Add note', commands.addNote(frame, made)) && made.note) setFresh(made.note);
  };
  const save = (text: string, ending: string): void => saveBlob(new Blob([text], { type: 'text/plain' }), `${shot.name} notes.${ending}`);
  return (
    <div className="board notes" role="region" aria-label="Notes">
      <div className="scope-bar">
        <Button variant="outlined" onClick={add}>
          Note at frame {frame}
        </Button>
        <button className={`pill${open ? ' on' : ''}`} aria-pressed={open} onClick={() => setOpen(!open)}>
          Open ones only
        </button>
        {NOTE_COLOURS.map((c) => (
          <button
            key={c}
            className={`dot ${c}${colour === c ? ' on' : ''}`}
            aria-label={`Only notes of ${c}`}
            aria-pressed={colour === c}
            onClick={() => setColour(colour === c ? null : c)}
          />
        ))}
        <span className="grow" />
        <Button disabled={shown.length === 0} onClick={() => save(notesCsv(listed), 'csv')}>
          Export CSV
        </Button>
        <Button disabled={shown.length === 0} onClick={() => save(notesText(shot, shown), 'txt')}>
          Export text
        </Button>
        <Button disabled={shown.length === 0} onClick={() => save(notesEdl(listed), 'edl')}>
          Export EDL
        </Button>
      </div>
      {shown.map((n) => (
        <NoteRow key={n.id} note={n} fresh={n.id === fresh} />
      ))}
      {shown.length === 0 && (
        <div className="empty">
          {shot.notes.length
            ? 'No note is of this kind.'
            : 'Notes hold what is to be done or looked at, frame by frame. Add one at the frame you see.'}
        </div>
      )}
    </div>
  );
}

function NoteRow({ note, fresh }: { note: Note; fresh: boolean }) {
  const run = useRun();
  const placing = useView((s) => s.placing === note.id);
  const here = useView((s) => s.frame >= note.frame && s.frame <= (note.last ?? note.frame));
  const change = (c: Partial<Omit<Note, 'id'>>, gesture?: string): void =>
    void run('Change note', commands.changeNote(note.id, c), gesture);
  return (
    <div className={`note${note.done ? ' done' : ''}${here ? ' here' : ''}`} data-testid={`note ${note.frame}`}>
      <Checkbox
        size="small"
        checked={note.done ?? false}
        slotProps={{ input: { 'aria-label': `Note at ${note.frame} is done` } }}
        onChange={(e) => change({ done: e.target.checked })}
      />
      <button
        className="pill mono"
        aria-label={`Go to the note at ${note.frame}`}
        onClick={() => view.set({ frame: note.frame, playing: false })}
      >
        {note.frame}
        {note.last !== undefined && `–${note.last}`}
      </button>
      <span className="note-last">
        <NumberField
          label={`Last frame of the note at ${note.frame}`}
          value={note.last ?? note.frame}
          min={note.frame}
          whole
          step={1}
          onChange={(last, gesture) => change({ last }, gesture)}
        />
      </span>
      <OutlinedInput
        size="small"
        fullWidth
        autoFocus={fresh}
        placeholder="What is to be done here"
        inputProps={{ 'aria-label': `Text of the note at ${note.frame}` }}
        value={note.text}
        onKeyDown={(e) => e.stopPropagation()}
        onChange={(e) => change({ text: e.target.value }, `note ${note.id}`)}
      />
      {NOTE_COLOURS.map((c) => (
        <button
          key={c}
          className={`dot ${c}${note.colour === c ? ' on' : ''}`}
          aria-label={`Colour ${c}`}
          aria-pressed={note.colour === c}
          onClick={() => change({ colour: c })}
        />
      ))}
      <IconButton
        aria-label={note.at ? 'Move its pin on the picture' : 'Pin it to the picture'}
        aria-pressed={placing}
        color={note.at ? 'secondary' : 'default'}
        onClick={() => view.set({ placing: placing ? null : note.id })}
      >
        <PlaceIcon sx={{ fontSize: 15 }} />
      </IconButton>
      <IconButton aria-label={`Delete the note at ${note.frame}`} onClick={() => run('Delete note', commands.removeNote(note.id))}>
        <DeleteOutlineIcon sx={{ fontSize: 15 }} />
      </IconButton>
    </div>
  );
}
