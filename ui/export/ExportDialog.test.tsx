import { saved, savedBytes } from '../testing/browser';
import { act, screen, waitFor, within } from '@testing-library/react';
import { unzipSync } from 'fflate';
import type { OutputSettings } from '@/core/formats';
import type { ShotSession } from '@/store/shot-store';
import { benchOf, retype, shotOf, shotWith, showBench } from '../testing/bench';
import { ExportDialog } from './ExportDialog';

type Picker = { showDirectoryPicker?: () => Promise<FileSystemDirectoryHandle> };
interface Asked {
  lane: string;
  frame: number;
  scale: number;
  settings: OutputSettings;
}

let closed = 0;
let asked: Asked[] = [];
beforeEach(() => {
  [closed, asked] = [0, []];
  saved.clear();
});
afterEach(() => delete (window as Picker).showDirectoryPicker);

/** A folder in memory, with some files in it. */
function folderWith(...names: string[]) {
  const files = new Map<string, number[]>(names.map((n) => [n, []]));
  const handle = {
    async getFileHandle(name: string, options?: { create?: boolean }) {
      if (!files.has(name) && !options?.create) throw new DOMException('it is not there', 'NotFoundError');
      let bytes: number[] = [];
      const write = async (b: Uint8Array): Promise<void> => void (bytes = [...b]);
      return { createWritable: async () => ({ write, close: async () => void files.set(name, bytes) }) };
    },
  };
  (window as Picker).showDirectoryPicker = async () => handle as unknown as FileSystemDirectoryHandle;
  return files;
}

/** The dialog on a shot of six frames, whose frames are made at once: a file of one byte, its frame. */
function show(session: ShotSession = shotWith('blur'), encode = async (frame: number): Promise<Uint8Array> => Uint8Array.of(frame)) {
  session.run('range', (shot) => void (shot.range = { first: 3, last: 8 }));
  Object.assign(benchOf(session).viewer, {
    pool: {
      size: 2,
      encode: (_: unknown, lane: string, frame: number, scale: number, settings: OutputSettings) => {
        asked.push({ lane, frame, scale, settings });
        return encode(frame);
      },
    },
  });
  const { user } = showBench(session, <ExportDialog onClose={() => void closed++} />);
  const choose = async (label: string, option: string | RegExp): Promise<void> => {
    await user.click(screen.getByRole('combobox', { name: label }));
    await user.click(await screen.findByRole('option', { name: option }));
  };
  const press = (name: string): Promise<void> => user.click(screen.getByRole('button', { name }));
  return { session, user, choose, press };
}

test('the whole range goes out as a zip of numbered files, and says how many there were', async () => {
  const { session, press } = show();
  await press('Export zip');
  await waitFor(() => expect(closed).toBe(1));
  const files = unzipSync(await savedBytes('saltgate.zip'));
  expect(Object.entries(files).map(([name, bytes]) => [name, ...bytes])).toEqual(
    [3, 4, 5, 6, 7, 8].map((f) => [`saltgate.000${f}.exr`, f]),
  );
  expect(asked.map((a) => a.frame)).toEqual([3, 4, 5, 6, 7, 8]);
  expect(asked[0]).toMatchObject({ lane: shotOf(session).result, scale: 1, settings: { container: 'exr', bits: 16, compression: 'ZIP' } });
  expect(await screen.findByText(/^6 frames exported in /)).toBeTruthy();
});

test('what is chosen is what is asked for: kind, colour, size, every second frame, other numbers', async () => {
  const { user, choose, press } = show();
  await choose('Files', 'PNG, 16 bit');
  // Codes are seen on a screen unless said; compression and notes are OpenEXR's.
  expect(screen.getByRole('combobox', { name: 'Colour' }).textContent).toMatch(/sRGB/);
  expect(screen.queryByRole('combobox', { name: 'Compression' })).toBeNull();
  await choose('Size', 'Half');
  await user.click(screen.getByRole('switch', { name: 'Alpha' }));
  await retype(user, screen.getByRole('textbox', { name: 'Step' }), '2');
  const from = screen.getByRole('textbox', { name: 'Numbers from' }) as HTMLInputElement;
  expect(from.value).toBe('3');
  await retype(user, from, '1001');
  expect(screen.getByText('#### becomes the number, as in saltgate.1001.png')).toBeTruthy();
  await press('Export zip');
  await waitFor(() => expect(closed).toBe(1));
  expect(asked.map((a) => a.frame)).toEqual([3, 5, 7]);
  expect(asked[0]).toMatchObject({ scale: 0.5, settings: { container: 'png', bits: 16, colourSpace: 'sRGB', alpha: false } });
  expect(Object.keys(unzipSync(await savedBytes('saltgate.zip')))).toEqual([1001, 1003, 1005].map((n) => `saltgate.${n}.png`));
});

test('what cannot be is told beside its field, and nothing is begun', async () => {
  const { user, press } = show();
  const name = screen.getByRole('textbox', { name: 'Name' });
  await user.clear(name);
  await user.type(name, 'keeper');
  await retype(user, screen.getByRole('textbox', { name: 'Last frame' }), '1');
  await press('Export zip');
  expect(await screen.findByText('the name needs #### where the frame number goes')).toBeTruthy();
  expect(screen.getByText('the range ends before it starts')).toBeTruthy();
  expect([asked, closed, saved.size]).toEqual([[], 0, 0]);
});

test.each([
  ['Keep them', [3, 6, 7, 8], ['4', '5']],
  ['Write over', [3, 4, 5, 6, 7, 8], []],
  ['Cancel', [], ['4', '5']],
] as const)('files that a folder has already are asked about: %s', async (answer, made, untouched) => {
  const files = folderWith('saltgate.0004.exr', 'saltgate.0005.exr');
  const { press, user } = show();
  await press('To a folder');
  const question = within(await screen.findByRole('alertdialog', { name: 'Files are there already' }));
  expect(question.getByText(/^2 of 6 files are in that folder already, the first being saltgate\.0004\.exr/)).toBeTruthy();
  await user.click(question.getByRole('button', { name: answer }));
  await waitFor(() => expect(screen.queryByRole('alertdialog')).toBeNull());
  if (made.length > 0) await waitFor(() => expect(closed).toBe(1));
  expect(asked.map((a) => a.frame)).toEqual(made);
  for (const f of untouched) expect(files.get(`saltgate.000${f}.exr`)).toEqual([]);
  for (const f of made) expect(files.get(`saltgate.000${f}.exr`)).toEqual([f]);
});

test('a frame that cannot be made stops it, in words; the dialog stays', async () => {
  const { press } = show(shotWith('blur'), async (f) => {
    if (f === 5) throw new Error('frame 5 of “keeper” is missing');
    return Uint8Array.of(f);
  });
  await press('Export zip');
  expect((await screen.findByRole('alert')).textContent).toBe('The export stopped: frame 5 of “keeper” is missing');
  expect([closed, saved.size]).toEqual([0, 0]);
  expect(screen.getByRole('button', { name: 'Export zip' })).toBeTruthy();
});

test('while it runs the dialog can be left; stopped, no file is made', async () => {
  let goOn: () => void = () => undefined;
  const waiting = new Promise<void>((go) => (goOn = go));
  const { press } = show(shotWith('blur'), async (f) => {
    if (f > 4) await waiting;
    return Uint8Array.of(f);
  });
  await press('Export zip');
  expect(await screen.findByRole('button', { name: 'Go on with other work' })).toBeTruthy();
  await waitFor(() => expect(screen.getByRole('progressbar', { name: /Exporting saltgate/ }).getAttribute('aria-valuenow')).toMatch(/^33/));
  await press('Stop');
  act(goOn);
  expect(await screen.findByText('The export was stopped; no file was made by it after that.')).toBeTruthy();
  expect(saved.size).toBe(0);
});
