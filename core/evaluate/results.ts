import { LRUCache } from 'lru-cache';
import type { Kernels } from '@/kernels';
import type { Rect } from '../geometry/rect';
import type { Tile } from '../picture';
import type { PlanNode } from './plan';

/** Hits, misses and bytes of a cache, for the panel that shows them. */
export interface CacheFigures {
  hits: number;
  misses: number;
  bytes: number;
  budget: number;
}

/** More than memory holds of the smallest. */
const MOST_TILES = 20_000;

const contains = (a: Rect, b: Rect): boolean => a.x0 <= b.x0 && a.y0 <= b.y0 && a.x1 >= b.x1 && a.y1 >= b.y1;

/**
 * Results of stages by content key, least recently used out first. A key stands for the pixels, whatever shot or frame asked:
 * a still that is scaled is scaled once, and an undone change finds its results again.
 */
export class ResultCache {
  /** Its own bound is the number of bytes; the order alone is asked of it. */
  private readonly tiles = new LRUCache<string, Tile>({ max: MOST_TILES, dispose: (tile) => this.gone(tile) });
  readonly figures: CacheFigures;

  constructor(
    private readonly kernels: Kernels,
    budget: number,
  ) {
    this.figures = { hits: 0, misses: 0, bytes: 0, budget };
  }

  /** The kept result of a node, where it covers the region and the channels that are wanted of it. */
  find(node: PlanNode): Tile | undefined {
    const tile = this.tiles.peek(node.key);
    // A source is kept whole, and ends where its data does.
    const covers =
      tile && (node.kind === 'source' || contains(tile.region, node.region)) && [...node.channels].every((c) => tile.planes[c]);
    if (!covers) {
      this.figures.misses++;
      return undefined;
    }
    this.figures.hits++;
    this.tiles.get(node.key);
    return tile;
  }

  /** Becomes an owner of the tile's planes. */
  keep(node: PlanNode, tile: Tile): void {
    const bytes = bytesOf(tile);
    if (bytes > this.figures.budget) return;
    Object.values(tile.planes).forEach((p) => this.kernels.share(p));
    this.figures.bytes += bytes;
    this.tiles.set(node.key, tile);
    this.shrink(this.figures.budget);
  }

  /** Drops what was not used for longest; false where nothing is kept. */
  dropOldest(): boolean {
    return this.tiles.pop() !== undefined;
  }

  /** Drops what was not used for longest until the rest fits. */
  shrink(budget: number): void {
    while (this.figures.bytes > budget && this.dropOldest());
  }

  set budget(bytes: number) {
    this.figures.budget = bytes;
    this.shrink(bytes);
  }

  private gone(tile: Tile): void {
    this.figures.bytes -= bytesOf(tile);
    Object.values(tile.planes).forEach((p) => this.kernels.give(p));
  }
}

const bytesOf = (t: Tile): number => Object.values(t.planes).reduce((sum, p) => sum + p.byteLength, 0);
