'use client';
import Button from '@mui/material/Button';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { ComponentType } from 'react';
import type { Step } from '@/core/document';
import { lanesBehind } from '@/core/document';
import type { Part } from '@/core/params';
import type { ThingKind } from '@/core/commands';
import { THING_KINDS, addThing, renameThing } from '@/core/commands';
import {
  AccountTreeIcon,
  AddIcon,
  CategoryIcon,
  CropLandscapeIcon,
  GrainIcon,
  LightModeIcon,
  PublicIcon,
  TonalityIcon,
  ViewInArIcon,
} from '@/ui/theme/icons';
import { useBench, useRun, useShotPart } from '../../workbench/context';
import { useView, view } from '../../workbench/state';

const MARKS: Record<ThingKind, ComponentType<{ sx?: object; titleAccess?: string }>> = {
  card: CropLandscapeIcon,
  ball: PublicIcon,
  box: ViewInArIcon,
  model: CategoryIcon,
  points: GrainIcon,
  light: LightModeIcon,
  catcher: TonalityIcon,
  holder: AccountTreeIcon,
};

export function ThingMark({ step, thing }: { step: Step; thing: string }) {
  const what = (step.params[`${thing}.what`] ?? 'card') as ThingKind;
  const Mark = MARKS[what];
  return <Mark sx={{ fontSize: 15 }} titleAccess={THING_KINDS[what].title} />;
}

/** What a thing is called. */
export function ThingName({ step, part }: { step: Step; part: Part }) {
  const run = useRun();
  const keep = (value: string): void => {
    const name = value.trim();
    if (name !== '' && name !== part.name) run(`Rename ${part.name}`, renameThing(step.id, part.id, name));
  };
  return (
    <label className="thing-name">
      Name
      <input
        key={part.name}
        className="text-input"
        defaultValue={part.name}
        maxLength={200}
        onBlur={(e) => keep(e.target.value)}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
    </label>
  );
}

/** A click on the picture then says where it stands. */
export function PlaceThing({ step, thing }: { step: Step; thing: string }) {
  const picking = useView((s) => s.picking);
  const on = picking?.step === step.id && picking.data === 'thing' && picking.part === thing;
  return (
    <button
      className={`pill${on ? ' on' : ''}`}
      aria-pressed={on}
      title="Click the picture: it stands at the point there, or on the ground"
      onClick={() =>
        view.set({ thing, roomView: false, picking: on ? null : { step: step.id, param: 'things', data: 'thing', part: thing } })
      }
    >
      Place
    </button>
  );
}

/** Adds things, and opens the room. */
export function AddThing({ step }: { step: Step }) {
  const run = useRun();
  const models = useShotPart('sources').filter((s) => s.kind === 'model');
  const lanes = useShotPart('lanes');
  const { session } = useBench();
  const room = useView((s) => s.roomView);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const own = lanes.find((l) => l.steps.some((x) => x.id === step.id));
  // A lane that is made from this one cannot be shown in it.
  const fits = (lane: string): boolean => !own || !lanesBehind(session.store.getState().shot, lane).has(own.id);
  const add = (what: ThingKind, options: Parameters<typeof addThing>[2] = {}): void => {
    setAnchor(null);
    const made: { thing?: string } = {};
    run(`Add ${THING_KINDS[what].title.toLowerCase()}`, addThing(step.id, what, options, made));
    if (made.thing) view.set({ thing: made.thing });
  };
  const empty = !Array.isArray(step.params.things) || step.params.things.length === 0;
  return (
    <div className="inline" style={{ flexWrap: 'wrap' }}>
      {empty && (
        <small className="dust" style={{ flexBasis: '100%' }}>
          Nothing is in it yet: add a card with a lane, a model, a light, or what catches shadows.
        </small>
      )}
      <Button variant="outlined" startIcon={<AddIcon />} onClick={(e) => setAnchor(e.currentTarget)}>
        Add a thing
      </Button>
      <Button variant="outlined" aria-pressed={room} color={room ? 'secondary' : 'primary'} onClick={() => view.set({ roomView: !room })}>
        {room ? 'See the picture' : 'See the room'}
      </Button>
      {anchor && (
        <Menu anchorEl={anchor} open onClose={() => setAnchor(null)}>
          {(Object.keys(THING_KINDS) as ThingKind[])
            .filter((k) => k !== 'model' || models.length === 0)
            .map((k) => (
              <MenuItem key={k} onClick={() => add(k)}>
                {THING_KINDS[k].title}
              </MenuItem>
            ))}
          {models.length > 0 && <ListSubheader>Models</ListSubheader>}
          {models.map((m) => (
            <MenuItem key={m.id} onClick={() => add('model', { name: m.name, params: { model: m.id } })}>
              {m.name}
            </MenuItem>
          ))}
          <ListSubheader>Card with a lane</ListSubheader>
          {lanes
            .filter((l) => fits(l.id))
            .map((l) => (
              <MenuItem key={l.id} onClick={() => add('card', { name: l.name, picture: { lane: l.id } })}>
                {l.name}
              </MenuItem>
            ))}
        </Menu>
      )}
    </div>
  );
}
