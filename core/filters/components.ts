/** Connected pieces of a plane of flags. */
export interface Components {
  /** A number of its piece for each pixel, from 1; 0 where the flag is not set. */
  labels: Int32Array;
  /** Pixels of each piece; entry 0 is unused. */
  sizes: number[];
  /** The number of the largest piece; 0 where there is none. */
  largest: number;
}

/** Pieces of set pixels that touch by a side or a corner, by runs of rows and union–find (Rosenfeld & Pfaltz 1966). */
export function components(set: Uint8Array, w: number, h: number): Components {
  // Runs row by row: where each begins and ends in the plane, and the run that stands for its piece.
  const begins: number[] = [];
  const ends: number[] = [];
  const parent: number[] = [];
  const find = (a: number): number => {
    let at = a;
    while (parent[at]! !== at) at = parent[at] = parent[parent[at]!]!;
    return at;
  };
  let [aboveFrom, aboveTo] = [0, 0];
  for (let y = 0; y < h; y++) {
    const [row, end] = [y * w, (y + 1) * w];
    const from = begins.length;
    let above = aboveFrom;
    for (let i = row; ;) {
      while (i < end && !set[i]) i++;
      if (i >= end) break;
      const start = i;
      while (i < end && set[i]) i++;
      const run = begins.length;
      begins.push(start);
      ends.push(i);
      parent.push(run);
      // Runs of the row above that lie over it, or touch it by a corner.
      while (above < aboveTo && ends[above]! + w < start) above++;
      for (let k = above; k < aboveTo && begins[k]! + w <= i; k++) {
        const [a, b] = [find(k), find(run)];
        parent[Math.max(a, b)] = Math.min(a, b);
      }
    }
    [aboveFrom, aboveTo] = [from, begins.length];
  }
  const labels = new Int32Array(w * h);
  const names = new Int32Array(parent.length);
  const sizes = [0];
  for (let run = 0; run < parent.length; run++) {
    const root = find(run);
    if (!names[root]) {
      names[root] = sizes.length;
      sizes.push(0);
    }
    labels.fill(names[root]!, begins[run], ends[run]);
    sizes[names[root]!]! += ends[run]! - begins[run]!;
  }
  let largest = 0;
  for (let k = 1; k < sizes.length; k++) if (sizes[k]! > sizes[largest]!) largest = k;
  return { labels, sizes, largest };
}
