import type { Kernels, Plane } from '@/kernels';
import { Cancelled, ShotError, messageOf } from '../errors';
import { copyShared } from '../filters/copy';
import type { Rect } from '../geometry/rect';
import { EMPTY, area, intersect, isEmpty, rect, sameRect, width } from '../geometry/rect';
import type { Tile } from '../picture';
import type { Plan, PlanNode, SourceNode, StepNode } from './plan';
import { inputKey } from './plan';
import { Planes } from './planes';
import { renderStep } from './render-step';
import type { ResultCache } from './results';
import type { Stage } from './stages';
import { makeStages } from './stages';

export interface ComputeHost {
  readonly kernels: Kernels;
  /** The decoded picture of a source node that is not in the cache; its planes stay the host's. */
  picture(node: SourceNode): Tile;
  /** Where results are kept between computations. */
  readonly cache?: ResultCache;
  /** True when newer work has replaced this. */
  cancelled?(): boolean;
  /** Told before each part, with the node that it ends in. */
  progress?(done: number, of: number, node: PlanNode): void;
  /** Told of NaN and infinite pixels that a filter took as missing. */
  missing?(node: StepNode, pixels: number): void;
  /** Pixels a tile, and whether runs of steps share tiles: for measuring. */
  readonly tile?: number;
  readonly fuse?: boolean;
}

/** A plan cut into stages, without those whose results are known. */
export interface Work {
  readonly plan: Plan;
  readonly stages: readonly Stage[];
  readonly known: ReadonlyMap<PlanNode, Tile>;
}

/** What is left to do of a plan. Known results are owned by the work until `compute` has run or `abandon` is called. */
export function prepare(plan: Plan, kernels: Kernels, cache?: ResultCache, fuse = true): Work {
  const stages = makeStages(plan.nodes, fuse);
  const byRoot = new Map(stages.map((s) => [s.root, s]));
  const known = new Map<PlanNode, Tile>();
  const wanted = new Set<PlanNode>();
  const visit = (root: PlanNode): void => {
    if (wanted.has(root) || known.has(root)) return;
    const tile = cache?.find(root);
    if (tile) {
      Object.values(tile.planes).forEach((p) => kernels.share(p));
      known.set(root, tile);
      return;
    }
    wanted.add(root);
    byRoot.get(root)?.inputs.forEach(visit);
  };
  if (stages.length > 0) visit(plan.root);
  return { plan, stages: stages.filter((s) => wanted.has(s.root)), known };
}

export function abandon(work: Work, kernels: Kernels): void {
  for (const tile of work.known.values()) Object.values(tile.planes).forEach((p) => kernels.give(p));
}

/**
 * Works a plan out and returns the tile asked for. Its planes are the caller's to give back but may be shared with the cache:
 * they must not be changed. Throws ShotError naming lane and step, or Cancelled; nothing is left behind then.
 */
export function compute(work: Work, host: ComputeHost): Tile {
  return new Computation(work, host).run();
}

/**
 * Pixels a tile: whole rows, about as many that a handful of planes fit the second-level cache. Whole rows make a tile of a
 * plane a plane itself, so that nothing is copied in or out.
 */
const TILE = 16384;

class Computation {
  private readonly results = new Map<PlanNode, Tile>();
  private readonly planes: Planes;
  private readonly users = new Map<PlanNode, number>();

  constructor(
    private readonly work: Work,
    private readonly host: ComputeHost,
  ) {
    this.planes = new Planes(host.kernels);
    for (const [node, tile] of work.known) this.results.set(node, this.planes.own(tile));
  }

  run(): Tile {
    const { stages, plan } = this.work;
    for (const s of stages) for (const i of s.inputs) this.users.set(i, (this.users.get(i) ?? 0) + 1);
    try {
      stages.forEach((stage, i) => {
        this.host.progress?.(i, stages.length, stage.root);
        this.poll();
        const tile = this.stage(stage);
        this.results.set(stage.root, tile);
        if (stage.root.kind === 'step') this.host.cache?.keep(stage.root, tile);
        for (const input of stage.inputs) this.done(input);
      });
      const got = this.results.get(plan.root);
      const planes: Record<string, Plane> = {};
      for (const c of plan.channels) {
        const plane = this.planes.cut(got, plan.region, c, false);
        // A source's own plane gets another owner; one of ours changes its owner.
        planes[c] = this.planes.release(plane);
      }
      return { region: plan.region, planes };
    } finally {
      this.planes.giveAll();
    }
  }

  private poll(): void {
    if (this.host.cancelled?.()) throw new Cancelled();
  }

  private done(node: PlanNode): void {
    const left = this.users.get(node)! - 1;
    this.users.set(node, left);
    const tile = this.results.get(node);
    if (left === 0 && tile && node !== this.work.plan.root) {
      this.planes.dropTile(tile);
      this.results.delete(node);
    }
  }

  private stage({ root, members }: Stage): Tile {
    if (root.kind === 'source') return this.source(root);
    if (isEmpty(root.region)) return { region: EMPTY, planes: {} };
    if (root.pointwise) return this.sweep(root, members);
    return this.step(root, root.region, (n) => this.results.get(n), false);
  }

  private source(node: SourceNode): Tile {
    if (node.mediaFrame === null) return { region: EMPTY, planes: {} };
    return this.host.picture(node);
  }

  /** Works a run of pointwise steps out, tile by tile. */
  private sweep(root: StepNode, members: readonly StepNode[]): Tile {
    const { region } = root;
    const inside = new Set<PlanNode>(members);
    const planes: Record<string, Plane> = {};
    const targets: Record<string, Plane> = {};
    for (const c of root.channels) {
      const origin = originOf(root, c, inside);
      if (inside.has(origin)) planes[c] = targets[c] = this.planes.take(area(region));
      else planes[c] = this.planes.cut(this.results.get(origin), region, c, false);
    }
    if (Object.keys(targets).length === 0) return { region, planes };
    const w = width(region);
    const rows = Math.max(1, Math.floor((this.host.tile ?? TILE) / w));
    const lastUse = lastUses(members);
    for (let y = region.y0; y < region.y1; y += rows) {
      this.poll();
      const strip = rect(region.x0, y, region.x1, Math.min(region.y1, y + rows));
      const part = (p: Plane): Plane => p.subarray((strip.y0 - region.y0) * w, (strip.y1 - region.y0) * w);
      const local = new Map<PlanNode, Tile>();
      const lookup = (n: PlanNode): Tile | undefined => (inside.has(n) ? local.get(n) : this.results.get(n));
      members.forEach((node, i) => {
        const own = intersect(strip, node.region);
        const out = node === root ? Object.fromEntries(Object.entries(targets).map(([c, p]) => [c, part(p)])) : undefined;
        local.set(node, isEmpty(own) ? { region: EMPTY, planes: {} } : this.step(node, own, lookup, true, out));
        for (const dead of lastUse[i]!) {
          this.planes.dropTile(local.get(dead)!);
          local.delete(dead);
        }
      });
      this.planes.dropTile(local.get(root)!);
    }
    return { region, planes };
  }

  /** One step over a region; `parts` allows parts of other planes in the result; with `into`, those channels are written there. */
  private step(
    node: StepNode,
    region: Rect,
    lookup: (n: PlanNode) => Tile | undefined,
    parts: boolean,
    into?: Record<string, Plane>,
  ): Tile {
    const main = lookup(node.inputs.get(inputKey('main', node.io.frame))!);
    const planes: Record<string, Plane> = {};
    for (const c of node.channels) {
      const to = into?.[c];
      if (node.writes.includes(c)) planes[c] = to ?? this.planes.take(area(region));
      else if (!to) {
        if (!into) planes[c] = this.planes.cut(main, region, c, parts);
      } else {
        planes[c] = to;
        const from = main?.planes[c];
        if (!from || !sameRect(intersect(main.region, region), region)) to.fill(0);
        if (from) copyShared(from, main.region, to, region);
      }
    }
    const written = Object.fromEntries(node.writes.map((c) => [c, planes[c]!]));
    if (node.writes.length === 0) return { region, planes };
    try {
      const { cancelled, missing } = this.host;
      renderStep(
        node,
        { region, planes: written },
        {
          planes: this.planes,
          lookup,
          poll: () => {
            if (cancelled?.()) throw new Cancelled();
          },
          missing: (pixels) => missing?.(node, pixels),
        },
      );
    } catch (e) {
      if (e instanceof ShotError || e instanceof Cancelled) throw e;
      throw new ShotError(`${node.lane.name} ▸ ${node.step.name} failed: ${messageOf(e)}`, { lane: node.lane.id, step: node.step.id });
    }
    return { region, planes };
  }
}

/** The node that writes a channel that a node delivers, followed through steps of a run that pass it on. */
function originOf(node: StepNode, channel: string, inside: ReadonlySet<PlanNode>): PlanNode {
  let at: PlanNode = node;
  while (at.kind === 'step' && inside.has(at) && !at.writes.includes(channel)) at = at.inputs.get(inputKey('main', at.io.frame))!;
  return at;
}

/** For each member, those of the run that no later one reads. */
function lastUses(members: readonly StepNode[]): StepNode[][] {
  const last = new Map<PlanNode, number>();
  members.forEach((m, i) => {
    for (const n of m.inputs.values()) last.set(n, i);
    if (m.mask) last.set(m.mask.node, i);
  });
  return members.map((_, i) => members.filter((m) => last.get(m) === i));
}
