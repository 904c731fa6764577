'use client';
import Tooltip from '@mui/material/Tooltip';
import { memo, useEffect, useRef, useState } from 'react';
import type { Lane, Step } from '@/core/document';
import { isKeyed } from '@/core/document';
import { commands } from '@/core/commands';
import { WarningAmberIcon } from '@/ui/theme/icons';
import { useBench, useRun } from '../workbench/context';
import { copySelected } from '../workbench/copying';
import { RowMenu } from '../workbench/RowMenu';
import { deleteThing } from '../workbench/deleting';
import { gatherChosen } from '../workbench/zones';
import { useView, view } from '../workbench/state';
import { Renamable } from './Renamable';

/** The operator of a join, as it is said. */
export const joinWord = (step: { params: Record<string, unknown> }): string =>
  typeof step.params.operator === 'string' ? step.params.operator : 'over';

/** The lane's beginning: its source, or the point of the lane it taps. */
export function StartChip({ lane, label }: { lane: Lane; label: string }) {
  const seen = useView((s) => s.seen);
  const selection = useView((s) => s.selection);
  const here = seen?.lane === lane.id && seen.after === '';
  const chosen = 'source' in lane.start && selection?.kind === 'source' && selection.id === lane.start.source;
  return (
    <button
      className={`chip start${chosen ? ' selected' : ''}`}
      onClick={() =>
        view.set({ selection: 'source' in lane.start ? { kind: 'source', id: lane.start.source } : { kind: 'lane', id: lane.id } })
      }
      onDoubleClick={() => view.set({ seen: { lane: lane.id, after: '' } })}
    >
      {here && <span className="flag" aria-label="seen here" />}
      {label}
    </button>
  );
}

interface StepChipProps {
  step: Step;
  lane: string;
  /** Its place in the lane. */
  index: number;
  remark: string | undefined;
  /** Of a join, the name of what it brings. */
  front: string | undefined;
  /** The background that it found by itself. */
  behind: string | undefined;
}

/** A step as drawn on a lane: hatched when off, notch when masked, dot when keyed, flag where the view is. */
export const StepChip = memo(function StepChip({ step, lane, index, remark, front, behind }: StepChipProps) {
  const run = useRun();
  const { session } = useBench();
  const seenHere = useView((s) => s.seen?.after === step.id);
  const selected = useView(
    (s) =>
      (s.selection?.kind === 'step' && s.selection.id === step.id) ||
      (s.run?.lane === lane && index >= Math.min(s.run.from, s.run.to) && index <= Math.max(s.run.from, s.run.to)),
  );
  const renaming = useView((s) => s.renaming === step.id);
  const setRenaming = (on: boolean): void => view.set({ renaming: on ? step.id : null });
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const keyed = [...Object.values(step.params), step.mix].some(isKeyed);
  const act = (label: string, change: commands.Change) => () => void run(label, change);
  /** With Shift, all steps from the one that is selected to this one. */
  const chip = useRef<HTMLButtonElement>(null);
  const alone = useView((s) => s.selection?.kind === 'step' && s.selection.id === step.id);
  // A new step, and one that is come to by keyboard or search, is brought into view.
  useEffect(() => {
    if (alone) chip.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [alone]);
  const choose = (more: boolean): void => {
    const { selection, run: had } = view.get();
    if (!more || selection?.kind !== 'step') return view.set({ selection: { kind: 'step', id: step.id } });
    const own = session.store.getState().shot.lanes.find((l) => l.id === lane)?.steps ?? [];
    const from = had?.lane === lane ? had.from : own.findIndex((s) => s.id === selection.id);
    if (from >= 0) view.set({ selection, run: { lane, from, to: index } });
  };
  return (
    <>
      <button
        ref={chip}
        data-step={step.id}
        data-label={step.name}
        className={`chip${selected ? ' selected' : ''}${step.on ? '' : ' off'}${front ? ' join' : ''}`}
        aria-pressed={selected}
        data-testid={`chip ${step.name}`}
        onClick={(e) => choose(e.shiftKey)}
        onContextMenu={(e) => {
          e.preventDefault();
          if (!selected) choose(false);
          setMenu(e.currentTarget);
        }}
      >
        {seenHere && <span className="flag" aria-label="seen here" />}
        {remark && (
          <Tooltip title={remark}>
            <span className="warn" aria-label={`Warning: ${remark}`}>
              <WarningAmberIcon sx={{ fontSize: 14 }} />
            </span>
          </Tooltip>
        )}
        {front && !renaming ? (
          <span onDoubleClick={() => setRenaming(true)}>
            {joinWord(step)} ◂ {front}
          </span>
        ) : (
          <Renamable
            name={step.name}
            editing={renaming}
            onEdit={setRenaming}
            onName={(name) => run('Rename step', commands.changeStep(step.id, { name }))}
          />
        )}
        {behind && !renaming && <span className="behind">◂ {behind}</span>}
        {step.mask && <span className="notch" aria-label="masked" />}
        {keyed && <span className="d" aria-label="keyed" />}
      </button>
      <RowMenu
        anchor={menu}
        onClose={() => setMenu(null)}
        entries={[
          ['See the picture here (V)', () => view.set({ seen: { lane, after: step.id } })],
          [
            step.on ? 'Switch off (Q)' : 'Switch on (Q)',
            act(step.on ? 'Step off' : 'Step on', commands.changeStep(step.id, { on: !step.on })),
          ],
          ['Rename', () => setRenaming(true)],
          ['Copy (Ctrl+C)', () => copySelected(session)],
          ['Gather into a zone (Shift+G)', () => gatherChosen(session)],
          ['Keep as a recipe', () => view.set({ dialog: 'recipes' })],
          ['Duplicate', act('Duplicate step', commands.moveStep(step.id, lane, index + 1, true))],
          [
            'New lane from here',
            () => {
              const made: { lane?: string } = {};
              if (run('New lane', commands.tapLane({ lane, after: step.id }, made)) && made.lane)
                view.set({ selection: { kind: 'lane', id: made.lane } });
            },
          ],
          ['Reset', act('Reset step', commands.resetStep(step.id))],
          ['Delete', () => deleteThing(session, { kind: 'step', id: step.id })],
        ]}
      />
    </>
  );
});
