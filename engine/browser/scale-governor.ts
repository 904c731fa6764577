/** The scales a picture can be worked out at, finest first. */
export const SCALES = [1, 0.5, 0.25] as const;
export type Scale = (typeof SCALES)[number];

/** A picture that comes within this many milliseconds keeps up with the hand. */
const KEEPS_UP = 45;

/**
 * Picks the scale at which pictures keep up while a control is dragged, from what the last ones cost. Cost is taken to go with
 * the number of pixels; each measured picture moves the estimate half of the way.
 */
export class ScaleGovernor {
  /** Milliseconds of a full-size picture. */
  private full: number | null = null;

  report(scale: Scale, milliseconds: number): void {
    const cost = milliseconds / scale ** 2;
    this.full = this.full === null ? cost : (this.full + cost) / 2;
  }

  /** The finest scale not above `finest` that keeps up; without any measurement, half of it. */
  pick(finest: Scale): Scale {
    const allowed = SCALES.filter((s) => s <= finest);
    if (this.full === null) return allowed[1] ?? allowed[0]!;
    return allowed.find((s) => this.full! * s ** 2 <= KEEPS_UP) ?? allowed[allowed.length - 1]!;
  }
}
