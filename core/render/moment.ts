import type { Plane } from '@/kernels';
import type { Rect } from '../geometry/rect';
import type { Vec3 } from '../geometry/vec3';
import type { Affine3 } from './affine';
import type { Environment } from './environment';
import type { Drawn, View } from './screen';
import type { Light, MirrorPicture } from './shader';

export type FourPlanes = readonly [Plane, Plane, Plane, Plane];

/** A flat card: a picture, premultiplied, over a region. */
export interface FlatCard {
  readonly region: Rect;
  /** What it shows on a part of the region, put into planes that cover `cover`, or laid over what is in them. */
  lay(part: Rect, planes: FourPlanes, cover: Rect, lays: 'put' | 'over'): void;
  /** Nearness as a plane over the picture: a·x + b·y + c. */
  readonly near: readonly [number, number, number];
  /** Unit, world. */
  readonly normal: Vec3;
  readonly id: number;
  readonly holdout: boolean;
  readonly toNext?: Affine3;
}

/** What is drawn at one moment. */
export interface Moment {
  readonly view: View;
  /** Of the frame after it, for motion. */
  readonly next?: View;
  readonly drawn: readonly Drawn[];
  readonly cards: readonly FlatCard[];
  readonly lights: readonly Light[];
  readonly environment: Environment | null;
  readonly mirrors: ReadonlyMap<Drawn, MirrorPicture>;
  /** Only what lies on its outer side is drawn: normal and distance. */
  readonly clip?: readonly [number, number, number, number];
  /** Over the region: what is there already and hides what lies behind it, by nearness and coverage. */
  readonly held?: { readonly near: Plane; readonly alpha: Plane };
  /** Distance before a hold-out over which what is seen fades away; 0 cuts it. */
  readonly soft?: number;
}

/** Planes over the region that are filled: R, G, B, A, and what else is there. */
export interface SceneOut {
  readonly r: Plane;
  readonly g: Plane;
  readonly b: Plane;
  readonly a: Plane;
  /** Distance along the view; Infinity where nothing is. */
  readonly depth?: Float32Array;
  readonly position?: readonly Float32Array[];
  readonly normal?: readonly Float32Array[];
  /** Pixels from this frame to the next, x to the right, y down. */
  readonly motion?: readonly Float32Array[];
  readonly id?: Float32Array;
  readonly shadow?: Float32Array;
  readonly mirror?: readonly Float32Array[];
}
