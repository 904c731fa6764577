'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import OutlinedInput from '@mui/material/OutlinedInput';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import { boxAround } from '@/core/geometry';
import { LIMITS } from '@/core/document';
import type { RemoveBy, RemoveOptions, Removed } from '@/core/assemblies';
import { removeThis } from '@/core/assemblies';
import { NumberField } from '../controls/NumberField';
import { bothWays, measureReading } from '../readings/measuring';
import { tapName, useBench, useRun, useShot } from '../workbench/context';
import type { Bench } from '../workbench/context';
import { view } from '../workbench/state';
import { measureGrainOf } from './grain-job';
import { measureLight } from './light-job';
import { removing, useRemoving } from './removing';

const WAYS: readonly { value: RemoveBy; title: string; help: string }[] = [
  { value: 'patches', title: 'Texture from around it', help: 'One frame is filled by patches of what lies around, and carried along.' },
  {
    value: 'frames',
    title: 'What other frames show there',
    help: 'A clean plate: many frames laid over each other, what they agree on is kept. For what passes.',
  },
  { value: 'beside', title: 'A place beside it', help: 'A piece of the same frame, from so far beside.' },
  { value: 'smooth', title: 'The light of its edge', help: 'Smooth, without texture.' },
];

/** After what was drawn: grain, the lanes, the reading, the light, one after the other. */
async function remove(bench: Bench, o: RemoveOptions, withGrain: boolean, run: ReturnType<typeof useRun>): Promise<void> {
  const grain = withGrain ? await measureGrainOf(bench, o.tap, null) : null;
  const made: Removed = {};
  if (!run('Remove this', removeThis({ ...o, ...(grain && { grain }) }, made))) return;
  view.set({ selection: { kind: 'step', id: made.patch! }, seen: null, tab: 'lanes' });
  if (o.reading === undefined) await measureReading(bench, made.reading!, { anchors: bothWays(o.frame) });
  // The measuring may have been stopped, or what was made undone meanwhile: there is no light to follow then.
  const { shot } = bench.session.store.getState();
  const followed = shot.readings.some((r) => r.id === made.reading && r.frames.length > 1);
  if (followed && shot.lanes.some((l) => l.id === made.lane)) await measureLight(bench, made.patch!);
}

/** What comes into the place of what was drawn around, what it goes with, and what passes in front. */
export function RemoveDialog({ onClose }: { onClose(): void }) {
  const shot = useShot();
  const bench = useBench();
  const run = useRun();
  const { tap, outlines, frame, by, reading, front, grain, name, shift: given } = useRemoving();
  const { x0, x1 } = boxAround(outlines);
  const shift = given ?? ([-Math.round(1.3 * (x1 - x0)), 0] as const);
  if (!tap) return null;
  const row = { display: 'grid', gridTemplateColumns: '120px 1fr', gap: '8px 12px', alignItems: 'center' } as const;
  const start = (): void => {
    onClose();
    void remove(
      bench,
      {
        tap,
        outlines,
        frame,
        by,
        name: name.trim() || 'Removed',
        ...(by === 'beside' && { shift }),
        ...(reading !== '' && { reading }),
        ...(front !== '' && { front }),
      },
      grain,
      run,
    );
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Remove this">
      <DialogTitle>Remove this</DialogTitle>
      <DialogContent>
        <p className="dust">
          {outlines.length === 1 ? 'One outline' : `${outlines.length} outlines`} on frame {frame} of {tapName(shot, tap)}.{' '}
          <button className="pill" onClick={() => removing.more()}>
            Draw another
          </button>
        </p>
        <div style={row}>
          <label>In its place</label>
          <Select
            size="small"
            value={by}
            inputProps={{ 'aria-label': 'In its place' }}
            onChange={(e) => removing.set({ by: e.target.value })}
          >
            {WAYS.map((w) => (
              <MenuItem key={w.value} value={w.value}>
                {w.title}
              </MenuItem>
            ))}
          </Select>
          <span />
          <small className="dust">{WAYS.find((w) => w.value === by)!.help}</small>
          {by === 'beside' && (
            <>
              <label>How far beside</label>
              <div className="inline">
                {shift.map((v, k) => (
                  <NumberField
                    key={k}
                    label={`Beside ${'xy'[k]}`}
                    value={v}
                    decimals={0}
                    step={1}
                    onChange={(n) => removing.set({ shift: shift.map((o, j) => (j === k ? n : o)) as [number, number] })}
                    onProblem={() => undefined}
                  />
                ))}
              </div>
            </>
          )}
          <label>Goes with</label>
          <Select
            size="small"
            displayEmpty
            value={reading}
            inputProps={{ 'aria-label': 'Goes with' }}
            onChange={(e) => removing.set({ reading: e.target.value })}
          >
            <MenuItem value="">What lies around it, measured now</MenuItem>
            {shot.readings.map((r) => (
              <MenuItem key={r.id} value={r.id}>
                {r.name}
              </MenuItem>
            ))}
          </Select>
          <label>In front of it</label>
          <Select
            size="small"
            displayEmpty
            value={front}
            inputProps={{ 'aria-label': 'In front of it' }}
            onChange={(e) => removing.set({ front: e.target.value })}
          >
            <MenuItem value="">Nothing passes</MenuItem>
            {shot.lanes
              .filter((l) => l.id !== tap.lane)
              .map((l) => (
                <MenuItem key={l.id} value={l.id}>
                  The matte of {l.name}
                </MenuItem>
              ))}
          </Select>
          <label>Grain</label>
          <span className="inline">
            <Switch
              size="small"
              checked={grain}
              slotProps={{ input: { 'aria-label': 'Give the grain back' } }}
              onChange={(e) => removing.set({ grain: e.target.checked })}
            />
            <span className="dust">measured on the plate, given to the patch</span>
          </span>
          <label>Name</label>
          <OutlinedInput
            size="small"
            value={name}
            inputProps={{ 'aria-label': 'Name', maxLength: LIMITS.name }}
            onChange={(e) => removing.set({ name: e.target.value })}
          />
        </div>
        <p className="dust">
          Makes a lane of the clean picture and one of the patch, in the light of each frame, joined over what was seen. Everything is lanes
          and steps that you can change.
        </p>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="secondary" onClick={start}>
          Remove it
        </Button>
      </DialogActions>
    </Dialog>
  );
}
