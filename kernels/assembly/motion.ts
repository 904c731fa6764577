// Blur along motion vectors, by gathering.

/** How near two vectors are. */
// @ts-ignore: decorator
@inline
function apart(ax: f32, ay: f32, bx: f32, by: f32): f32 {
  return (ax - bx) * (ax - bx) + (ay - by) * (ay - by);
}

/** What a pass along one direction has gathered: the light that moves over the pixel, and what is seen behind it. */
let front: v128 = f32x4.splat(0);
let frontShare: f32 = 0;
let behind: v128 = f32x4.splat(0);
let behindCount: f32 = 0;

/**
 * Looks along −v·t for shutter times t of from..to, and gathers what moves over the pixel x, y. Each sample counts for the part of the shutter
 * during which its own motion brings it there. Only samples whose motion is nearer to v than to the other direction count, where there is one.
 */
function gather(
  packed: usize,
  vx: usize,
  vy: usize,
  depth: usize,
  w: i32,
  h: i32,
  x: i32,
  y: i32,
  dx: f32,
  dy: f32,
  ox: f32,
  oy: f32,
  both: bool,
  from: f32,
  to: f32,
  most: i32,
  jitter: f32,
  near: f32,
): void {
  const open = to - from;
  const length = Mathf.sqrt(dx * dx + dy * dy) * open;
  const count = <i32>Mathf.max(4, Mathf.min(<f32>most, Mathf.ceil(length)));
  const spacing = length / <f32>count;
  const self = y * w + x;
  const z = load<f32>(depth + (<usize>self << 2));
  const mx = load<f32>(vx + (<usize>self << 2));
  const my = load<f32>(vy + (<usize>self << 2));
  const moving = (mx * mx + my * my) * open * open >= 0.25;
  const margin = near * z;
  for (let i = 0; i < count; i++) {
    const t = from + (open * (<f32>i + (spacing > 1 ? jitter : <f32>0.5))) / <f32>count;
    const u = x - <i32>Mathf.round(dx * t);
    const v = y - <i32>Mathf.round(dy * t);
    if (u < 0 || v < 0 || u >= w || v >= h) continue;
    const at = v * w + u;
    const sx = load<f32>(vx + (<usize>at << 2));
    const sy = load<f32>(vy + (<usize>at << 2));
    const sz = load<f32>(depth + (<usize>at << 2));
    const farther = sz > z + margin;
    const colour = v128.load(packed + (<usize>at << 4));
    const squared = sx * sx + sy * sy;
    const own = Mathf.sqrt(squared) * open;
    let share: f32 = 0;
    if (own >= 0.5) {
      const rx = <f32>(x - u);
      const ry = <f32>(y - v);
      const time = (rx * sx + ry * sy) / squared;
      const across = Mathf.sqrt(apart(rx, ry, sx * time, sy * time));
      const slack: f32 = (<f32>0.5 * Mathf.max(spacing, 1) * open) / own;
      const inside: f32 = (Mathf.min(time + slack, to) - Mathf.max(time - slack, from)) / (2 * slack);
      share = Mathf.min(1, spacing / own) * Mathf.max(0, Mathf.min(1, inside)) * Mathf.max(0, Mathf.min(1, <f32>1.5 - across));
    }
    if (both && apart(sx, sy, dx, dy) > apart(sx, sy, ox, oy)) share = 0;
    // What stands still hides what moves behind it.
    if (share > 0 && !farther) {
      front = f32x4.add(front, f32x4.mul(colour, f32x4.splat(share)));
      frontShare += share;
    } else if (moving && farther) {
      behind = f32x4.add(behind, colour);
      behindCount += 1;
    }
  }
}

/**
 * Blurs packed pixels along their motion, in pixels a frame, while a shutter is open for times from..to of a frame; the w by h picture's part of ow by
 * oh from x0, y0 is made. `tiles` holds the longest vector of the neighbourhood of each tile of `side` pixels (after McGuire et al. 2012). `near`
 * is the part of a depth within which two are the same surface.
 */
export function motionBlur(
  packed: usize,
  vx: usize,
  vy: usize,
  depth: usize,
  w: i32,
  h: i32,
  tiles: usize,
  tilesWide: i32,
  side: i32,
  out: usize,
  x0: i32,
  y0: i32,
  ow: i32,
  oh: i32,
  from: f32,
  to: f32,
  most: i32,
  near: f32,
): void {
  const open = to - from;
  for (let y = y0; y < y0 + oh; y++) {
    for (let x = x0; x < x0 + ow; x++, out += 16) {
      const tile = tiles + (<usize>((y / side) * tilesWide + x / side) << 3);
      const dx = load<f32>(tile);
      const dy = load<f32>(tile, 4);
      const at = y * w + x;
      const own = v128.load(packed + (<usize>at << 4));
      if ((dx * dx + dy * dy) * open * open < 0.25) {
        v128.store(out, own);
        continue;
      }
      const mx = load<f32>(vx + (<usize>at << 2));
      const my = load<f32>(vy + (<usize>at << 2));
      const moving = (mx * mx + my * my) * open * open >= 0.25;
      const both = moving && apart(mx, my, dx, dy) > 0.06 * (dx * dx + dy * dy);
      // Where steps are longer than a pixel they start elsewhere at each, so that they do not show.
      const jitter: f32 = (<f32>((x * 3 + y * 5) & 7) + 0.5) / 8;
      front = f32x4.splat(0);
      behind = f32x4.splat(0);
      frontShare = 0;
      behindCount = 0;
      gather(packed, vx, vy, depth, w, h, x, y, dx, dy, mx, my, both, from, to, most, jitter, near);
      if (both) gather(packed, vx, vy, depth, w, h, x, y, mx, my, dx, dy, true, from, to, most, jitter, near);
      const left: f32 = <f32>1 - Mathf.min(1, frontShare);
      let made = frontShare > 1 ? f32x4.mul(front, f32x4.splat(1 / frontShare)) : front;
      if (!moving) made = f32x4.add(made, f32x4.mul(own, f32x4.splat(left)));
      else if (behindCount > 0) made = f32x4.add(made, f32x4.mul(behind, f32x4.splat(left / behindCount)));
      else if (frontShare > 0.01) made = f32x4.mul(front, f32x4.splat(1 / frontShare));
      else made = own;
      v128.store(out, made);
    }
  }
}
