/** Places in a world: x, y, z each in its units, and their light, R, G, B, scene-linear and straight. */
export interface Cloud {
  readonly places: Float32Array;
  readonly colours: Float32Array;
}
