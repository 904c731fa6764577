import type { Kernels, Plane } from '@/kernels';
import { OutOfMemory } from '@/kernels';
import { Cancelled, ShotError, messageOf } from '../errors';
import type { PreparedCube } from '../colour/cube';
import type { Asset } from '../document/media';
import type { Rect } from '../geometry/rect';
import { EMPTY, area, intersect, isEmpty, rect, width } from '../geometry/rect';
import type { Tile } from '../picture';
import type { Applied } from '../learn/apply';
import type { Model } from '../render/model';
import type { Commons } from './commons';
import type { Plan, PlanNode, SourceNode, StepNode } from './plan';
import { Planes } from './planes';
import { StepRunner } from './step-runner';
import type { ResultCache } from './results';
import type { Stage } from './stages';
import { makeStages } from './stages';

export interface ComputeHost {
  readonly kernels: Kernels;
  /** The decoded picture of a source node that is not in the cache; its planes stay the host's. */
  picture(node: SourceNode): Tile;
  /** A colour table among the sources, as a plan's steps name them. */
  table?(source: Asset): PreparedCube;
  /** A model among them. */
  model?(source: Asset): Model;
  /** What a lesson has learnt. */
  lesson?(source: Asset): Applied;
  /** Where results are kept between computations. */
  readonly cache?: ResultCache;
  /** What other workers of the same frame need whole, too. */
  readonly commons?: Commons;
  /** True when newer work has replaced this. */
  cancelled?(): boolean;
  /** Told before each part, with the node that it ends in and that node's place in the plan. */
  progress?(done: number, of: number, index: number, node: PlanNode): void;
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
const TILE = 32768;

class Computation {
  private readonly results = new Map<PlanNode, Tile>();
  private readonly planes: Planes;
  private readonly users = new Map<PlanNode, number>();
  /** What this worker makes for all. */
  private claimed: PlanNode | null = null;

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
      const left = new Map(stages.map((stage) => [stage.root, stage]));
      if (this.host.commons) this.leaveOut(left, this.host.commons);
      while (left.size > 0) {
        const { stage, shared } = this.next(left);
        const { root } = stage;
        this.host.progress?.(stages.length - left.size, stages.length, plan.nodes.indexOf(root), root);
        this.poll();
        const tile = shared ? this.planes.own(this.host.commons!.take(root)) : this.stage(stage);
        if (this.claimed === root) {
          this.host.commons!.put(root, tile);
          this.claimed = null;
        }
        this.results.set(root, tile);
        if (root.kind === 'step') this.host.cache?.keep(root, tile);
        for (const input of stage.inputs) this.done(input);
        left.delete(root);
      }
      const got = this.results.get(plan.root);
      const planes: Record<string, Plane> = {};
      for (const c of new Set(plan.channels)) {
        const plane = this.planes.cut(got, plan.region, c, false);
        // A source's own plane gets another owner; one of ours changes its owner.
        planes[c] = this.planes.release(plane);
      }
      return { region: plan.region, planes };
    } finally {
      if (this.claimed) this.host.commons!.drop(this.claimed);
      this.planes.giveAll();
    }
  }

  /**
   * The first stage that can be worked out now, whose inputs are there and which no other worker is at; `shared` where another has
   * made it. Waits where there is none.
   */
  private next(left: Map<PlanNode, Stage>): { stage: Stage; shared: boolean } {
    const { commons } = this.host;
    for (;;) {
      let theirs: PlanNode | undefined;
      for (const stage of left.values()) {
        const { root, inputs } = stage;
        if ([...inputs].some((n) => left.has(n))) continue;
        // Sources were shared when they were read.
        const claim = commons && root.kind === 'step' ? commons.claim(root) : 'alone';
        if (claim === 'theirs') {
          theirs ??= root;
          continue;
        }
        if (claim === 'mine') this.claimed = root;
        if (claim === 'ready') {
          this.leaveOut(left, commons!);
          if (!left.has(root)) continue;
        }
        return { stage, shared: claim === 'ready' };
      }
      this.poll();
      if (theirs) commons!.wait(theirs);
    }
  }

  /** Stages whose users another worker has made are not needed. */
  private leaveOut(left: Map<PlanNode, Stage>, commons: Commons): void {
    const needed = new Set<PlanNode>([this.work.plan.root]);
    for (const { root, inputs } of [...left.values()].reverse()) {
      if (!needed.has(root)) left.delete(root);
      else if (!commons.has(root)) inputs.forEach((n) => needed.add(n));
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
    if (root.kind === 'clear' || isEmpty(root.region)) return { region: EMPTY, planes: {} };
    if (root.pointwise) return this.sweep(root, members);
    const planes: Record<string, Plane> = {};
    const written: Record<string, Plane> = {};
    for (const c of root.channels) {
      if (root.writes.includes(c)) written[c] = planes[c] = this.planes.take(area(root.region));
      else planes[c] = this.planes.cut(this.results.get(root.main), root.region, c, false);
    }
    this.apply(
      this.runner(root, (n) => this.results.get(n)),
      { region: root.region, planes: written },
    );
    return { region: root.region, planes };
  }

  private source(node: SourceNode): Tile {
    if (node.mediaFrame === null) return { region: EMPTY, planes: {} };
    return this.host.picture(node);
  }

  private runner(node: StepNode, lookup: (n: PlanNode) => Tile | undefined): StepRunner {
    return new StepRunner(node, {
      planes: this.planes,
      lookup,
      poll: () => this.poll(),
      table: (source) => this.host.table!(source),
      model: (source) => this.host.model!(source),
      lesson: (source) => this.host.lesson!(source),
      missing: (at, pixels) => this.host.missing?.(at, pixels),
    });
  }

  private apply(runner: StepRunner, out: Tile): void {
    try {
      runner.run(out);
    } catch (e) {
      if (e instanceof ShotError || e instanceof Cancelled || e instanceof OutOfMemory) throw e;
      const { lane, step } = runner.node;
      throw new ShotError(`${lane.name} ▸ ${step.name} failed: ${messageOf(e)}`, { lane: lane.id, step: step.id });
    }
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
    const local = new Map<PlanNode, Tile>();
    const lookup = (n: PlanNode): Tile | undefined => local.get(n) ?? this.results.get(n);
    const last = lastUses(members);
    const runs = members.map((node, i) => ({ node, runner: this.runner(node, lookup), dead: last[i]! }));
    for (let y = region.y0; y < region.y1; y += rows) {
      this.poll();
      const strip = rect(region.x0, y, region.x1, Math.min(region.y1, y + rows));
      for (const { node, runner, dead } of runs) {
        if (node === root) {
          const out: Record<string, Plane> = {};
          for (const c in targets) out[c] = targets[c]!.subarray((strip.y0 - region.y0) * w, (strip.y1 - region.y0) * w);
          this.fill(runner, strip, out);
        } else local.set(node, this.tile(runner, intersect(strip, node.region)));
        for (const d of dead) {
          this.planes.dropTile(local.get(d)!);
          local.delete(d);
        }
      }
    }
    return { region, planes };
  }

  /** A tile of a step inside a run. */
  private tile(runner: StepRunner, region: Rect): Tile {
    const { node } = runner;
    if (isEmpty(region)) return { region: EMPTY, planes: {} };
    const main = runner.host.lookup(runner.main);
    const planes: Record<string, Plane> = {};
    const written: Record<string, Plane> = {};
    for (const c of node.channels) {
      if (node.writes.includes(c)) written[c] = planes[c] = this.planes.take(area(region));
      else planes[c] = this.planes.cut(main, region, c);
    }
    if (node.writes.length > 0) this.apply(runner, { region, planes: written });
    return { region, planes };
  }

  /** The last step of a run, straight into parts of its result's planes. */
  private fill(runner: StepRunner, region: Rect, into: Record<string, Plane>): void {
    const { node } = runner;
    const written: Record<string, Plane> = {};
    for (const c in into) {
      const to = into[c]!;
      if (node.writes.includes(c)) written[c] = to;
      else {
        const from = this.planes.cut(runner.host.lookup(runner.main), region, c);
        to.set(from);
        this.planes.drop(from);
      }
    }
    if (node.writes.length > 0) this.apply(runner, { region, planes: written });
  }
}

/** The node that writes a channel that a node delivers, followed through steps of a run that pass it on. */
function originOf(node: StepNode, channel: string, inside: ReadonlySet<PlanNode>): PlanNode {
  let at: PlanNode = node;
  while (at.kind === 'step' && inside.has(at) && !at.writes.includes(channel)) at = at.main;
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
