import type { Kernels } from '@/kernels';
import type { Vec3 } from '../../geometry/vec3';
import { scale3, unit3 } from '../../geometry/vec3';
import type { Affine3 } from '../../render/affine';
import { IDENTITY_A3, inverseA3, multiplyA3, placedA3, pointA3, quaternionOfDegrees, vectorA3 } from '../../render/affine';
import { Environment } from '../../render/environment';
import { cutOut } from '../../render/cut-out';
import type { Material } from '../../render/mesh';
import { PLAIN } from '../../render/mesh';
import type { Model } from '../../render/model';
import { nodesAt } from '../../render/model';
import type { Drawn, Projected, View } from '../../render/screen';
import { NEAR } from '../../render/screen';
import type { Light } from '../../render/shader';
import type { Shadow } from '../../render/shadow';
import { ShadowCube, ShadowMap } from '../../render/shadow';
import type { Lift } from '../../render/shapes';
import { ballMesh, boxMesh, cardMesh } from '../../render/shapes';
import type { Mesh } from '../../render/mesh';
import type { Texture } from '../../render/texture';
import type { Veil } from '../../render/veil';
import { VeiledShadow, veilOf } from '../../render/veil';
import type { Cloud } from '../../render/cloud';
import { dotsMesh } from './dots';
import type { Thing } from './params';
import type { Anchors } from './place';
import { placeOf, worldOf } from './place';

/** What a scene is made of besides its things. */
export interface Surroundings {
  readonly kernels: Kernels;
  readonly anchors: Anchors | null;
  /** The camera at a time in frames; null where there is none. */
  viewAt(time: number): View | null;
  readonly frameRate: number;
  /** The size of the picture that projections are thrown with, px. */
  readonly width: number;
  readonly height: number;
  model(thing: string): Model | undefined;
  /** What a thing shows, for surfaces and for light from all around. */
  texture(thing: string, around: boolean): Texture | null;
  /** Width over height of what it shows; null where nothing is connected. */
  aspect(thing: string): number | null;
  lift(thing: string): Texture | null;
  /** The places of a thing of points. */
  cloud(thing: Thing): Cloud | null;
  /** Texels along a shadow map. */
  readonly shadowSize: number;
  /** Maps of shadows that were drawn for the same things: what stands still is drawn once for all moments of a shutter. */
  readonly shadows: Map<string, Shadow | null>;
}

/** A card that a plane's map places: flat, unlit, before the camera as a whole. */
export interface CardPlace {
  readonly thing: Thing;
  readonly id: number;
  /** From shares of the picture to the world. */
  readonly matrix: Affine3;
  readonly toNext?: Affine3;
}

export interface Built {
  readonly drawn: Drawn[];
  readonly cards: CardPlace[];
  readonly lights: Light[];
  readonly environment: Environment | null;
  /** Things whose mirror is to be drawn, with the plane that they lie on: normal and distance. */
  readonly mirrors: { readonly drawn: Drawn; readonly plane: readonly [number, number, number, number]; readonly blur: number }[];
}

/** With what only lamps ask for. */
type Building = Built & { environment: Environment | null; veils: Veil[] };

/** Made when they are first drawn: every worker that knows of steps loads this. */
const balls: (Mesh | undefined)[] = [];
const ball = (inward: boolean): Mesh => (balls[+inward] ??= ballMesh(inward));
const box = boxMesh();
const flat = cardMesh(1, 1, 1, 1);

/** Stands in until a light is added. */
const STAND_IN: Light = {
  kind: 'sun',
  colour: [0.6, 0.6, 0.6],
  towards: unit3([-0.4, 0.8, 0.5]),
  at: [0, 0, 0],
  aim: [0, 0, 0],
  outer: 0,
  inner: 0,
  shadow: null,
};

/** Everything of a scene at a time, as it is drawn through `view`. `after` are the things a frame later, for motion. */
export function build(things: readonly Thing[], time: number, view: View, by: Surroundings, after?: readonly Thing[]): Built {
  const built: Building = { drawn: [], cards: [], lights: [], environment: null, mirrors: [], veils: [] };
  const next = after && by.viewAt(time + 1);
  const thrown: { drawn: Drawn; thing: Thing }[] = [];
  // Without a lamp that throws shadows nobody asks for outlines.
  const throws = things.some((t) => t.on && t.what === 'light' && t.light !== 'around' && t.shadows);
  things.forEach((thing, index) => {
    if (!thing.on) return;
    const id = index + 1;
    const place = placeOf(thing, things, by.anchors, view);
    const later = after?.[index] && placeOf(after[index], after, by.anchors, next ?? view);
    const common = {
      id,
      casts: thing.casts && thing.opacity > 0,
      holdout: thing.holds,
      opacity: thing.opacity,
      ...(later && moved(place, later)),
    };
    const add = (d: Drawn): void => {
      built.drawn.push(d);
      if (thing.shows === 'thrown' && thing.what !== 'catcher') thrown.push({ drawn: d, thing });
    };
    switch (thing.what) {
      case 'card':
        return card(thing, place, view, by, built, ({ veil, ...d }) => add({ ...d, ...common, ...(veil && { casts: false }) }), {
          ...common,
          throws,
        });
      case 'ball':
      case 'box': {
        const mesh = thing.what === 'box' ? box : ball(thing.inside);
        return add({ ...common, mesh, material: surface(thing, by), matrix: place });
      }
      case 'model': {
        const model = by.model(thing.id);
        if (!model) return;
        const seconds = (t: number): number => (thing.plays ? t / by.frameRate : 0);
        const nodes = nodesAt(model, seconds(time - 1));
        const then = later && model.seconds > 0 ? nodesAt(model, seconds(time)) : null;
        model.nodes.forEach((node, k) => {
          const matrix = multiplyA3(place, nodes[k]!);
          for (const { mesh, material } of node.pieces)
            add({
              ...common,
              mesh,
              material: tinted(material, thing),
              matrix,
              ...(later && then && moved(matrix, multiplyA3(later, then[k]!))),
            });
        });
        return;
      }
      case 'points': {
        const cloud = by.cloud(thing);
        if (!cloud) return;
        const material: Material = { ...PLAIN, base: [...thing.tint, 1], unlit: true, alpha: thing.opacity < 1 ? 'blend' : 'opaque' };
        return add({ ...common, casts: false, mesh: dotsMesh(cloud, place, view, thing.dot), material, matrix: IDENTITY_A3 });
      }
      case 'light':
        if (thing.light === 'around') {
          built.environment = surroundingsOf(by.texture(thing.id, true), thing.round, scale3(thing.tint, thing.strength));
        }
        return;
      case 'catcher': {
        const matrix = multiplyA3(place, placedA3([0, 0, 0], quaternionOfDegrees([-90, 0, 0]), [thing.wide, thing.wide, 1]));
        const drawn: Drawn = {
          mesh: flat,
          material: { ...PLAIN, base: [0, 0, 0, 1], alpha: 'blend', doubleSided: true },
          matrix,
          id,
          catcher: { shadow: thing.dark, shadowColour: [0, 0, 0], mirror: thing.mirrors },
        };
        built.drawn.push(drawn);
        if (thing.mirrors > 0) {
          const n = unit3(vectorA3(place, [0, 1, 0]));
          const c = pointA3(place, [0, 0, 0]);
          built.mirrors.push({ drawn, plane: [...n, n[0] * c[0] + n[1] * c[1] + n[2] * c[2]], blur: thing.blur });
        }
        return;
      }
    }
  });
  lights(things, view, by, built);
  throwPictures(thrown, built, by);
  return built;
}

const moved = (now: Affine3, later: Affine3): { toNext?: Affine3 } => {
  const back = inverseA3(now);
  return back ? { toNext: multiplyA3(later, back) } : {};
};

function surface(thing: Thing, by: Surroundings): Material {
  const picture = by.texture(thing.id, thing.what === 'ball');
  const shown = picture ?? undefined;
  return {
    ...PLAIN,
    name: thing.name,
    base: [...thing.tint, 1],
    rough: thing.rough,
    metal: thing.metal,
    unlit: !thing.lit,
    doubleSided: thing.what === 'card',
    alpha: picture || thing.opacity < 1 ? 'blend' : 'opaque',
    ...(shown && thing.shows === 'laid' && { baseMap: shown }),
  };
}

function tinted(m: Material, thing: Thing): Material {
  const [r, g, b] = thing.tint;
  const alpha = thing.shows === 'thrown' ? { alpha: 'blend' as const, unlit: true } : {};
  return { ...m, ...alpha, base: [m.base[0] * r, m.base[1] * g, m.base[2] * b, m.base[3]] };
}

/** From shares of a flat card's picture to the world. */
const pictureMatrix = (place: Affine3, aspect: number): Affine3 =>
  multiplyA3(place, [aspect, 0, 0, -aspect / 2, 0, -1, 0, 0.5, 0, 0, 1, 0]);

function card(
  thing: Thing,
  place: Affine3,
  view: View,
  by: Surroundings,
  built: Building,
  add: (d: Pick<Drawn, 'mesh' | 'material' | 'matrix' | 'caster' | 'shape'> & { veil?: boolean }) => void,
  { id, toNext, throws }: Pick<Drawn, 'id' | 'toNext'> & { throws: boolean },
): void {
  const aspect = by.aspect(thing.id) ?? by.width / by.height;
  const lift = thing.lift !== 0 ? by.lift(thing.id) : null;
  const plain = thing.bend === 0 && !lift && !thing.lit && thing.shows === 'laid' && !thing.casts && by.aspect(thing.id) !== null;
  const corners: Vec3[] = [
    [-aspect / 2, 0.5, 0],
    [aspect / 2, 0.5, 0],
    [aspect / 2, -0.5, 0],
    [-aspect / 2, -0.5, 0],
  ];
  const ahead = ({ matrix: m }: View, p: Vec3): number => m[8]! * p[0] + m[9]! * p[1] + m[10]! * p[2] + m[11]!;
  if (plain && corners.every((c) => ahead(view, pointA3(place, c)) > 10 * NEAR)) {
    built.cards.push({
      thing,
      id,
      matrix: pictureMatrix(place, aspect),
      ...(toNext && { toNext }),
    });
    return;
  }
  const cells = thing.bend !== 0 || lift ? thing.cells : 1;
  const [columns, rows] = aspect >= 1 ? [cells, Math.ceil(cells / aspect)] : [Math.ceil(cells * aspect), cells];
  const texel = new Float64Array(4);
  const up = lift
    ? (u: number, v: number): number => {
        lift.sample(u, v, 1 / columns, 0, 0, 1 / rows, texel);
        return thing.lift * texel[0]!;
      }
    : undefined;
  const material = surface(thing, by);
  const picture = material.baseMap;
  // A flat card throws its picture as it covers; a bent one the outline of that, not its own.
  const flat = cells === 1;
  const veil =
    throws && thing.casts && thing.opacity > 0 && picture && flat ? veilOf(pictureMatrix(place, aspect), picture, thing.opacity) : null;
  if (veil) built.veils.push(veil);
  add({
    mesh: columns * rows === 1 ? cardMesh(aspect, 1, 1, 1) : cardMesh(aspect, 1, columns, rows, thing.bend, up),
    material,
    matrix: place,
    shape: `${thing.bend} ${thing.lift}`,
    ...(veil ? { veil: true } : throws && thing.casts && picture && outlineOf(picture, thing, aspect, up)),
  });
}

/** By picture: the same for all moments and lights. */
const outlines = new WeakMap<Texture, { key: string; made: Pick<Drawn, 'caster'> }>();
function outlineOf(picture: Texture, { bend }: Thing, aspect: number, up: Lift | undefined): Pick<Drawn, 'caster'> {
  const key = `${bend} ${aspect}`;
  const had = up ? undefined : outlines.get(picture);
  if (had?.key === key) return had.made;
  const caster = cutOut(picture, aspect, bend, up);
  const made = caster === undefined ? {} : { caster };
  if (!up) outlines.set(picture, { key, made });
  return made;
}

function lights(things: readonly Thing[], view: View, by: Surroundings, built: Building): void {
  const lit = things.filter((t) => t.on && t.what === 'light');
  for (const t of lit) {
    if (t.light === 'around') continue;
    const colour = scale3(t.tint, t.strength);
    const at = worldOf(t, t.at, things, by.anchors, view);
    const aim = worldOf(t, t.aim, things, by.anchors, view);
    const towards = unit3([at[0] - aim[0], at[1] - aim[1], at[2] - aim[2]]);
    const away = scale3(towards, -1);
    const half = (t.cone / 2) * (Math.PI / 180);
    const casting = (): string => placesOf(built.drawn.filter((d) => d.casts));
    const radius = t.blurs / 2;
    const make: Record<typeof t.light & ('sun' | 'point' | 'spot'), () => Shadow | null> = {
      sun: () => ShadowMap.ofSun(by.kernels, built.drawn, towards, by.shadowSize, radius),
      point: () => ShadowCube.of(by.kernels, built.drawn, at, by.shadowSize, radius),
      spot: () => ShadowMap.ofSpot(by.kernels, built.drawn, at, away, t.cone, by.shadowSize, radius),
    };
    const shadow = t.shadows
      ? once(by.shadows, `${t.light} ${JSON.stringify([at, towards, t.blurs, t.cone])} ${casting()}`, make[t.light])
      : null;
    const source = t.light === 'sun' ? { towards, radius: Math.tan((radius * Math.PI) / 180) } : { at, radius };
    const veiled = t.shadows && built.veils.length > 0 ? new VeiledShadow(shadow, built.veils, source) : shadow;
    built.lights.push({
      kind: t.light,
      colour,
      towards,
      at,
      aim: away,
      outer: Math.cos(half),
      inner: Math.cos(half * 0.85),
      shadow: veiled,
    });
  }
  if (lit.length > 0) return;
  built.lights.push(STAND_IN);
  built.environment = new Environment(null, 0, [0.5, 0.5, 0.5]);
}

function once<T>(known: Map<string, T>, key: string, make: () => T): T {
  const had = known.get(key);
  if (had !== undefined) return had;
  const made = make();
  known.set(key, made);
  return made;
}

/** Stands for what is drawn and where. */
const placesOf = (drawn: readonly Drawn[]): string =>
  drawn.map((d) => `${d.id} ${(d.caster ?? d.mesh).indices.length} ${d.shape ?? ''} ${d.matrix.join(' ')}`).join('|');

/** By picture, the last one: blurring it for roughness takes longer than a look at the scene. */
const around = new WeakMap<Texture, { key: string; made: Environment }>();
function surroundingsOf(picture: Texture | null, turn: number, gain: Vec3): Environment {
  if (!picture) return new Environment(null, turn, gain);
  const key = JSON.stringify([turn, gain]);
  const had = around.get(picture);
  if (had?.key === key) return had.made;
  const made = new Environment(picture, turn, gain);
  around.set(picture, { key, made });
  return made;
}

/** Pictures thrown from where the camera stood, held back by what stands in the way there. */
function throwPictures(list: readonly { drawn: Drawn; thing: Thing }[], built: Built, by: Surroundings): void {
  const size = by.shadowSize;
  const solid = built.drawn.filter((d) => !d.catcher);
  const places = list.length > 0 ? placesOf(solid) : '';
  for (const { drawn, thing } of list) {
    const view = by.viewAt(thing.from);
    const texture = by.texture(thing.id, false);
    if (!view || !texture) continue;
    const k = size / Math.max(by.width, by.height);
    const from = { matrix: view.matrix, focal: view.focal * k, centre: [view.centre[0] * k, view.centre[1] * k] as const };
    const map = once(by.shadows, `from ${thing.from} ${places}`, () => ShadowMap.seen(by.kernels, solid, from, size, 0)) as ShadowMap;
    const projection: Projected = { view, texture, width: by.width, height: by.height, seen: (...a) => map.seen(...a) };
    built.drawn[built.drawn.indexOf(drawn)] = { ...drawn, projection };
  }
}
