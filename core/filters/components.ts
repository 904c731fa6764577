/** Runs of pixels along rows, in the order of the plane: where each begins and ends (the end excluded). */
export interface Runs {
  begins: ArrayLike<number>;
  ends: ArrayLike<number>;
  count: number;
}

/** Connected pieces of a plane, made of runs. */
export interface Pieces extends Runs {
  /** For each run the number of its piece, from 1. */
  piece: Int32Array;
  /** Pixels of each piece; entry 0 is unused. */
  sizes: number[];
  /** The number of the largest piece; 0 where there is none. */
  largest: number;
}

/** The runs of set flags. */
export function runsOf(set: Uint8Array, w: number, h: number): Runs {
  const begins: number[] = [];
  const ends: number[] = [];
  for (let row = 0; row < w * h; row += w) {
    for (let i = row, end = row + w; i < end; i++) {
      if (!set[i]) continue;
      begins.push(i);
      while (i < end && set[i]) i++;
      ends.push(i);
    }
  }
  return { begins, ends, count: begins.length };
}

/** Pieces of runs that touch by a side or a corner, by union–find (Rosenfeld & Pfaltz 1966). `w` is the plane's width. */
export function piecesOf(runs: Runs, w: number): Pieces {
  const { begins, ends, count } = runs;
  const parent = new Int32Array(count);
  for (let i = 0; i < count; i++) parent[i] = i;
  const find = (a: number): number => {
    let at = a;
    while (parent[at]! !== at) at = parent[at] = parent[parent[at]!]!;
    return at;
  };
  // `above` is the first run of the row before that may touch this one, by a side or a corner.
  for (let run = 0, above = 0; run < count; run++) {
    const [from, to] = [begins[run]!, ends[run]!];
    const row = from - (from % w);
    while (above < run && (begins[above]! < row - w || ends[above]! + w < from)) above++;
    for (let k = above; k < run && begins[k]! < row && begins[k]! + w <= to; k++) {
      const [a, b] = [find(k), find(run)];
      parent[Math.max(a, b)] = Math.min(a, b);
    }
  }
  const piece = new Int32Array(count);
  const sizes = [0];
  const names = new Int32Array(count);
  for (let run = 0; run < count; run++) {
    const root = find(run);
    if (!names[root]) {
      names[root] = sizes.length;
      sizes.push(0);
    }
    piece[run] = names[root]!;
    sizes[piece[run]!]! += ends[run]! - begins[run]!;
  }
  let largest = 0;
  for (let k = 1; k < sizes.length; k++) if (sizes[k]! > sizes[largest]!) largest = k;
  return { begins, ends, count, piece, sizes, largest };
}

/** For each piece whether it reaches the plane's edge. */
export function atEdge({ begins, ends, count, piece, sizes }: Pieces, w: number, h: number): Uint8Array {
  const edge = new Uint8Array(sizes.length);
  for (let run = 0; run < count; run++) {
    const [from, to] = [begins[run]!, ends[run]!];
    if (from < w || from >= (h - 1) * w || from % w === 0 || to % w === 0) edge[piece[run]!] = 1;
  }
  return edge;
}
