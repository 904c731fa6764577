import { nanoid } from 'nanoid';
import type { Lane, LaneStart, Shot, Step } from '../document';
import { LIMITS, SCHEMA, fitName } from '../document';
import { STEPS } from '../steps';

export const newId = (): string => nanoid(10);

/** The name with a number behind it where it is taken, cut where it would be too long. */
export function freeName(wanted: string, taken: readonly string[]): string {
  const fit = fitName(wanted);
  if (!taken.includes(fit)) return fit;
  const base = fit.replace(/ \d+$/, '');
  for (let i = 2; ; i++) {
    const name = `${fitName(base, LIMITS.name - String(i).length - 1)} ${i}`;
    if (!taken.includes(name)) return name;
  }
}

export function newShot(name: string): Shot {
  return {
    schema: SCHEMA,
    id: newId(),
    name,
    format: { width: 1920, height: 1080, pixelAspect: 1 },
    frameRate: 24,
    range: { first: 1, last: 48 },
    sources: [],
    lanes: [],
    result: null,
    readings: [],
    notes: [],
  };
}

/** A step with nothing set: every parameter at its default. */
export function newStep(type: string, taken: readonly string[]): Step {
  const title = STEPS.get(type)?.title ?? type;
  return { id: newId(), type, name: freeName(title, taken), on: true, params: {}, feeds: {}, mix: 1 };
}

export const newLane = (name: string, start: LaneStart, taken: readonly string[]): Lane => ({
  id: newId(),
  name: freeName(name, taken),
  start,
  steps: [],
  muted: false,
  collapsed: false,
});
