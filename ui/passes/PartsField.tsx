'use client';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import { useState } from 'react';
import type { Step } from '@/core/document';
import { admit, applies, resolveParam } from '@/core/document';
import type { FeedDefinition, ParamOf, ParamSchema } from '@/core/param';
import type { Part } from '@/core/params';
import { partKey, schemaOf } from '@/core/params';
import { PASS_ROLES } from '@/core/passes';
import { STEPS } from '@/core/steps';
import { addLamp, addParts, commands, inputOf, removePart } from '@/core/commands';
import { AddIcon, CloseIcon, ExpandMoreIcon } from '@/ui/theme/icons';
import { FeedField } from '../controls/FeedField';
import { SceneOut } from '../space/things/SceneOut';
import { AddThing, PlaceThing, ThingMark, ThingName } from '../space/things/ThingRows';
import type { FieldProps } from '../controls/field-props';
import { useRun, useShotState } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { PartThumb } from './PartThumb';
import { ResidualLine } from './ResidualLine';
import { useInput } from './use-input';

/** What is seen of a part without opening it. */
const FIRST = ['gain'];

/** The parts of a step one below the other: each with its first parameters, and all of them once it is opened. */
export function PartsField({ d, value, step, name, Row }: FieldProps<ParamOf<'parts'>, readonly Part[]>) {
  const [opened, setOpened] = useState<string | null>(null);
  const thing = useView((s) => s.thing);
  // The thing that is open is the one that is chosen on the picture.
  const [open, setOpen] = d.of === 'thing' ? [thing, (id: string | null) => view.set({ thing: id })] : [opened, setOpened];
  return (
    <div className="parts">
      {step.type === 'rebuildBeauty' && <ResidualLine step={step} />}
      {value.map((part) => (
        <PartRow
          key={part.id}
          d={d}
          part={part}
          step={step}
          name={name}
          Row={Row}
          open={open === part.id}
          onOpen={(o) => setOpen(o ? part.id : null)}
        />
      ))}
      {d.of === 'pass' ? (
        <AddPasses d={d} value={value} step={step} name={name} />
      ) : d.of === 'thing' ? (
        <>
          <AddThing step={step} />
          <SceneOut step={step} />
        </>
      ) : (
        <AddLamp step={step} />
      )}
    </div>
  );
}

interface RowProps {
  d: ParamOf<'parts'>;
  part: Part;
  step: Step;
  name: string;
  open: boolean;
  onOpen(open: boolean): void;
  Row: FieldProps['Row'];
}

function PartRow({ d, part, step, name, open, onOpen, Row }: RowProps) {
  const run = useRun();
  const schema = schemaOf(STEPS.get(step.type)!.params, step.params);
  const picking = useView((s) => s.picking);
  const picked = picking?.step === step.id && picking.part === part.id;
  const fields = Object.keys(d.item).filter((f) => applies(schema, partKey(part.id, f), step));
  const shown = open ? fields : FIRST.filter((f) => fields.includes(f));
  const onKey = partKey(part.id, 'on');
  const on = useShotState(({ shot }) => admit(schema[onKey]!, resolveParam(shot, step.params[onKey], true, view.get().frame)) === true);
  return (
    <div className="part" role="group" aria-label={part.name} data-testid={`part ${part.name}`}>
      <div className="part-head">
        <button className="part-name ellipsis" aria-expanded={open} onClick={() => onOpen(!open)} title={open ? 'Less' : 'All of it'}>
          <ExpandMoreIcon sx={{ fontSize: 15, transform: open ? 'none' : 'rotate(-90deg)' }} />
          {d.of === 'pass' && <PartThumb step={step.id} layer={part.name} />}
          {d.of === 'thing' && <ThingMark step={step} thing={part.id} />}
          {part.name}
        </button>
        <Switch
          size="small"
          checked={on}
          slotProps={{ input: { 'aria-label': `${part.name} on` } }}
          onChange={() => run(`${part.name} ${on ? 'off' : 'on'}`, commands.setParams(step.id, { [onKey]: !on }, view.get().frame))}
        />
        {d.of === 'thing' && <PlaceThing step={step} thing={part.id} />}
        {d.of === 'lamp' && (
          <button
            className={`pill${picked ? ' on' : ''}`}
            aria-pressed={picked}
            title="Click a surface on the stage: the lamp stands in front of it"
            onClick={() => view.set({ picking: picked ? null : { step: step.id, param: 'lamps', data: 'lamp', part: part.id } })}
          >
            Place
          </button>
        )}
        <IconButton aria-label={`Take ${part.name} away`} onClick={() => run(`Take ${part.name} away`, removePart(step.id, name, part.id))}>
          <CloseIcon sx={{ fontSize: 14 }} />
        </IconButton>
      </div>
      {open && d.of === 'thing' && <ThingName step={step} part={part} />}
      {shown.map((f) => (
        // Beside the part's name the field's own is enough.
        <Row key={f} step={step} name={partKey(part.id, f)} definition={titled(schema[partKey(part.id, f)]!, d.item[f]!.title)} />
      ))}
      {open &&
        (d.feeds ?? [])
          .filter((f) => feedCounts(f, schema, step, part))
          .map((f) => {
            const feed = partKey(part.id, f.name);
            return (
              <FeedField
                key={feed}
                title={f.title}
                help={f.help}
                step={step.id}
                feed={feed}
                tap={step.feeds[feed]}
                matte={f.matte === true}
                {...(f.matte && { draw: { on: (s) => inputOf(s, step.id), connect: (tap) => commands.setFeed(step.id, feed, tap) } })}
                onTap={(tap) => run(tap ? 'Connect feed' : 'Disconnect feed', commands.setFeed(step.id, feed, tap))}
              />
            );
          })}
    </div>
  );
}

/** Whether a feed of a part has an effect, going by its other parameters. */
const feedCounts = (f: FeedDefinition, schema: ParamSchema, step: Step, part: Part): boolean =>
  Object.entries(f.when ?? {}).every(([other, allowed]) => {
    const key = partKey(part.id, other);
    return (allowed as readonly unknown[]).includes(step.params[key] ?? schema[key]!.default);
  });

type Definition = ParamOf<'parts'>['item'][string];
const shownAs = new WeakMap<Definition, Definition>();
/** A definition under another title, the same object each time. */
function titled(d: Definition, title: string): Definition {
  let made = shownAs.get(d);
  if (!made) shownAs.set(d, (made = { ...d, title }));
  return made;
}

function AddPasses({ d, value, step, name }: { d: ParamOf<'parts'>; value: readonly Part[]; step: Step; name: string }) {
  const run = useRun();
  const { info } = useInput(step.id);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const passes = (info?.passes ?? []).filter((p) => p.name !== '' && !value.some((v) => v.name === p.name));
  const fitting = passes.filter((p) => d.roles?.includes(p.role));
  const others = passes.filter((p) => !fitting.includes(p) && p.channels.length >= 3);
  const add = (list: typeof passes): void => {
    setAnchor(null);
    run(list.length === 1 ? `Add ${list[0]!.name}` : 'Add passes', addParts(step.id, name, list));
  };
  if (!info) return null;
  return (
    <div className="inline">
      <Button variant="outlined" startIcon={<AddIcon />} disabled={passes.length === 0} onClick={(e) => setAnchor(e.currentTarget)}>
        Add a pass
      </Button>
      {fitting.length > 1 && (
        <Button variant="outlined" onClick={() => add(fitting)}>
          Add all {fitting.length}
        </Button>
      )}
      {passes.length === 0 && value.length === 0 && <small className="dust">The picture that it stands on has one pass only.</small>}
      {anchor && (
        <Menu anchorEl={anchor} open onClose={() => setAnchor(null)}>
          {fitting.map((p) => (
            <MenuItem key={p.name} onClick={() => add([p])}>
              {p.name}{' '}
              <span className="dust" style={{ marginLeft: 8 }}>
                {PASS_ROLES[p.role]}
              </span>
            </MenuItem>
          ))}
          {others.length > 0 && <ListSubheader>Other passes</ListSubheader>}
          {others.map((p) => (
            <MenuItem key={p.name} onClick={() => add([p])}>
              {p.name}
            </MenuItem>
          ))}
        </Menu>
      )}
    </div>
  );
}

function AddLamp({ step }: { step: Step }) {
  const run = useRun();
  const picking = useView((s) => s.picking);
  const on = picking?.step === step.id && picking.data === 'lamp' && picking.part === undefined;
  return (
    <div className="inline">
      <Button
        variant="outlined"
        startIcon={<AddIcon />}
        aria-pressed={on}
        color={on ? 'secondary' : 'primary'}
        onClick={() => view.set({ picking: on ? null : { step: step.id, param: 'lamps', data: 'lamp' } })}
      >
        {on ? 'Click the picture' : 'Set a lamp on the picture'}
      </Button>
      <Button variant="outlined" onClick={() => run('Add a lamp', addLamp(step.id, null))}>
        At 0, 0, 0
      </Button>
    </div>
  );
}
