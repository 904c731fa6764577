import type { Draft } from 'immer';
import type { Lane, Param, Shot, Source, Step } from '../document';
import { findStep, fitName } from '../document';
import { ShotError } from '../errors';
import type { Part } from '../params';
import { partKey } from '../params';
import type { PassNote, PassRole, RoledPass } from '../passes';
import { MATERIAL_ROLES, PASS_ROLES, roledPasses } from '../passes';
import { STEPS } from '../steps';
import type { Change } from './change';
import { laneOf, stepNames, stepOf } from './change';
import { dropStray } from './commands';
import { freeName, newId, newLane, newStep } from './make';

/** What is made of a render's passes by one command: the step, its words, and the roles it lives on (any of a row, all rows). */
export interface PassCommand {
  type: string;
  label: string;
  help: string;
  needs: readonly (readonly PassRole[])[];
}
export const PASS_COMMANDS: readonly PassCommand[] = [
  {
    type: 'rebuildBeauty',
    label: 'Rebuild from these',
    help: 'Every material pass as a part with its own gain and tint',
    needs: [MATERIAL_ROLES],
  },
  { type: 'lightMix', label: 'Light mix', help: 'Every light group as a lamp', needs: [['light']] },
  { type: 'relight', label: 'Relight', help: 'New lamps, shaded by normals and positions', needs: [['position', 'depth']] },
  { type: 'haze', label: 'Haze by this depth', help: 'Air between the camera and what is seen', needs: [['depth']] },
  { type: 'depthOfField', label: 'Depth of field', help: 'Focus by this depth', needs: [['depth']] },
  { type: 'depthRange', label: 'Depth as a matte', help: 'Near to far as black to white', needs: [['depth']] },
  { type: 'vectorBlur', label: 'Vector blur', help: 'Blur along this motion', needs: [['motion']] },
  { type: 'idMatte', label: 'Matte by ID', help: 'Pick things on the picture', needs: [['cryptomatte', 'id']] },
  { type: 'positionMatte', label: 'Matte by position', help: 'A place in the scene', needs: [['position', 'depth']] },
  { type: 'uvTexture', label: 'Texture by UV', help: 'A picture laid on anew', needs: [['uv']] },
];

/** Those that have what they need among the passes. */
export const commandsFor = (passes: readonly RoledPass[]): readonly PassCommand[] =>
  PASS_COMMANDS.filter(({ needs }) => needs.every((any) => passes.some((p) => any.includes(p.role))));

/** Steps that make lanes of their own: mattes are for other lanes. */
const MATTES = ['idMatte', 'positionMatte', 'depthRange'];
/** Parts first, then lamps, then what goes by data. */
const ORDER = ['rebuildBeauty', 'lightMix', 'uvTexture', 'relight', 'occlusionFromDepth', 'haze', 'depthOfField', 'vectorBlur'];

/** A part's id out of its name: letters that a parameter may have. */
function partId(name: string, taken: readonly string[]): string {
  const base = name.replace(/[^\w-]+/g, '_').slice(0, 48) || 'part';
  for (let i = 1; ; i++) {
    const id = i === 1 ? base : `${base}_${i}`;
    if (!taken.includes(id)) return id;
  }
}

/** Parts for some passes, and what of their facts becomes parameters. */
export function partsFor(passes: readonly RoledPass[], had: readonly Part[] = []): { parts: Part[]; params: Record<string, Param> } {
  const parts = [...had];
  const params: Record<string, Param> = {};
  for (const pass of passes) {
    const id = partId(
      pass.name,
      parts.map((p) => p.id),
    );
    parts.push({ id, name: pass.name });
    if (pass.facts?.times) params[partKey(id, 'filter')] = pass.facts.times;
  }
  return { parts, params };
}

const setsOut = (type: string, passes: readonly RoledPass[]): Record<string, Param> => {
  if (type === 'rebuildBeauty') {
    const { parts, params } = partsFor(passes.filter((p) => p.name !== '' && MATERIAL_ROLES.includes(p.role)));
    return { parts, ...params } as unknown as Record<string, Param>;
  }
  if (type === 'lightMix') return { lamps: partsFor(passes.filter((p) => p.role === 'light')).parts } as unknown as Record<string, Param>;
  return {};
};

/**
 * Makes a step for a source's passes: on the first lane that starts from it, in the order in which they belong, or on a lane of its own where it makes a matte. `made`
 * is told the lane and the step.
 */
export const stepForPasses =
  (sourceId: string, type: string, made: { lane?: string; step?: string } = {}): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === sourceId) as Source | undefined;
    if (!source) throw new ShotError('that source is no longer there');
    const passes = roledPasses(source.channels, source.passes);
    const command = PASS_COMMANDS.find((c) => c.type === type);
    if (command && !commandsFor(passes).includes(command)) {
      const lacking = command.needs.find((any) => !passes.some((p) => any.includes(p.role)))!;
      throw new ShotError(
        `the render has no pass for it: none is ${lacking
          .slice(0, 3)
          .map((r) => PASS_ROLES[r].toLowerCase())
          .join(' or ')}`,
      );
    }
    const names = s.lanes.map((l) => l.name);
    let lane = s.lanes.find((l) => 'source' in l.start && l.start.source === sourceId);
    if (!lane || MATTES.includes(type)) {
      const title = MATTES.includes(type) ? `${source.name} ${command?.label.toLowerCase() ?? type}` : source.name;
      s.lanes.push(newLane(fitName(title), { source: sourceId }, names) as Draft<Lane>);
      lane = s.lanes[s.lanes.length - 1]!;
      s.result ??= lane.id;
    }
    const step = { ...newStep(type, stepNames(lane)), params: setsOut(type, passes) };
    lane.steps.splice(MATTES.includes(type) ? 0 : placeFor(lane as Lane, type), 0, step as Draft<Step>);
    made.lane = lane.id;
    made.step = step.id;
  };

/** After the lane's leading steps that come before it. */
function placeFor(lane: Lane, type: string): number {
  const rank = (t: string): number => (ORDER.includes(t) ? ORDER.indexOf(t) : ORDER.length);
  let at = 0;
  while (at < lane.steps.length && STEPS.get(lane.steps[at]!.type)?.family === 'Passes' && rank(lane.steps[at]!.type) <= rank(type)) at++;
  return at;
}

/** A lane of a matte by ID or position that limits a step, made of what the step stands on. */
export const maskByPasses =
  (stepId: string, type: 'idMatte' | 'positionMatte', made: { lane?: string; step?: string } = {}): Change =>
  (s) => {
    const found = findStep(s as Shot, stepId);
    if (!found) throw new ShotError('that step is no longer there');
    const owner = laneOf(s, found.lane.id);
    const target = owner.steps[found.index]!;
    const before = owner.steps[found.index - 1]?.id ?? '';
    const lane = newLane(
      fitName(`${target.name} mask`),
      { tap: { lane: owner.id, after: before } },
      s.lanes.map((l) => l.name),
    ) as Draft<Lane>;
    const step = newStep(type, []);
    lane.steps.push(step as Draft<Step>);
    s.lanes.splice(s.lanes.indexOf(owner), 0, lane);
    target.mask = { lane: lane.id, channel: 'A', invert: false };
    made.lane = lane.id;
    made.step = step.id;
  };

/** Adds parts to a step's list, or takes one away with all that belongs to it. */
export const addParts =
  (stepId: string, param: string, passes: readonly RoledPass[]): Change =>
  (s) => {
    const { step } = stepOf(s, stepId);
    const { parts, params } = partsFor(passes, listed(step, param));
    step.params[param] = parts as unknown as Draft<Param>;
    Object.assign(step.params, params);
  };

export const addLamp =
  (stepId: string, at: readonly [number, number, number] | null): Change =>
  (s) => {
    const { step } = stepOf(s, stepId);
    const had = listed(step, 'lamps');
    const id = newId().replace(/[^\w]/g, '').slice(0, 8) || 'lamp';
    step.params.lamps = [
      ...had,
      {
        id,
        name: freeName(
          'Lamp',
          had.map((p) => p.name),
        ),
      },
    ] as unknown as Draft<Param>;
    if (at) step.params[partKey(id, 'at')] = [...at];
  };

export const removePart =
  (stepId: string, param: string, id: string): Change =>
  (s) => {
    const { step } = stepOf(s, stepId);
    step.params[param] = listed(step, param).filter((p) => p.id !== id) as unknown as Draft<Param>;
    dropStray(step);
  };

const listed = (step: Draft<Step>, param: string): Part[] => {
  const list = step.params[param] as unknown;
  return Array.isArray(list) ? [...(list as Part[])] : [];
};

/** What a pass of a source is for, chosen by hand: it is no guess any more. */
export const setPass =
  (sourceId: string, pass: string, note: PassNote): Change =>
  (s) => {
    const source = s.sources.find((x) => x.id === sourceId);
    if (!source) throw new ShotError('that source is no longer there');
    source.passes = {
      ...(source.passes as Record<string, PassNote>),
      [pass]: { role: note.role, ...(note.facts && { facts: note.facts }) },
    } as Draft<Source['passes']>;
  };
