import type { Lane, Source, Step, Tap } from '../document/types';
import type { Asset } from '../document/media';
import type { Rect } from '../geometry/rect';
import { rect, union } from '../geometry/rect';
import type { PictureInfo } from '../picture';
import { COLOUR } from '../picture';
import type { Need, StepDefinition, StepIo } from '../step';

/** What is asked for: a point of a lane at a frame, some channels, a region of the frame, a proxy scale. */
export interface Request {
  readonly tap: Tap;
  readonly frame: number;
  readonly channels: readonly string[];
  /** In pixels at the scale asked for; the whole frame of that point unless said. */
  readonly region?: Rect;
  /** 1, ½ or ¼. */
  readonly scale: number;
}

/** Something worth telling that does not stop the work. */
export interface Remark {
  lane: string;
  step?: string;
  message: string;
}

export type Params = Record<string, unknown>;

interface NodeBase {
  readonly key: string;
  readonly info: PictureInfo;
  /** What its users want of it, filled from the end backwards. */
  region: Rect;
  channels: Set<string>;
}
export interface SourceNode extends NodeBase {
  readonly kind: 'source';
  readonly source: Source;
  /** Number of the media frame, or null for black. */
  readonly mediaFrame: number | null;
  readonly scale: number;
}
/** What a lane that starts from nothing has: no pixel. */
export interface ClearNode extends NodeBase {
  readonly kind: 'clear';
}
export interface StepNode extends NodeBase {
  readonly kind: 'step';
  readonly definition: StepDefinition;
  readonly lane: Lane;
  readonly step: Step;
  readonly p: Params;
  readonly io: StepIo<Params>;
  readonly mix: number;
  readonly mask?: { node: PlanNode; channel: string; invert: boolean };
  /** Colour tables, models and what lessons have learnt, by the parameter that names them. */
  readonly assets: ReadonlyMap<string, Asset>;
  /** By `input@frame`. */
  readonly inputs: ReadonlyMap<string, PlanNode>;
  /** What it changes: `main` at the frame, or, of a step that asks for other frames alone, the first of those. */
  readonly main: PlanNode;
  needs: readonly Need[];
  writes: readonly string[];
  /** Each pixel needs only the pixels at its own place: it can be worked out a tile at a time. */
  pointwise: boolean;
}
export type PlanNode = SourceNode | ClearNode | StepNode;

export interface Plan {
  readonly root: PlanNode;
  /** Inputs before users; only those of which something is wanted, the root last. */
  readonly nodes: readonly PlanNode[];
  readonly sources: readonly SourceNode[];
  readonly region: Rect;
  readonly channels: readonly string[];
  readonly scale: number;
  readonly remarks: readonly Remark[];
  /** Stands for the pixels that this plan makes. */
  readonly key: string;
}

export const inputKey = (input: string, frame: number): string => `${input}@${frame}`;

export type Definitions = ReadonlyMap<string, StepDefinition>;

/** What a step needs to write its channels of a region, each input and frame once. */
export function needsOf(node: StepNode, region: Rect): Need[] {
  const want = { region, channels: node.writes };
  const needs = node.definition.needs?.(node.p as never, want, node.io as never) ?? [{ input: 'main', ...want }];
  return mergeNeeds(needs, node.io.frame);
}

export const maskChannels = (channel: string): readonly string[] => (channel === 'luma' ? COLOUR : [channel]);

/** One need for each input and frame, covering all that is asked of it. */
function mergeNeeds(needs: readonly Need[], frame: number): Need[] {
  const merged = new Map<string, Need>();
  for (const n of needs) {
    const at = n.frame ?? frame;
    const k = inputKey(n.input, at);
    const had = merged.get(k);
    const r = had ? union(had.region, n.region) : n.region;
    merged.set(k, {
      input: n.input,
      frame: at,
      region: rect(Math.floor(r.x0), Math.floor(r.y0), Math.ceil(r.x1), Math.ceil(r.y1)),
      channels: [...new Set([...(had?.channels ?? []), ...n.channels])],
    });
  }
  return [...merged.values()];
}
