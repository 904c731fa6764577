import { LRUCache } from 'lru-cache';
import type { Kernels, Plane } from '@/kernels';
import { copyInto } from '../../filters/copy';
import { Packed } from '../../filters/sample';
import { area, intersect, isEmpty, sameRect } from '../../geometry/rect';
import type { PictureInfo, Tile } from '../../picture';
import { RGBA, formatRect } from '../../picture';
import { Texture } from '../../render/texture';

/** A picture that a thing shows. */
export interface Given {
  readonly info: PictureInfo;
  readonly tile: Tile;
}

/** Bytes of a texture's pixels, with those of its halves. */
const bytesOf = ({ width, height }: Texture): number => Math.ceil((16 * width * height * 4) / 3);
/** Textures of what was drawn last: dragging a thing changes no picture. Half a dozen of HD. */
const recent = new LRUCache<string, Texture>({ maxSize: 2 ** 28, sizeCalculation: bytesOf });

/** The frame of a picture as a texture, premultiplied; what lies outside its bounds is nothing. `around`: a latitude–longitude picture. `key` stands for its pixels. */
export function textureOf({ info, tile }: Given, around: boolean, key: string): Texture {
  const known = `${key} ${around}`;
  const had = recent.get(known);
  if (had) return had;
  const { width: w, height: h } = info.format;
  const data = new Float32Array(4 * w * h);
  const inside = intersect(tile.region, formatRect(info.format));
  const across = tile.region.x1 - tile.region.x0;
  RGBA.forEach((c, k) => {
    const plane = tile.planes[c];
    if (!plane || isEmpty(inside)) return;
    for (let y = inside.y0; y < inside.y1; y++) {
      const from = (y - tile.region.y0) * across - tile.region.x0;
      for (let x = inside.x0; x < inside.x1; x++) data[4 * (y * w + x) + k] = plane[from + x]!;
    }
  });
  const made = new Texture(w, h, data, around && 'around', true);
  recent.set(known, made);
  return made;
}

/** The same packed for looking at it through a plane's map; null where it has no pixel. Give it back. */
export function packedOf(kernels: Kernels, { info, tile }: Given): Packed | null {
  const inside = intersect(tile.region, formatRect(info.format));
  if (isEmpty(inside)) return null;
  const own: Plane[] = [];
  const planes = RGBA.map((c) => {
    const from = tile.planes[c];
    if (from && sameRect(inside, tile.region)) return from;
    own.push(from ? copyInto(kernels, from, tile.region, inside) : kernels.take(area(inside)).fill(c === 'A' ? 1 : 0));
    return own[own.length - 1]!;
  });
  const packed = Packed.of(kernels, planes, inside);
  own.forEach((p) => kernels.give(p));
  return packed;
}
