// Dense motion from one frame to another. Planes stand in sheets: rows `stride` floats long (a multiple of 4), the picture's first pixel at the
// pointer, its edges repeated around it over MARGIN pixels.

export const MARGIN: i32 = 16;
const SIDE: i32 = 8;
const COUNT: f32 = 64;

// @ts-ignore: decorator
@inline
function sum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3);
}

/**
 * A plane of a picture `factor` times as small, times that, between its pixels, on one of w by h; its edges go on. `row` is scratch of fw + 4 floats, and the smaller
 * plane is overrun by three.
 */
export function flowEnlarge(from: usize, fw: i32, fh: i32, out: usize, w: i32, h: i32, factor: f32, row: usize): void {
  const k = f32x4.splat(factor);
  const lastX = fw - 1, lastY = fh - 1;
  const share: f32 = 1 / factor;
  for (let y = 0; y < h; y++) {
    const v = min(<f32>lastY, max<f32>(0, (<f32>y + 0.5) * share - 0.5));
    const j = <i32>v;
    const t = f32x4.splat(v - <f32>j);
    const a = from + ((<usize>(j * fw)) << 2), b = from + ((<usize>(min(lastY, j + 1) * fw)) << 2);
    for (let o: usize = 0, end = (<usize>fw) << 2; o < end; o += 16) {
      const p = v128.load(a + o);
      v128.store(row + o, f32x4.mul(k, f32x4.add(p, f32x4.mul(t, f32x4.sub(v128.load(b + o), p)))));
    }
    for (let x = 0; x < w; x++, out += 4) {
      const u = min(<f32>lastX, max<f32>(0, (<f32>x + 0.5) * share - 0.5));
      const i = <i32>u;
      const p = load<f32>(row + ((<usize>i) << 2)), q = load<f32>(row + ((<usize>min(lastX, i + 1)) << 2));
      store<f32>(out, p + (u - <f32>i) * (q - p));
    }
  }
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

/** A value held within limits. */
// @ts-ignore: decorator
@inline
export function kept(v: f32, low: f32, high: f32): f32 {
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
