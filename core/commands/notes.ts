import { packTimecode, timecodeText } from '../formats';
import type { Note, NoteColour, Shot } from '../document';

/** A text as a cell. One that begins as a formula does would be run by a spreadsheet: an apostrophe before it makes it a text. */
const quoted = (text: string): string => {
  const line = text.replace(/"/g, '""').replace(/\r?\n/g, ' ');
  return `"${/^\s*[=+\-@\t\r]/.test(line) ? "'" : ''}${line}"`;
};

/** Frames as hours, minutes, seconds and frames at a whole number of frames a second. */
export const timecode = (frame: number, frameRate: number): string => timecodeText(packTimecode(frame, Math.max(1, Math.round(frameRate))));

/** All notes as comma-separated values (RFC 4180), one a line. */
export function notesCsv({ notes, frameRate }: Shot): string {
  const lines = notes.map((n) =>
    [
      n.frame,
      n.last ?? n.frame,
      timecode(n.frame, frameRate),
      n.colour ?? '',
      n.done ? 'done' : 'open',
      quoted(n.text),
      n.at?.join(' ') ?? '',
    ].join(','),
  );
  return `${['first,last,timecode,colour,state,text,place', ...lines].join('\r\n')}\r\n`;
}

/** Notes as plain lines: when, and what. */
export const notesText = ({ frameRate }: Pick<Shot, 'frameRate'>, notes: readonly Note[]): string =>
  notes.map((n) => `${timecode(n.frame, frameRate)}  ${n.text.replace(/\r?\n/g, ' ').trim()}\n`).join('');

/** What edit lists call the colours. */
const EDL: Record<NoteColour, string> = { clay: 'RED', ochre: 'YELLOW', glaze: 'CYAN', bone: 'WHITE' };

/** All notes as an edit list of one event a note, with a locator each (CMX 3600 with its common comment lines). */
export function notesEdl({ name, notes, frameRate }: Shot): string {
  const event = (n: Note, i: number): string => {
    const [from, to] = [timecode(n.frame, frameRate), timecode((n.last ?? n.frame) + 1, frameRate)];
    const text = n.text.replace(/\r?\n/g, ' ').trim();
    return `${String(i + 1).padStart(3, '0')}  AX       V     C        ${from} ${to} ${from} ${to}\n* LOC: ${from} ${EDL[n.colour ?? 'clay']} ${text}\n`;
  };
  return `TITLE: ${name}\nFCM: NON-DROP FRAME\n\n${notes.map(event).join('\n')}`;
}
