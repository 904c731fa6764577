import type { ExportForm } from './export-form';
import { KINDS, containerOf, endingOf, exportSchema, jobOf, movieOf, usualSpace } from './export-form';

const form = (change: Partial<ExportForm> = {}): ExportForm => ({
  lane: 'lane',
  kind: 'exr 16',
  colourSpace: 'linear',
  alpha: true,
  compression: 'ZIP',
  quality: 92,
  movieQuality: 'high',
  notes: true,
  without: [],
  name: 'keeper.####',
  first: 1,
  last: 48,
  step: 1,
  start: 1,
  scale: 1,
  ...change,
});

const complaints = async (change: Partial<Record<keyof ExportForm, unknown>>): Promise<string[]> =>
  exportSchema.validate({ ...form(), ...change }, { abortEarly: false }).then(
    () => [],
    (e: { errors: string[] }) => e.errors,
  );

describe('what is filled in', () => {
  test('is good as it stands', async () => {
    expect(await complaints({})).toEqual([]);
  });

  test.each([
    [{ name: '' }, 'a name is needed'],
    [{ name: 'keeper' }, 'the name needs #### where the frame number goes'],
    [{ name: 'a/b.####' }, 'the name has a sign that files cannot have'],
    [{ first: 9, last: 3 }, 'the range ends before it starts'],
    [{ first: 1.5 }, 'a whole number'],
    [{ last: 'many' }, 'a whole number'],
    [{ step: 0 }, 'every frame or every so many: 1 or more'],
    [{ start: -1 }, 'numbers start at 0 or later'],
    [{ quality: 101 }, 'from 1 to 100'],
  ])('%p: %s', async (change, wanted) => {
    expect(await complaints(change)).toContain(wanted);
  });

  test('a movie is one file: its name needs no place for a number', async () => {
    const movie = KINDS.map(([k]) => k).find((k) => movieOf(k))!;
    expect(await complaints({ kind: movie, name: 'keeper' })).toEqual([]);
  });
});

describe('kinds of files', () => {
  test('each has a title of its own and an ending', () => {
    expect(new Set(KINDS.map(([, title]) => title)).size).toBe(KINDS.length);
    for (const [kind] of KINDS) expect(endingOf(kind)).toMatch(/^[a-z0-9]{2,4}$/);
  });

  test('floats hold light, codes hold what is shown', () => {
    expect(usualSpace('exr 16')).toBe('linear');
    expect(usualSpace('png 8')).toBe('sRGB');
    expect(containerOf('png 16')).toEqual({ container: 'png', bits: 16 });
  });
});

describe('the job', () => {
  const passes = ['', 'diffuse', 'depth'].map((name) => ({ name, channels: [] })) as never;

  test('numbers files as the frames are, unless another number is given', () => {
    expect(jobOf(form({ first: 10, start: 10 }), passes)).not.toHaveProperty('start');
    expect(jobOf(form({ first: 10, start: 1 }), passes)).toMatchObject({ first: 10, start: 1 });
  });

  test('names the layers that stay where some are left out', () => {
    expect(jobOf(form(), passes).settings).not.toHaveProperty('layers');
    expect(jobOf(form({ without: ['depth'] }), passes).settings.layers).toEqual(['', 'diffuse']);
  });

  test('takes what fields hold as text for numbers, and a name without spaces around it', () => {
    const job = jobOf(form({ first: '3' as never, last: '7' as never, step: '2' as never, start: '3' as never, name: ' a.#### ' }), passes);
    expect(job).toMatchObject({ first: 3, last: 7, step: 2, name: 'a.####', lane: 'lane', scale: 1 });
  });

  test('a movie is Rec.709 whatever was chosen for files', () => {
    const movie = KINDS.map(([k]) => k).find((k) => movieOf(k))!;
    expect(jobOf(form({ kind: movie, colourSpace: 'ACEScg' }), passes).settings).toMatchObject({
      container: 'yuv',
      colourSpace: 'Rec.709',
    });
  });
});
