import type { Vec3 } from '../geometry/vec3';
import type { Environment } from './environment';
import type { Drawn, Projected, Screen } from './screen';
import { STRIDE } from './screen';
import type { Shadow } from './shadow';
import { splitSum } from './split-sum';
import type { Texture } from './texture';

/** A lamp. 1 of a colour lights a white surface that faces it to 1; of a lamp or a spot, at a distance of one unit. */
export interface Light {
  readonly kind: 'sun' | 'point' | 'spot';
  readonly colour: Vec3;
  /** Of a sun: towards it, unit. */
  readonly towards: Vec3;
  /** Of the others. */
  readonly at: Vec3;
  /** Of a spot: where it looks, unit; cosines of half its cone, and of where it begins to fade. */
  readonly aim: Vec3;
  readonly outer: number;
  readonly inner: number;
  readonly shadow: Shadow | null;
}

/** What a catcher sees in its mirror, on the same pixels. */
export interface MirrorPicture {
  readonly x0: number;
  readonly y0: number;
  readonly width: number;
  readonly planes: readonly [Float32Array, Float32Array, Float32Array, Float32Array];
}

/** A dielectric's mirroring, seen straight on. */
const PLAIN_MIRROR = 0.04;

/**
 * Colours pieces of surfaces: metal and roughness as in appendix B of the glTF 2.0 specification (Trowbridge–Reitz, Smith, Schlick).
 */
export class Shader {
  /** Where, which way and what of the piece last shaded, for data layers. */
  readonly place = new Float64Array(3);
  readonly normal = new Float64Array(3);
  /** How much of a catcher's alpha is shadow, and its mirror's R, G, B, A. */
  readonly caught = new Float64Array(5);
  private readonly eye: Vec3;
  private readonly weights = new Float64Array(3);
  private readonly texel = new Float64Array(4);
  private readonly extra = new Float64Array(4);
  private readonly light = new Float64Array(3);
  private readonly foot = new Float64Array(4);
  private readonly cast = new Float64Array(4);
  private readonly ray = new Float64Array(3);
  private readonly split = new Float64Array(2);

  constructor(
    private readonly screen: Screen,
    private readonly lights: readonly Light[],
    private readonly environment: Environment | null,
    private readonly mirrors: ReadonlyMap<Drawn, MirrorPicture>,
  ) {
    const m = screen.view.matrix;
    const t = [m[3]!, m[7]!, m[11]!];
    this.eye = [0, 1, 2].map((c) => -(m[c]! * t[0]! + m[4 + c]! * t[1]! + m[8 + c]! * t[2]!)) as unknown as Vec3;
  }

  /** Shares of the corners at a pixel's place, right in perspective. */
  private weigh(a: number, b: number, c: number, px: number, py: number, to: Float64Array): void {
    const { x, y, near } = this.screen;
    const x2 = x[c]!;
    const y2 = y[c]!;
    const d = (y[b]! - y2) * (x[a]! - x2) + (x2 - x[b]!) * (y[a]! - y2);
    const p = (((y[b]! - y2) * (px - x2) + (x2 - x[b]!) * (py - y2)) / d) * near[a]!;
    const q = (((y2 - y[a]!) * (px - x2) + (x[a]! - x2) * (py - y2)) / d) * near[b]!;
    const r = (1 - p / near[a]! - q / near[b]!) * near[c]!;
    const k = 1 / (p + q + r);
    to[0] = p * k;
    to[1] = q * k;
    to[2] = r * k;
  }

  /** R, G, B, A, premultiplied, of a triangle at a place of the picture. */
  shade(triangle: number, px: number, py: number, to: Float64Array): void {
    const { screen, weights: w, place, normal } = this;
    const { corners, attributes: t } = screen;
    const a = corners[3 * triangle]!;
    const b = corners[3 * triangle + 1]!;
    const c = corners[3 * triangle + 2]!;
    this.weigh(a, b, c, px, py, w);
    const i = STRIDE * a;
    const j = STRIDE * b;
    const k = STRIDE * c;
    const wa = w[0]!;
    const wb = w[1]!;
    const wc = w[2]!;
    for (let q = 0; q < 3; q++) {
      place[q] = wa * t[i + q]! + wb * t[j + q]! + wc * t[k + q]!;
      normal[q] = wa * t[i + 3 + q]! + wb * t[j + 3 + q]! + wc * t[k + 3 + q]!;
    }
    const drawn = screen.drawn[screen.surfaces[triangle]!]!;
    const { material: m, projection } = drawn;
    const toEye = 1 / Math.max(1e-9, distance(this.eye, place));
    const vx = (this.eye[0] - place[0]!) * toEye;
    const vy = (this.eye[1] - place[1]!) * toEye;
    const vz = (this.eye[2] - place[2]!) * toEye;
    let long = Math.sqrt(normal[0]! * normal[0]! + normal[1]! * normal[1]! + normal[2]! * normal[2]!) || 1;
    if (normal[0]! * vx + normal[1]! * vy + normal[2]! * vz < 0 && m.doubleSided) long = -long;
    for (let q = 0; q < 3; q++) normal[q] = normal[q]! / long;
    const textured = m.baseMap || m.normalMap || m.metalRoughMap || m.emissionMap || m.occlusionMap;
    let u = 0;
    let v = 0;
    if (textured) {
      u = wa * t[i + 6]! + wb * t[j + 6]! + wc * t[k + 6]!;
      v = wa * t[i + 7]! + wb * t[j + 7]! + wc * t[k + 7]!;
      this.footprint(a, b, c, px, py, u, v);
    }
    const { texel } = this;
    // Base colour, straight unless its picture is premultiplied.
    let alpha = m.base[3] * (wa * t[i + 11]! + wb * t[j + 11]! + wc * t[k + 11]!);
    let red = m.base[0] * (wa * t[i + 8]! + wb * t[j + 8]! + wc * t[k + 8]!);
    let green = m.base[1] * (wa * t[i + 9]! + wb * t[j + 9]! + wc * t[k + 9]!);
    let blue = m.base[2] * (wa * t[i + 10]! + wb * t[j + 10]! + wc * t[k + 10]!);
    if (projection || m.baseMap) {
      const map = projection?.texture ?? m.baseMap!;
      if (projection) this.project(drawn, a, b, c, px, py, texel);
      else this.look(map, u, v, texel);
      let own = texel[3]!;
      // Straight colour is what is lit; what is premultiplied is divided.
      const by = map.premultiplied ? (own > 1e-6 ? 1 / own : 0) : 1;
      if (map.premultiplied && own > 1) own = 1;
      red *= texel[0]! * by;
      green *= texel[1]! * by;
      blue *= texel[2]! * by;
      alpha *= own;
    }
    if (m.alpha === 'opaque') alpha = 1;
    else if (m.alpha === 'cut') alpha = alpha >= m.cutoff ? 1 : 0;
    alpha *= drawn.opacity ?? 1;
    if (drawn.holdout || alpha === 0) {
      to[0] = to[1] = to[2] = 0;
      to[3] = alpha;
      return;
    }
    if (drawn.catcher) return this.catch(drawn, vx, vy, vz, px, py, alpha, to);
    if (m.unlit) {
      to[0] = red * alpha;
      to[1] = green * alpha;
      to[2] = blue * alpha;
      to[3] = alpha;
      return;
    }
    if (m.normalMap) this.bump(m.normalMap, m.normalScale ?? 1, i, j, k, u, v);
    let { metal, rough } = m;
    if (m.metalRoughMap) {
      this.look(m.metalRoughMap, u, v, texel);
      rough *= texel[1]!;
      metal *= texel[2]!;
    }
    rough = Math.max(0.045, rough);
    let open = 1;
    if (m.occlusionMap) {
      this.look(m.occlusionMap, u, v, texel);
      open = texel[0]!;
    }
    const plain = m.specular ?? 1;
    const dielectric = PLAIN_MIRROR * plain * (1 - metal);
    const m0 = dielectric + red * metal;
    const m1 = dielectric + green * metal;
    const m2 = dielectric + blue * metal;
    const matt = 1 - metal;
    const nx = normal[0]!;
    const ny = normal[1]!;
    const nz = normal[2]!;
    const nv = Math.max(1e-4, nx * vx + ny * vy + nz * vz);
    let r = 0;
    let g = 0;
    let bl = 0;
    const a2 = rough * rough * rough * rough;
    for (const l of this.lights) {
      const force = this.lightAt(l);
      const lx = this.ray[0]!;
      const ly = this.ray[1]!;
      const lz = this.ray[2]!;
      const nl = nx * lx + ny * ly + nz * lz;
      if (!(nl > 0) || !(force > 0)) continue;
      const seen = l.shadow ? l.shadow.open(place[0]!, place[1]!, place[2]!, nx, ny, nz) : 1;
      if (seen === 0) continue;
      let hx = vx + lx;
      let hy = vy + ly;
      let hz = vz + lz;
      const hk = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
      hx *= hk;
      hy *= hk;
      hz *= hk;
      const nh = nx * hx + ny * hy + nz * hz;
      const vh = Math.max(0, vx * hx + vy * hy + vz * hz);
      const spread = nh * nh * (a2 - 1) + 1;
      // π folded in: 1 of light makes a white matt surface 1.
      const gloss = (a2 / (spread * spread)) * (0.5 / (nl * Math.sqrt(nv * nv * (1 - a2) + a2) + nv * Math.sqrt(nl * nl * (1 - a2) + a2)));
      const edge = (1 - vh) * (1 - vh);
      const schlick = plain > 0 || metal > 0 ? edge * edge * (1 - vh) : 0;
      const k2 = nl * force * seen;
      const fr = m0 + (1 - m0) * schlick;
      const fg = m1 + (1 - m1) * schlick;
      const fb = m2 + (1 - m2) * schlick;
      r += l.colour[0] * k2 * (red * matt * (1 - fr) + gloss * fr);
      g += l.colour[1] * k2 * (green * matt * (1 - fg) + gloss * fg);
      bl += l.colour[2] * k2 * (blue * matt * (1 - fb) + gloss * fb);
    }
    if (this.environment) {
      const { light } = this;
      this.environment.diffuse(nx, ny, nz, light);
      const d = 2 * (nx * vx + ny * vy + nz * vz);
      splitSum(rough, nv, this.split);
      const first = this.split[0]!;
      const second = this.split[1]!;
      const dr = light[0]!;
      const dg = light[1]!;
      const db = light[2]!;
      this.environment.mirrored(d * nx - vx, d * ny - vy, d * nz - vz, rough, light);
      const some = plain > 0 || metal > 0 ? second : 0;
      const sr = m0 * first + some;
      const sg = m1 * first + some;
      const sb = m2 * first + some;
      r += open * (dr * red * matt * (1 - sr) + light[0]! * sr);
      g += open * (dg * green * matt * (1 - sg) + light[1]! * sg);
      bl += open * (db * blue * matt * (1 - sb) + light[2]! * sb);
    }
    let er = m.emission[0];
    let eg = m.emission[1];
    let eb = m.emission[2];
    if (m.emissionMap && er + eg + eb > 0) {
      this.look(m.emissionMap, u, v, texel);
      er *= texel[0]!;
      eg *= texel[1]!;
      eb *= texel[2]!;
    }
    to[0] = (r + er) * alpha;
    to[1] = (g + eg) * alpha;
    to[2] = (bl + eb) * alpha;
    to[3] = alpha;
  }

  /** Into `ray` the way towards a lamp from the place; how strong it is there without shadows. */
  private lightAt(l: Light): number {
    const { place, ray } = this;
    if (l.kind === 'sun') {
      ray[0] = l.towards[0];
      ray[1] = l.towards[1];
      ray[2] = l.towards[2];
      return 1;
    }
    const x = l.at[0] - place[0]!;
    const y = l.at[1] - place[1]!;
    const z = l.at[2] - place[2]!;
    const d2 = Math.max(1e-8, x * x + y * y + z * z);
    const k = 1 / Math.sqrt(d2);
    let force = 1 / d2;
    if (l.kind === 'spot') {
      const along = -(x * l.aim[0] + y * l.aim[1] + z * l.aim[2]) * k;
      const t = Math.min(1, Math.max(0, (along - l.outer) / Math.max(1e-6, l.inner - l.outer)));
      force *= t * t * (3 - 2 * t);
    }
    ray[0] = x * k;
    ray[1] = y * k;
    ray[2] = z * k;
    return force;
  }

  /** What shadows take away, and what the mirror shows. */
  private catch(drawn: Drawn, vx: number, vy: number, vz: number, px: number, py: number, alpha: number, to: Float64Array): void {
    const { place, normal, caught } = this;
    const { shadow, shadowColour, mirror } = drawn.catcher!;
    let [lit, all] = [0, 0];
    for (const l of this.lights) {
      const force = this.lightAt(l);
      const lx = this.ray[0]!;
      const ly = this.ray[1]!;
      const lz = this.ray[2]!;
      const nl = normal[0]! * lx + normal[1]! * ly + normal[2]! * lz;
      if (!(nl > 0)) continue;
      const k = nl * force * (0.2126 * l.colour[0] + 0.7152 * l.colour[1] + 0.0722 * l.colour[2]);
      all += k;
      lit += k * (l.shadow ? l.shadow.open(place[0]!, place[1]!, place[2]!, normal[0]!, normal[1]!, normal[2]!) : 1);
    }
    if (this.environment && all > 0) {
      this.environment.diffuse(normal[0]!, normal[1]!, normal[2]!, this.light);
      const sky = 0.2126 * this.light[0]! + 0.7152 * this.light[1]! + 0.0722 * this.light[2]!;
      all += sky;
      lit += sky;
    }
    const dark = (all > 0 ? 1 - lit / all : 0) * shadow * alpha;
    caught.fill(0);
    caught[0] = dark;
    const seen = this.mirrors.get(drawn);
    if (seen && mirror > 0) {
      const c = Math.max(0, normal[0]! * vx + normal[1]! * vy + normal[2]! * vz);
      const e = (1 - c) * (1 - c);
      const k = Math.min(1, mirror * (PLAIN_MIRROR + (1 - PLAIN_MIRROR) * e * e * (1 - c))) * alpha;
      const [x, at] = [Math.floor(px) - seen.x0, (Math.floor(py) - seen.y0) * seen.width + Math.floor(px) - seen.x0];
      const inside = x >= 0 && x < seen.width;
      for (let q = 0; q < 4; q++) caught[1 + q] = inside ? k * (seen.planes[q]![at] ?? 0) : 0;
    }
    const left = 1 - caught[4]!;
    for (let q = 0; q < 3; q++) to[q] = caught[1 + q]! + shadowColour[q]! * dark * left;
    to[3] = caught[4]! + dark * left;
  }

  /** How u and v change a pixel to the right and one down. */
  private footprint(a: number, b: number, c: number, px: number, py: number, u: number, v: number): void {
    const { foot, weights: w } = this;
    const t = this.screen.attributes;
    const [i, j, k] = [STRIDE * a + 6, STRIDE * b + 6, STRIDE * c + 6];
    for (let s = 0; s < 2; s++) {
      this.weigh(a, b, c, px + (s === 0 ? 1 : 0), py + (s === 1 ? 1 : 0), w);
      foot[2 * s] = w[0]! * t[i]! + w[1]! * t[j]! + w[2]! * t[k]! - u;
      foot[2 * s + 1] = w[0]! * t[i + 1]! + w[1]! * t[j + 1]! + w[2]! * t[k + 1]! - v;
    }
  }

  private look(map: Texture, u: number, v: number, to: Float64Array): void {
    const { foot } = this;
    map.sample(u, v, foot[0]!, foot[1]!, foot[2]!, foot[3]!, to);
  }

  /** What a projection throws at the place. */
  private project(drawn: Drawn, a: number, b: number, c: number, px: number, py: number, to: Float64Array): void {
    const p = drawn.projection!;
    const { place, weights: w, extra, normal, cast } = this;
    const t = this.screen.attributes;
    to[0] = to[1] = to[2] = to[3] = 0;
    if (!thrown(p, place[0]!, place[1]!, place[2]!, extra)) return;
    const u = extra[0]!;
    const v = extra[1]!;
    if (!p.texture.near(u, v, 0.02)) return;
    const i = STRIDE * a;
    const j = STRIDE * b;
    const k = STRIDE * c;
    for (let s = 0; s < 2; s++) {
      this.weigh(a, b, c, px + (s === 0 ? 1 : 0), py + (s === 1 ? 1 : 0), w);
      const x = w[0]! * t[i]! + w[1]! * t[j]! + w[2]! * t[k]!;
      const y = w[0]! * t[i + 1]! + w[1]! * t[j + 1]! + w[2]! * t[k + 1]!;
      const z = w[0]! * t[i + 2]! + w[1]! * t[j + 2]! + w[2]! * t[k + 2]!;
      thrown(p, x, y, z, extra);
      cast[2 * s] = extra[0]! - u;
      cast[2 * s + 1] = extra[1]! - v;
    }
    p.texture.sample(u, v, cast[0]!, cast[1]!, cast[2]!, cast[3]!, to);
    if (to[3] === 0 && to[0] === 0 && to[1] === 0 && to[2] === 0) return;
    const open = p.seen ? p.seen(place[0]!, place[1]!, place[2]!, normal[0]!, normal[1]!, normal[2]!) : 1;
    if (open < 1) for (let q = 0; q < 4; q++) to[q] = to[q]! * open;
  }

  /** Turns the normal by a map, in the directions in which u and v grow on the triangle. */
  private bump(map: Texture, scale: number, i: number, j: number, k: number, u: number, v: number): void {
    const { normal: n, texel } = this;
    const t = this.screen.attributes;
    const [du1, dv1, du2, dv2] = [t[j + 6]! - t[i + 6]!, t[j + 7]! - t[i + 7]!, t[k + 6]! - t[i + 6]!, t[k + 7]! - t[i + 7]!];
    const det = du1 * dv2 - du2 * dv1;
    if (Math.abs(det) < 1e-18) return;
    const [tx, ty, tz] = [0, 1, 2].map((q) => (dv2 * (t[j + q]! - t[i + q]!) - dv1 * (t[k + q]! - t[i + q]!)) / det) as [
      number,
      number,
      number,
    ];
    const along = tx * n[0]! + ty * n[1]! + tz * n[2]!;
    let [ax, ay, az] = [tx - along * n[0]!, ty - along * n[1]!, tz - along * n[2]!];
    const l = 1 / (Math.sqrt(ax * ax + ay * ay + az * az) || 1);
    ax *= l;
    ay *= l;
    az *= l;
    // v runs down the picture, the map's green up.
    const side = det < 0 ? 1 : -1;
    const [bx, by, bz] = [side * (n[1]! * az - n[2]! * ay), side * (n[2]! * ax - n[0]! * az), side * (n[0]! * ay - n[1]! * ax)];
    this.look(map, u, v, texel);
    const [mx, my, mz] = [(2 * texel[0]! - 1) * scale, (2 * texel[1]! - 1) * scale, 2 * texel[2]! - 1];
    const [x, y, z] = [mx * ax + my * bx + mz * n[0]!, mx * ay + my * by + mz * n[1]!, mx * az + my * bz + mz * n[2]!];
    const q = 1 / (Math.sqrt(x * x + y * y + z * z) || 1);
    n[0] = x * q;
    n[1] = y * q;
    n[2] = z * q;
  }
}

/** Where on a projection's picture a place lies, in shares of it; false behind its camera. Into `to`. */
function thrown({ view, width, height }: Projected, x: number, y: number, z: number, to: Float64Array): boolean {
  const m = view.matrix;
  const depth = m[8]! * x + m[9]! * y + m[10]! * z + m[11]!;
  to[0] = (view.centre[0] + (view.focal * (m[0]! * x + m[1]! * y + m[2]! * z + m[3]!)) / depth) / width;
  to[1] = (view.centre[1] + (view.focal * (m[4]! * x + m[5]! * y + m[6]! * z + m[7]!)) / depth) / height;
  return depth > 0;
}

const distance = (a: Vec3, b: Float64Array): number => {
  const x = a[0] - b[0]!;
  const y = a[1] - b[1]!;
  const z = a[2] - b[2]!;
  return Math.sqrt(x * x + y * y + z * z);
};
