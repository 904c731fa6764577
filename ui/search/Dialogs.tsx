'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import OutlinedInput from '@mui/material/OutlinedInput';
import { useState } from 'react';
import { LIMITS, paramsOf } from '@/core/document';
import { STEPS } from '@/core/steps';
import { commands } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { ExportDialog } from '../export/ExportDialog';
import { KeyScreenDialog } from '../keying/KeyScreenDialog';
import { RemoveDialog } from '../clean/RemoveDialog';
import { CarryDialog } from '../recipes/CarryDialog';
import { RecipesDialog } from '../recipes/RecipesDialog';
import { SettingsDialog } from '../settings/SettingsDialog';
import { VersionsDialog } from '../versions/VersionsDialog';
import { useBench, useRun, useSelectedStep, useShot } from '../workbench/context';
import { UnsavedDialog } from '../workbench/UnsavedDialog';
import { DeleteLaneDialog } from '../workbench/DeleteLaneDialog';
import { useView, view } from '../workbench/state';
import { ACTIONS } from './actions';
import { keysOf } from './keymap';
import type { Entry } from './Palette';
import { Palette } from './Palette';
import { Shortcuts } from './Shortcuts';

const close = (): void => view.set({ dialog: null });

/** Whatever dialog is open. */
export function Dialogs() {
  const dialog = useView((s) => s.dialog);
  switch (dialog) {
    case 'search':
      return <Search />;
    case 'addStep':
      return <AddStep />;
    case 'shortcuts':
      return <Shortcuts onClose={close} />;
    case 'export':
      return <ExportDialog onClose={close} />;
    case 'versions':
      return <VersionsDialog onClose={close} />;
    case 'keyScreen':
      return <KeyScreenDialog onClose={close} />;
    case 'recipes':
      return <RecipesDialog onClose={close} />;
    case 'remove':
      return <RemoveDialog onClose={close} />;
    case 'carry':
      return <CarryDialog onClose={close} />;
    case 'settings':
      return <SettingsDialog onClose={close} />;
    case 'unsaved':
      return <UnsavedDialog onClose={close} />;
    case 'deleteLane':
      return <DeleteLaneDialog onClose={close} />;
    case 'format':
      return <FormatDialog />;
    default:
      return null;
  }
}

/** The steps there are, as entries that add one after the selected step (or at the end of the selected or the result lane). */
function useAddStep(): Entry[] {
  const shot = useShot();
  const run = useRun();
  const selected = useSelectedStep();
  const selection = useView((s) => s.selection);
  const zone = selection?.kind === 'zone' ? commands.findZone(shot, selection.id) : null;
  const laneId = selected?.lane.id ?? zone?.lane.id ?? (selection?.kind === 'lane' ? selection.id : shot.result);
  return [...STEPS.values()]
    .filter((d) => !d.internal)
    .map((d) => ({
      key: d.type,
      title: d.title,
      detail: `${d.family} · ${d.summary}`,
      run: () => {
        const made: { step?: string; lane?: string } = {};
        // With a zone selected it comes behind that.
        const after = zone ? zone.zone.last : selected?.lane.id === laneId ? selected.step.id : undefined;
        // Without any lane it stands on one that starts from nothing.
        const add: commands.Change = (s) => {
          if (!laneId) commands.emptyLane(made)(s);
          commands.addStep(laneId ?? made.lane!, d.type, after, made, !zone)(s);
        };
        if (run(`Add ${d.title}`, add) && made.step) view.set({ selection: { kind: 'step', id: made.step } });
      },
    }));
}

function AddStep() {
  return <Palette label="Add a step" entries={useAddStep()} onClose={close} />;
}

function Search() {
  const shot = useShot();
  const bench = useBench();
  const { session } = bench;
  const steps = useAddStep();
  const entries: Entry[] = [
    ...ACTIONS.map((a) => ({ key: a.title, title: a.title, detail: '', keys: keysOf(a)[0] ?? '', run: () => a.run(session, bench) })),
    ...shot.lanes.map((l) => ({
      key: l.id,
      title: l.name,
      detail: 'lane',
      run: () => view.set({ selection: { kind: 'lane', id: l.id }, seen: { lane: l.id } }),
    })),
    ...shot.lanes.flatMap((l) =>
      (l.zones ?? []).map((z) => ({
        key: z.id,
        title: z.name,
        detail: `zone of ${l.name}`,
        run: () => view.set({ selection: { kind: 'zone', id: z.id } }),
      })),
    ),
    ...shot.lanes.flatMap((l) =>
      l.steps.map((s) => ({
        key: s.id,
        title: s.name,
        detail: `step of ${l.name}`,
        run: () => view.set({ selection: { kind: 'step', id: s.id } }),
      })),
    ),
    ...shot.lanes.flatMap((l) =>
      l.steps.flatMap((s) =>
        Object.entries(paramsOf(s)).map(([name, d]) => ({
          key: `${s.id} ${name}`,
          title: d.title,
          detail: `parameter of ${l.name} ▸ ${s.name}`,
          run: () => view.set({ selection: { kind: 'step', id: s.id } }),
        })),
      ),
    ),
    ...shot.notes.map((n) => ({
      key: n.id,
      title: n.text || 'A note without a text',
      detail: `note at ${n.frame}`,
      run: () => view.set({ frame: n.frame, tab: 'notes', playing: false }),
    })),
    ...steps.map((s) => ({ ...s, title: `Add ${s.title}` })),
  ];
  return <Palette label="Search steps, lanes, frames, actions" entries={entries} onClose={close} />;
}

function FormatDialog() {
  const shot = useShot();
  const run = useRun();
  const [v, setV] = useState({ ...shot.format, frameRate: shot.frameRate, ...shot.range, name: shot.name });
  const field = (key: 'width' | 'height' | 'frameRate' | 'first' | 'last', label: string, min: number, max: number, whole = true) => (
    <NumberField
      label={label}
      value={v[key]}
      min={min}
      max={max}
      whole={whole}
      decimals={3}
      step={1}
      onChange={(x) => setV((s) => ({ ...s, [key]: x }))}
    />
  );
  return (
    <Dialog open onClose={close} aria-label="Format and range" maxWidth="xs" fullWidth>
      <DialogTitle>Format and range</DialogTitle>
      <DialogContent>
        <div className="form">
          <label htmlFor="shot-name">Name</label>
          <OutlinedInput
            id="shot-name"
            value={v.name}
            inputProps={{ maxLength: LIMITS.name }}
            onChange={(e) => setV((s) => ({ ...s, name: e.target.value }))}
          />
          <label>Width × height (px)</label>
          <div className="inline">
            {field('width', 'Width', 1, LIMITS.side)}×{field('height', 'Height', 1, LIMITS.side)}
          </div>
          <label>Frames a second</label>
          {field('frameRate', 'Frame rate', 1, LIMITS.rate, false)}
          <label>First – last frame</label>
          <div className="inline">
            {field('first', 'First frame', -LIMITS.frame, LIMITS.frame)}–{field('last', 'Last frame', -LIMITS.frame, LIMITS.frame)}
          </div>
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          color="secondary"
          onClick={() => {
            const format = { width: v.width, height: v.height, pixelAspect: v.pixelAspect };
            const done = run('Format and range', (s) => {
              commands.setFormat(format, v.frameRate, { first: v.first, last: v.last })(s);
              commands.renameShot(v.name.trim() || s.name)(s);
            });
            if (done) close();
          }}
        >
          Set
        </Button>
      </DialogActions>
    </Dialog>
  );
}
