import { ShotError } from '../errors';
import { transpose3 } from '../geometry/rotation';
import type { BundleSettings } from './scene';
import { Bundle } from './bundle';
import type { Assessed, CameraKind } from './assess';
import { assess } from './assess';
import type { KeyPair } from './keys';
import { essentialOf, sampson } from './essential';
import { gric, keyFrames, keyPairs } from './keys';
import type { Pose } from './pose';
import { afterPose, eyeOf, poseBetween, poseOfMatrix } from './pose';
import { offOf, refinePose, resect } from './resection';
import type { StartOptions, Started } from './start';
import { FOCAL_TRIES, asGood, startMoving, startTurning, typicalLoss } from './start';
import { Structure } from './structure';
import { rayOf } from './triangulate';
import type { SolveTrack } from './tracks';
import { TrackTable, checkTracks, median } from './tracks';

export interface SolveInput {
  readonly tracks: readonly SolveTrack[];
  readonly range: { readonly first: number; readonly last: number };
  readonly format: { readonly width: number; readonly height: number };
  /** Where the lens's axis meets the picture, px; its middle unless said. */
  readonly centre?: readonly [number, number];
  /** Known in px, to be found, or to be found frame by frame. */
  readonly focal: number | 'found' | 'each';
  /** Whether radial terms k1 and k2 are found too. */
  readonly bend: boolean;
  /** What was found before, by frame and by track: solving goes on from there. */
  readonly from?: Pick<Assessed, 'kind' | 'zooms' | 'frames' | 'points' | 'bend'>;
}

/** Where solving is, with what is known so far. */
export interface SolveStage {
  readonly title: string;
  readonly share: number;
  readonly so?: Assessed;
}

/** Share of its observations that may be far off before a track is left out. */
const BAD_SHARE = 0.34;
/** Deviation of positions that are found, px in a picture 960 wide. */
const SIGMA = 0.5;
/** Of what a track in the middle misses: where Cauchy's loss bends. */
const LOSS = 1.5;
/** Loss a position over which one focal length is doubted. */
const POOR = 0.12;
/** Share of that loss that a zoom must leave at most before it is started from. */
const MUCH_LESS = 0.6;
/** A zoom is taken for one where it changes by more than this, and explains more by that. */
const ZOOMS = { by: 0.012, gain: 0.8 };

/**
 * Finds the camera that saw some tracks: two views first, then the key frames, then all frames, then everything at once (Hartley and Zisserman
 * 2003; Triggs et al. 2000). Yields where it is; the same tracks give the same camera. Throws ShotError where they do not say.
 */
export function* solveCamera(input: SolveInput): Generator<SolveStage, Assessed> {
  const solver = new Solver(input);
  return yield* solver.run();
}

/** The same, all at once. */
export function solvedCamera(input: SolveInput): Assessed {
  const work = solveCamera(input);
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
  }
}

class Solver {
  private readonly table: TrackTable;
  private readonly sigma: number;
  private readonly centre: readonly [number, number];
  /** Tracks that are not used, since they do not go with the others. */
  private readonly out = new Set<number>();
  private focal: BundleSettings['focal'];
  private structure!: Structure;
  /** Of Cauchy's loss, px: as wide as most tracks miss, once that is known. */
  private scale: number;
  private kind: CameraKind = 'moving';
  private pairs: readonly KeyPair[] = [];

  constructor(private readonly input: SolveInput) {
    this.table = new TrackTable(input.tracks, input.range);
    this.sigma = SIGMA * Math.max(0.5, input.format.width / 960);
    this.scale = 2 * this.sigma;
    this.centre = input.centre ?? [input.format.width / 2, input.format.height / 2];
    this.focal = typeof input.focal === 'number' ? 'fixed' : input.focal === 'each' ? 'each' : 'one';
  }

  *run(): Generator<SolveStage, Assessed> {
    checkTracks(this.table);
    if (this.resumed()) {
      // Little has changed: what was found before is near.
      this.fill();
      this.placeAll();
      yield* this.adjust('From what was found before', 0.2, 3);
      this.sort();
      yield* this.adjust('From what was found before', 0.6, 3);
      this.sort();
    } else {
      yield* this.start();
      yield { title: 'Every frame', share: 0.4 };
      this.fill();
      this.placeAll();
      yield* this.adjust('All at once', 0.45, 8);
      this.sort();
      this.fill();
      yield* this.adjust('All at once', 0.6, 10);
      this.sort();
      this.kind = this.structure.turning ? 'turning' : this.isFlat() ? 'planar' : 'moving';
      yield* this.zoomed();
      yield* this.adjust('The last rounds', 0.8, 25);
      this.sort();
    }
    this.bridge();
    yield { title: 'How sure it is', share: 0.95 };
    return this.assessed(true);
  }

  /** Goes on from what was found before. */
  private resumed(): boolean {
    const { from, format, range } = this.input;
    if (!from) return false;
    this.kind = from.kind;
    if (from.zooms && this.focal === 'one') this.focal = 'each';
    const usual = typeof this.input.focal === 'number' ? this.input.focal : (from.frames[0]?.focal ?? format.width);
    const s = new Structure(this.table, this.centre, usual, from.kind === 'turning');
    if (this.input.bend) s.bend = from.bend;
    for (const f of from.frames) {
      const t = f.frame - range.first;
      if (t < 0 || t >= this.table.count || f.count < 6) continue;
      s.poses[t] = poseOfMatrix(f.matrix);
      if (this.focal !== 'fixed') s.focals[t] = f.focal;
    }
    const index = new Map(this.table.tracks.map((t, k) => [t.id, k]));
    for (const p of from.points) {
      const k = index.get(p.track);
      if (k === undefined) continue;
      s.points[k] = p.at;
      if (!p.used) this.out.add(k);
    }
    this.structure = s;
    return s.poses.filter(Boolean).length >= 3 && s.points.filter(Boolean).length >= 6;
  }

  private options(focal: number, lens = this.focal): StartOptions {
    return { centre: this.centre, focal, lens, sigma: this.sigma };
  }

  /** Key frames: moving, turning or before a plane, and the focal length. */
  private *start(): Generator<SolveStage, void> {
    const { format, focal } = this.input;
    yield { title: 'Key frames', share: 0.02 };
    const keys = keyFrames(this.table, format.width);
    const pairs = (this.pairs = keyPairs(this.table, keys, this.sigma));
    if (pairs.length === 0) throw new ShotError('no two frames share enough tracks: find more tracks, or tracks that last longer');
    const still = Math.max(...pairs.map((p) => median(p.pairs.map(([x, y, u, v]) => Math.hypot(u - x, v - y)))));
    if (still < 4 * this.sigma)
      throw new ShotError(
        'nothing in the picture moves: a camera that stands still cannot be found. For a still frame a plane reading is enough',
      );
    const tries = typeof focal === 'number' ? [focal] : FOCAL_TRIES.map((k) => k * format.width);
    const turning = tries.map((f) => startTurning(this.table, keys, this.options(f)));
    let turn = turning.reduce((a, b) => (b.cost < a.cost ? b : a));
    const started: Started[] = [];
    // A few tracks are quickly tried from several views, and need it more.
    const few = tries.length > 1 && this.table.tracks.length > 30 ? 1 : 3;
    const attempt = (f: number, from: readonly KeyPair[], lens = this.focal): void => {
      for (const pair of from) {
        const made = startMoving(this.table, keys, pair, this.options(f, lens));
        if (made) started.push(made);
      }
    };
    for (const [i, f] of tries.entries()) {
      const title = tries.length > 1 ? `First views, focal length ${Math.round(f)} px` : 'First views';
      yield { title, share: 0.05 + (0.3 * i) / tries.length };
      // Of a zoom the focal lengths of far views are too different to start from.
      const near = pairs.filter((p) => this.focal !== 'each' || keys.indexOf(p.b) - keys.indexOf(p.a) <= 3);
      attempt(f, near.slice(0, few));
    }
    const cheapest = (): Started | null => (started.length ? started.reduce((a, b) => (b.cost < a.cost ? b : a)) : null);
    let best = cheapest();
    // A turn needs fewer numbers than anything else.
    let turns = !best || asGood(turn, best);
    if (this.focal === 'one' && Math.min(typicalLoss(turn), best ? typicalLoss(best) : Infinity) > POOR) {
      // One focal length explains little: perhaps it zooms.
      yield { title: 'First views of a zoom', share: 0.36 };
      const [still, had] = [turn, best];
      const near = pairs.filter((p) => keys.indexOf(p.b) - keys.indexOf(p.a) <= 3).slice(0, 2);
      for (const f of tries.slice(1)) attempt(f, near, 'each');
      const turned = tries.map((f) => startTurning(this.table, keys, this.options(f, 'each'))).reduce((a, b) => (b.cost < a.cost ? b : a));
      const zooming = cheapest();
      const fixed = turns ? still : had!;
      const changing = zooming && !asGood(turned, zooming) ? zooming : turned;
      if (!asGood(fixed, changing) && typicalLoss(changing) < MUCH_LESS * typicalLoss(fixed)) {
        this.focal = 'each';
        turns = changing === turned;
        [turn, best] = [turned, zooming];
      }
    }
    this.structure = turns ? turn.structure : best!.structure;
    const posed = this.structure.poses.filter(Boolean).length;
    if (posed < 2 || this.structure.points.filter(Boolean).length < 6)
      throw new ShotError(
        'the tracks do not agree on a camera: leave out what moves by a matte, or place eight points by hand that are seen on every frame',
      );
  }

  /** Whether those pairs of views that are the farthest from it are still better explained by one map than by depth (GRIC, Torr 1998). */
  private isFlat(): boolean {
    const s = this.structure;
    const off = this.table.tracks.flatMap((_, k) => (this.out.has(k) ? [] : this.errorsOf(k).map((e) => e.off)));
    const sigma = Math.max(0.1 * this.sigma, median(off));
    const far = this.pairs.slice(0, 5);
    const flat = far.filter(({ a, b, tracks, offPlane }) => {
      const [from, to] = [s.poses[a], s.poses[b]];
      if (!from || !to) return true;
      const back = transpose3(from.turn);
      const e = essentialOf(afterPose(to, { turn: back, shift: eyeOf(from) }));
      const used = tracks.map((k, i) => ({ k, plane: offPlane[i]! })).filter(({ k }) => !this.out.has(k));
      const squares = used.map(({ k }) => {
        const [p, q] = [s.direction(a, this.table.at(k, a)!), s.direction(b, this.table.at(k, b)!)];
        return sampson(e, [...p, ...q]) * s.focals[b]! ** 2;
      });
      const plane = used.map((u) => u.plane);
      return gric(plane, 3 * sigma, 2, 8) < gric(squares, 3 * sigma, 3, 5);
    });
    return flat.length > far.length / 2;
  }

  /** Frames without a pose: between their neighbours, then by the points that they see. */
  private fill(): void {
    const s = this.structure;
    const known = s.poses.flatMap((p, t) => (p ? [t] : []));
    for (let t = 0; t < this.table.count; t++) {
      if (s.poses[t]) continue;
      const sights = s.sights(t).filter((p) => !this.out.has(p.track));
      if (sights.length < (s.turning ? 3 : 5)) continue;
      s.focals[t] = this.focalNear(known, t);
      const guess = this.between(known, t);
      const scale = (3 * this.sigma) / s.focals[t]!;
      let pose = refinePose(guess, sights, scale, s.turning);
      const off = median(sights.map((p) => Math.sqrt(offOf(pose, p))));
      if (!s.turning && off > 3 * scale) {
        const again = resect(sights, 3 * scale, t + 1);
        if (again) pose = again.pose;
        if (median(sights.map((p) => Math.sqrt(offOf(pose, p)))) > 6 * scale) continue;
      }
      s.poses[t] = pose;
    }
  }

  private focalNear(known: readonly number[], t: number): number {
    const near = known.reduce((a, b) => (Math.abs(b - t) < Math.abs(a - t) ? b : a));
    return this.structure.focals[near]!;
  }

  /** The pose between the posed frames on both sides; beyond the ends as the last two went on. */
  private between(known: readonly number[], t: number): Pose {
    const { poses } = this.structure;
    const before = known.filter((k) => k < t).pop();
    const after = known.find((k) => k > t);
    if (before !== undefined && after !== undefined) return poseBetween(poses[before]!, poses[after]!, (t - before) / (after - before));
    const [a, b] = after === undefined ? known.slice(-2) : [known[1]!, known[0]!];
    if (a === undefined || b === undefined) return poses[(before ?? after)!]!;
    const speed = Math.min(3, Math.abs(t - b) / Math.abs(b - a));
    return poseBetween(poses[a]!, poses[b]!, 1 + speed);
  }

  private placeAll(): void {
    const s = this.structure;
    if (!s.turning) return s.place(this.table.tracks.keys());
    this.table.tracks.forEach((_, k) => {
      if (s.points[k]) return;
      const t = this.table.framesOf(k).find((f) => s.poses[f]);
      if (t === undefined) return;
      const [x, y] = s.direction(t, this.table.at(k, t)!);
      s.points[k] = rayOf({ pose: s.poses[t]!, x, y });
    });
  }

  private settings(rounds: number): BundleSettings {
    const scale = this.scale;
    return {
      focal: this.focal,
      bend: this.input.bend,
      turning: this.structure.turning,
      scale,
      rounds,
      still: this.focal === 'each' ? 1e-7 : 1e-5,
    };
  }

  private *adjust(title: string, share: number, rounds: number): Generator<SolveStage, void> {
    const s = this.structure;
    const given = s.scene((k) => !this.out.has(k));
    const bundle = new Bundle(given.scene, given.seen, this.settings(rounds));
    let round = 0;
    for (const _ of bundle.improve()) {
      if (++round % 3 === 0) {
        s.take(given);
        yield { title, share: share + (0.15 * round) / rounds, so: this.assessed(false) };
      }
    }
    s.take(given);
    if (this.focal !== 'each') s.focals.fill(given.scene.focals[0]!);
  }

  /** Leaves out tracks that do not go with the rest, and takes back those that do after all. */
  private sort(): void {
    const s = this.structure;
    if (!s.turning)
      s.place(
        [...this.table.tracks.keys()].filter((k) => !s.points[k] || this.out.has(k)),
        true,
      );
    else this.placeAll();
    const errors = this.table.tracks.map((_, k) => this.errorsOf(k));
    const all = errors.flatMap((list, k) => (this.out.has(k) ? [] : list.map((e) => e.off)));
    const limit = Math.max(1.5 * this.sigma, 4 * 1.4826 * median(all));
    this.scale = Math.min(2 * this.sigma, Math.max(0.2 * this.sigma, LOSS * median(all)));
    s.skipped.clear();
    errors.forEach((list, k) => {
      const bad = list.filter((e) => e.off > limit);
      if (list.length && bad.length > BAD_SHARE * list.length) this.out.add(k);
      else if (list.length) {
        this.out.delete(k);
        for (const e of bad) s.skipped.add(s.key(k, e.frame));
      }
    });
  }

  /** Distances of a track from where its point is seen, px. */
  private errorsOf(k: number): { frame: number; off: number }[] {
    const s = this.structure;
    const at = s.points[k];
    if (!at) return [];
    return this.table.framesOf(k).flatMap((frame) => {
      const pose = s.poses[frame];
      if (!pose) return [];
      const [x, y] = s.direction(frame, this.table.at(k, frame)!);
      return [{ frame, off: Math.sqrt(offOf(pose, { at, x, y })) * s.focals[frame]! }];
    });
  }

  /** Whether the focal length changes: it may be found frame by frame where that explains more. */
  private *zoomed(): Generator<SolveStage, void> {
    if (this.input.focal !== 'found') return;
    const s = this.structure;
    // A part of the tracks tells it.
    const step = Math.max(1, Math.floor(this.table.tracks.length / 100));
    const use = (k: number): boolean => !this.out.has(k) && k % step === 0;
    const given = s.scene(use);
    const one = new Bundle(given.scene, given.seen, this.settings(0)).cost();
    const each = s.scene(use);
    const bundle = new Bundle(each.scene, each.seen, { ...this.settings(10), focal: 'each' });
    yield { title: 'Whether it zooms', share: 0.75 };
    const cost = bundle.run();
    const change = Math.max(...each.scene.focals) / Math.min(...each.scene.focals) - 1;
    if (cost > ZOOMS.gain * one || change < ZOOMS.by) return;
    this.focal = 'each';
    each.frames.forEach((t, i) => (s.focals[t] = each.scene.focals[i]!));
  }

  /** Frames that no points hold: laid between their neighbours, drawn to what little they see. */
  private bridge(): void {
    const s = this.structure;
    const known = s.poses.flatMap((p, t) => (p ? [t] : []));
    for (let t = 0; t < this.table.count; t++) {
      if (s.poses[t]) continue;
      s.focals[t] = this.focalNear(known, t);
      this.bridged.add(t);
    }
    const made = [...this.bridged].map((t): readonly [number, Pose] => {
      const guess = this.between(known, t);
      const sights = s.sights(t).filter((p) => !this.out.has(p.track));
      return [t, sights.length ? refinePose(guess, [...sights, ...anchors(guess)], (3 * this.sigma) / s.focals[t]!, s.turning) : guess];
    });
    for (const [t, pose] of made) s.poses[t] = pose;
  }
  private readonly bridged = new Set<number>();

  private assessed(whole: boolean): Assessed {
    return assess(this.structure, {
      kind: this.kind,
      zooms: this.focal === 'each',
      out: this.out,
      bridged: this.bridged,
      first: this.input.range.first,
      format: this.input.format,
      settings: whole ? this.settings(0) : null,
    });
  }
}

/** Points around a view that hold a pose near where it is, weakly. */
const anchors = (pose: Pose): { at: readonly [number, number, number]; x: number; y: number; weight: number }[] =>
  [-0.3, 0.3].flatMap((x) =>
    [-0.2, 0.2].flatMap((y) =>
      [5, 20].map((z) => {
        const back: Pose = { turn: transpose3(pose.turn), shift: [0, 0, 0] };
        const own: Pose = { turn: [1, 0, 0, 0, 1, 0, 0, 0, 1], shift: [x * z - pose.shift[0], y * z - pose.shift[1], z - pose.shift[2]] };
        return { at: afterPose(back, own).shift, x, y, weight: 0.02 };
      }),
    ),
  );
