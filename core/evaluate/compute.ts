import type { Kernels, Plane } from '@/kernels';
import { LUMA } from '../colour/transfer';
import { Cancelled, ShotError, messageOf } from '../errors';
import type { Rect } from '../geometry/rect';
import { area, intersect, isEmpty, sameRect, width } from '../geometry/rect';
import type { Picture, Tile } from '../picture';
import { COLOUR } from '../picture';
import type { RenderContext } from '../step';
import type { Params, Plan, PlanNode, StepNode } from './plan';
import { inputKey, maskChannels } from './plan';

export interface ComputeHost {
  readonly kernels: Kernels;
  /** The decoded picture of a source node; its planes stay the host's. */
  picture(key: string): Picture;
  /** True when newer work has replaced this. */
  cancelled?(): boolean;
  progress?(done: number, of: number): void;
}

/**
 * Works a plan out and returns the tile asked for; its planes come from the pool and are the caller's to give back.
 * Throws ShotError naming lane and step, or Cancelled; nothing is left behind then.
 */
export function compute(plan: Plan, host: ComputeHost): Tile {
  return new Computation(plan, host).run();
}

class Computation {
  private readonly results = new Map<PlanNode, Tile>();
  private readonly users = new Map<PlanNode, number>();
  private readonly held = new Map<number, { plane: Plane; count: number }>();
  private readonly kernels: Kernels;

  constructor(
    private readonly plan: Plan,
    private readonly host: ComputeHost,
  ) {
    this.kernels = host.kernels;
  }

  run(): Tile {
    for (const n of this.plan.nodes) {
      if (n.kind === 'step') for (const i of inputsOf(n)) this.users.set(i, (this.users.get(i) ?? 0) + 1);
    }
    try {
      this.plan.nodes.forEach((node, i) => {
        if (this.host.cancelled?.()) throw new Cancelled();
        this.results.set(node, node.kind === 'source' ? this.source(node) : this.step(node));
        if (node.kind === 'step') for (const n of inputsOf(node)) this.done(n);
        this.host.progress?.(i + 1, this.plan.nodes.length);
      });
      const got = this.results.get(this.plan.root);
      const planes: Record<string, Plane> = {};
      for (const c of this.plan.channels) {
        // The caller's own copy: the picture may alias a source's planes.
        planes[c] = this.cut(got, this.plan.region, c, true);
        this.held.delete(planes[c].byteOffset);
      }
      return { region: this.plan.region, planes };
    } finally {
      for (const { plane } of this.held.values()) this.kernels.give(plane);
      this.held.clear();
    }
  }

  private source(node: PlanNode & { kind: 'source' }): Tile {
    if (node.mediaFrame === null) return { region: node.info.bounds, planes: {} };
    const { bounds, planes } = this.host.picture(node.key);
    return { region: bounds, planes };
  }

  private hold(plane: Plane): Plane {
    const had = this.held.get(plane.byteOffset);
    if (had) had.count++;
    else this.held.set(plane.byteOffset, { plane, count: 1 });
    return plane;
  }

  private drop(plane: Plane): void {
    const had = this.held.get(plane.byteOffset);
    if (had && --had.count === 0) {
      this.held.delete(plane.byteOffset);
      this.kernels.give(plane);
    }
  }

  private done(node: PlanNode): void {
    const left = this.users.get(node)! - 1;
    this.users.set(node, left);
    const tile = this.results.get(node);
    if (left === 0 && tile && node !== this.plan.root && node.kind === 'step') {
      Object.values(tile.planes).forEach((p) => this.drop(p));
      this.results.delete(node);
    }
  }

  /** A channel of a tile over a region, zero outside it: the plane itself where it fits, else a copy. */
  private cut(tile: Tile | undefined, region: Rect, channel: string, copy = false): Plane {
    const from = tile?.planes[channel];
    if (tile && from && sameRect(tile.region, region) && !copy) {
      if (this.held.has(from.byteOffset)) this.hold(from);
      return from;
    }
    const w = width(region);
    const out = this.hold(this.kernels.take(area(region)));
    const both = tile && from ? intersect(tile.region, region) : undefined;
    if (!both || isEmpty(both)) return out.fill(0);
    if (!sameRect(both, region)) out.fill(0);
    const tw = width(tile!.region);
    const n = width(both);
    for (let y = both.y0; y < both.y1; y++) {
      const at = (y - tile!.region.y0) * tw + both.x0 - tile!.region.x0;
      out.set(from!.subarray(at, at + n), (y - region.y0) * w + both.x0 - region.x0);
    }
    return out;
  }

  private step(node: StepNode): Tile {
    const { region, writes } = node;
    const main = inputOf(node, 'main', node.io.frame);
    const mainTile = this.results.get(main);
    const planes: Record<string, Plane> = {};
    for (const c of node.channels) if (!writes.includes(c)) planes[c] = this.cut(mainTile, region, c);
    if (writes.length > 0 && !isEmpty(region)) {
      const out: Tile = { region, planes: {} };
      for (const c of writes) out.planes[c] = this.hold(this.kernels.take(area(region)));
      try {
        this.render(node, out);
        this.limit(node, out, mainTile);
      } catch (e) {
        if (e instanceof ShotError || e instanceof Cancelled) throw e;
        throw new ShotError(`${node.lane.name} ▸ ${node.step.name} failed: ${messageOf(e)}`, {
          lane: node.lane.id,
          step: node.step.id,
        });
      }
      Object.assign(planes, out.planes);
    } else {
      for (const c of writes) planes[c] = this.hold(this.kernels.zeros(area(region)));
    }
    return { region, planes };
  }

  private render(node: StepNode, out: Tile): void {
    const tiles = new Map<string, Tile>();
    const own: Plane[] = [];
    for (const need of node.needs) {
      const from = node.inputs.get(inputKey(need.input, need.frame!));
      if (!from) continue;
      const planes: Record<string, Plane> = {};
      for (const c of need.channels) own.push((planes[c] = this.cut(this.results.get(from), need.region, c)));
      tiles.set(inputKey(need.input, need.frame!), { region: need.region, planes });
    }
    const scratch = (n: number): Plane => {
      const plane = this.hold(this.kernels.take(n));
      own.push(plane);
      return plane;
    };
    const ctx: RenderContext<Params> = {
      ...node.io,
      kernels: this.kernels,
      scratch,
      tile: (input, frame = node.io.frame) => tiles.get(inputKey(input, frame)),
    };
    const divide = node.definition.colour && node.p.unpremultiply;
    const alpha = divide ? this.divided(node, tiles, own) : null;
    node.definition.render(ctx as never, node.p as never, out);
    if (alpha) {
      const { fn } = this.kernels;
      for (const c of COLOUR) {
        const plane = out.planes[c];
        if (plane) fn.repremultiply(plane.byteOffset, alpha.byteOffset, plane.byteOffset, plane.length);
      }
    }
    own.forEach((p) => this.drop(p));
  }

  /** Replaces the colour planes of `main` by ones divided by alpha; returns the alpha. */
  private divided(node: StepNode, tiles: Map<string, Tile>, own: Plane[]): Plane {
    const main = inputOf(node, 'main', node.io.frame);
    const key = inputKey('main', node.io.frame);
    const given = tiles.get(key)!;
    const alpha = this.cut(this.results.get(main), node.region, 'A');
    own.push(alpha);
    const planes = { ...given.planes };
    for (const c of COLOUR) {
      const from = given.planes[c];
      if (!from) continue;
      const to = this.hold(this.kernels.take(from.length));
      own.push(to);
      this.kernels.fn.unpremultiply(from.byteOffset, alpha.byteOffset, to.byteOffset, from.length);
      planes[c] = to;
    }
    tiles.set(key, { region: given.region, planes });
    return alpha;
  }

  /** out = in + mix·mask·(out − in) */
  private limit(node: StepNode, out: Tile, mainTile: Tile | undefined): void {
    if (node.mix >= 1 && !node.mask) return;
    const { fn } = this.kernels;
    const mask = node.mask ? this.mask(node) : null;
    for (const after of Object.entries(out.planes)) {
      const before = this.cut(mainTile, node.region, after[0]);
      const [b, a, n] = [before.byteOffset, after[1].byteOffset, before.length];
      if (mask) fn.mixMasked(b, a, mask.byteOffset, a, n, node.mix);
      else fn.mixPlane(b, a, a, n, node.mix);
      this.drop(before);
    }
    if (mask) this.drop(mask);
  }

  private mask(node: StepNode): Plane {
    const { node: from, channel, invert } = node.mask!;
    const { fn } = this.kernels;
    const n = area(node.region);
    const out = this.hold(this.kernels.zeros(n));
    const weights = channel === 'luma' ? LUMA : [1];
    maskChannels(channel).forEach((c, i) => {
      const plane = this.cut(this.results.get(from), node.region, c);
      fn.addScaled(out.byteOffset, plane.byteOffset, out.byteOffset, n, weights[i]!);
      this.drop(plane);
    });
    if (invert) fn.affine(out.byteOffset, out.byteOffset, n, -1, 1);
    fn.clampPlane(out.byteOffset, out.byteOffset, n, 0, 1);
    return out;
  }
}

function inputOf(node: StepNode, name: string, frame: number): PlanNode {
  return node.inputs.get(inputKey(name, frame))!;
}

/** Every node a step reads, each once. */
function inputsOf(node: StepNode): Set<PlanNode> {
  const all = new Set(node.inputs.values());
  if (node.mask) all.add(node.mask.node);
  return all;
}
