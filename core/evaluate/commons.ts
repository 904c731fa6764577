import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, isEmpty, rect, sameRect } from '../geometry/rect';
import type { Tile } from '../picture';
import { localityOf } from '../step';
import type { Plan, PlanNode } from './plan';
import { inputsOf, makeStages } from './stages';

/** Where one result lies in the memory that workers share. */
interface Place {
  key: string;
  /** What is wanted of a step; a source is put there as far as it has data. */
  region: Rect;
  channels: readonly string[];
  /** Its first float. */
  at: number;
  /** Pixels of a channel. */
  pixels: number;
}

/** A frame's shared results as one worker is told of them. */
export interface CommonsLayout {
  places: readonly Place[];
  /** All that it takes, in floats. */
  floats: number;
}

/** Of each place, before all pixels: its state, the region that lies there, which of its channels do. */
const HEADER = 8;
/** Channels of a place are told by the bits of a number. */
const MOST_CHANNELS = 31;
/** Results over this are worked out by each worker for itself, in floats. */
const MOST_FLOATS = 64 * 2 ** 20;

const FREE = 0;
const BEGUN = 1;
const READY = 2;
/** Each worker has to make it for itself. */
const ALONE = 3;

/** Milliseconds between two looks at whether the work was given up. */
const PATIENCE = 20;

/**
 * What the bands of a frame would each work out whole: sources, steps that any pixel may depend on, and what those are made of.
 */
export function layoutOf(plan: Plan): CommonsLayout {
  const whole = new Set<PlanNode>();
  for (const node of [...plan.nodes].reverse()) {
    if (node.kind === 'source' || (node.kind === 'step' && localityOf(node.definition, node.p) === 'whole')) whole.add(node);
    if (whole.has(node)) inputsOf(node).forEach((n) => whole.add(n));
  }
  const roots = makeStages(plan.nodes).map((s) => s.root);
  const places = new Map<string, Place>();
  for (const node of roots) {
    if (!whole.has(node) || node.kind === 'clear' || (node.kind === 'source' && node.mediaFrame === null)) continue;
    if (isEmpty(node.region) || node.channels.size > MOST_CHANNELS || places.has(node.key)) continue;
    const region = node.kind === 'source' ? node.info.bounds : node.region;
    const channels = [...node.channels];
    places.set(node.key, { key: node.key, region, channels, at: 0, pixels: area(region) });
  }
  let floats = HEADER * places.size;
  const fitting = [...places.values()].filter((place) => {
    const end = floats + place.pixels * place.channels.length;
    if (end > MOST_FLOATS) return false;
    place.at = floats;
    floats = end;
    return true;
  });
  return { places: fitting, floats };
}

/** Whose a result is to make: this worker's for all, this worker's for itself, another's, or nobody's any more. */
export type Claim = 'mine' | 'alone' | 'theirs' | 'ready';

/**
 * Results that several workers of one frame need whole: the first that comes to one makes it, the others read it. `memory` holds
 * the layout's floats, its headers 0 at the beginning.
 */
export class Commons {
  private readonly headers: Int32Array;
  private readonly index: ReadonlyMap<string, number>;

  constructor(
    private readonly layout: CommonsLayout,
    private readonly memory: Float32Array,
    private readonly kernels: Kernels,
  ) {
    this.headers = new Int32Array(memory.buffer, memory.byteOffset, HEADER * layout.places.length);
    this.index = new Map(layout.places.map((p, i) => [p.key, i]));
  }

  /** Begins the memory of a frame. */
  static clear(layout: CommonsLayout, memory: Float32Array): void {
    memory.fill(0, 0, HEADER * layout.places.length);
  }

  /** Who makes a node's result. Whoever is told `mine` calls `put` or `drop`. */
  claim(node: PlanNode): Claim {
    const i = this.placeOf(node);
    if (i === undefined) return 'alone';
    const state = Atomics.compareExchange(this.headers, HEADER * i, FREE, BEGUN);
    if (state === READY) return this.covers(i, node) ? 'ready' : 'alone';
    return state === FREE ? 'mine' : state === BEGUN ? 'theirs' : 'alone';
  }

  /** Whether a node's result is there already. */
  has(node: PlanNode): boolean {
    const i = this.placeOf(node);
    return i !== undefined && Atomics.load(this.headers, HEADER * i) === READY && this.covers(i, node);
  }

  /** Puts what was made where the others find it. */
  put(node: PlanNode, { region, planes }: Tile): void {
    const i = this.index.get(node.key)!;
    const { channels, at, pixels } = this.layout.places[i]!;
    const n = area(region);
    if (n === 0 || n > pixels) return this.settle(i, ALONE);
    let held = 0;
    channels.forEach((c, k) => {
      const plane = planes[c];
      if (!plane) return;
      this.memory.set(plane, at + k * pixels);
      held |= 1 << k;
    });
    this.headers.set([region.x0, region.y0, region.x1, region.y1, held], HEADER * i + 1);
    this.settle(i, READY);
  }

  /** Leaves a result that was begun to another. */
  drop(node: PlanNode): void {
    this.settle(this.index.get(node.key)!, FREE);
  }

  /** A result that is ready; its planes are the caller's to give back. */
  take(node: PlanNode): Tile {
    const i = this.index.get(node.key)!;
    const { channels, at, pixels } = this.layout.places[i]!;
    const [x0, y0, x1, y1] = this.headers.subarray(HEADER * i + 1, HEADER * i + 5) as unknown as [number, number, number, number];
    const region = rect(x0, y0, x1, y1);
    const planes: Record<string, Plane> = {};
    try {
      for (const c of node.channels) {
        const from = at + channels.indexOf(c) * pixels;
        planes[c] = this.kernels.unguarded(() => this.kernels.copy(this.memory.subarray(from, from + area(region))));
      }
    } catch (e) {
      Object.values(planes).forEach((p) => this.kernels.give(p));
      throw e;
    }
    return { region, planes };
  }

  /** Waits a moment for a result that another makes. Blocks its thread: for workers alone. */
  wait(node: PlanNode): void {
    Atomics.wait(this.headers, HEADER * this.index.get(node.key)!, BEGUN, PATIENCE);
  }

  /** The place of what is wanted of a node, where all of that is shared. */
  private placeOf({ kind, key, region, channels }: PlanNode): number | undefined {
    const i = this.index.get(key);
    if (i === undefined) return undefined;
    const place = this.layout.places[i]!;
    if (kind === 'step' && !sameRect(region, place.region)) return undefined;
    return [...channels].every((c) => place.channels.includes(c)) ? i : undefined;
  }

  /** Whether what lies at a place has all channels that are wanted. */
  private covers(i: number, { channels }: PlanNode): boolean {
    const held = this.headers[HEADER * i + 5]!;
    return [...channels].every((c) => ((held >> this.layout.places[i]!.channels.indexOf(c)) & 1) === 1);
  }

  private settle(i: number, state: number): void {
    Atomics.store(this.headers, HEADER * i, state);
    Atomics.notify(this.headers, HEADER * i);
  }
}
