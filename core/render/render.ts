import type { Kernels, Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, height, rect, width } from '../geometry/rect';
import type { Vec3 } from '../geometry/vec3';
import { PixelItems, SAMPLE_X, SAMPLE_Y, COUNTS } from './compose';
import type { LaidCard } from './flat-cards';
import { CARD_TILE, FlatCards } from './flat-cards';
import type { FlatCard, Moment, SceneOut } from './moment';
import type { Drawn, View } from './screen';
import { Screen, binned, seenBy } from './screen';
import { Shader } from './shader';

/** Size of a tile with triangles, px. */
const TILE = 64;
/** Tag of what the picture shows. */
const HELD = -1e9;

/** Draws a moment over a region. `poll` is called now and then, and what it throws ends the work. */
export function renderMoment(kernels: Kernels, moment: Moment, region: Rect, out: SceneOut, poll: () => void = () => undefined): void {
  kernels.guard(() => new Renderer(kernels, moment, region, out, poll).run());
}

class Renderer {
  private readonly screen: Screen;
  private readonly shader: Shader;
  private readonly w: number;
  private readonly items = new PixelItems();
  private readonly made = new Float64Array(4);
  private readonly hasData: boolean;
  private readonly cards: FlatCards;
  /** Of catchers among the pixel's items, as the shader tells them. */
  private readonly caught = new Float64Array(5 * 4096);
  /** Place and normal of the pixel's items, where data are wanted. */
  private readonly surfaces: Float64Array | null;

  constructor(
    private readonly kernels: Kernels,
    private readonly moment: Moment,
    private readonly region: Rect,
    private readonly out: SceneOut,
    private readonly poll: () => void,
  ) {
    this.screen = new Screen(moment.view, region, moment.clip);
    for (const d of moment.drawn) this.screen.add(d);
    this.shader = new Shader(this.screen, moment.lights, moment.environment, moment.mirrors);
    this.w = width(region);
    this.cards = new FlatCards(kernels, moment.cards, region, out, (laid, block) => this.pixels(laid, block, new Int32Array(0), 0, null));
    this.hasData = Boolean(out.depth ?? out.position ?? out.normal ?? out.motion ?? out.id);
    this.surfaces = this.hasData ? new Float64Array(6 * 4096) : null;
  }

  run(): void {
    const { region, out, screen } = this;
    for (const p of [
      out.r,
      out.g,
      out.b,
      out.a,
      out.id,
      out.shadow,
      ...(out.position ?? []),
      ...(out.normal ?? []),
      ...(out.motion ?? []),
      ...(out.mirror ?? []),
    ])
      p?.fill(0);
    out.depth?.fill(Infinity);
    if (area(region) === 0) return;
    if (screen.triangles === 0) {
      const { width: tw, height: th } = CARD_TILE;
      for (let y = region.y0; y < region.y1; y += th) {
        this.poll();
        for (let x = region.x0; x < region.x1; x += tw) {
          const tile = rect(x, y, Math.min(region.x1, x + tw), Math.min(region.y1, y + th));
          this.flat(tile);
        }
      }
      this.cards.give();
      return;
    }
    const solid = screen.drawn.map(isSolid);
    const { records, surfaces, normals } = screen.stored(this.kernels);
    const hard = binned(screen, TILE, (s) => solid[s]!);
    const soft = binned(screen, TILE, (s) => !solid[s]!);
    const { kernels } = this;
    const near = kernels.take(TILE * TILE * 16);
    const ids = kernels.take(TILE * TILE * 16);
    let room = TILE * TILE * 16;
    let pieces = kernels.take(3 * room);
    const list = kernels.take(Math.max(1, ...sizes(hard.starts), ...sizes(soft.starts)));
    const idView = new Int32Array(ids.buffer, ids.byteOffset, ids.length);
    const listed = (bins: typeof hard, bin: number): number => {
      const count = bins.starts[bin + 1]! - bins.starts[bin]!;
      new Int32Array(list.buffer, list.byteOffset, count).set(bins.list.subarray(bins.starts[bin], bins.starts[bin + 1]));
      return count;
    };
    const nextOf = new Int32Array(TILE * TILE);
    for (let y = region.y0, j = 0; y < region.y1; y += TILE, j++) {
      for (let x = region.x0, i = 0; x < region.x1; x += TILE, i++) {
        this.poll();
        const tile = rect(x, y, Math.min(region.x1, x + TILE), Math.min(region.y1, y + TILE));
        const [tw, th] = [width(tile), height(tile)];
        const bin = j * hard.across + i;
        const opaque = listed(hard, bin);
        if (!this.shows(tile, hard, bin) && soft.starts[bin + 1] === soft.starts[bin]) continue;
        near.fill(0);
        let count = 0;
        if (opaque > 0) {
          idView.fill(-1);
          kernels.fn.rasterNearest(records.byteOffset, list.byteOffset, opaque, x, y, tw, th, near.byteOffset, ids.byteOffset);
          count = kernels.fn.gatherPieces(
            ids.byteOffset,
            near.byteOffset,
            tw * th,
            surfaces.byteOffset,
            normals.byteOffset,
            pieces.byteOffset,
          );
        }
        const clear = listed(soft, bin);
        if (clear > 0) {
          for (;;) {
            const more = kernels.fn.rasterPieces(
              records.byteOffset,
              list.byteOffset,
              clear,
              x,
              y,
              tw,
              th,
              near.byteOffset,
              pieces.byteOffset + 12 * count,
              room - count,
            );
            if (more >= 0) {
              count += more;
              break;
            }
            room *= 2;
            const wider = kernels.take(3 * room);
            wider.set(pieces.subarray(0, 3 * count));
            kernels.give(pieces);
            pieces = wider;
          }
        }
        if (count === 0) this.flat(tile);
        else this.pixels(this.cards.laid(tile), tile, new Int32Array(pieces.buffer, pieces.byteOffset, 3 * count), count, nextOf);
      }
    }
    [records, surfaces, normals, near, ids, pieces, list].forEach((p) => kernels.give(p));
    this.cards.give();
  }

  /** Whether anything but hold-outs may be seen in a tile. */
  private shows(tile: Rect, bins: { starts: Int32Array; list: Int32Array }, bin: number): boolean {
    if (this.cards.on(tile).length > 0) return true;
    const { surfaces, drawn } = this.screen;
    for (let i = bins.starts[bin]!; i < bins.starts[bin + 1]!; i++) if (!drawn[surfaces[bins.list[i]!]!]!.holdout) return true;
    return false;
  }

  /** Cards alone on a tile. */
  private flat(tile: Rect): void {
    const byPixels = this.hasData || this.moment.held !== undefined || this.cards.on(tile).some((c) => c.holdout);
    if (byPixels) this.pixels(this.cards.laid(tile), tile, new Int32Array(0), 0, null);
    else this.cards.lay(tile);
  }

  /** Pieces and cards, pixel by pixel. `lists` is room for where each pixel's pieces begin. */
  private pixels(cards: readonly LaidCard[], tile: Rect, pieces: Int32Array, count: number, lists: Int32Array | null): void {
    const { items, made, out, region, w, screen, shader } = this;
    const { held } = this.moment;
    const [tw, th] = [width(tile), height(tile)];
    const next = new Int32Array(count);
    lists?.fill(-1);
    for (let i = count - 1; i >= 0; i--) {
      const pixel = pieces[3 * i]!;
      next[i] = lists![pixel]!;
      lists![pixel] = i;
    }
    const records = screen.records;
    for (let y = 0; y < th; y++) {
      for (let x = 0; x < tw; x++) {
        const px = tile.x0 + x;
        const py = tile.y0 + y;
        items.count = 0;
        // Hold-outs alone show nothing.
        let seen = false;
        for (let i = lists ? lists[y * tw + x]! : -1; i >= 0; i = next[i]!) {
          const t = pieces[3 * i + 1]!;
          const mask = pieces[3 * i + 2]!;
          const at = 20 * t;
          const a = records[at + 9]!;
          const b = records[at + 10]!;
          const z = a * (px + 0.5) + b * (py + 0.5) + records[at + 11]!;
          const drawn = screen.drawn[screen.surfaces[t]!]!;
          if (drawn.holdout && isSolid(drawn)) {
            items.add(0, 0, 0, 1, z, a, b, mask, true, t);
            continue;
          }
          let sx = px + 0.5;
          let sy = py + 0.5;
          if (mask !== 0xffff) {
            // Where what is covered has its middle: beyond its edge a surface has no colour.
            const n = COUNTS[mask]!;
            for (let s = 0; s < 16; s++)
              if (mask & (1 << s)) {
                sx += SAMPLE_X[s]! / n;
                sy += SAMPLE_Y[s]! / n;
              }
          }
          shader.shade(t, sx, sy, made);
          if (made[3] === 0) continue;
          seen = seen || !drawn.holdout;
          items.add(made[0]!, made[1]!, made[2]!, made[3]!, z, a, b, mask, drawn.holdout === true, t);
          if (drawn.catcher) this.caught.set(shader.caught, 5 * (items.count - 1));
          this.surfaces?.set(shader.place, 6 * (items.count - 1));
          this.surfaces?.set(shader.normal, 6 * (items.count - 1) + 3);
        }
        for (let k = 0; k < cards.length; k++) {
          const c = cards[k]!;
          const { x0, y0, x1, y1 } = c.part;
          if (px < x0 || py < y0 || px >= x1 || py >= y1) continue;
          const at = (py - y0) * (x1 - x0) + px - x0;
          const alpha = c.planes[3][at]!;
          const [a, b, d] = c.near;
          if (alpha === 0 && c.planes[0][at] === 0 && c.planes[1][at] === 0 && c.planes[2][at] === 0) continue;
          seen = seen || !c.holdout;
          items.add(
            c.planes[0][at]!,
            c.planes[1][at]!,
            c.planes[2][at]!,
            alpha,
            a * (px + 0.5) + b * (py + 0.5) + d,
            a,
            b,
            0xffff,
            c.holdout,
            -1 - k,
          );
        }
        if (!seen) continue;
        const at = (py - region.y0) * w + px - region.x0;
        if (held && held.near[at]! > 0) this.hold(held.near, held.alpha[at]!, at, px, py);
        if (this.moment.soft) items.fade(this.moment.soft);
        items.compose(made);
        out.r[at] = made[0]!;
        out.g[at] = made[1]!;
        out.b[at] = made[2]!;
        out.a[at] = made[3]!;
        if (out.shadow ?? out.mirror) this.putCaught(at);
        if (this.hasData) this.data(px, py, at, cards);
      }
    }
  }

  /** What the picture shows there, as a surface of its own: it slopes as it does towards the nearer of its neighbours. */
  private hold(near: Plane, alpha: number, at: number, px: number, py: number): void {
    const { region, w } = this;
    const slope = (before: number, after: number): number => {
      const here = near[at]!;
      const a = before >= 0 && near[before]! > 0 ? here - near[before]! : Infinity;
      const b = after >= 0 && near[after]! > 0 ? near[after]! - here : Infinity;
      const best = Math.abs(a) < Math.abs(b) ? a : b;
      // A step is an edge, no slope.
      return Math.abs(best) < 0.2 * here ? best : 0;
    };
    const x = slope(px > region.x0 ? at - 1 : -1, px + 1 < region.x1 ? at + 1 : -1);
    const y = slope(py > region.y0 ? at - w : -1, py + 1 < region.y1 ? at + w : -1);
    this.items.add(0, 0, 0, Math.min(1, Math.max(0, alpha)), near[at]!, x, y, 0xffff, true, HELD);
  }

  private putCaught(at: number): void {
    const { items, out, caught, screen } = this;
    for (let i = 0; i < items.count; i++) {
      const t = items.tag[i]!;
      if (t < 0 || !screen.drawn[screen.surfaces[t]!]!.catcher) continue;
      const k = items.weight[i]!;
      if (out.shadow) out.shadow[at] = out.shadow[at]! + k * caught[5 * i]!;
      for (let q = 0; q < 4; q++) if (out.mirror) out.mirror[q]![at] = out.mirror[q]![at]! + k * caught[5 * i + 1 + q]!;
    }
  }

  /** Of what the pixel mostly shows. */
  private data(px: number, py: number, at: number, cards: readonly LaidCard[]): void {
    const { items, out, screen, shader, made } = this;
    let [best, most] = [-1, 0];
    for (let i = 0; i < items.count; i++) {
      const t = items.tag[i]!;
      const shows = items.weight[i]! * items.a[i]!;
      if (shows > most && (t < 0 || !screen.drawn[screen.surfaces[t]!]!.catcher)) [best, most] = [i, shows];
    }
    if (best < 0) return;
    const t = items.tag[best]!;
    const drawn = t >= 0 ? screen.drawn[screen.surfaces[t]!]! : cards[-1 - t]!;
    const { view, next } = this.moment;
    const z = 1 / items.near[best]!;
    let [place, normal]: [Vec3, Vec3] = [
      [0, 0, 0],
      [0, 0, 0],
    ];
    if (t >= 0) {
      let at = this.surfaces!.subarray(6 * best, 6 * best + 6);
      // What covers a part of the pixel was coloured in the middle of that.
      if (items.mask[best] !== 0xffff) {
        shader.shade(t, px + 0.5, py + 0.5, made);
        at = Float64Array.of(...shader.place, ...shader.normal);
      }
      place = [at[0]!, at[1]!, at[2]!];
      normal = [at[3]!, at[4]!, at[5]!];
    } else {
      normal = (drawn as FlatCard).normal;
      place = backTo(view, px + 0.5, py + 0.5, z);
    }
    if (out.depth) out.depth[at] = z;
    if (out.id) out.id[at] = drawn.id;
    out.normal?.forEach((p, k) => (p[at] = normal[k]!));
    out.position?.forEach((p, k) => (p[at] = place[k]!));
    if (out.motion && next) {
      const m = drawn.toNext;
      const then: Vec3 = m
        ? [
            m[0]! * place[0] + m[1]! * place[1] + m[2]! * place[2] + m[3]!,
            m[4]! * place[0] + m[5]! * place[1] + m[6]! * place[2] + m[7]!,
            m[8]! * place[0] + m[9]! * place[1] + m[10]! * place[2] + m[11]!,
          ]
        : place;
      const [x, y] = seenBy(next, then);
      const [u, v] = seenBy(view, place);
      out.motion[0]![at] = x - u;
      out.motion[1]![at] = y - v;
    }
  }
}

/** Whether nothing shows through it. */
const isSolid = (d: Drawn): boolean => !d.catcher && d.material.alpha === 'opaque' && (d.opacity ?? 1) >= 1;

const sizes = (starts: Int32Array): number[] => {
  let most = 0;
  for (let i = 0; i + 1 < starts.length; i++) most = Math.max(most, starts[i + 1]! - starts[i]!);
  return [most];
};

/** The place that a pixel shows at a distance along the view. */
export function backTo({ matrix: m, focal, centre }: View, px: number, py: number, z: number): Vec3 {
  const [x, y] = [((px - centre[0]) / focal) * z - m[3]!, ((py - centre[1]) / focal) * z - m[7]!];
  const d = z - m[11]!;
  return [0, 1, 2].map((c) => m[c]! * x + m[4 + c]! * y + m[8 + c]! * d) as unknown as Vec3;
}
