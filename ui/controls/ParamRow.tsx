'use client';
import Tooltip from '@mui/material/Tooltip';
import { memo, useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import type { Param, Step, Value } from '@/core/document';
import { admit, isKeyed, isLink, resolveParam } from '@/core/document';
import type { ParamDefinition } from '@/core/param';
import { commands } from '@/core/commands';
import { useRun, useShotState } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { FIELDS, STACKED } from './fields';
import { LinkLine, useParamMenu } from './ParamMenu';

interface RowProps {
  step: Step;
  name: string;
  definition: ParamDefinition;
}

const paramOf = (step: Step, name: string): Param | undefined => (name === 'mix' ? step.mix : step.params[name]);

/** One parameter: label, field and key diamond, all from its definition. Drawn again only where its own value is another. */
export const ParamRow = memo(
  Row,
  (a, b) =>
    a.step.id === b.step.id &&
    a.name === b.name &&
    a.definition === b.definition &&
    // Parts show further parameters, and feeds.
    (a.definition.kind === 'parts' ? a.step === b.step : paramOf(a.step, a.name) === paramOf(b.step, b.name)),
);

function Row({ step, name, definition: d }: RowProps) {
  const run = useRun();
  const param = paramOf(step, name);
  const moves = isKeyed(param) || isLink(param);
  // A constant is the same at every frame: its row is not drawn for each.
  const shownAt = useView((s) => (moves ? s.frame : null));
  const frame = shownAt ?? view.get().frame;
  const [problem, setProblem] = useState<string | null>(null);
  // What it follows may change while its own parameter stays.
  const value = useShotState(useShallow(({ shot }) => admit(d, resolveParam(shot, param, d.default, frame))));
  const changed = name === 'mix' ? step.mix !== 1 : param !== undefined;
  const set = (v: Value, gesture?: string): void =>
    void run(`Change ${d.title.toLowerCase()}`, commands.setParams(step.id, { [name]: v }, view.get().frame), gesture);
  const keyed = isKeyed(param);
  const here = keyed && param.keys.some((k) => k.frame === frame);
  const menu = useParamMenu(step, name, d, param, value);
  const single = d.kind === 'number' || d.kind === 'integer';
  const Field = FIELDS[d.kind];
  return (
    <div className={`row${single ? '' : STACKED.includes(d.kind) ? ' stacked' : ' wide'}`}>
      <Tooltip title={[d.help, 'Double-click resets, right-click offers more.'].filter(Boolean).join(' ')} placement="left">
        <label
          className={`ellipsis${changed ? ' changed' : ''}`}
          onContextMenu={(e) => {
            e.preventDefault();
            menu.open(e.currentTarget);
          }}
          onDoubleClick={() => run(`Reset ${d.title.toLowerCase()}`, commands.resetParam(step.id, name))}
        >
          {d.title}
        </label>
      </Tooltip>
      <Field d={d} value={value} set={set} step={step} name={name} onProblem={setProblem} Row={ParamRow} />
      {d.animatable === false ? (
        <span />
      ) : (
        <Tooltip title={here ? 'Take the key at this frame away' : keyed ? 'Set a key at this frame' : 'Set a first key at this frame'}>
          <button
            className={`diamond${keyed ? ' keyed' : ''}${here ? ' here' : ''}`}
            aria-label={`Key of ${d.title}`}
            aria-pressed={here}
            onClick={() => run(here ? 'Remove key' : 'Set key', commands.toggleKey(step.id, name, value, view.get().frame))}
          />
        </Tooltip>
      )}
      {isLink(param) && <LinkLine step={step} name={name} d={d} param={param} value={value} />}
      {menu.elements}
      {problem && (
        <span className="bad-note" role="alert">
          {problem}
        </span>
      )}
    </div>
  );
}
