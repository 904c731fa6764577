import type { Kernels, Plane } from '@/kernels';
import { copyShared } from '../filters/copy';
import type { Rect } from '../geometry/rect';
import { area, intersect, isEmpty, sameRect, width } from '../geometry/rect';
import type { Tile } from '../picture';

/** Floats of the largest plane that is not given back at once. */
const SPARE = 65536;

/**
 * The planes that a computation has out, and how often each is held. Planes that it does not own (a source's, or a part of
 * a larger plane) may be handed about too; holding and dropping them does nothing.
 */
export class Planes {
  private readonly held = new Map<Plane, number>();
  /** Rows of other planes that are handed about: whose they are. Those are held for as long. */
  private readonly views = new Map<Plane, Plane>();
  /** Small planes that are free again, by length: tiles ask for the same few all the time. */
  private readonly spare = new Map<number, Plane[]>();

  /** Planes that were looked through and hold no NaN and no infinity. */
  private readonly finite = new WeakSet<Plane>();

  constructor(readonly kernels: Kernels) {}

  take(n: number): Plane {
    const plane = this.spare.get(n)?.pop() ?? this.kernels.unguarded(() => this.kernels.take(n));
    this.finite.delete(plane);
    this.held.set(plane, 1);
    return plane;
  }

  /** How many NaN and infinite pixels a plane holds; one that several steps read is looked through once. */
  countMissing(plane: Plane): number {
    if (this.finite.has(plane)) return 0;
    const count = this.kernels.fn.countNonFinite(plane.byteOffset, plane.length);
    if (count === 0) this.finite.add(plane);
    return count;
  }

  hold(plane: Plane): Plane {
    const count = this.held.get(plane);
    if (count !== undefined) this.held.set(plane, count + 1);
    return plane;
  }

  drop(plane: Plane): void {
    const count = this.held.get(plane);
    if (count === undefined) return;
    if (count > 1) this.held.set(plane, count - 1);
    else {
      this.held.delete(plane);
      const whole = this.views.get(plane);
      if (!whole) return this.free(plane);
      this.views.delete(plane);
      this.drop(whole);
    }
  }

  private free(plane: Plane): void {
    // A plane that the cache owns too must not be written to again.
    if (plane.length > SPARE || this.kernels.isShared(plane)) return this.kernels.give(plane);
    const list = this.spare.get(plane.length);
    if (list) list.push(plane);
    else this.spare.set(plane.length, [plane]);
  }

  /** Takes over a tile whose planes have been given to this computation. */
  own(tile: Tile): Tile {
    // Another object for the same pixels, so that planes are told apart by owner.
    const planes = Object.fromEntries(Object.entries(tile.planes).map(([c, p]) => [c, p.subarray(0)]));
    Object.values(planes).forEach((p) => this.held.set(p, 1));
    return { region: tile.region, planes };
  }

  dropTile(tile: Tile): void {
    for (const c in tile.planes) this.drop(tile.planes[c]!);
  }

  /** Hands a plane over to the caller, who gives it back to the kernels. */
  release(plane: Plane): Plane {
    const count = this.held.get(plane);
    if (count === 1) this.held.delete(plane);
    else {
      this.kernels.share(plane);
      this.drop(plane);
    }
    return plane;
  }

  giveAll(): void {
    for (const plane of this.held.keys()) if (!this.views.has(plane)) this.kernels.give(plane);
    this.views.clear();
    for (const list of this.spare.values()) list.forEach((p) => this.kernels.give(p));
    this.held.clear();
    this.spare.clear();
  }

  /** A part of a plane; that stays out for as long as the part is held. */
  private rows(from: Plane, start: number, end: number): Plane {
    const part = from.subarray(start, end);
    if (!this.held.has(from)) return part;
    this.hold(from);
    this.held.set(part, 1);
    this.views.set(part, from);
    return part;
  }

  /**
   * A channel of a tile over a region, zero outside it. The plane itself where it fits, a part of it where the region is
   * some of its rows and `part` allows it, else a copy; to be dropped after use in each case, and never to be written to.
   */
  cut(tile: Tile | undefined, region: Rect, channel: string, part = true): Plane {
    const from = tile?.planes[channel];
    if (from && sameRect(tile.region, region)) return this.hold(from);
    if (part && from && someRows(region, tile.region)) {
      const w = width(region);
      return this.rows(from, (region.y0 - tile.region.y0) * w, (region.y1 - tile.region.y0) * w);
    }
    const out = this.take(area(region));
    const both = from ? intersect(tile.region, region) : undefined;
    if (!both || isEmpty(both)) return out.fill(0);
    if (!sameRect(both, region)) out.fill(0);
    copyShared(this.kernels, from!, tile!.region, out, region);
    return out;
  }
}

const someRows = (a: Rect, of: Rect): boolean => a.x0 === of.x0 && a.x1 === of.x1 && a.y0 >= of.y0 && a.y1 <= of.y1;
