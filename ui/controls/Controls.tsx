'use client';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import Tooltip from '@mui/material/Tooltip';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { Lane, Step, Tap, Zone } from '@/core/document';
import { applies, behindOf, stepsOfZone } from '@/core/document';
import type { ParamDefinition } from '@/core/param';
import { number } from '@/core/param';
import { STEPS } from '@/core/steps';
import { canFreeze, commands, inputOf } from '@/core/commands';
import { LockIcon, RestartAltIcon } from '@/ui/theme/icons';
import { Renamable } from '../lanes/Renamable';
import { FinishLine } from '../learn/FinishLine';
import { viewOf } from '../readings/kinds';
import { FreezeLine } from '../readings/FreezeLine';
import { useBench, useRun, useSelectedStep, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { dissolveSelected } from '../workbench/zones';
import { MaskPicks, PassLine } from '../passes/PassLine';
import { TimeLine } from '../seating/TimeLine';
import { LightLine } from '../clean/LightLine';
import { CdlFiles } from './CdlFiles';
import { FeedField } from './FeedField';
import { ParamRow } from './ParamRow';

const MIX = number('Mix', 1, [0, 1], { min: 0, max: 1 });

/** The selected step's parameters, always of what is selected; or what a lane is. */
export function Controls() {
  const selected = useSelectedStep();
  const shot = useShot();
  const selection = useView((s) => s.selection);
  const reading = selection?.kind === 'reading' ? shot.readings.find((r) => r.id === selection.id) : undefined;
  const ReadingPanel = reading && viewOf(reading).Controls;
  const zone = selection?.kind === 'zone' ? commands.findZone(shot, selection.id) : null;
  const lane = selection?.kind === 'lane' ? shot.lanes.find((l) => l.id === selection.id) : undefined;
  return (
    <div className="dock" aria-label="Controls" role="region">
      {selected ? (
        <StepControls key={selected.step.id} step={selected.step} lane={selected.lane} />
      ) : zone ? (
        <ZoneControls key={zone.zone.id} zone={zone.zone} lane={zone.lane} />
      ) : ReadingPanel ? (
        <ReadingPanel key={reading!.id} reading={reading!} />
      ) : lane ? (
        <LaneControls lane={lane} />
      ) : (
        <div className="empty" style={{ margin: 12 }}>
          Select a chip on a lane to see its controls here. <kbd>/</kbd> adds a step.
        </div>
      )}
    </div>
  );
}

function LaneControls({ lane }: { lane: Lane }) {
  return (
    <>
      <div className="controls-head">
        <div className="name">
          <b>{lane.name}</b>
        </div>
        <p>A lane of {lane.steps.length === 1 ? 'one step' : `${lane.steps.length} steps`}. Select a chip to change it.</p>
      </div>
      <div style={{ padding: 12, display: 'flex', gap: 8 }}>
        <Button variant="outlined" onClick={() => view.set({ dialog: 'addStep' })}>
          Add a step
        </Button>
        <Button onClick={() => view.set({ seen: { lane: lane.id } })}>See this lane</Button>
      </div>
    </>
  );
}

/** Says that a lane is locked, and unlocks it. */
function Locked({ lane }: { lane: Lane }) {
  const run = useRun();
  if (!lane.locked) return null;
  return (
    <p className="locked" role="status">
      <LockIcon sx={{ fontSize: 14 }} /> {lane.name} is locked.
      <Button onClick={() => run('Unlock lane', commands.changeLane(lane.id, { locked: false }))}>Unlock</Button>
    </p>
  );
}

function StepControls({ step, lane }: { step: Step; lane: Lane }) {
  const run = useRun();
  const shot = useShot();
  const [renaming, setRenaming] = useState(false);
  const definition = STEPS.get(step.type);
  if (!definition) {
    return (
      <div className="controls-head">
        <b>{step.name}</b>
        <p>The step type “{step.type}” is not known to this version. It is kept as it is and passed by.</p>
      </div>
    );
  }
  const idle = definition.idle?.(step.params, shot.readings) ?? [];
  const shown = Object.entries(definition.params).filter(([name]) => applies(definition.params, name, step) && !idle.includes(name));
  const groups = grouped(Object.fromEntries(shown));
  return (
    <>
      <div className="controls-head">
        <div className="name">
          <b className="ellipsis">
            <Renamable
              name={step.name}
              editing={renaming}
              onEdit={setRenaming}
              onName={(name) => run('Rename step', commands.changeStep(step.id, { name }))}
            />
          </b>
          <Tooltip title="On or off (Q)">
            <Switch
              size="small"
              checked={step.on}
              disabled={lane.locked === true}
              slotProps={{ input: { 'aria-label': 'Step on' } }}
              onChange={() => run(step.on ? 'Step off' : 'Step on', commands.changeStep(step.id, { on: !step.on }))}
            />
          </Tooltip>
          <Tooltip title="Reset every parameter">
            <IconButton
              aria-label="Reset step"
              disabled={lane.locked === true}
              onClick={() => run('Reset step', commands.resetStep(step.id))}
            >
              <RestartAltIcon sx={{ fontSize: 16 }} />
            </IconButton>
          </Tooltip>
        </div>
        <p>
          {definition.summary} <span className="ash">{lane.name}</span>
        </p>
      </div>
      <Locked lane={lane} />
      <div className="scroll" style={{ paddingBottom: 14 }} inert={lane.locked === true}>
        {step.type === 'grade' && <CdlFiles step={step} />}
        {step.type === 'patch' && <LightLine step={step} />}
        {canFreeze(step) && <FreezeLine step={step} />}
        <PassLine step={step} />
        {step.type === 'retime' && <TimeLine step={step} />}
        {step.type === 'learn' && <FinishLine step={step} />}
        {definition.feeds.length > 0 && <div className="group">Feeds</div>}
        {definition.feeds.map((f) => (
          <FeedField
            key={f.name}
            title={f.title}
            help={f.help}
            step={step.id}
            feed={f.name}
            tap={step.feeds[f.name]}
            {...(f.behind && { found: behindOf(shot, lane, step.id) })}
            matte={f.matte === true}
            {...(f.matte && { draw: { on: (s) => inputOf(s, step.id), connect: (tap) => commands.setFeed(step.id, f.name, tap) } })}
            onTap={(tap) => run(tap ? 'Connect feed' : 'Disconnect feed', commands.setFeed(step.id, f.name, tap))}
          />
        ))}
        {groups.map(([group, params]) => (
          <div key={group}>
            {group && <div className="group">{group}</div>}
            {params.map(([name, d]) => (
              <ParamRow key={name} step={step} name={name} definition={d} />
            ))}
          </div>
        ))}
        <Limit step={step} />
      </div>
    </>
  );
}

/** A zone: where its steps act, how much, and what it can become. */
function ZoneControls({ zone, lane }: { zone: Zone; lane: Lane }) {
  const run = useRun();
  const { session } = useBench();
  const { params } = STEPS.get('zone')!;
  const steps = stepsOfZone(lane, zone);
  return (
    <>
      <div className="controls-head">
        <div className="name">
          <b className="ellipsis">{zone.name}</b>
          <Tooltip title="On or off (Q)">
            <Switch
              size="small"
              checked={zone.on}
              disabled={lane.locked === true}
              slotProps={{ input: { 'aria-label': 'Zone on' } }}
              onChange={() => run(zone.on ? 'Zone off' : 'Zone on', commands.changeStep(zone.id, { on: !zone.on }))}
            />
          </Tooltip>
        </div>
        <p>
          A zone around {steps.map((s) => s.name).join(', ')}. <span className="ash">{lane.name}</span>
        </p>
      </div>
      <Locked lane={lane} />
      <div className="scroll" style={{ paddingBottom: 14 }} inert={lane.locked === true}>
        {Object.entries(params)
          .filter(([name]) => applies(params, name, zone))
          .map(([name, d]) => (
            <ParamRow key={name} step={zone} name={name} definition={d} />
          ))}
        <Limit step={zone} />
        <div className="measure">
          <Button variant="outlined" onClick={() => dissolveSelected(session)}>
            Dissolve
          </Button>
        </div>
      </div>
    </>
  );
}

/** Parameters by group, in the order of the definition; what has no group first, the limit group is drawn by itself. */
function grouped(params: Readonly<Record<string, ParamDefinition>>): [string, [string, ParamDefinition][]][] {
  const groups = new Map<string, [string, ParamDefinition][]>();
  for (const entry of Object.entries(params)) {
    const group = entry[1].group ?? '';
    groups.set(group, [...(groups.get(group) ?? []), entry]);
  }
  return [...groups].sort(([a], [b]) => Number(a === 'Limit') - Number(b === 'Limit'));
}

function Limit({ step }: { step: Step }) {
  const run = useRun();
  const definition = STEPS.get(step.type)!;
  const { mask } = step;
  const to = (tap: Tap | null) =>
    commands.setMask(step.id, tap && { ...tap, channel: mask?.channel ?? 'A', invert: mask?.invert ?? false });
  const has = Object.values(definition.params).some((p) => p.group === 'Limit');
  return (
    <div>
      {!has && <div className="group">Limit</div>}
      <FeedField
        title="Mask"
        help="Where it acts: a lane's matte."
        step={step.id}
        tap={mask}
        matte
        draw={{ on: (s) => inputOf(s, step.id), connect: to }}
        onTap={(tap) => run(tap ? 'Set mask' : 'Remove mask', to(tap))}
      />
      {!mask && <MaskPicks step={step} />}
      {mask && (
        <>
          <div className="row wide">
            <label>Mask channel</label>
            <Select
              value={mask.channel}
              size="small"
              fullWidth
              inputProps={{ 'aria-label': 'Mask channel' }}
              onChange={(e) => run('Mask channel', commands.setMask(step.id, { ...mask, channel: e.target.value }))}
            >
              {['A', 'R', 'G', 'B', 'luma', ...(['A', 'R', 'G', 'B', 'luma'].includes(mask.channel) ? [] : [mask.channel])].map((c) => (
                <MenuItem key={c} value={c}>
                  {c === 'A' ? 'alpha' : c}
                </MenuItem>
              ))}
            </Select>
            <span />
          </div>
          <div className="row wide">
            <label>Invert mask</label>
            <Switch
              size="small"
              checked={mask.invert}
              slotProps={{ input: { 'aria-label': 'Invert mask' } }}
              onChange={() => run('Invert mask', commands.setMask(step.id, { ...mask, invert: !mask.invert }))}
            />
            <span />
          </div>
        </>
      )}
      <ParamRow step={step} name="mix" definition={MIX} />
    </div>
  );
}
