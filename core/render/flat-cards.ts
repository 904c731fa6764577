import type { Kernels } from '@/kernels';
import type { Rect } from '../geometry/rect';
import { area, height, intersect, isEmpty, rect, width } from '../geometry/rect';
import type { FlatCard, FourPlanes, SceneOut } from './moment';

/** Size of a tile where there is nothing but cards, px: what is laid on it stays in the cache until all of them are. */
export const CARD_TILE = { width: 256, height: 64 };
/** A block of a tile that is not cut further for cards that change places in it. */
const LEAST = 8;

/** What a flat card shows of a tile. */
export interface LaidCard extends FlatCard {
  /** The part of the tile that its planes cover. */
  readonly part: Rect;
  readonly planes: FourPlanes;
}

/** The flat cards of a moment, laid over the picture tile by tile. Give it back. */
export class FlatCards {
  /** For as many cards as a tile has seen. */
  private readonly planes: FourPlanes[] = [];

  constructor(
    private readonly kernels: Kernels,
    private readonly cards: readonly FlatCard[],
    private readonly region: Rect,
    private readonly out: Pick<SceneOut, 'r' | 'g' | 'b' | 'a'>,
    /** Lays cards over each other pixel by pixel. */
    private readonly byPixels: (cards: readonly LaidCard[], block: Rect) => void,
  ) {}

  on(tile: Rect): readonly FlatCard[] {
    return this.cards.filter((c) => !isEmpty(intersect(c.region, tile)));
  }

  /** Those that a tile sees, each over planes of its part of it. The planes are those of the next tile too. */
  laid(tile: Rect): LaidCard[] {
    return this.on(tile).map((card, k) => {
      const part = intersect(card.region, tile);
      const planes = (this.planes[k] ??= [0, 1, 2, 3].map(() => this.kernels.take(area(CARD_RECT))) as unknown as FourPlanes);
      card.lay(part, planes, part, 'put');
      return { ...card, part, planes };
    });
  }

  /** Lays them over a tile, from the back; where they change places on it, block by block. */
  lay(tile: Rect): void {
    const cards = this.on(tile);
    if (cards.length === 0) return;
    const order = orderOver(cards, tile);
    if (!order) return this.block(this.laid(tile), tile);
    const { r, g, b, a } = this.out;
    for (let i = order.length - 1; i >= 0; i--) order[i]!.lay(intersect(order[i]!.region, tile), [r, g, b, a], this.region, 'over');
  }

  /** By rows where their order is the same all over the block, else cut in four. */
  private block(laid: readonly LaidCard[], r: Rect): void {
    const cards = laid.filter((c) => !isEmpty(intersect(c.part, r)));
    if (cards.length === 0) return;
    const order = orderOver(cards, r);
    if (order) return this.rows(order, r);
    const [w, h] = [width(r), height(r)];
    if (w <= LEAST && h <= LEAST) return this.byPixels(cards, r);
    const halves = (from: number, to: number): (readonly [number, number])[] => {
      const middle = from + Math.max(1, (to - from) >> 1);
      return to - from > LEAST
        ? [
            [from, middle],
            [middle, to],
          ]
        : [[from, to]];
    };
    for (const [x0, x1] of halves(r.x0, r.x1)) for (const [y0, y1] of halves(r.y0, r.y1)) this.block(cards, rect(x0, y0, x1, y1));
  }

  private rows(cards: readonly LaidCard[], r: Rect): void {
    const { out, region } = this;
    const w = width(region);
    for (let i = cards.length - 1; i >= 0; i--) {
      const c = cards[i]!;
      const part = intersect(c.part, r);
      const own = width(c.part);
      const from = 4 * ((part.y0 - c.part.y0) * own + part.x0 - c.part.x0);
      const to = 4 * ((part.y0 - region.y0) * w + part.x0 - region.x0);
      const [cr, cg, cb, ca] = c.planes.map((p) => p.byteOffset + from) as [number, number, number, number];
      const [r0, g0, b0, a0] = [out.r, out.g, out.b, out.a].map((p) => p.byteOffset + to) as [number, number, number, number];
      this.kernels.fn.layOver(cr, cg, cb, ca, own, r0, g0, b0, a0, w, width(part), height(part));
    }
  }

  give(): void {
    this.planes.flat().forEach((p) => this.kernels.give(p));
  }
}

const CARD_RECT = rect(0, 0, CARD_TILE.width, CARD_TILE.height);

/** Nearest first, where that order is the same over all of a block; null where it is not. */
function orderOver<C extends FlatCard>(cards: readonly C[], r: Rect): readonly C[] | null {
  const at = ({ near: [a, b, c] }: FlatCard, x: number, y: number): number => a * x + b * y + c;
  const sorted = [...cards].sort((p, q) => at(q, (r.x0 + r.x1) / 2, (r.y0 + r.y1) / 2) - at(p, (r.x0 + r.x1) / 2, (r.y0 + r.y1) / 2));
  for (let i = 0; i + 1 < sorted.length; i++)
    for (const [x, y] of [
      [r.x0, r.y0],
      [r.x1, r.y0],
      [r.x0, r.y1],
      [r.x1, r.y1],
    ] as const)
      if (at(sorted[i]!, x, y) < at(sorted[i + 1]!, x, y)) return null;
  return sorted;
}
