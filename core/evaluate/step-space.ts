import type { Shot, Tap } from '../document/types';
import { ShotError } from '../errors';
import { Mapping } from '../geometry/mapping';
import type { Format } from '../picture';
import { RGBA } from '../picture';
import type { Definitions, PlanNode, StepNode } from './plan';
import { makePlan } from './plan';

/** Where a point of a lane has its pixels, as seen from another. */
export interface StepSpace {
  /** The frame of the picture at the point. */
  readonly format: Format;
  /** From positions of that picture to those of the picture that is seen. */
  readonly toSeen: Mapping;
}

/** Where a step puts positions of its `main`, at the middle of its shutter; the same places unless it moves them. */
const placed = ({ io: { placements } }: StepNode): Mapping => placements[placements.length >> 1] ?? Mapping.IDENTITY;

/**
 * How a point of a lane is seen at another point, through the placing steps between: for handles that are drawn where their step's
 * picture is seen. Null where it is not to be seen there.
 */
export function stepSpace(shot: Shot, point: Tap, seen: Tap, frame: number, definitions: Definitions): StepSpace | null {
  const request = { frame, channels: RGBA, scale: 1 };
  try {
    // Each placing step is a node of its own here.
    const [own, root] = [point, seen].map((tap) => makePlan(shot, { ...request, tap }, definitions, { joinPlacing: false }).root) as [
      PlanNode,
      PlanNode,
    ];
    const toSeen = findFrom(root, own.key, new Map());
    return toSeen && { format: own.info.format, toSeen };
  } catch (e) {
    // What cannot be planned is told where its picture would be.
    if (e instanceof ShotError) return null;
    throw e;
  }
}

/** The map from the node of a key to a node that it is a part of; null where it is none. */
function findFrom(node: PlanNode, key: string, known: Map<PlanNode, Mapping | null>): Mapping | null {
  if (node.key === key) return Mapping.IDENTITY;
  if (node.kind !== 'step') return null;
  const had = known.get(node);
  if (had !== undefined) return had;
  known.set(node, null);
  const through = findFrom(node.main, key, known);
  const own = placed(node);
  let found = through && !own.isFlat ? through.then(own) : null;
  // What comes by a feed stays where it is.
  for (const input of node.inputs.values()) found ??= input === node.main ? null : findFrom(input, key, known);
  known.set(node, found);
  return found;
}
