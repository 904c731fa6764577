import type { Plane } from '@/kernels';
import { copyInto, copyOver } from '../../filters/copy';
import type { Four } from '../../filters/sample';
import type { Homography } from '../../geometry/homography';
import type { Rect } from '../../geometry/rect';
import { EMPTY, area, grow, intersect, isEmpty, rect, union, width } from '../../geometry/rect';
import type { Vec3 } from '../../geometry/vec3';
import { dot3, unit3 } from '../../geometry/vec3';
import { MERGED } from '../../passes/merge';
import { readSurface, surfacePasses } from '../../passes/positions';
import { partKey } from '../../params/parts';
import { RGBA } from '../../picture';
import type { Affine3 } from '../../render/affine';
import { inverseA3, multiplyA3, pointA3, vectorA3 } from '../../render/affine';
import type { FlatCard, Moment, SceneOut } from '../../render/moment';
import { renderMoment } from '../../render/render';
import type { Drawn, View } from '../../render/screen';
import type { MirrorPicture } from '../../render/shader';
import { seenBox } from '../../render/seen-box';
import type { Texture } from '../../render/texture';
import type { Built, CardPlace, Surroundings } from '../../space/things/build';
import { build } from '../../space/things/build';
import { viewOfPasses, viewSet } from '../../space/things/place';
import { cloudOnce, pictureCloud } from '../../space/things/dots';
import { textureOf } from '../../space/things/pictures';
import type { RenderContext } from '../../step';
import { shutterTimes } from '../place/placing';
import { CardPictures } from './card-pictures';
import { blurMirror, partBehind } from './mirror-blur';
import type { SceneParams } from './scene-params';
import { data, pictureFrame, reads, timesOf } from './scene-params';

/** Sigmas of a mirror's blur beyond which nothing of it is left. */
const BLUR_REACH = 4;

/** The pixels of a scene: its moments and places on the lens, summed and laid over the lane. */
export class SceneRender {
  private readonly n: number;
  private readonly surface: ReturnType<typeof readSurface> | null = null;
  private readonly textures = new Map<string, Texture | null>();
  private readonly shadows: Surroundings['shadows'] = new Map();
  private readonly pictures: CardPictures;

  constructor(
    private readonly ctx: RenderContext<SceneParams>,
    private readonly p: SceneParams,
    private readonly region: Rect,
    private readonly planes: Record<string, Plane>,
  ) {
    this.n = area(region);
    this.pictures = new CardPictures(ctx, p.filter);
    const main = ctx.inputs.main!;
    if (!reads(p) || isEmpty(main.bounds)) return;
    const tile = ctx.tile('main')!;
    const passes = surfacePasses(main, data);
    if (passes.position ?? passes.depth)
      this.surface = readSurface(passes, tile.planes, tile.region, main.format, data, (n) => ctx.scratch(n));
  }

  run(): void {
    try {
      this.render();
    } finally {
      this.pictures.give();
    }
  }

  private render(): void {
    const { ctx, p, planes } = this;
    const times = shutterTimes(ctx.frame, p);
    const lens = p.aperture > 0 ? p.lensSamples : 1;
    const looks = Math.max(times.length, lens);
    const plane = (): Plane => ctx.scratch(this.n);
    const [r, g, b, a] = RGBA.map((c) => planes[c] ?? plane()) as [Plane, Plane, Plane, Plane];
    const extra = this.layers();
    const shadow = planes['shadow.A'];
    const mirror = planes['reflection.A'] ? ['R', 'G', 'B', 'A'].map((c) => planes[`reflection.${c}`] ?? plane()) : undefined;
    const caught: Partial<SceneOut> = { ...(shadow && { shadow }), ...(mirror && { mirror }) };
    if (looks === 1) this.look(ctx.frame, 0, 0, { r, g, b, a, ...caught, ...extra });
    else {
      const sums: Plane[] = [r, g, b, a, ...(shadow ? [shadow] : []), ...(mirror ?? [])];
      sums.forEach((s) => void s.fill(0));
      const one = {
        r: plane(),
        g: plane(),
        b: plane(),
        a: plane(),
        ...(shadow && { shadow: plane() }),
        ...(mirror && { mirror: mirror.map(plane) }),
      };
      const ones = [one.r, one.g, one.b, one.a, ...(one.shadow ? [one.shadow] : []), ...(one.mirror ?? [])];
      for (let i = 0; i < looks; i++) {
        // Turned against each other, so that a place on the lens is not seen at one time alone.
        const time = times.length === 1 ? ctx.frame : times[Math.floor(((i + 0.5) / looks) * times.length)]!;
        const k = (i * 7) % looks;
        const radius = lens === 1 ? 0 : (p.aperture / 2) * Math.sqrt((k + 0.5) / looks);
        const angle = k * 2.399963229728653;
        this.look(time, radius * Math.cos(angle), radius * Math.sin(angle), one);
        sums.forEach((s, j) => ctx.kernels.fn.addScaled(s.byteOffset, ones[j]!.byteOffset, s.byteOffset, this.n, 1 / looks));
      }
      // Measured things are of the frame itself.
      if (Object.keys(extra).length > 0) this.look(ctx.frame, 0, 0, { ...one, ...extra });
    }
    this.finish(r, g, b, a, extra);
  }

  /** Planes of the layers that are wanted. */
  private layers(): Partial<SceneOut> {
    const { planes, ctx } = this;
    const three = (name: string, axes: readonly string[]): Plane[] | undefined =>
      axes.some((c) => planes[`${name}.${c}`]) ? axes.map((c) => planes[`${name}.${c}`] ?? ctx.scratch(this.n)) : undefined;
    const [position, normal, motion] = [three('P', ['X', 'Y', 'Z']), three('N', ['X', 'Y', 'Z']), three('motion', ['X', 'Y'])];
    const some = position ?? normal ?? motion ?? planes.Z ?? planes['objectId.Y'];
    if (!some) return {};
    return {
      // Depth also says where there is something.
      depth: planes.Z ?? ctx.scratch(this.n),
      ...(position && { position }),
      ...(normal && { normal }),
      ...(motion && { motion }),
      ...(planes['objectId.Y'] && { id: planes['objectId.Y'] }),
    };
  }

  private valuesAt(time: number): SceneParams {
    const { ctx, p } = this;
    if (time === ctx.frame) return p;
    const i = timesOf(p, ctx.frame).indexOf(time);
    return ctx.samples[i] ?? p;
  }

  private viewAt(time: number): View | null {
    const { p, ctx, surface } = this;
    if (p.seen === 'reading') return p.camera?.viewAt(time) ?? null;
    if (p.seen === 'passes') return surface?.placed ? viewOfPasses(surface.camera) : null;
    return viewSet(this.valuesAt(time), ctx.inputs.main!.format);
  }

  /** One look at one moment, from a place on the lens. */
  private look(time: number, lensX: number, lensY: number, out: SceneOut): void {
    const { ctx } = this;
    ctx.poll();
    const straight = this.viewAt(time);
    if (!straight) {
      [out.r, out.g, out.b, out.a].forEach((x) => void x.fill(0));
      out.depth?.fill(Infinity);
      return;
    }
    const view = lensX === 0 && lensY === 0 ? straight : beside(straight, lensX, lensY, this.p.focus);
    const p = this.valuesAt(time);
    const after = out.motion ? this.valuesAt(ctx.frame + 1).things : undefined;
    const built = build(p.things, time, view, this.surroundings(), after);
    const next = out.motion ? this.viewAt(time + 1) : null;
    const mirrors = this.mirrors(built, view);
    const cards = built.cards.flatMap((c) => this.place(c, view) ?? []);
    const held = this.p.behind ? this.held() : undefined;
    const moment: Moment = {
      view,
      ...(next && { next }),
      drawn: built.drawn,
      cards,
      lights: built.lights,
      environment: built.environment,
      mirrors,
      ...(held && { held }),
      soft: this.p.soft,
    };
    renderMoment(ctx.kernels, moment, this.region, out, () => ctx.poll());
  }

  /** Stands for the pixels of an input: the same on all frames of a still. */
  private pixelsKey(input: string): string {
    const entry = this.ctx.inputsKey.split(' ').find((k) => k.startsWith(`${input}@`));
    return entry?.slice(entry.indexOf(':') + 1) ?? '';
  }

  private surroundings(): Surroundings {
    const { ctx, p } = this;
    const { format } = ctx.inputs.main!;
    const fed = (
      thing: string,
      feed: string,
    ): { info: NonNullable<ReturnType<typeof ctx.info>>; tile: NonNullable<ReturnType<typeof ctx.tile>> } | null => {
      const input = partKey(thing, feed);
      const t = p.things.find((x) => x.id === thing)!;
      const frame = feed === 'picture' ? pictureFrame(t, ctx.frame) : ctx.frame;
      const [info, tile] = [ctx.info(input, frame), ctx.tile(input, frame)];
      return info && tile ? { info, tile } : null;
    };
    const texture = (thing: string, feed: string, around: boolean): Texture | null => {
      const key = `${thing} ${feed} ${around}`;
      let known = this.textures.get(key);
      if (known === undefined) {
        const picture = fed(thing, feed);
        this.textures.set(key, (known = picture && textureOf(picture, around, this.pixelsKey(partKey(thing, feed)))));
      }
      return known;
    };
    return {
      kernels: ctx.kernels,
      anchors: p.seen === 'reading' ? p.camera : null,
      viewAt: (t) => this.viewAt(t),
      frameRate: ctx.frameRate,
      width: format.width,
      height: format.height,
      model: (thing) => ctx.model(partKey(thing, 'model')),
      texture: (thing, around) => texture(thing, 'picture', around),
      aspect: (thing) => {
        const info = ctx.info(
          partKey(thing, 'picture'),
          pictureFrame(
            p.things.find((x) => x.id === thing)!,
            ctx.frame,
          ),
        );
        return info ? (info.format.width * info.format.pixelAspect) / info.format.height : null;
      },
      lift: (thing) => texture(thing, 'lift', false),
      cloud: (thing) => {
        if (thing.dots === 'camera') return p.seen === 'reading' ? (p.camera?.cloud(thing.group) ?? null) : null;
        const input = partKey(thing.id, 'render');
        const [info, tile] = [ctx.info(input, ctx.frame + thing.offset), ctx.tile(input, ctx.frame + thing.offset)];
        if (!info || !tile) return null;
        // Positions say by themselves where they are: one cloud for all cameras.
        const view = surfacePasses(info, data).position ? null : this.viewAt(ctx.frame);
        const key = JSON.stringify([this.pixelsKey(input), thing.most, view, format.width]);
        return cloudOnce(key, () => pictureCloud({ info, tile }, view, format.width, thing.most));
      },
      shadowSize: Number(p.shadowSize),
      shadows: this.shadows,
    };
  }

  /** A flat card's picture laid where it is seen, by the same look as a corner pin; null where nothing of it is. */
  private place({ thing, id, matrix, toNext }: CardPlace, view: View): FlatCard | null {
    const { ctx, region } = this;
    const input = partKey(thing.id, 'picture');
    const frame = pictureFrame(thing, ctx.frame);
    const info = ctx.info(input, frame)!;
    const sizes = this.pictures.of(input, frame, this.pixelsKey(input) || input);
    if (!sizes) return null;
    const m = multiplyA3(view.matrix, matrix);
    const { width: w, height: h } = info.format;
    const [fx, cx, cy] = [view.focal, view.centre[0], view.centre[1]];
    const row = (k: number): [number, number, number] => [m[4 * k]! / w, m[4 * k + 1]! / h, m[4 * k + 3]!];
    const [x, y, z] = [row(0), row(1), row(2)];
    const forth = [...x.map((v, i) => fx * v + cx * z[i]!), ...y.map((v, i) => fx * v + cy * z[i]!), ...z] as unknown as Homography;
    const seen = cornersBounds(forth, sizes.region, region);
    const back = inverse3(forth);
    if (isEmpty(seen) || !back) return null;
    const [tr, tg, tb] = thing.tint;
    const gain: Four = [tr * thing.opacity, tg * thing.opacity, tb * thing.opacity, thing.opacity];
    return {
      region: seen,
      lay: this.pictures.layer(sizes, back, gain),
      near: [back[6]!, back[7]!, back[8]!],
      normal: unit3(vectorA3(matrix, [0, 0, 1])),
      id,
      holdout: thing.holds,
      ...(toNext && { toNext }),
    };
  }

  /** What each catcher's mirror shows: the scene seen from below it, what lies under it left out. */
  private mirrors(built: Built, view: View): Map<Drawn, MirrorPicture> {
    const { ctx } = this;
    const made = new Map<Drawn, MirrorPicture>();
    for (const { drawn, plane, blur } of built.mirrors) {
      const [a, b, c, d] = plane;
      const n: Vec3 = [a, b, c];
      const flip: Affine3 = [0, 1, 2].flatMap((r) => [...[0, 1, 2].map((k) => (r === k ? 1 : 0) - 2 * n[r]! * n[k]!), 2 * d * n[r]!]);
      const others = built.drawn.filter((x) => !x.catcher && !x.holdout);
      const mirrored: View = { ...view, matrix: multiplyA3(view.matrix, flip) };
      // Flat cards are not cut by the plane: those that reach under it are left out.
      const above = built.cards.filter(({ thing, matrix: m }) => !thing.holds && CARD_CORNERS.every((p) => dot3(n, pointA3(m, p)) > d));
      if (others.length + above.length === 0) continue;
      const cards = above.flatMap((c) => this.place(c, mirrored) ?? []);
      // Nothing is in it but where things are, as far as they are blurred, and nobody sees it but on the catcher.
      const things = [...others.map((o) => seenBox(mirrored, o, this.region)), ...cards.map((k) => k.region)];
      const reach = blur > 0 ? Math.ceil(BLUR_REACH * blur) : 0;
      const shown = intersect(things.reduce(union, EMPTY), grow(seenBox(view, drawn, this.region), 2 * reach));
      if (isEmpty(shown)) continue;
      const region = intersect(grow(shown, reach), this.region);
      const count = area(region);
      const planes = [0, 1, 2, 3].map(() => ctx.scratch(count)) as [Plane, Plane, Plane, Plane];
      const moment: Moment = {
        view: mirrored,
        drawn: others,
        cards,
        lights: built.lights,
        environment: built.environment,
        mirrors: new Map(),
        clip: plane,
      };
      const depth = blur > 0 ? ctx.scratch(count) : null;
      renderMoment(ctx.kernels, moment, region, { r: planes[0], g: planes[1], b: planes[2], a: planes[3], ...(depth && { depth }) }, () =>
        ctx.poll(),
      );
      if (depth) {
        partBehind(depth, view, plane, region);
        blurMirror(ctx as never, planes, depth, region, blur);
      }
      made.set(drawn, { x0: region.x0, y0: region.y0, width: width(region), planes });
    }
    return made;
  }

  private heldPlanes: Moment['held'];
  /** Nearness and coverage of what the lane's picture shows. */
  private held(): Moment['held'] {
    const { ctx, region, surface } = this;
    if (this.heldPlanes || !surface) return this.heldPlanes;
    const main = ctx.tile('main')!;
    const near = ctx.scratch(surface.distance.length);
    for (let i = 0; i < near.length; i++) near[i] = surface.distance[i] === Infinity ? 0 : 1 / surface.distance[i]!;
    const over = (from: Plane): Plane => {
      const made = copyInto(ctx.kernels, from, main.region, region);
      const kept = ctx.scratch(this.n);
      kept.set(made);
      ctx.kernels.give(made);
      return kept;
    };
    return (this.heldPlanes = { near: over(near), alpha: over(main.planes.A!) });
  }

  /** Lays the scene over the lane, and its layers over the lane's own. */
  private finish(r: Plane, g: Plane, b: Plane, a: Plane, extra: Partial<SceneOut>): void {
    const { ctx, p, planes, region } = this;
    const main = ctx.tile('main');
    const under = (c: string): Plane | null => {
      const from = main?.planes[c];
      return from ? copyOver(ctx.kernels, from, main.region, region, (n) => ctx.scratch(n)) : null;
    };
    if (extra.depth) {
      extra.motion?.forEach((q) => ctx.kernels.fn.affine(q.byteOffset, q.byteOffset, q.length, 1 / ctx.scale, 0));
      const covered = p.over ? under('A') : null;
      for (const c of [...MERGED.flatMap((m) => m.channels), 'objectId.Y']) {
        const own = planes[c];
        const below = own && p.over ? under(c) : null;
        if (!own || !below || !covered) continue;
        // Of whichever is more of the pixel.
        for (let i = 0; i < own.length; i++) if (a[i]! < covered[i]! * (1 - a[i]!)) own[i] = below[i]!;
      }
    }
    if (!p.over) return;
    const alpha = ctx.scratch(this.n);
    alpha.set(a);
    [r, g, b, a].forEach((top, k) => {
      if (top !== planes[RGBA[k]!]) return;
      const below = under(RGBA[k]!);
      if (!below) return;
      ctx.kernels.fn.layUnder(top.byteOffset, alpha.byteOffset, below.byteOffset, this.n);
    });
  }
}

/** In shares of a card's picture. */
const CARD_CORNERS: readonly Vec3[] = [
  [0, 0, 0],
  [1, 0, 0],
  [1, 1, 0],
  [0, 1, 0],
];

/** A camera moved to the side, aimed so that what lies in focus stays. */
function beside(view: View, x: number, y: number, focus: number): View {
  const m = view.matrix.map((v, i) => (i === 3 ? v - x : i === 7 ? v - y : v));
  return { matrix: m, focal: view.focal, centre: [view.centre[0] + (view.focal * x) / focus, view.centre[1] + (view.focal * y) / focus] };
}

/** The pixels of a region that a rectangle's image may touch. */
function cornersBounds(h: Homography, { x0, y0, x1, y1 }: Rect, region: Rect): Rect {
  const places = [
    [x0, y0],
    [x1, y0],
    [x0, y1],
    [x1, y1],
  ].map(([x, y]) => {
    const w = h[6] * x! + h[7] * y! + h[8];
    return [(h[0] * x! + h[1] * y! + h[2]) / w, (h[3] * x! + h[4] * y! + h[5]) / w] as const;
  });
  const [xs, ys] = [places.map((q) => q[0]), places.map((q) => q[1])];
  const limit = (v: number): number => Math.min(1e6, Math.max(-1e6, v));
  return intersect(
    region,
    rect(
      limit(Math.floor(Math.min(...xs)) - 2),
      limit(Math.floor(Math.min(...ys)) - 2),
      limit(Math.ceil(Math.max(...xs)) + 2),
      limit(Math.ceil(Math.max(...ys)) + 2),
    ),
  );
}

function inverse3(h: Homography): Homography | null {
  const m = inverseA3([h[0], h[1], h[2], 0, h[3], h[4], h[5], 0, h[6], h[7], h[8], 0]);
  return m && ([m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10]] as unknown as Homography);
}
