'use client';
import IconButton from '@mui/material/IconButton';
import { useState } from 'react';
import type { Step } from '@/core/document';
import type { Shape } from '@/core/shape';
import { changeSome, moveShape } from '@/core/commands';
import { ArrowDownwardIcon, ArrowUpwardIcon, CloseIcon, LockIcon, LockOpenIcon, VisibilityIcon, VisibilityOffIcon } from '@/ui/theme/icons';
import { Renamable } from '../lanes/Renamable';
import { useRun } from '../workbench/context';
import { MARKS, markOf, shaping } from './shaping';

interface Props {
  step: Step;
  shape: Shape;
  index: number;
  count: number;
  chosen: boolean;
}

const SIGNS = { add: '', subtract: '−', intersect: '∩', exclude: '⊕' } as const;

/** One shape of the list: its mark, name, and what is done with it often. */
export function ShapeRow({ step, shape, index, count, chosen }: Props) {
  const run = useRun();
  const [renaming, setRenaming] = useState(false);
  const change = (label: string, by: Partial<Shape>): void =>
    void run(
      label,
      changeSome(step.id, [shape.id], (s) => ({ ...s, ...by })),
    );
  const icon = { fontSize: 14 };
  return (
    <div
      role="listitem"
      aria-label={shape.name}
      className={`shape-row${chosen ? ' chosen' : ''}${shape.on ? '' : ' off'}`}
      onClick={() => shaping.set({ shape: shape.id, points: [] })}
    >
      <button
        className="shape-mark"
        aria-label={`Outline colour of ${shape.name}`}
        title="Another outline colour"
        style={{ background: markOf(shape) }}
        onClick={() => change('Outline colour', { mark: (shape.mark + 1) % MARKS.length })}
      />
      <span className="shape-sign" title={shape.operation}>
        {SIGNS[shape.operation]}
      </span>
      <span className="grow ellipsis">
        <Renamable name={shape.name} editing={renaming} onEdit={setRenaming} onName={(name) => change('Rename shape', { name })} />
      </span>
      {chosen && (
        <>
          <IconButton
            aria-label={`Move ${shape.name} up`}
            disabled={index === 0}
            onClick={() => run('Order shapes', moveShape(step.id, shape.id, index - 1))}
          >
            <ArrowUpwardIcon sx={icon} />
          </IconButton>
          <IconButton
            aria-label={`Move ${shape.name} down`}
            disabled={index === count - 1}
            onClick={() => run('Order shapes', moveShape(step.id, shape.id, index + 1))}
          >
            <ArrowDownwardIcon sx={icon} />
          </IconButton>
        </>
      )}
      <IconButton
        aria-label={shape.on ? `Hide ${shape.name}` : `Show ${shape.name}`}
        onClick={() => change(shape.on ? 'Shape off' : 'Shape on', { on: !shape.on })}
      >
        {shape.on ? <VisibilityIcon sx={icon} /> : <VisibilityOffIcon sx={icon} />}
      </IconButton>
      <IconButton
        aria-label={shape.locked ? `Unlock ${shape.name}` : `Lock ${shape.name}`}
        onClick={() => change(shape.locked ? 'Unlock shape' : 'Lock shape', { locked: !shape.locked })}
      >
        {shape.locked ? <LockIcon sx={icon} /> : <LockOpenIcon sx={icon} />}
      </IconButton>
      <IconButton
        aria-label={`Delete ${shape.name}`}
        onClick={() =>
          run(
            'Delete shape',
            changeSome(step.id, [shape.id], () => null),
          )
        }
      >
        <CloseIcon sx={icon} />
      </IconButton>
    </div>
  );
}
