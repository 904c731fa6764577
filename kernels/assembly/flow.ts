// Dense motion from one frame to another. Planes stand in sheets: rows `stride` floats long (a multiple of 4), the picture's first pixel at the
// pointer, its edges repeated around it over MARGIN pixels.

const MARGIN: i32 = 16;
const SIDE: i32 = 8;
const COUNT: f32 = 64;

// @ts-ignore: decorator
@inline
function sum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3);
}

/** Slopes along x and y of a part of a sheet, w a multiple of 4, by central differences of order four. */
export function flowSlopes(x: usize, stride: i32, w: i32, h: i32, gx: usize, gy: usize): void {
  const line = <usize>stride << 2;
  const eight = f32x4.splat(8.0 / 12.0);
  const one = f32x4.splat(1.0 / 12.0);
  for (let y = 0; y < h; y++) {
    const skip = line * <usize>y;
    for (let o = skip, end = skip + (<usize>w << 2); o < end; o += 16) {
      const p = x + o;
      v128.store(
        gx + o,
        f32x4.sub(
          f32x4.mul(eight, f32x4.sub(v128.load(p + 4), v128.load(p - 4))),
          f32x4.mul(one, f32x4.sub(v128.load(p + 8), v128.load(p - 8))),
        ),
      );
      v128.store(
        gy + o,
        f32x4.sub(
          f32x4.mul(eight, f32x4.sub(v128.load(p + line), v128.load(p - line))),
          f32x4.mul(one, f32x4.sub(v128.load(p + 2 * line), v128.load(p - 2 * line))),
        ),
      );
    }
  }
}

// What a patch is like where it is looked for: sums of the difference, its square, and its products with the slopes.
let ofD: f32 = 0;
let ofDD: f32 = 0;
let ofDX: f32 = 0;
let ofDY: f32 = 0;

function compare(i0: usize, gx: usize, gy: usize, i1: usize, line: usize, u: f32, v: f32): f32 {
  const fu = Mathf.floor(u);
  const fv = Mathf.floor(v);
  const s = f32x4.splat(u - fu);
  const t = f32x4.splat(v - fv);
  let p = i1 + line * <usize>(<i32>fv) + (<usize>(<i32>fu) << 2);
  let a0 = v128.load(p), a1 = v128.load(p, 16);
  let above0 = f32x4.add(a0, f32x4.mul(s, f32x4.sub(v128.load(p, 4), a0)));
  let above1 = f32x4.add(a1, f32x4.mul(s, f32x4.sub(v128.load(p, 20), a1)));
  let d_ = f32x4.splat(0), dd = d_, dx = d_, dy = d_;
  for (let y = 0; y < SIDE; y++) {
    p += line;
    a0 = v128.load(p);
    a1 = v128.load(p, 16);
    const below0 = f32x4.add(a0, f32x4.mul(s, f32x4.sub(v128.load(p, 4), a0)));
    const below1 = f32x4.add(a1, f32x4.mul(s, f32x4.sub(v128.load(p, 20), a1)));
    const d0 = f32x4.sub(f32x4.add(above0, f32x4.mul(t, f32x4.sub(below0, above0))), v128.load(i0));
    const d1 = f32x4.sub(f32x4.add(above1, f32x4.mul(t, f32x4.sub(below1, above1))), v128.load(i0, 16));
    d_ = f32x4.add(d_, f32x4.add(d0, d1));
    dd = f32x4.add(dd, f32x4.add(f32x4.mul(d0, d0), f32x4.mul(d1, d1)));
    dx = f32x4.add(dx, f32x4.add(f32x4.mul(d0, v128.load(gx)), f32x4.mul(d1, v128.load(gx, 16))));
    dy = f32x4.add(dy, f32x4.add(f32x4.mul(d0, v128.load(gy)), f32x4.mul(d1, v128.load(gy, 16))));
    above0 = below0;
    above1 = below1;
    i0 += line;
    gx += line;
    gy += line;
  }
  ofD = sum(d_);
  ofDD = sum(dd);
  ofDX = sum(dx);
  ofDY = sum(dy);
  return ofDD - (ofD * ofD) / COUNT;
}

// @ts-ignore: decorator
@inline
function kept(v: f32, low: f32, high: f32): f32 {
  return Mathf.max(low, Mathf.min(high, v));
}

/**
 * Dense inverse search (Kroeger et al. 2016): patches of 8 by 8 a few pixels apart, each looked for in the other frame from where the coarser scale
 * and its neighbours point, means taken out. nx by ny patches; one goes over them forwards, then backwards. pu, pv take what is found, pc how far
 * from alike it is.
 */
export function flowPatches(
  i0: usize,
  gx: usize,
  gy: usize,
  i1: usize,
  stride: i32,
  w: i32,
  h: i32,
  u: usize,
  v: usize,
  pu: usize,
  pv: usize,
  pc: usize,
  nx: i32,
  ny: i32,
  apart: i32,
  steps: i32,
): void {
  const line = <usize>stride << 2;
  for (let pass = 0; pass < 2; pass++) {
    for (let k = 0; k < nx * ny; k++) {
      const at = pass == 0 ? k : nx * ny - 1 - k;
      const i = at % nx;
      const j = at / nx;
      const x = min(w - SIDE, i * apart);
      const y = min(h - SIDE, j * apart);
      const skip = line * <usize>y + (<usize>x << 2);
      const a = i0 + skip, bx = gx + skip, by = gy + skip, b = i1 + skip;
      const lowU = <f32>(-x - MARGIN + 1), highU = <f32>(w - SIDE + MARGIN - 2 - x);
      const lowV = <f32>(-y - MARGIN + 1), highV = <f32>(h - SIDE + MARGIN - 2 - y);
      const o = <usize>at << 2;
      let bu: f32, bv: f32;
      if (pass == 0) {
        const middle = skip + line * 4 + 16;
        bu = kept(load<f32>(u + middle), lowU, highU);
        bv = kept(load<f32>(v + middle), lowV, highV);
      } else {
        bu = load<f32>(pu + o);
        bv = load<f32>(pv + o);
      }
      let best = pass == 0 ? compare(a, bx, by, b, line, bu, bv) : load<f32>(pc + o);
      let found = pass == 0;
      const toSide = pass == 0 ? i > 0 : i < nx - 1;
      const toRow = pass == 0 ? j > 0 : j < ny - 1;
      for (let n = 0; n < 2; n++) {
        if (n == 0 ? !toSide : !toRow) continue;
        const from = at + (n == 0 ? 1 : nx) * (pass == 0 ? -1 : 1);
        const cu = kept(load<f32>(pu + (<usize>from << 2)), lowU, highU);
        const cv = kept(load<f32>(pv + (<usize>from << 2)), lowV, highV);
        const cost = compare(a, bx, by, b, line, cu, cv);
        if (cost < best) {
          best = cost;
          bu = cu;
          bv = cv;
          found = true;
        }
      }
      // Of a patch that goes on from the first pass nothing new is to be found.
      if (found) {
        let xx = f32x4.splat(0), xy = xx, yy = xx, ax = xx, ay = xx;
        for (let r = 0; r < SIDE; r++) {
          for (let c: usize = 0; c < 32; c += 16) {
            const p = v128.load(bx + line * <usize>r + c), q = v128.load(by + line * <usize>r + c);
            xx = f32x4.add(xx, f32x4.mul(p, p));
            xy = f32x4.add(xy, f32x4.mul(p, q));
            yy = f32x4.add(yy, f32x4.mul(q, q));
            ax = f32x4.add(ax, p);
            ay = f32x4.add(ay, q);
          }
        }
        const sx = sum(ax), sy = sum(ay);
        const h11 = sum(xx) - (sx * sx) / COUNT + 1e-3, h12 = sum(xy) - (sx * sy) / COUNT, h22 = sum(yy) - (sy * sy) / COUNT + 1e-3;
        const det = h11 * h22 - h12 * h12;
        const startU = bu, startV = bv;
        let cu = bu, cv = bv;
        if (det > 1e-3 * (h11 + h22) * (h11 + h22) * 1e-2) {
          for (let n = 0; n < steps; n++) {
            const cost = compare(a, bx, by, b, line, cu, cv);
            if (n > 0 && cost >= best) break;
            best = cost;
            bu = cu;
            bv = cv;
            const rx = ofDX - (ofD * sx) / COUNT, ry = ofDY - (ofD * sy) / COUNT;
            const du = (h22 * rx - h12 * ry) / det, dv = (h11 * ry - h12 * rx) / det;
            cu = kept(cu - du, lowU, highU);
            cv = kept(cv - dv, lowV, highV);
            if (Mathf.abs(cu - startU) + Mathf.abs(cv - startV) > 12) break;
            if (Mathf.abs(du) + Mathf.abs(dv) < 0.01) break;
          }
        }
      }
      store<f32>(pu + o, bu);
      store<f32>(pv + o, bv);
      store<f32>(pc + o, best);
    }
  }
}

/** Each pixel takes the mean of the patches that lie over it, by how alike it is there. su, sv, sw have to be zero. */
export function flowSpread(
  i0: usize,
  i1: usize,
  stride: i32,
  w: i32,
  h: i32,
  pu: usize,
  pv: usize,
  nx: i32,
  ny: i32,
  apart: i32,
  su: usize,
  sv: usize,
  sw: usize,
): void {
  const line = <usize>stride << 2;
  const one = f32x4.splat(1);
  for (let at = 0; at < nx * ny; at++) {
    const x = min(w - SIDE, (at % nx) * apart);
    const y = min(h - SIDE, (at / nx) * apart);
    const skip = line * <usize>y + (<usize>x << 2);
    const u = load<f32>(pu + (<usize>at << 2)), v = load<f32>(pv + (<usize>at << 2));
    const fu = Mathf.floor(u), fv = Mathf.floor(v);
    const s = f32x4.splat(u - fu), t = f32x4.splat(v - fv);
    const uu = f32x4.splat(u), vv = f32x4.splat(v);
    const move = line * <usize>(<i32>fv) + (<usize>(<i32>fu) << 2);
    compare(i0 + skip, i0 + skip, i0 + skip, i1 + skip, line, u, v);
    const mean = f32x4.splat(ofD / COUNT);
    for (let r = 0; r < SIDE; r++) {
      for (let c: usize = 0; c < 32; c += 16) {
        const o = skip + line * <usize>r + c;
        const p = i1 + o + move;
        const a = v128.load(p), b = v128.load(p + line);
        const top = f32x4.add(a, f32x4.mul(s, f32x4.sub(v128.load(p, 4), a)));
        const bottom = f32x4.add(b, f32x4.mul(s, f32x4.sub(v128.load(p + line, 4), b)));
        const d = f32x4.sub(f32x4.sub(f32x4.add(top, f32x4.mul(t, f32x4.sub(bottom, top))), v128.load(i0 + o)), mean);
        const weight = f32x4.div(one, f32x4.max(one, f32x4.abs(d)));
        v128.store(su + o, f32x4.add(v128.load(su + o), f32x4.mul(weight, uu)));
        v128.store(sv + o, f32x4.add(v128.load(sv + o), f32x4.mul(weight, vv)));
        v128.store(sw + o, f32x4.add(v128.load(sw + o), weight));
      }
    }
  }
  for (let y = 0; y < h; y++) {
    for (let o = line * <usize>y, end = o + (<usize>w << 2); o < end; o += 16) {
      const k = f32x4.div(one, f32x4.max(f32x4.splat(1e-6), v128.load(sw + o)));
      v128.store(su + o, f32x4.mul(v128.load(su + o), k));
      v128.store(sv + o, f32x4.mul(v128.load(sv + o), k));
    }
  }
}

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
    const su = f32x4.add(
      f32x4.add(
        f32x4.mul(left, v128.shuffle<i32>(beforeU, u, 3, 4, 5, 6)),
        f32x4.mul(right, v128.shuffle<i32>(u, nextU, 1, 2, 3, 4)),
      ),
      f32x4.add(f32x4.mul(up, v128.load(U + o - line)), f32x4.mul(down, v128.load(U + o + line))),
    );
    const nu = f32x4.mul(f32x4.sub(f32x4.add(v128.load(e + 3 * size + o), su), f32x4.mul(a12, v)), v128.load(e + 5 * size + o));
    const madeU = f32x4.add(f32x4.mul(rest, u), f32x4.mul(om, nu));
    const sv = f32x4.add(
      f32x4.add(
        f32x4.mul(left, v128.shuffle<i32>(beforeV, v, 3, 4, 5, 6)),
        f32x4.mul(right, v128.shuffle<i32>(v, nextV, 1, 2, 3, 4)),
      ),
      f32x4.add(f32x4.mul(up, v128.load(V + o - line)), f32x4.mul(down, v128.load(V + o + line))),
    );
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
