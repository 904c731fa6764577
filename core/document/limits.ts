/** What a document may hold. Whoever writes one and whoever reads one keep to the same. */
export const LIMITS = {
  /** Letters of a name that a person gives. */
  name: 200,
  /** Letters of a file's or a channel's name. */
  fileName: 1024,
  /** Pixels of a side of a picture. */
  side: 32768,
  pixelAspect: { min: 0.01, max: 100 },
  /** Frame numbers go from minus to plus this. */
  frame: 1_000_000,
  /** Frames of a shot's range: more than an hour. */
  range: 100_000,
  /** Frames a second. */
  rate: 1000,
  /** Sources, lanes, readings, notes, and steps of a lane. */
  things: 20_000,
  /** Frames of a source and of a reading: more than two hours. */
  frames: 200_000,
  /** Bytes of a document as JSON. */
  document: 64 * 2 ** 20,
} as const;

/** A name cut to the length that is allowed. */
export const fitName = (name: string, most: number = LIMITS.name): string => {
  const cut = name.slice(0, most);
  // Half of a pair of surrogates is no letter.
  return /[\uD800-\uDBFF]$/.test(cut) ? cut.slice(0, -1) : cut;
};
