'use client';
import { useDraggable } from '@dnd-kit/core';
import WarningAmberIcon from '@mui/icons-material/WarningAmber';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import { isKeyed, findStep } from '@/core/document/params';
import type { Lane, Step } from '@/core/document/types';
import * as commands from '@/store/commands';
import type { Dragged } from '../workbench/drag';
import { tapName, useRun, useShot } from '../workbench/context';
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

/** A step as drawn on a lane: hatched when off, notch when masked, dot when keyed, flag where the view is. */
export function StepChip({ step, remark }: { step: Step; remark: string | undefined }) {
  const shot = useShot();
  const run = useRun();
  const seen = useView((s) => s.seen);
  const selection = useView((s) => s.selection);
  const [renaming, setRenaming] = useState(false);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const drag = useDraggable({
    id: `chip ${step.id}`,
    data: { kind: 'chip', id: step.id, label: step.name } satisfies Dragged,
    disabled: renaming,
  });
  const selected = selection?.kind === 'step' && selection.id === step.id;
  const keyed = [...Object.values(step.params), step.mix].some(isKeyed);
  const front = step.type === 'join' ? step.feeds.front : undefined;
  const lane = findStep(shot, step.id)?.lane;
  const act = (label: string, change: commands.Change) => () => {
    setMenu(null);
    run(label, change);
  };
  return (
    <>
      <button
        ref={drag.setNodeRef}
        {...drag.listeners}
        className={`chip${selected ? ' selected' : ''}${step.on ? '' : ' off'}${front ? ' join' : ''}`}
        aria-pressed={selected}
        data-testid={`chip ${step.name}`}
        onClick={() => view.set({ selection: { kind: 'step', id: step.id } })}
        onContextMenu={(e) => {
          e.preventDefault();
          view.set({ selection: { kind: 'step', id: step.id } });
          setMenu(e.currentTarget);
        }}
      >
        {seen?.after === step.id && <span className="flag" aria-label="seen here" />}
        {remark && (
          <Tooltip title={remark}>
            <span className="warn" aria-label={`Warning: ${remark}`}>
              <WarningAmberIcon sx={{ fontSize: 14 }} />
            </span>
          </Tooltip>
        )}
        {front && !renaming ? (
          <span onDoubleClick={() => setRenaming(true)}>
            {joinWord(step)} ◂ {tapName(shot, front)}
          </span>
        ) : (
          <Renamable
            name={step.name}
            editing={renaming}
            onEdit={setRenaming}
            onName={(name) => run('Rename step', commands.changeStep(step.id, { name }))}
          />
        )}
        {step.mask && <span className="notch" aria-label="masked" />}
        {keyed && <span className="d" aria-label="keyed" />}
      </button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem
          onClick={() => {
            setMenu(null);
            if (lane) view.set({ seen: { lane: lane.id, after: step.id } });
          }}
        >
          See the picture here (V)
        </MenuItem>
        <MenuItem onClick={act(step.on ? 'Step off' : 'Step on', commands.changeStep(step.id, { on: !step.on }))}>
          {step.on ? 'Switch off (Q)' : 'Switch on (Q)'}
        </MenuItem>
        <MenuItem
          onClick={() => {
            setMenu(null);
            setRenaming(true);
          }}
        >
          Rename
        </MenuItem>
        {lane && (
          <MenuItem
            onClick={act('Duplicate step', commands.moveStep(step.id, lane.id, lane.steps.findIndex((s) => s.id === step.id) + 1, true))}
          >
            Duplicate
          </MenuItem>
        )}
        {lane && <MenuItem onClick={act('New tap', commands.tapLane({ lane: lane.id, after: step.id }))}>New lane from here</MenuItem>}
        <MenuItem onClick={act('Reset step', commands.resetStep(step.id))}>Reset</MenuItem>
        <MenuItem onClick={act('Delete step', commands.removeStep(step.id))}>Delete</MenuItem>
      </Menu>
    </>
  );
}
