import { invertSymmetric, takeRow, takeSix } from './blocks';
import { Envelope } from './cholesky';
import type { BundleSettings, Observations, Scene } from './scene';
import { bendOf, movePose } from './scene';

/** Pixels that stand for a residual of a point behind its camera. */
const BEHIND = 1e3;
/** Pixels that a focal length's bend of 1 counts for: half a percent a frame a frame is a pixel. */
export const SMOOTH = 200;
const STILL = 1e-8;

/**
 * Bundle adjustment (Triggs et al. 2000): Levenberg and Marquardt over cameras and points, with the points eliminated from the normal
 * equations (Schur complement) and Cauchy's loss by reweighting. Changes the scene in place; the same input gives the same output.
 */
export class Bundle {
  /** Parameters of a camera, of all of them alike, and all together. */
  readonly dc: number;
  readonly dg: number;
  readonly size: number;
  readonly starts: Int32Array;
  private readonly first: Int32Array;
  readonly count: number;
  readonly cameras: number;
  private readonly jc: Float64Array;
  private readonly jg: Float64Array;
  private readonly jp: Float64Array;
  readonly rest: Float64Array;
  readonly robust: Float64Array;
  private readonly smooth: number;

  constructor(
    readonly scene: Scene,
    readonly seen: Observations,
    readonly settings: BundleSettings,
  ) {
    const { focal, bend, turning } = settings;
    this.smooth = settings.smooth ?? SMOOTH;
    this.cameras = scene.focals.length;
    this.count = seen.x.length;
    this.dc = (turning ? 3 : 6) + (focal === 'each' ? 1 : 0);
    this.dg = (focal === 'one' ? 1 : 0) + (bend ? 2 : 0);
    this.size = this.cameras * this.dc + this.dg;
    const m = scene.points.length / 3;
    this.starts = new Int32Array(m + 1);
    for (let i = 0; i < this.count; i++) this.starts[seen.point[i]! + 1]!++;
    for (let i = 0; i < m; i++) this.starts[i + 1]! += this.starts[i]!;
    const reach = Int32Array.from({ length: this.cameras }, (_, k) => (focal === 'each' ? Math.max(0, k - 2) : k));
    for (let p = 0; p < m; p++) {
      const [from, to] = [this.starts[p]!, this.starts[p + 1]!];
      if (from === to) continue;
      const least = seen.camera[from]!;
      for (let i = from; i < to; i++) reach[seen.camera[i]!] = Math.min(reach[seen.camera[i]!]!, least);
    }
    this.first = new Int32Array(this.size);
    for (let k = 0; k < this.cameras; k++) for (let d = 0; d < this.dc; d++) this.first[k * this.dc + d] = reach[k]! * this.dc;
    this.jc = new Float64Array(2 * this.dc * this.count);
    this.jg = new Float64Array(2 * Math.max(1, this.dg) * this.count);
    this.jp = new Float64Array(6 * this.count);
    this.rest = new Float64Array(2 * this.count);
    this.robust = new Float64Array(this.count);
  }

  /** Where a point is seen by a camera, less where it was found; false behind the camera. Derivatives too where asked. */
  private look(scene: Scene, i: number, derive: boolean): boolean {
    const { poses: m, points, focals, bend, centre } = scene;
    const k = this.seen.camera[i]!;
    const at = 12 * k;
    const q = 3 * this.seen.point[i]!;
    const [X, Y, Z] = [points[q]!, points[q + 1]!, points[q + 2]!];
    const px = m[at]! * X + m[at + 1]! * Y + m[at + 2]! * Z;
    const py = m[at + 4]! * X + m[at + 5]! * Y + m[at + 6]! * Z;
    const pz = m[at + 8]! * X + m[at + 9]! * Y + m[at + 10]! * Z;
    const c = pz + m[at + 11]!;
    const o = 2 * i;
    if (!(c > 1e-9)) {
      this.rest[o] = BEHIND;
      this.rest[o + 1] = BEHIND;
      return false;
    }
    const f = focals[k]!;
    const [x, y] = [(px + m[at + 3]!) / c, (py + m[at + 7]!) / c];
    const [k1, k2] = [bend[0]!, bend[1]!];
    const r2 = x * x + y * y;
    const g = 1 + r2 * (k1 + k2 * r2);
    this.rest[o] = centre[0] + f * x * g - this.seen.x[i]!;
    this.rest[o + 1] = centre[1] + f * y * g - this.seen.y[i]!;
    if (!derive) return true;
    const h = k1 + 2 * k2 * r2;
    const [ux, uy, vy] = [f * (g + 2 * x * x * h), 2 * f * x * y * h, f * (g + 2 * y * y * h)];
    const [jc, jp, jg, dc, dg] = [this.jc, this.jp, this.jg, this.dc, this.dg];
    for (let row = 0; row < 2; row++) {
      const [sx, sy] = row === 0 ? [ux, uy] : [uy, vy];
      const [da, db, dz] = [sx / c, sy / c, -(sx * x + sy * y) / c];
      let j = (2 * i + row) * dc;
      jc[j++] = dz * py - db * pz;
      jc[j++] = da * pz - dz * px;
      jc[j++] = db * px - da * py;
      if (!this.settings.turning) {
        jc[j++] = da;
        jc[j++] = db;
        jc[j++] = dz;
      }
      const own = f * (row === 0 ? x : y);
      if (this.settings.focal === 'each') jc[j] = own * g;
      let e = (2 * i + row) * dg;
      if (this.settings.focal === 'one') jg[e++] = own * g;
      if (this.settings.bend) {
        jg[e++] = own * r2;
        jg[e] = own * r2 * r2;
      }
      const p = 6 * i + 3 * row;
      for (let a = 0; a < 3; a++) jp[p + a] = da * m[at + a]! + db * m[at + 4 + a]! + dz * m[at + 8 + a]!;
    }
    return true;
  }

  /** Cauchy's loss over everything seen, and how uneven the focal lengths are. Fills residuals, and derivatives if asked. */
  cost(derive = false, scene: Scene = this.scene): number {
    const c2 = this.settings.scale ** 2;
    let sum = 0;
    for (let i = 0; i < this.count; i++) {
      const there = this.look(scene, i, derive);
      const w = this.seen.weight[i]!;
      const r2 = this.rest[2 * i]! ** 2 + this.rest[2 * i + 1]! ** 2;
      sum += w * c2 * Math.log1p(r2 / c2);
      this.robust[i] = there ? w / (1 + r2 / c2) : 0;
    }
    if (this.settings.focal === 'each') for (let k = 1; k + 1 < this.cameras; k++) sum += (this.smooth * bendOf(scene.focals, k)) ** 2;
    return sum;
  }

  /** Normal equations with the points eliminated, damped; what takes a step of the cameras back to one of the points is kept. */
  reduced(damping: number, dense: boolean): { matrix: Envelope; right: Float64Array; back: Back } {
    const { dc, dg, size, count, jc, jg, jp, rest, robust, starts, seen } = this;
    const matrix = new Envelope(dense ? new Int32Array(size) : this.first);
    const { values: s, base } = matrix;
    const right = new Float64Array(size);
    const globals = this.cameras * dc;
    const m = starts.length - 1;
    const back: Back = {
      inverse: new Float64Array(9 * m),
      right: new Float64Array(3 * m),
      cross: new Float64Array(count * dc * 3),
      global: new Float64Array(m * dg * 3),
    };
    const y = new Float64Array(dc * 3 * this.cameras);
    const yg = new Float64Array(dg * 3);
    const v = new Float64Array(9);
    for (let p = 0; p < m; p++) {
      const [from, to] = [starts[p]!, starts[p + 1]!];
      if (from === to) continue;
      v.fill(0);
      const vr = back.right.subarray(3 * p, 3 * p + 3);
      const wg = back.global.subarray(p * dg * 3, (p + 1) * dg * 3);
      for (let i = from; i < to; i++) {
        const w = robust[i]!;
        if (w === 0) continue;
        const cam = seen.camera[i]! * dc;
        const cross = i * dc * 3;
        for (let row = 0; row < 2; row++) {
          const r = w * rest[2 * i + row]!;
          const jpo = 6 * i + 3 * row;
          const jco = (2 * i + row) * dc;
          const jgo = (2 * i + row) * dg;
          for (let a = 0; a < 3; a++) {
            const wa = w * jp[jpo + a]!;
            vr[a]! -= r * jp[jpo + a]!;
            for (let b = 0; b < 3; b++) v[3 * a + b]! += wa * jp[jpo + b]!;
            for (let d = 0; d < dc; d++) back.cross[cross + 3 * d + a]! += jc[jco + d]! * wa;
            for (let d = 0; d < dg; d++) wg[3 * d + a]! += jg[jgo + d]! * wa;
          }
          for (let a = 0; a < dc; a++) {
            const wa = w * jc[jco + a]!;
            right[cam + a]! -= r * jc[jco + a]!;
            const row0 = base[cam + a]! + cam;
            for (let b = 0; b <= a; b++) s[row0 + b]! += wa * jc[jco + b]!;
          }
          for (let a = 0; a < dg; a++) {
            const wa = w * jg[jgo + a]!;
            right[globals + a]! -= r * jg[jgo + a]!;
            for (let b = 0; b < dc; b++) s[base[globals + a]! + cam + b]! += wa * jc[jco + b]!;
            for (let b = 0; b <= a; b++) s[base[globals + a]! + globals + b]! += wa * jg[jgo + b]!;
          }
        }
      }
      if (this.settings.turning) {
        // How far away it lies is not seen: it is held at distance 1.
        const n = this.scene.points.subarray(3 * p, 3 * p + 3);
        const hold = v[0]! + v[4]! + v[8]!;
        for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) v[3 * a + b]! += hold * n[a]! * n[b]!;
      }
      for (let a = 0; a < 3; a++) v[4 * a]! *= 1 + damping;
      const inverse = back.inverse.subarray(9 * p, 9 * p + 9);
      if (!invertSymmetric(v, inverse)) continue;
      const pr = [0, 1, 2].map((a) => inverse[3 * a]! * vr[0]! + inverse[3 * a + 1]! * vr[1]! + inverse[3 * a + 2]! * vr[2]!);
      for (let i = from; i < to; i++) {
        const cross = i * dc * 3;
        const own = (i - from) * dc * 3;
        const cam = seen.camera[i]! * dc;
        for (let d = 0; d < dc; d++) {
          const [w0, w1, w2] = [back.cross[cross + 3 * d]!, back.cross[cross + 3 * d + 1]!, back.cross[cross + 3 * d + 2]!];
          for (let a = 0; a < 3; a++) y[own + 3 * d + a] = w0 * inverse[a]! + w1 * inverse[3 + a]! + w2 * inverse[6 + a]!;
          right[cam + d]! -= w0 * pr[0]! + w1 * pr[1]! + w2 * pr[2]!;
        }
      }
      for (let i = from; i < to; i++) {
        const own = (i - from) * dc * 3;
        const row0 = seen.camera[i]! * dc;
        for (let j = from; j < i; j++) {
          const column = seen.camera[j]! * dc;
          if (dc === 6) takeSix(s, base, row0, column, y, own, back.cross, j * 18);
          else for (let a = 0; a < dc; a++) takeRow(s, base[row0 + a]! + column, dc, y, own + 3 * a, back.cross, j * dc * 3);
        }
        for (let a = 0; a < dc; a++) takeRow(s, base[row0 + a]! + row0, a + 1, y, own + 3 * a, back.cross, i * dc * 3);
      }
      for (let d = 0; d < dg; d++) {
        const [w0, w1, w2] = [wg[3 * d]!, wg[3 * d + 1]!, wg[3 * d + 2]!];
        for (let a = 0; a < 3; a++) yg[3 * d + a] = w0 * inverse[a]! + w1 * inverse[3 + a]! + w2 * inverse[6 + a]!;
        right[globals + d]! -= w0 * pr[0]! + w1 * pr[1]! + w2 * pr[2]!;
      }
      for (let d = 0; d < dg; d++) {
        const [y0, y1, y2] = [yg[3 * d]!, yg[3 * d + 1]!, yg[3 * d + 2]!];
        const row0 = base[globals + d]!;
        for (let i = from; i < to; i++) {
          const column = seen.camera[i]! * dc;
          for (let b = 0; b < dc; b++) {
            const w = (i * dc + b) * 3;
            s[row0 + column + b]! -= y0 * back.cross[w]! + y1 * back.cross[w + 1]! + y2 * back.cross[w + 2]!;
          }
        }
        for (let e = 0; e <= d; e++) s[row0 + globals + e]! -= y0 * wg[3 * e]! + y1 * wg[3 * e + 1]! + y2 * wg[3 * e + 2]!;
      }
    }
    if (this.settings.focal === 'each') this.addSmoothness(matrix, right);
    for (let r = 0; r < size; r++) {
      const d = base[r]! + r;
      s[d]! += damping * Math.max(1e-9, Math.abs(s[d]!)) + 1e-12;
    }
    return { matrix, right, back };
  }

  private addSmoothness({ values: s, base }: Envelope, right: Float64Array): void {
    const { dc } = this;
    for (let k = 1; k + 1 < this.cameras; k++) {
      const r = bendOf(this.scene.focals, k);
      const at = [k - 1, k, k + 1].map((c) => c * dc + dc - 1);
      [1, -2, 1].forEach((a, i) => {
        right[at[i]!]! -= this.smooth ** 2 * a * r;
        [1, -2, 1].forEach((b, j) => {
          if (j <= i) s[base[at[i]!]! + at[j]!]! += this.smooth ** 2 * a * b;
        });
      });
    }
  }

  /** Improves the scene; the cost at the end. */
  run(): number {
    let cost = Infinity;
    for (const c of this.improve()) cost = c;
    return cost;
  }

  /** The same, round by round: the cost after each. */
  *improve(): Generator<number> {
    let cost = this.cost(true);
    let damping = 1e-4;
    for (let round = 0; round < this.settings.rounds; round++) {
      const before = cost;
      for (let tries = 0; tries < 9 && cost === before; tries++) {
        const { matrix, right, back } = this.reduced(damping, false);
        if (matrix.factorise()) {
          const next = this.moved(matrix.solve(right), back);
          const reached = this.cost(false, next);
          if (reached < cost) {
            for (const key of ['poses', 'focals', 'bend', 'points'] as const) this.scene[key].set(next[key]);
            damping = Math.max(1e-9, damping * 0.05);
          }
          // Weights and derivatives belong to the place that is kept.
          cost = this.cost(true);
        }
        if (cost === before) damping *= 8;
      }
      yield cost;
      if (!(before - cost > (this.settings.still ?? STILL) * before)) return;
    }
  }

  /** The scene after a step of the cameras, and of the points that follows from it. */
  private moved(step: Float64Array, back: Back): Scene {
    const { dc, dg, starts, seen } = this;
    const { turning, focal, bend: bends } = this.settings;
    const from = this.scene;
    const globals = this.cameras * dc;
    const scene: Scene = {
      poses: Float64Array.from(from.poses),
      focals: Float64Array.from(from.focals),
      bend: Float64Array.from(from.bend),
      centre: from.centre,
      points: Float64Array.from(from.points),
    };
    for (let k = 0; k < this.cameras; k++) {
      const o = k * dc;
      movePose(scene.poses, k, [step[o]!, step[o + 1]!, step[o + 2]!], turning ? [0, 0, 0] : [step[o + 3]!, step[o + 4]!, step[o + 5]!]);
      const grown = focal === 'each' ? step[o + dc - 1]! : focal === 'one' ? step[globals]! : 0;
      scene.focals[k]! *= Math.exp(Math.max(-0.7, Math.min(0.7, grown)));
    }
    if (bends) for (let a = 0; a < 2; a++) scene.bend[a]! += step[this.size - 2 + a]!;
    for (let p = 0; p + 1 < starts.length; p++) {
      const r = [back.right[3 * p]!, back.right[3 * p + 1]!, back.right[3 * p + 2]!];
      for (let i = starts[p]!; i < starts[p + 1]!; i++) {
        const cam = seen.camera[i]! * dc;
        for (let d = 0; d < dc; d++) for (let a = 0; a < 3; a++) r[a]! -= back.cross[(i * dc + d) * 3 + a]! * step[cam + d]!;
      }
      for (let d = 0; d < dg; d++) for (let a = 0; a < 3; a++) r[a]! -= back.global[(p * dg + d) * 3 + a]! * step[globals + d]!;
      for (let a = 0; a < 3; a++) {
        const v = back.inverse;
        scene.points[3 * p + a]! += v[9 * p + 3 * a]! * r[0]! + v[9 * p + 3 * a + 1]! * r[1]! + v[9 * p + 3 * a + 2]! * r[2]!;
      }
      if (!turning) continue;
      const length = Math.hypot(scene.points[3 * p]!, scene.points[3 * p + 1]!, scene.points[3 * p + 2]!) || 1;
      for (let a = 0; a < 3; a++) scene.points[3 * p + a]! /= length;
    }
    return scene;
  }
}

export interface Back {
  /** Of each point: the inverse of its own block, and the right side. */
  readonly inverse: Float64Array;
  readonly right: Float64Array;
  /** Between each observation's camera and its point, and between what is common and each point. */
  readonly cross: Float64Array;
  readonly global: Float64Array;
}
