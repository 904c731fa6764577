import { newShot } from './make';
import { notesCsv, notesEdl, timecode } from './notes';

const shot = {
  ...newShot('SG010 keeper'),
  notes: [
    { id: 'a', frame: 8, text: 'edge "boils", see cap', colour: 'ochre' as const, at: [480, 120] as const },
    { id: 'b', frame: 24, last: 30, text: 'lantern\ntoo bright', done: true },
  ],
};

test('time is told in hours, minutes, seconds and frames', () => {
  expect([timecode(0, 24), timecode(24, 24), timecode(86_399 * 25 + 24, 25), timecode(100, 23.976)]).toEqual([
    '00:00:00:00',
    '00:00:01:00',
    '23:59:59:24',
    '00:00:04:04',
  ]);
});

test('notes as comma-separated values keep quotes and lines together', () => {
  expect(notesCsv(shot).split('\r\n')).toEqual([
    'first,last,timecode,colour,state,text,place',
    '8,8,00:00:00:08,ochre,open,"edge ""boils"", see cap",480 120',
    '24,30,00:00:01:00,,done,"lantern too bright",',
    '',
  ]);
});

test('notes as an edit list: an event each, with a locator in its colour', () => {
  const text = notesEdl(shot);
  expect(text).toMatch(/^TITLE: SG010 keeper\nFCM: NON-DROP FRAME\n/);
  expect(text).toMatch(/001 +AX +V +C +00:00:00:08 00:00:00:09 00:00:00:08 00:00:00:09\n\* LOC: 00:00:00:08 YELLOW edge "boils", see cap/);
  expect(text).toMatch(/002 .*00:00:01:00 00:00:01:07 .*\n\* LOC: 00:00:01:00 RED lantern too bright/);
});
