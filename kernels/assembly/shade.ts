// Light of a lamp on surfaces that are known by pixel, with shadows by a walk through the depth.

// Places of the lamp's and the camera's numbers.
const EYE = 0;
const RIGHT = 12;
const DOWN = 24;
const FORWARD = 36;
const FOCAL = 48;
const CENTRE_X = 52;
const CENTRE_Y = 56;
const KIND = 60;
const AT = 64;
const AXIS = 76;
const RADIUS = 88;
const OUTER = 92;
const INNER = 96;
const LIGHT = 100;
const SHADOW = 112;
const THICK = 116;
const STEPS = 120;
const GLOSS = 124;
const ROUGH = 128;
const REFLECTANCE = 132;
const LEFT = 136;
const TOP = 140;
const BIAS = 144;

// @ts-ignore: decorator
@inline
function at(p: usize, offset: usize): f32 {
  return load<f32>(p + offset);
}

// @ts-ignore: decorator
@inline
function dotWith(p: usize, offset: usize, x: f32, y: f32, z: f32): f32 {
  return at(p, offset) * x + at(p, offset + 4) * y + at(p, offset + 8) * z;
}

/** Whether the way from a surface, lifted off it, to a place is free of what is seen. */
function free(p: usize, stands: usize, w: i32, h: i32, i: i32, near: f32, fx: f32, fy: f32, fz: f32, tx: f32, ty: f32, tz: f32): bool {
  const ex = at(p, EYE);
  const ey = at(p, EYE + 4);
  const ez = at(p, EYE + 8);
  const lift = at(p, BIAS) * near;
  const a = dotWith(p, FORWARD, fx - ex, fy - ey, fz - ez);
  let b = dotWith(p, FORWARD, tx - ex, ty - ey, tz - ez);
  // Behind the camera nothing is seen: the walk ends before it.
  if (b < <f32>0.05 * a) {
    const t: f32 = (a - <f32>0.05 * a) / (a - b);
    tx = fx + (tx - fx) * t;
    ty = fy + (ty - fy) * t;
    tz = fz + (tz - fz) * t;
    b = dotWith(p, FORWARD, tx - ex, ty - ey, tz - ez);
  }
  const focal = at(p, FOCAL);
  const x0: f32 = at(p, CENTRE_X) + (focal * dotWith(p, RIGHT, fx - ex, fy - ey, fz - ez)) / a - at(p, LEFT);
  const y0: f32 = at(p, CENTRE_Y) + (focal * dotWith(p, DOWN, fx - ex, fy - ey, fz - ez)) / a - at(p, TOP);
  const x1: f32 = at(p, CENTRE_X) + (focal * dotWith(p, RIGHT, tx - ex, ty - ey, tz - ez)) / b - at(p, LEFT);
  const y1: f32 = at(p, CENTRE_Y) + (focal * dotWith(p, DOWN, tx - ex, ty - ey, tz - ez)) / b - at(p, TOP);
  const length = Mathf.max(Mathf.abs(x1 - x0), Mathf.abs(y1 - y0));
  const steps = <i32>Mathf.min(at(p, STEPS), Mathf.ceil(length));
  // Another start at each pixel, so that steps do not show as bands.
  const turn: f32 = <f32>i * 0.7548776;
  const start: f32 = (turn - Mathf.floor(turn)) * <f32>0.8 + <f32>0.2;
  const thick = at(p, THICK);
  const ia: f32 = 1 / a;
  const ib: f32 = 1 / b;
  const step: f32 = <f32>1 / <f32>steps;
  const dx: f32 = (x1 - x0) * step;
  const dy: f32 = (y1 - y0) * step;
  // 1/z is straight on the picture.
  const di: f32 = (ib - ia) * step;
  let x = x0 + dx * start;
  let y = y0 + dy * start;
  let inverse = ia + di * start;
  const right = <f32>w;
  const low = <f32>h;
  for (let k = 0; k < steps; k++) {
    if (x < 0 || y < 0 || x >= right || y >= low) return true;
    const j = <i32>y * w + <i32>x;
    const there = load<f32>(stands + (<usize>j << 2));
    // Nothing is hidden by what is no nearer: that is seen without a division.
    if (there * inverse < 1 && j != i) {
      const z: f32 = 1 / inverse;
      if (there < z - lift && there > z - thick) return false;
    }
    x += dx;
    y += dy;
    inverse += di;
  }
  return true;
}

/** GGX (Walter et al. 2007) with Smith's shadowing and Schlick's Fresnel, times π. */
function gloss(p: usize, nx: f32, ny: f32, nz: f32, lx: f32, ly: f32, lz: f32, vx: f32, vy: f32, vz: f32): f32 {
  let hx = lx + vx;
  let hy = ly + vy;
  let hz = lz + vz;
  const k: f32 = <f32>1 / Mathf.max(<f32>1e-6, Mathf.sqrt(hx * hx + hy * hy + hz * hz));
  hx *= k;
  hy *= k;
  hz *= k;
  const nh = nx * hx + ny * hy + nz * hz;
  const nl = nx * lx + ny * ly + nz * lz;
  const nv = Mathf.max(<f32>1e-3, nx * vx + ny * vy + nz * vz);
  if (nl <= 0 || nh <= 0) return 0;
  const a2 = at(p, ROUGH);
  const q: f32 = nh * nh * (a2 - 1) + 1;
  const d: f32 = a2 / (q * q);
  const sl: f32 = (2 * nl) / (nl + Mathf.sqrt(a2 + (1 - a2) * nl * nl));
  const sv: f32 = (2 * nv) / (nv + Mathf.sqrt(a2 + (1 - a2) * nv * nv));
  const c: f32 = <f32>1 - Mathf.max(0, vx * hx + vy * hy + vz * hz);
  const f0 = at(p, REFLECTANCE);
  const fresnel: f32 = f0 + (1 - f0) * c * c * c * c * c;
  return (d * sl * sv * fresnel) / (4 * nl * nv);
}

/**
 * Adds the light of a lamp, `p`, to three planes, for the rows y0 to y1 of surfaces w by h. `surface` lists twelve planes: x, y, z, nx, ny, nz, distance,
 * what stands in the way, albedo r, g, b, alpha.
 */
export function lampLight(p: usize, surface: usize, w: i32, h: i32, y0: i32, y1: i32, r: usize, g: usize, b: usize): void {
  const px = <usize>load<u32>(surface);
  const py = <usize>load<u32>(surface, 4);
  const pz = <usize>load<u32>(surface, 8);
  const qx = <usize>load<u32>(surface, 12);
  const qy = <usize>load<u32>(surface, 16);
  const qz = <usize>load<u32>(surface, 20);
  const distance = <usize>load<u32>(surface, 24);
  const stands = <usize>load<u32>(surface, 28);
  const ar = <usize>load<u32>(surface, 32);
  const ag = <usize>load<u32>(surface, 36);
  const ab = <usize>load<u32>(surface, 40);
  const alpha = <usize>load<u32>(surface, 44);
  const kind = <i32>at(p, KIND);
  const shine = at(p, GLOSS);
  for (let i = y0 * w; i < y1 * w; i++) {
    const o = <usize>i << 2;
    const cover = load<f32>(alpha + o);
    const near = load<f32>(distance + o);
    if (!(near < f32.MAX_VALUE) || cover <= 0) continue;
    const x = load<f32>(px + o);
    const y = load<f32>(py + o);
    const z = load<f32>(pz + o);
    const nx = load<f32>(qx + o);
    const ny = load<f32>(qy + o);
    const nz = load<f32>(qz + o);
    let lx = at(p, AT);
    let ly = at(p, AT + 4);
    let lz = at(p, AT + 8);
    let amount: f32 = 1;
    let tx = lx;
    let ty = ly;
    let tz = lz;
    if (kind == 2) {
      const k: f32 = <f32>1 / Mathf.max(<f32>1e-9, Mathf.sqrt(lx * lx + ly * ly + lz * lz));
      lx *= k;
      ly *= k;
      lz *= k;
      tx = x + 1000 * lx;
      ty = y + 1000 * ly;
      tz = z + 1000 * lz;
    } else {
      lx -= x;
      ly -= y;
      lz -= z;
      const length = Mathf.max(<f32>1e-6, Mathf.sqrt(lx * lx + ly * ly + lz * lz));
      const k: f32 = 1 / length;
      lx *= k;
      ly *= k;
      lz *= k;
      const reach = Mathf.max(length, Mathf.max(at(p, RADIUS), <f32>1e-3));
      amount = 1 / (reach * reach);
      if (kind == 1) {
        const cos = -dotWith(p, AXIS, lx, ly, lz);
        const span = Mathf.max(<f32>1e-6, at(p, INNER) - at(p, OUTER));
        const t = Mathf.min(1, Mathf.max(0, (cos - at(p, OUTER)) / span));
        amount *= t * t * (3 - 2 * t);
      }
    }
    const facing = nx * lx + ny * ly + nz * lz;
    if (!(facing > 0) || !(amount > 0)) continue;
    if (at(p, SHADOW) > 0) {
      const lift = at(p, BIAS) * near;
      if (!free(p, stands, w, h, i, near, x + nx * lift, y + ny * lift, z + nz * lift, tx, ty, tz)) continue;
    }
    const k = facing * amount;
    let glossy: f32 = 0;
    if (shine > 0) {
      let vx = at(p, EYE) - x;
      let vy = at(p, EYE + 4) - y;
      let vz = at(p, EYE + 8) - z;
      const s: f32 = <f32>1 / Mathf.max(<f32>1e-6, Mathf.sqrt(vx * vx + vy * vy + vz * vz));
      vx *= s;
      vy *= s;
      vz *= s;
      glossy = shine * cover * gloss(p, nx, ny, nz, lx, ly, lz, vx, vy, vz);
    }
    store<f32>(r + o, load<f32>(r + o) + k * at(p, LIGHT) * (load<f32>(ar + o) + glossy));
    store<f32>(g + o, load<f32>(g + o) + k * at(p, LIGHT + 4) * (load<f32>(ag + o) + glossy));
    store<f32>(b + o, load<f32>(b + o) + k * at(p, LIGHT + 8) * (load<f32>(ab + o) + glossy));
  }
}
