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
  const labels = new Int32Array(w * h);
  const parent: number[] = [0];
  const find = (a: number): number => {
    let at = a;
    while (parent[at]! !== at) at = parent[at] = parent[parent[at]!]!;
    return at;
  };
  for (let y = 0; y < h; y++) {
    const row = y * w;
    for (let x = 0; x < w; x++) {
      const i = row + x;
      if (!set[i]) continue;
      // The pixel above touches all other neighbours; without it those at the left touch each other, and one at the right may not.
      let label = y > 0 ? labels[i - w]! : 0;
      if (!label) {
        label = (x > 0 && (labels[i - 1]! || (y > 0 ? labels[i - w - 1]! : 0))) || 0;
        const right = y > 0 && x + 1 < w ? labels[i - w + 1]! : 0;
        if (right && label && right !== label) {
          const a = find(right);
          const b = find(label);
          parent[Math.max(a, b)] = Math.min(a, b);
          label = Math.min(a, b);
        } else label ||= right;
      }
      if (!label) {
        label = parent.length;
        parent.push(label);
      }
      labels[i] = label;
    }
  }
  const names = new Int32Array(parent.length);
  const sizes = [0];
  for (let i = 0; i < labels.length; i++) {
    if (!labels[i]) continue;
    const root = find(labels[i]!);
    if (!names[root]) {
      names[root] = sizes.length;
      sizes.push(0);
    }
    const name = names[root]!;
    labels[i] = name;
    sizes[name]!++;
  }
  let largest = 0;
  for (let k = 1; k < sizes.length; k++) if (sizes[k]! > sizes[largest]!) largest = k;
  return { labels, sizes, largest };
}
