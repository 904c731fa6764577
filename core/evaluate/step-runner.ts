import type { Plane } from '@/kernels';
import type { PreparedCube } from '../colour/cube';
import { LUMA } from '../colour/transfer';
import { isData } from '../layers';
import { feedsOf } from '../params/parts';
import { fillMissing } from '../filters/missing';
import type { Rect } from '../geometry/rect';
import { area } from '../geometry/rect';
import type { Asset } from '../document/media';
import type { Tile } from '../picture';
import type { Applied } from '../learn/apply';
import type { Model } from '../render/model';
import { COLOUR } from '../picture';
import type { RenderContext } from '../step';
import type { Params, PlanNode, StepNode } from './plan';
import { inputKey, maskChannels } from './plan';
import type { Planes } from './planes';

export interface StepHost {
  readonly planes: Planes;
  /** The result of another node, as far as it is there. */
  lookup(node: PlanNode): Tile | undefined;
  poll(): void;
  /** A colour table among the sources. */
  table(source: Asset): PreparedCube;
  /** A model among them. */
  model(source: Asset): Model;
  /** What a lesson has learnt, ready to be applied. */
  lesson(source: Asset): Applied;
  /** Told how many NaN and infinite pixels were taken as missing. */
  missing(node: StepNode, pixels: number): void;
}

interface FromSource {
  input: string;
  /** The input's name, with its frame where that is not the current one. */
  key: string;
  from: PlanNode;
  region: Rect;
  channels: readonly string[];
}

/** Runs one step of a plan, on one tile after the other: what does not change between them is worked out once. */
export class StepRunner {
  /** The node that its `main` comes from. */
  readonly main: PlanNode;
  private readonly sources: FromSource[] = [];
  private readonly tiles = new Map<string, Tile>();
  private readonly own: Plane[] = [];
  private readonly context: RenderContext<Params>;
  private readonly straight: boolean;
  /** Whether NaN and infinity are filled before it reads them. */
  private readonly fills: boolean;

  constructor(
    readonly node: StepNode,
    readonly host: StepHost,
  ) {
    const { frame } = node.io;
    this.main = node.main;
    for (const need of node.needs) {
      const from = node.inputs.get(inputKey(need.input, need.frame!));
      const key = need.frame === frame ? need.input : inputKey(need.input, need.frame!);
      if (from) this.sources.push({ input: need.input, key, from, region: need.region, channels: need.channels });
    }
    this.straight = Boolean(node.definition.colour && node.p.unpremultiply);
    this.fills = !node.pointwise && (node.definition.spreads?.(node.p as never) ?? true);
    this.context = {
      ...node.io,
      kernels: host.planes.kernels,
      scratch: (n) => this.keep(host.planes.take(n)),
      poll: () => host.poll(),
      get inputsKey() {
        return [...node.inputs].map(([k, n]) => `${k}:${n.key}`).join(' ');
      },
      table: (param) => {
        const source = node.assets.get(param);
        return source && host.table(source);
      },
      model: (param) => {
        const source = node.assets.get(param);
        return source && host.model(source);
      },
      lesson: (param) => {
        const source = node.assets.get(param);
        return source && host.lesson(source);
      },
      tile: (input, at = frame) => this.tiles.get(at === frame ? input : inputKey(input, at)),
    };
  }

  /** Fills `out`, with the step's mix and mask applied. */
  run(out: Tile): void {
    const { node } = this;
    for (const source of this.sources) this.tiles.set(source.key, this.neededTile(source, out));
    const alpha = this.straight ? this.divide(out) : null;
    // What a step takes for itself it gives back, also where it is stopped.
    this.host.planes.kernels.guard(() => node.definition.render(this.context as never, node.p as never, out));
    if (alpha) {
      for (const c of COLOUR) {
        const plane = out.planes[c];
        if (!plane) continue;
        // What has no coverage is light alone: where there is none, an offset makes none.
        const before = this.keep(this.host.planes.cut(this.host.lookup(this.main), out.region, c));
        const at = plane.byteOffset;
        this.host.planes.kernels.fn.repremultiplyLight(at, alpha.byteOffset, before.byteOffset, at, plane.length);
      }
    }
    if (node.mix < 1 || node.mask) this.limit(out);
    for (const plane of this.own) this.host.planes.drop(plane);
    this.own.length = 0;
  }

  private keep(plane: Plane): Plane {
    this.own.push(plane);
    return plane;
  }

  private neededTile({ input, from, region: whole, channels }: FromSource, out: Tile): Tile {
    const { planes: pool } = this.host;
    const region = this.node.pointwise ? out.region : whole;
    const tile = this.host.lookup(from);
    const planes: Record<string, Plane> = {};
    for (const c of channels) {
      let plane = pool.cut(tile, region, c);
      // Of data a NaN says that there is nothing.
      const told = this.node.definition.readsData && isData(c);
      const fills = this.fills && !told && !feedsOf(this.node.definition, this.node.step.params).some((f) => f.name === input && f.data);
      const count = fills ? pool.countMissing(plane) : 0;
      if (count > 0) {
        this.host.missing(this.node, count);
        const filled = pool.take(plane.length);
        fillMissing(plane, region, filled);
        pool.drop(plane);
        plane = filled;
      }
      planes[c] = this.keep(plane);
    }
    return { region, planes };
  }

  /** Replaces the colour planes of `main`, on each frame that is read, by ones divided by alpha; returns the alpha of what is written, or null where all is 1. */
  private divide(out: Tile): Plane | null {
    const { planes: pool } = this.host;
    const { fn } = pool.kernels;
    for (const { input, key, from } of this.sources) {
      if (input !== 'main') continue;
      // A step that reads a neighbourhood is given more than it writes.
      const given = this.tiles.get(key)!;
      const around = this.keep(pool.cut(this.host.lookup(from), given.region, 'A'));
      if (fn.allEqual(around.byteOffset, around.length, 1)) continue;
      const planes = { ...given.planes };
      for (const c of COLOUR) {
        const plane = given.planes[c];
        if (!plane) continue;
        const to = this.keep(pool.take(plane.length));
        fn.unpremultiply(plane.byteOffset, around.byteOffset, to.byteOffset, plane.length);
        planes[c] = to;
      }
      this.tiles.set(key, { region: given.region, planes });
    }
    const alpha = this.keep(pool.cut(this.host.lookup(this.main), out.region, 'A'));
    return fn.allEqual(alpha.byteOffset, alpha.length, 1) ? null : alpha;
  }

  /** out = in + mix·mask·(out − in) */
  private limit(out: Tile): void {
    const { planes: pool, lookup } = this.host;
    const { fn } = pool.kernels;
    const { mix } = this.node;
    const before = lookup(this.main);
    const mask = this.node.mask ? this.mask(out) : null;
    for (const c in out.planes) {
      const after = out.planes[c]!;
      const was = this.keep(pool.cut(before, out.region, c));
      if (mask) fn.mixMasked(was.byteOffset, after.byteOffset, mask.byteOffset, after.byteOffset, after.length, mix);
      else fn.mixPlane(was.byteOffset, after.byteOffset, after.byteOffset, after.length, mix);
    }
  }

  private mask(out: Tile): Plane {
    const { node: from, channel, invert } = this.node.mask!;
    const { planes: pool, lookup } = this.host;
    const { fn } = pool.kernels;
    const n = area(out.region);
    const mask = this.keep(pool.take(n)).fill(0);
    const weights = channel === 'luma' ? LUMA : [1];
    maskChannels(channel).forEach((c, i) => {
      const plane = this.keep(pool.cut(lookup(from), out.region, c));
      fn.addScaled(mask.byteOffset, plane.byteOffset, mask.byteOffset, n, weights[i]!);
    });
    if (invert) fn.affine(mask.byteOffset, mask.byteOffset, n, -1, 1);
    fn.clampPlane(mask.byteOffset, mask.byteOffset, n, 0, 1);
    return mask;
  }
}
