'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormHelperText from '@mui/material/FormHelperText';
import LinearProgress from '@mui/material/LinearProgress';
import MenuItem from '@mui/material/MenuItem';
import OutlinedInput from '@mui/material/OutlinedInput';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import { useEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import * as yup from 'yup';
import { Cancelled, messageOf } from '@/core/errors';
import { LINEAR_SPACES, SPACES, SPACE_NAMES } from '@/core/colour/spaces';
import type { ColourSpace } from '@/core/document/types';
import type { OutputSettings } from '@/core/formats/output';
import type { Sink } from '@/engine/export';
import { ZipSink, exportRange } from '@/engine/export';
import { exportBundle } from '@/store/bundles';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { playRange } from '../workbench/use-picture';

interface Form {
  lane: string;
  kind: 'png8' | 'png16' | 'exrHalf' | 'exrFloat' | 'dpx10' | 'dpx16' | 'hdr';
  colourSpace: ColourSpace;
  alpha: boolean;
  compression: OutputSettings['compression'];
  name: string;
  first: number;
  last: number;
  scale: number;
}

const schema = yup.object({
  name: yup
    .string()
    .trim()
    .required('a name is needed')
    .matches(/^[^\\/:*?"<>|]+$/, 'the name has a sign that files cannot have')
    .matches(/#/, 'the name needs #### where the frame number goes'),
  first: yup.number().typeError('a whole number').integer('a whole number').required(),
  last: yup
    .number()
    .typeError('a whole number')
    .integer('a whole number')
    .required()
    .min(yup.ref('first'), 'the range ends before it starts'),
});

const CONTAINERS = { png8: 'png', png16: 'png', exrHalf: 'exr', exrFloat: 'exr', dpx10: 'dpx', dpx16: 'dpx', hdr: 'hdr' } as const;

const settingsOf = (f: Form): OutputSettings => ({
  container: CONTAINERS[f.kind],
  bits: f.kind.endsWith('16') ? 16 : f.kind === 'dpx10' ? 10 : 8,
  colourSpace: f.colourSpace,
  alpha: f.alpha,
  compression: f.compression,
  pixelType: f.kind === 'exrFloat' ? 'float' : 'half',
});

type Directory = FileSystemDirectoryHandle;
const pickFolder = (): ((o: { mode: 'readwrite' }) => Promise<Directory>) | undefined =>
  (window as unknown as { showDirectoryPicker?: (o: { mode: 'readwrite' }) => Promise<Directory> }).showDirectoryPicker?.bind(window);

async function folderSink(folder: Directory): Promise<Sink> {
  return {
    async write(name, bytes) {
      const file = await (await folder.getFileHandle(name, { create: true })).createWritable();
      await file.write(bytes as Uint8Array<ArrayBuffer>);
      await file.close();
    },
  };
}

/** Takes the range out as a numbered sequence, as a zip or into a folder; or the whole shot as a bundle. */
export function ExportDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const { viewer } = useBench();
  const inOut = useView((s) => s.inOut);
  const range = playRange(shot, inOut);
  const slug = shot.name.toLowerCase().replace(/[^a-z0-9]+/g, '_');
  const { register, watch, handleSubmit, setValue, formState } = useForm<Form>({
    defaultValues: {
      lane: shot.result ?? '',
      kind: 'exrHalf',
      colourSpace: 'linear',
      alpha: true,
      compression: 'ZIP',
      name: `${slug}.####`,
      ...range,
      scale: 1,
    },
    resolver: async (values) => {
      try {
        await schema.validate(values, { abortEarly: false });
        return { values, errors: {} };
      } catch (e) {
        const inner = (e as yup.ValidationError).inner;
        return { values: {}, errors: Object.fromEntries(inner.map((i) => [i.path!, { type: 'invalid', message: i.message }])) };
      }
    },
  });
  const form = watch();
  const container = CONTAINERS[form.kind];
  const light = container === 'exr' || container === 'hdr';
  useEffect(() => setValue('colourSpace', light ? 'linear' : container === 'dpx' ? 'Rec.709' : 'sRGB'), [light, container, setValue]);
  const [progress, setProgress] = useState<{ done: number; of: number; since: number } | null>(null);
  const controller = useRef<AbortController | null>(null);

  const run = (to: 'zip' | 'folder') =>
    handleSubmit(async (values) => {
      const since = performance.now();
      controller.current = new AbortController();
      try {
        const folder = to === 'folder' ? await pickFolder()!({ mode: 'readwrite' }) : null;
        const zip = new ZipSink();
        const sink = folder ? await folderSink(folder) : zip;
        const [first, last] = [Number(values.first), Number(values.last)];
        setProgress({ done: 0, of: last - first + 1, since });
        await exportRange(
          viewer.pool,
          shot,
          { lane: values.lane, first, last, scale: Number(values.scale), name: values.name.trim(), settings: settingsOf(values) },
          sink,
          viewer.pool.size,
          (done, of) => setProgress({ done, of, since }),
          controller.current.signal,
        );
        if (!folder) saveBlob(zip.finish(), `${slug}.zip`);
        toast('info', `${last - first + 1} frames exported in ${((performance.now() - since) / 1000).toFixed(1)} s.`);
        onClose();
      } catch (e) {
        if (e instanceof Cancelled) toast('info', 'The export was stopped; no file was made by it after that.');
        else if ((e as Error).name !== 'AbortError') toast('error', `The export stopped: ${messageOf(e)}`);
      } finally {
        setProgress(null);
      }
    })();

  const select = (
    key: 'lane' | 'kind' | 'colourSpace' | 'compression' | 'scale',
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
  const left =
    progress && progress.done > 0 ? ((performance.now() - progress.since) / progress.done) * (progress.of - progress.done) : null;
  return (
    <Dialog open onClose={progress ? undefined : onClose} fullWidth maxWidth="xs" aria-label="Export">
      <DialogTitle>Export</DialogTitle>
      <DialogContent>
        <div className="form">
          <label>Lane</label>
          {select(
            'lane',
            'Lane',
            shot.lanes.map((l) => [l.id, l.id === shot.result ? `${l.name} (result)` : l.name] as const),
          )}
          <label>Files</label>
          {select('kind', 'Files', [
            ['exrHalf', 'OpenEXR, half float'],
            ['exrFloat', 'OpenEXR, float'],
            ['png8', 'PNG, 8 bit'],
            ['png16', 'PNG, 16 bit'],
            ['dpx10', 'DPX, 10 bit'],
            ['dpx16', 'DPX, 16 bit'],
            ['hdr', 'Radiance HDR'],
          ])}
          <label>Colour</label>
          {select(
            'colourSpace',
            'Colour',
            (light ? LINEAR_SPACES : SPACE_NAMES).map((s) => [s, SPACES[s].title]),
          )}
          {container === 'exr' && <label>Compression</label>}
          {container === 'exr' &&
            select('compression', 'Compression', [
              ['ZIP', 'ZIP, 16 lines'],
              ['ZIPS', 'ZIP, single lines'],
              ['PIZ', 'PIZ: wavelet, for noisy plates'],
              ['RLE', 'Run lengths'],
              ['NONE', 'None'],
            ])}
          <label>Alpha</label>
          <Switch
            size="small"
            checked={form.alpha}
            slotProps={{ input: { 'aria-label': 'Alpha' } }}
            onChange={(e) => setValue('alpha', e.target.checked)}
          />
          <label>Size</label>
          {select('scale', 'Size', [
            [1, `Full: ${shot.format.width}×${shot.format.height}`],
            [0.5, 'Half'],
            [0.25, 'Quarter'],
          ])}
          <label htmlFor="export-name">Name</label>
          <div>
            <OutlinedInput id="export-name" fullWidth error={!!formState.errors.name} {...register('name')} />
            <FormHelperText error={!!formState.errors.name}>
              {formState.errors.name?.message ??
                `#### becomes the frame, as in ${form.name?.replace(/#+/, (m) => String(form.first).padStart(m.length, '0'))}.${settingsOf(form).container}`}
            </FormHelperText>
          </div>
          <label htmlFor="export-first">Frames</label>
          <div>
            <div className="inline">
              <OutlinedInput
                id="export-first"
                inputProps={{ 'aria-label': 'First frame' }}
                error={!!formState.errors.first}
                {...register('first')}
              />
              –
              <OutlinedInput inputProps={{ 'aria-label': 'Last frame' }} error={!!formState.errors.last} {...register('last')} />
            </div>
            {(formState.errors.first ?? formState.errors.last) && (
              <FormHelperText error>{(formState.errors.first ?? formState.errors.last)?.message}</FormHelperText>
            )}
          </div>
        </div>
        {progress && (
          <div style={{ marginTop: 14 }}>
            <LinearProgress variant="determinate" value={(100 * progress.done) / progress.of} aria-label="Export progress" />
            <div className="mono dust" style={{ marginTop: 5 }}>
              {progress.done} of {progress.of} frames{left !== null && ` · ${Math.ceil(left / 1000)} s left`}
            </div>
          </div>
        )}
      </DialogContent>
      <DialogActions>
        {progress ? (
          <Button variant="outlined" onClick={() => controller.current?.abort()}>
            Stop
          </Button>
        ) : (
          <>
            <Button
              onClick={() =>
                void exportBundle(shot)
                  .then((b) => saveBlob(b, `${slug}.ostracon`))
                  .catch(toastError)
              }
            >
              Shot as bundle
            </Button>
            <span style={{ flex: 1 }} />
            <Button onClick={onClose}>Cancel</Button>
            {typeof window !== 'undefined' && pickFolder() && (
              <Button variant="outlined" disabled={!shot.result} onClick={() => void run('folder')}>
                To a folder
              </Button>
            )}
            <Button variant="contained" color="secondary" disabled={!shot.result} onClick={() => void run('zip')}>
              Export zip
            </Button>
          </>
        )}
      </DialogActions>
    </Dialog>
  );
}
