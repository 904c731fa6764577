// Dense motion refined, on sheets as flow.ts has them: a data term and ties between neighbours, solved by relaxation; and how sure it is.
import { MARGIN, kept } from './flow';

/** A sheet seen where motion leads, between pixels; from x0, y0 on, w by h. `inside` takes 0 where that is beyond the edges, else 1. */
export function flowWarp(
  i1: usize,
  stride: i32,
  fullW: i32,
  fullH: i32,
  x0: i32,
  y0: i32,
  w: i32,
  h: i32,
  u: usize,
  v: usize,
  out: usize,
  inside: usize,
): void {
  const lowX = -<f32>(MARGIN - 1), highX = <f32>(fullW + MARGIN - 3);
  const lowY = -<f32>(MARGIN - 1), highY = <f32>(fullH + MARGIN - 3);
  const line = <usize>stride << 2;
  for (let y = y0; y < y0 + h; y++) {
    for (let x = x0; x < x0 + w; x++) {
      const o = <usize>(<isize>(y * stride + x) << 2);
      const wantedX: f32 = <f32>x + load<f32>(u + o), wantedY: f32 = <f32>y + load<f32>(v + o);
      const X = kept(wantedX, lowX, highX), Y = kept(wantedY, lowY, highY);
      const isIn = wantedX > -1 && wantedY > -1 && wantedX < <f32>fullW && wantedY < <f32>fullH;
      store<f32>(inside + o, isIn ? 1 : 0);
      const fx = Mathf.floor(X), fy = Mathf.floor(Y);
      const s = X - fx, t = Y - fy;
      const p = i1 + <usize>(<isize>(<i32>fy * stride + <i32>fx) << 2);
      const a = load<f32>(p), b = load<f32>(p + line);
      const top: f32 = a + s * (load<f32>(p, 4) - a);
      const bottom: f32 = b + s * (load<f32>(p + line, 4) - b);
      store<f32>(out + o, top + t * (bottom - top));
    }
  }
}

/**
 * The data term of Brox et al. 2004 about motion U, V near that of the warp, u, v, linearised: brightness and its slopes stay. `d` points to nine
 * sheets, `size` bytes apart: slopes x, y, z, xx, xy, yy, xz, yz, and whether the pixel is seen on both; `e` to the five that are made: a11, a12, a22, b1, b2.
 */
export function flowData(
  d: usize,
  size: usize,
  e: usize,
  u: usize,
  v: usize,
  U: usize,
  V: usize,
  stride: i32,
  w: i32,
  h: i32,
  delta: f32,
  gamma: f32,
): void {
  const line = <usize>stride << 2;
  const zeta = f32x4.splat(0.01);
  const epsilon = f32x4.splat(1e-6);
  const kd = f32x4.splat(delta / 2), kg = f32x4.splat(gamma / 2);
  for (let y = 0; y < h; y++) {
    for (let o = line * <usize>y, end = o + (<usize>w << 2); o < end; o += 16) {
      const ix = v128.load(d + o), iy = v128.load(d + size + o), iz = v128.load(d + 2 * size + o);
      const ixx = v128.load(d + 3 * size + o), ixy = v128.load(d + 4 * size + o), iyy = v128.load(d + 5 * size + o);
      const ixz = v128.load(d + 6 * size + o), iyz = v128.load(d + 7 * size + o);
      const u0 = v128.load(u + o), v0 = v128.load(v + o);
      const du = f32x4.sub(v128.load(U + o), u0), dv = f32x4.sub(v128.load(V + o), v0);
      const seen = v128.load(d + 8 * size + o);
      // Brightness.
      const norm = f32x4.add(f32x4.add(f32x4.mul(ix, ix), f32x4.mul(iy, iy)), zeta);
      const r = f32x4.add(iz, f32x4.add(f32x4.mul(ix, du), f32x4.mul(iy, dv)));
      const k = f32x4.div(f32x4.div(f32x4.mul(seen, kd), f32x4.sqrt(f32x4.add(f32x4.div(f32x4.mul(r, r), norm), epsilon))), norm);
      let a11 = f32x4.mul(k, f32x4.mul(ix, ix)), a12 = f32x4.mul(k, f32x4.mul(ix, iy)), a22 = f32x4.mul(k, f32x4.mul(iy, iy));
      let b1 = f32x4.mul(k, f32x4.mul(iz, ix)), b2 = f32x4.mul(k, f32x4.mul(iz, iy));
      // Its slopes.
      const nx = f32x4.add(f32x4.add(f32x4.mul(ixx, ixx), f32x4.mul(ixy, ixy)), zeta);
      const ny = f32x4.add(f32x4.add(f32x4.mul(ixy, ixy), f32x4.mul(iyy, iyy)), zeta);
      const rx = f32x4.add(ixz, f32x4.add(f32x4.mul(ixx, du), f32x4.mul(ixy, dv)));
      const ry = f32x4.add(iyz, f32x4.add(f32x4.mul(ixy, du), f32x4.mul(iyy, dv)));
      const m = f32x4.div(
        f32x4.mul(seen, kg),
        f32x4.sqrt(f32x4.add(f32x4.add(f32x4.div(f32x4.mul(rx, rx), nx), f32x4.div(f32x4.mul(ry, ry), ny)), epsilon)),
      );
      const mx = f32x4.div(m, nx), my = f32x4.div(m, ny);
      a11 = f32x4.add(a11, f32x4.add(f32x4.mul(mx, f32x4.mul(ixx, ixx)), f32x4.mul(my, f32x4.mul(ixy, ixy))));
      a12 = f32x4.add(a12, f32x4.add(f32x4.mul(mx, f32x4.mul(ixx, ixy)), f32x4.mul(my, f32x4.mul(ixy, iyy))));
      a22 = f32x4.add(a22, f32x4.add(f32x4.mul(mx, f32x4.mul(ixy, ixy)), f32x4.mul(my, f32x4.mul(iyy, iyy))));
      b1 = f32x4.add(b1, f32x4.add(f32x4.mul(mx, f32x4.mul(ixx, ixz)), f32x4.mul(my, f32x4.mul(ixy, iyz))));
      b2 = f32x4.add(b2, f32x4.add(f32x4.mul(mx, f32x4.mul(ixy, ixz)), f32x4.mul(my, f32x4.mul(iyy, iyz))));
      v128.store(e + o, a11);
      v128.store(e + size + o, a12);
      v128.store(e + 2 * size + o, a22);
      v128.store(e + 3 * size + o, f32x4.sub(f32x4.add(f32x4.mul(a11, u0), f32x4.mul(a12, v0)), b1));
      v128.store(e + 4 * size + o, f32x4.sub(f32x4.add(f32x4.mul(a12, u0), f32x4.mul(a22, v0)), b2));
    }
  }
}

/** How much neighbours hold together: less where motion changes. sx, sy hold the ties to the right and below. */
export function flowTies(U: usize, V: usize, stride: i32, w: i32, h: i32, sx: usize, sy: usize, alpha: f32): void {
  const line = <usize>stride << 2;
  const k = f32x4.splat(alpha / 2);
  const epsilon = f32x4.splat(1e-6);
  for (let y = 0; y < h; y++) {
    const row = line * <usize>y;
    for (let o = row, end = o + (<usize>w << 2); o < end; o += 16) {
      const u = v128.load(U + o), v = v128.load(V + o);
      const ux = f32x4.sub(v128.load(U + o, 4), u), uy = f32x4.sub(v128.load(U + o + line), u);
      const vx = f32x4.sub(v128.load(V + o, 4), v), vy = f32x4.sub(v128.load(V + o + line), v);
      const all = f32x4.add(
        f32x4.add(f32x4.mul(ux, ux), f32x4.mul(uy, uy)),
        f32x4.add(f32x4.mul(vx, vx), f32x4.add(f32x4.mul(vy, vy), epsilon)),
      );
      const tie = f32x4.div(k, f32x4.sqrt(all));
      v128.store(sx + o, tie);
      v128.store(sy + o, y == h - 1 ? f32x4.splat(0) : tie);
    }
    store<f32>(sx + row - 4, 0);
    for (let x = w - 1; x < ((w + 3) & ~3); x++) store<f32>(sx + row + (<usize>x << 2), 0);
  }
  memory.fill(sy - line, 0, <usize>((w + 3) & ~3) << 2);
}

/** 1/(a11 + ties) and 1/(a22 + ties) of a row, into the last two of seven sheets at e. */
function invertRow(e: usize, size: usize, sx: usize, sy: usize, line: usize, row: usize, w: i32): void {
  const one = f32x4.splat(1);
  const tiny = f32x4.splat(1e-9);
  for (let o = row, end = o + (<usize>w << 2); o < end; o += 16) {
    const ties = f32x4.add(
      f32x4.add(f32x4.add(v128.load(sx + o - 4), v128.load(sx + o)), tiny),
      f32x4.add(v128.load(sy + o - line), v128.load(sy + o)),
    );
    v128.store(e + 5 * size + o, f32x4.div(one, f32x4.add(v128.load(e + o), ties)));
    v128.store(e + 6 * size + o, f32x4.div(one, f32x4.add(v128.load(e + 2 * size + o), ties)));
  }
}

/** What neighbours pull four pixels towards: those to the sides are in hand, those above and below are read. */
// @ts-ignore: decorator
@inline
function pulled(at: usize, line: usize, before: v128, now: v128, next: v128, left: v128, right: v128, up: v128, down: v128): v128 {
  return f32x4.add(
    f32x4.add(
      f32x4.mul(left, v128.shuffle<i32>(before, now, 3, 4, 5, 6)),
      f32x4.mul(right, v128.shuffle<i32>(now, next, 1, 2, 3, 4)),
    ),
    f32x4.add(f32x4.mul(up, v128.load(at - line)), f32x4.mul(down, v128.load(at + line))),
  );
}

/** Every second pixel of a row anew. What lies left and right is kept in hand: to read it over what was just written would wait for that. */
function relaxRow(e: usize, size: usize, sx: usize, sy: usize, U: usize, V: usize, line: usize, row: usize, w: i32, omega: f32, mask: v128): void {
  const om = f32x4.splat(omega), rest = f32x4.splat(<f32>1 - omega);
  let beforeU = v128.load(U + row - 16), beforeV = v128.load(V + row - 16), beforeTie = v128.load(sx + row - 16);
  let u = v128.load(U + row), v = v128.load(V + row);
  for (let o = row, end = o + (<usize>w << 2); o < end; o += 16) {
    const nextU = v128.load(U + o, 16), nextV = v128.load(V + o, 16);
    const right = v128.load(sx + o), left = v128.shuffle<i32>(beforeTie, right, 3, 4, 5, 6);
    const up = v128.load(sy + o - line), down = v128.load(sy + o);
    const a12 = v128.load(e + size + o);
    const su = pulled(U + o, line, beforeU, u, nextU, left, right, up, down);
    const nu = f32x4.mul(f32x4.sub(f32x4.add(v128.load(e + 3 * size + o), su), f32x4.mul(a12, v)), v128.load(e + 5 * size + o));
    const madeU = f32x4.add(f32x4.mul(rest, u), f32x4.mul(om, nu));
    const sv = pulled(V + o, line, beforeV, v, nextV, left, right, up, down);
    const nv = f32x4.mul(f32x4.sub(f32x4.add(v128.load(e + 4 * size + o), sv), f32x4.mul(a12, madeU)), v128.load(e + 6 * size + o));
    const madeV = f32x4.add(f32x4.mul(rest, v), f32x4.mul(om, nv));
    beforeU = v128.bitselect(madeU, u, mask);
    beforeV = v128.bitselect(madeV, v, mask);
    v128.store(U + o, beforeU);
    v128.store(V + o, beforeV);
    beforeTie = right;
    u = nextU;
    v = nextV;
  }
}

/**
 * Sweeps of successive over-relaxation, red pixels and then black ones. All go over the picture at once, each half a sweep a row behind the one
 * before, so that what they share stays in the processor's cache. `e` points to seven sheets: the equations, and two to work in.
 */
export function flowRelax(
  e: usize,
  size: usize,
  sx: usize,
  sy: usize,
  U: usize,
  V: usize,
  stride: i32,
  w: i32,
  h: i32,
  omega: f32,
  sweeps: i32,
): void {
  const line = <usize>stride << 2;
  const even = i32x4(-1, 0, -1, 0), odd = i32x4(0, -1, 0, -1);
  for (let front = 0; front < h + 2 * sweeps - 1; front++) {
    if (front < h) invertRow(e, size, sx, sy, line, line * <usize>front, w);
    for (let k = 0; k < 2 * sweeps; k++) {
      const y = front - k;
      if (y < 0) break;
      if (y < h) relaxRow(e, size, sx, sy, U, V, line, line * <usize>y, w, omega, ((y + k) & 1) == 0 ? even : odd);
    }
  }
}

/**
 * How far motion there and back leaves a pixel from where it was, against what may be expected: 0 comes back, 1 is 0.5 px off and a tenth of the way.
 * After Sundaram, Brox & Keutzer 2010.
 */
export function flowApart(u: usize, v: usize, bu: usize, bv: usize, w: i32, h: i32, out: usize): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const o = <usize>(y * w + x) << 2;
      const fu = load<f32>(u + o), fv = load<f32>(v + o);
      const X = <f32>x + fu, Y = <f32>y + fv;
      if (X < -0.5 || Y < -0.5 || X > <f32>w - 0.5 || Y > <f32>h - 0.5) {
        store<f32>(out + o, 16);
        continue;
      }
      const i = min(max(0, <i32>Mathf.floor(X)), max(0, w - 2)), j = min(max(0, <i32>Mathf.floor(Y)), max(0, h - 2));
      const s = kept(X - <f32>i, 0, 1), t = kept(Y - <f32>j, 0, 1);
      const p = <usize>(j * w + i) << 2, q = p + (<usize>w << 2);
      const a = load<f32>(bu + p), b = load<f32>(bu + q);
      const c = load<f32>(bv + p), d = load<f32>(bv + q);
      const tu: f32 = a + s * (load<f32>(bu + p, 4) - a), du: f32 = b + s * (load<f32>(bu + q, 4) - b);
      const tv: f32 = c + s * (load<f32>(bv + p, 4) - c), dv: f32 = d + s * (load<f32>(bv + q, 4) - d);
      const gu: f32 = tu + t * (du - tu), gv: f32 = tv + t * (dv - tv);
      const off: f32 = (fu + gu) * (fu + gu) + (fv + gv) * (fv + gv);
      const may: f32 = <f32>0.01 * (fu * fu + fv * fv + gu * gu + gv * gv) + 0.25;
      store<f32>(out + o, Mathf.min(16, off / may));
    }
  }
}
