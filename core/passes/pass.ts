/** What the channels of a layer mean, by the names that renderers commonly give them. */
export type LayerKind = 'colour' | 'light' | 'depth' | 'normal' | 'position' | 'motion' | 'uv' | 'id' | 'matte';

/** Something of a pass set that is looked at as one picture. */
export interface Pass {
  /** As it is shown and chosen: a layer's name, or that of a lone channel of the main layer; '' is the main picture. */
  name: string;
  kind: LayerKind;
  channels: readonly string[];
}

/** What a pass of a render is for. */
export const PASS_ROLES = {
  beauty: 'Beauty',
  diffuse: 'Diffuse',
  specular: 'Specular',
  reflection: 'Reflection',
  refraction: 'Refraction',
  transmission: 'Transmission',
  subsurface: 'Subsurface',
  emission: 'Emission',
  coat: 'Coat',
  sheen: 'Sheen',
  volume: 'Volume',
  part: 'Another part of the beauty',
  raw: 'Raw light, to be multiplied by its filter',
  filter: 'Filter of raw light',
  light: 'Light group',
  albedo: 'Albedo',
  occlusion: 'Occlusion',
  depth: 'Depth',
  position: 'Position',
  normal: 'Normal',
  motion: 'Motion',
  uv: 'Texture coordinates',
  id: 'ID',
  cryptomatte: 'Cryptomatte',
  other: 'Other',
} as const;
export type PassRole = keyof typeof PASS_ROLES;

/** How the numbers of a data pass are meant. What is left out is as the first choice of each says. */
export interface PassFacts {
  /** Depth: along the view, or along each pixel's ray. */
  along?: 'view' | 'ray';
  /** Depth: distance, 1/distance, or 0 far to 1 near. */
  as?: 'distance' | 'inverse' | 'nearness';
  /** Depth: what 0 and 1 of a nearness are, far and near, in the scene's units. */
  from?: readonly [number, number];
  /** Depth: this value and, of a distance, greater ones mean that nothing is there; so do infinity and what is not above 0. */
  nothing?: number;
  /** Position and normal. */
  space?: 'world' | 'camera';
  /** Position, normal, motion: axes whose sign is turned, such as `y` or `xz`. */
  turned?: string;
  /** Normal: 0..1 stands for −1..1. */
  packed?: boolean;
  /** Raw light: the pass that it is to be multiplied by. */
  times?: string;
  /** Motion: pixels, shares of the frame, or of half of it. */
  unit?: 'px' | 'frame' | 'half';
  /** Motion: along the movement, or back to where it came from. */
  towards?: 'next' | 'previous';
}

/** What is known of a pass, as a source keeps it. */
export interface PassNote {
  role: PassRole;
  facts?: PassFacts;
  /** Why that was taken, while it is a guess; gone once somebody has chosen. */
  reason?: string;
  /** What could not be told from the data and was assumed. */
  doubt?: string;
}

/** A pass of a picture with its role. */
export interface RoledPass extends Pass, PassNote {}
