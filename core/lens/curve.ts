import type { Curve } from '../geometry/mapping';
import { hashText } from '../hash';
import type { Lens } from './lens';
import { lensMapOf } from './lens';

const curves = new WeakMap<Lens, Curve>();

/** From filmed positions to straight ones. */
export function straightening(lens: Lens): Curve {
  let curve = curves.get(lens);
  if (curve) return curve;
  const map = lensMapOf(lens);
  const key = hashText(JSON.stringify(lens));
  curve = {
    key: `straighten ${key}`,
    inverseKey: `bend ${key}`,
    forth: (x, y, to) => map.straighten(x, y, to),
    back: (x, y, to) => map.bend(x, y, to),
  };
  curves.set(lens, curve);
  return curve;
}
