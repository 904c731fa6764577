'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormHelperText from '@mui/material/FormHelperText';
import MenuItem from '@mui/material/MenuItem';
import OutlinedInput from '@mui/material/OutlinedInput';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import { useEffect } from 'react';
import { useForm } from 'react-hook-form';
import type * as yup from 'yup';
import { LINEAR_SPACES, SPACES, SPACE_NAMES } from '@/core/colour';
import { CONTAINERS, isLight } from '@/core/formats';
import { saveBundle } from '../workbench/save-bundle';
import { useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { playRange } from '../workbench/use-picture';
import type { ExportForm } from './export-form';
import { KINDS, containerOf, endingOf, exportSchema, movieOf, passesOfLane, usualSpace } from './export-form';
import { canPickFolder } from './folder-sink';
import { JobRow } from '../jobs/Jobs';
import { useExport } from './use-export';

/** Takes the range out as a numbered sequence, as a zip or into a folder; or the whole shot as a bundle. */
export function ExportDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const inOut = useView((s) => s.inOut);
  const range = playRange(shot, inOut);
  const slug = shot.name.toLowerCase().replace(/[^a-z0-9]+/g, '_');
  const { register, watch, handleSubmit, setValue, formState } = useForm<ExportForm>({
    defaultValues: {
      lane: shot.result ?? '',
      kind: 'exr 16',
      colourSpace: 'linear',
      alpha: true,
      compression: 'ZIP',
      quality: 92,
      movieQuality: 'high',
      notes: true,
      without: [],
      name: `${slug}.####`,
      ...range,
      step: 1,
      start: range.first,
      scale: 1,
    },
    resolver: async (values) => {
      try {
        await exportSchema.validate(values, { abortEarly: false });
        return { values, errors: {} };
      } catch (e) {
        const inner = (e as yup.ValidationError).inner;
        return { values: {}, errors: Object.fromEntries(inner.map((i) => [i.path!, { type: 'invalid', message: i.message }])) };
      }
    },
  });
  const form = watch();
  const movie = movieOf(form.kind);
  const file = movie ? null : containerOf(form.kind);
  const light = file !== null && isLight(file);
  useEffect(() => setValue('colourSpace', usualSpace(form.kind)), [form.kind, setValue]);
  // Files are numbered as the frames are, until another number is given.
  const numbered = formState.dirtyFields.start === true;
  useEffect(() => {
    if (!numbered) setValue('start', form.first);
  }, [numbered, form.first, setValue]);
  const passes = passesOfLane(shot, form.lane, Number(form.first) || shot.range.first);
  const { job, asked, start, answer } = useExport(onClose);
  const run = (to: 'download' | 'folder') => handleSubmit((values) => start(values, passes, to, slug))();
  const error = formState.errors;

  const select = (
    key: 'lane' | 'kind' | 'colourSpace' | 'compression' | 'scale' | 'movieQuality',
    label: string,
    options: readonly (readonly [string | number, string])[],
  ) => (
    <Select size="small" value={form[key]} inputProps={{ 'aria-label': label }} onChange={(e) => setValue(key, e.target.value as never)}>
      {options.map(([v, t]) => (
        <MenuItem key={v} value={v}>
          {t}
        </MenuItem>
      ))}
    </Select>
  );
  const number = (key: 'first' | 'last' | 'step' | 'start' | 'quality', label: string) => (
    <OutlinedInput id={`export-${key}`} inputProps={{ 'aria-label': label }} error={!!error[key]} {...register(key)} />
  );
  const wrong = (...keys: ('first' | 'last' | 'step' | 'start' | 'quality')[]) => {
    const found = keys.map((k) => error[k]?.message).find((m) => m);
    return found && <FormHelperText error>{found}</FormHelperText>;
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Export">
      <DialogTitle>Export</DialogTitle>
      <DialogContent>
        <div className="form">
          <label>Lane</label>
          {select(
            'lane',
            'Lane',
            shot.lanes.map((l) => [l.id, l.id === shot.result ? `${shot.name}: the finished shot` : l.name] as const),
          )}
          <label>Files</label>
          {select('kind', 'Files', KINDS)}
          {!movie && <label>Colour</label>}
          {!movie &&
            select(
              'colourSpace',
              'Colour',
              (light ? LINEAR_SPACES : SPACE_NAMES).map((s) => [s, SPACES[s].title]),
            )}
          {file?.container === 'exr' && <label>Compression</label>}
          {file?.container === 'exr' &&
            select('compression', 'Compression', [
              ['ZIP', 'ZIP, 16 lines'],
              ['ZIPS', 'ZIP, single lines'],
              ['PIZ', 'PIZ: wavelet, for noisy plates'],
              ['RLE', 'Run lengths'],
              ['NONE', 'None'],
            ])}
          {file?.container === 'exr' && passes.length > 1 && (
            <>
              <label>Layers</label>
              <Layers names={passes.map((p) => p.name)} without={form.without} onChange={(v) => setValue('without', v)} />
            </>
          )}
          {file && 'quality' in CONTAINERS[file.container] && (
            <>
              <label htmlFor="export-quality">Quality</label>
              <div>
                {number('quality', 'Quality')}
                {wrong('quality') ?? <FormHelperText>1 to 100{file.container === 'webp' && '; 100 loses nothing'}</FormHelperText>}
              </div>
            </>
          )}
          {movie && <label>Quality</label>}
          {movie &&
            select('movieQuality', 'Movie quality', [
              ['low', 'Low: small, to show'],
              ['medium', 'Medium'],
              ['high', 'High'],
              ['very-high', 'Very high: large, to keep'],
            ])}
          {file && CONTAINERS[file.container].alpha && <label>Alpha</label>}
          {file && CONTAINERS[file.container].alpha && (
            <Switch
              size="small"
              checked={form.alpha}
              slotProps={{ input: { 'aria-label': 'Alpha' } }}
              onChange={(e) => setValue('alpha', e.target.checked)}
            />
          )}
          {file?.container === 'exr' && <label>Notes in header</label>}
          {file?.container === 'exr' && (
            <Switch
              size="small"
              checked={form.notes}
              slotProps={{ input: { 'aria-label': 'Notes in header: shot, lane, sources, time code' } }}
              onChange={(e) => setValue('notes', e.target.checked)}
            />
          )}
          <label>Size</label>
          {select('scale', 'Size', [
            [1, `Full: ${shot.format.width}×${shot.format.height}`],
            [0.5, 'Half'],
            [0.25, 'Quarter'],
          ])}
          <label htmlFor="export-first">Frames</label>
          <div>
            <div className="inline">
              {number('first', 'First frame')}–{number('last', 'Last frame')} <span className="dust">every</span>
              {number('step', 'Step')}
            </div>
            {wrong('first', 'last', 'step')}
          </div>
          <label htmlFor="export-name">Name</label>
          <div>
            <OutlinedInput id="export-name" fullWidth error={!!error.name} {...register('name')} />
            <FormHelperText error={!!error.name}>
              {error.name?.message ??
                (movie
                  ? `One file: ${form.name?.replace(/[._-]?#+/g, '')}.${endingOf(form.kind)}`
                  : `#### becomes the number, as in ${form.name?.replace(/#+/, (m) => String(form.start).padStart(m.length, '0'))}.${endingOf(form.kind)}`)}
            </FormHelperText>
          </div>
          {!movie && <label htmlFor="export-start">Numbers from</label>}
          {!movie && (
            <div>
              {number('start', 'Numbers from')}
              {wrong('start')}
            </div>
          )}
        </div>
        {job && <JobRow job={job} />}
        {asked && (
          <div className="ask" role="alertdialog" aria-label="Files are there already">
            <span className="grow">
              {asked.there} of {asked.of} files are in that folder already, the first being {asked.first}.
            </span>
            <Button onClick={() => answer('stop')}>Cancel</Button>
            <Button variant="outlined" onClick={() => answer('keep')}>
              Keep them
            </Button>
            <Button variant="contained" color="secondary" onClick={() => answer('over')}>
              Write over
            </Button>
          </div>
        )}
      </DialogContent>
      <DialogActions>
        {job ? (
          <Button variant="outlined" onClick={onClose}>
            Go on with other work
          </Button>
        ) : (
          <>
            <Button onClick={() => void saveBundle(shot)}>Shot as bundle</Button>
            <span style={{ flex: 1 }} />
            <Button onClick={onClose}>Cancel</Button>
            {canPickFolder() && (
              <Button variant="outlined" disabled={!shot.result || asked !== null} onClick={() => void run('folder')}>
                To a folder
              </Button>
            )}
            <Button variant="contained" color="secondary" disabled={!shot.result || asked !== null} onClick={() => void run('download')}>
              {movie ? 'Export movie' : 'Export zip'}
            </Button>
          </>
        )}
      </DialogActions>
    </Dialog>
  );
}

/** Which layers of several go into the file. */
function Layers({ names, without, onChange }: { names: readonly string[]; without: readonly string[]; onChange(without: string[]): void }) {
  return (
    <div>
      <div className="layerlist">
        {names.map((n) => (
          <label key={n}>
            <Checkbox
              size="small"
              checked={!without.includes(n)}
              onChange={(e) => onChange(e.target.checked ? without.filter((w) => w !== n) : [...without, n])}
            />
            {n || 'main'}
          </label>
        ))}
      </div>
      <Button onClick={() => onChange([])}>All</Button>
      <Button onClick={() => onChange(names.filter((n) => n !== ''))}>Main only</Button>
    </div>
  );
}
