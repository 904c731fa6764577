/** A point of a lane: at its end, after the named step, or, with `after: ''`, at its start. */
export interface Tap {
  lane: string;
  after?: string;
}
