import type { Tap } from '../document/tap';
import type { Placing } from './align';
import { UNPLACED } from './align';
import type { Assessed, CameraFrame } from './assess';

/** A feature that was found and followed: its first frame, and x, y on that one and each after it, px. */
export interface FoundTrack {
  readonly id: string;
  readonly first: number;
  readonly at: readonly number[];
}

export interface FindSettings {
  /** Tracks on a frame at once. */
  readonly count: number;
  /** Frames that a track lasts at least. */
  readonly least: number;
  /** Pixels along the picture's edges that are kept clear. */
  readonly margin: number;
}

export const FIND_SETTINGS: FindSettings = { count: 200, least: 8, margin: 8 };

export const FOCAL_WAYS = ['found', 'each', 'known', 'lens'] as const;
export type FocalWay = (typeof FOCAL_WAYS)[number];

export interface CameraSettings extends FindSettings {
  /** The focal length: one that is found, one a frame, one that is known in mm, or that of the lens reading. */
  readonly focal: FocalWay;
  /** Of the lens and the sensor's width, mm. */
  readonly mm: number;
  readonly sensor: number;
  /** Whether the lens's bend is found too (k1 and k2); for pictures that are not straightened. */
  readonly bend: boolean;
  /** A lens reading by which tracks are straightened before they are used; '' where the picture is straight. */
  readonly lens: string;
  /** What a track by hand counts against a found one. */
  readonly handWeight: number;
}

export const CAMERA_SETTINGS: CameraSettings = {
  ...FIND_SETTINGS,
  focal: 'found',
  mm: 0,
  sensor: 0,
  bend: false,
  lens: '',
  handWeight: 4,
};

export const MARKS = ['dot', 'cross', 'square', 'diamond'] as const;
export type Mark = (typeof MARKS)[number];

/** Points under a name. */
export interface PointGroup {
  readonly id: string;
  readonly name: string;
  /** #rrggbb */
  readonly colour: string;
  readonly mark: Mark;
  readonly tracks: readonly string[];
}

/** A checker card that shows whether the camera holds. */
export interface TestCard {
  readonly id: string;
  /** The track whose point it stands at; '' for the origin. */
  readonly track: string;
  /** Towards the camera of the reference frame, upright facing it, or flat on the ground. */
  readonly lies: 'facing' | 'ground';
  /** Its side, in units of the world. */
  readonly size: number;
}

/** What was solved; its frames are the reading's own. */
export type SolvedCamera = Omit<Assessed, 'frames'> & {
  readonly format: { readonly width: number; readonly height: number };
  /** What a prune was expected to leave, px. */
  readonly expected?: number;
};

/** What a camera reading holds besides what all readings do. */
export interface CameraParts {
  readonly settings: CameraSettings;
  /** Mattes of what is left out. */
  readonly exclude: readonly (Tap & { readonly invert: boolean })[];
  /** Point readings that are used too. */
  readonly hand: readonly string[];
  readonly tracks: readonly FoundTrack[];
  readonly frames: readonly CameraFrame[];
  readonly solved: SolvedCamera | null;
  /** From the solver's world to the one that is used. */
  readonly placing: Placing;
  readonly groups: readonly PointGroup[];
  readonly cards: readonly TestCard[];
}

export const NEW_CAMERA: CameraParts = {
  settings: CAMERA_SETTINGS,
  exclude: [],
  hand: [],
  tracks: [],
  frames: [],
  solved: null,
  placing: UNPLACED,
  groups: [],
  cards: [],
};
