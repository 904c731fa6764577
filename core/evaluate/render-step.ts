import type { Plane } from '@/kernels';
import { LUMA } from '../colour/transfer';
import { fillMissing } from '../filters/missing';
import { area } from '../geometry/rect';
import type { Tile } from '../picture';
import { COLOUR } from '../picture';
import type { Need, RenderContext } from '../step';
import type { Params, PlanNode, StepNode } from './plan';
import { inputKey, maskChannels } from './plan';
import type { Planes } from './planes';

export interface StepHost {
  readonly planes: Planes;
  /** The result of another node, as far as it is there. */
  lookup(node: PlanNode): Tile | undefined;
  poll(): void;
  /** Told how many NaN and infinite pixels were taken as missing. */
  missing(pixels: number): void;
}

/** Fills `out` with what a step makes, its mix and mask applied. */
export function renderStep(node: StepNode, out: Tile, host: StepHost): void {
  const { planes } = host;
  const { kernels } = planes;
  const own: Plane[] = [];
  const scratch = (n: number): Plane => {
    const plane = planes.take(n);
    own.push(plane);
    return plane;
  };
  const tiles = new Map<string, Tile>();
  for (const need of node.needs) {
    const tile = neededTile(node, need, out, host, own);
    if (tile) tiles.set(inputKey(need.input, need.frame!), tile);
  }
  const ctx: RenderContext<Params> = {
    ...node.io,
    kernels,
    scratch,
    poll: host.poll,
    tile: (input, frame = node.io.frame) => tiles.get(inputKey(input, frame)),
  };
  const alpha = node.definition.colour && node.p.unpremultiply ? divide(node, out, tiles, host, own) : null;
  node.definition.render(ctx as never, node.p as never, out);
  if (alpha) {
    for (const c of COLOUR) {
      const plane = out.planes[c];
      if (plane) kernels.fn.repremultiply(plane.byteOffset, alpha.byteOffset, plane.byteOffset, plane.length);
    }
  }
  limit(node, out, host, own);
  own.forEach((p) => planes.drop(p));
}

function neededTile(node: StepNode, need: Need, out: Tile, host: StepHost, own: Plane[]): Tile | undefined {
  const from = node.inputs.get(inputKey(need.input, need.frame!));
  if (!from) return undefined;
  const region = node.pointwise ? out.region : need.region;
  const planes: Record<string, Plane> = {};
  for (const c of need.channels) {
    let plane = host.planes.cut(host.lookup(from), region, c);
    if (!node.pointwise && (node.definition.spreads?.(node.p as never) ?? true)) {
      const count = host.planes.kernels.fn.countNonFinite(plane.byteOffset, plane.length);
      if (count > 0) {
        host.missing(count);
        const whole = host.planes.take(plane.length);
        fillMissing(plane, region, whole);
        host.planes.drop(plane);
        plane = whole;
      }
    }
    own.push((planes[c] = plane));
  }
  return { region, planes };
}

/** Replaces the colour planes of `main` by ones divided by alpha; returns the alpha. */
function divide(node: StepNode, out: Tile, tiles: Map<string, Tile>, host: StepHost, own: Plane[]): Plane {
  const main = node.inputs.get(inputKey('main', node.io.frame))!;
  const key = inputKey('main', node.io.frame);
  const given = tiles.get(key)!;
  const alpha = host.planes.cut(host.lookup(main), out.region, 'A');
  own.push(alpha);
  const planes = { ...given.planes };
  for (const c of COLOUR) {
    const from = given.planes[c];
    if (!from) continue;
    const to = host.planes.take(from.length);
    own.push(to);
    host.planes.kernels.fn.unpremultiply(from.byteOffset, alpha.byteOffset, to.byteOffset, from.length);
    planes[c] = to;
  }
  tiles.set(key, { region: given.region, planes });
  return alpha;
}

/** out = in + mix·mask·(out − in) */
function limit(node: StepNode, out: Tile, host: StepHost, own: Plane[]): void {
  if (node.mix >= 1 && !node.mask) return;
  const { kernels } = host.planes;
  const mainTile = host.lookup(node.inputs.get(inputKey('main', node.io.frame))!);
  const mask = node.mask ? maskPlane(node, out, host, own) : null;
  for (const [c, after] of Object.entries(out.planes)) {
    const before = host.planes.cut(mainTile, out.region, c);
    const [b, a, n] = [before.byteOffset, after.byteOffset, before.length];
    if (mask) kernels.fn.mixMasked(b, a, mask.byteOffset, a, n, node.mix);
    else kernels.fn.mixPlane(b, a, a, n, node.mix);
    host.planes.drop(before);
  }
}

function maskPlane(node: StepNode, out: Tile, host: StepHost, own: Plane[]): Plane {
  const { node: from, channel, invert } = node.mask!;
  const { fn } = host.planes.kernels;
  const n = area(out.region);
  const mask = host.planes.take(n).fill(0);
  own.push(mask);
  const weights = channel === 'luma' ? LUMA : [1];
  maskChannels(channel).forEach((c, i) => {
    const plane = host.planes.cut(host.lookup(from), out.region, c);
    fn.addScaled(mask.byteOffset, plane.byteOffset, mask.byteOffset, n, weights[i]!);
    host.planes.drop(plane);
  });
  if (invert) fn.affine(mask.byteOffset, mask.byteOffset, n, -1, 1);
  fn.clampPlane(mask.byteOffset, mask.byteOffset, n, 0, 1);
  return mask;
}
