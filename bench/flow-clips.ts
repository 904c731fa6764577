import { sampleAt } from '@/core/readings/gray';
import type { Gray } from '@/core/readings/gray';
import { random as randomOf } from '@/core/random';

/** Two frames with the true motion from the first to the second; `hidden` where what is seen is not seen on the second. */
export interface FlowClip {
  readonly name: string;
  readonly from: Gray;
  readonly to: Gray;
  readonly u: Float32Array;
  readonly v: Float32Array;
  readonly hidden: Uint8Array;
}

/** Something flat with a picture on it, cut out as an ellipse where it has radii; it turns, grows and moves from frame to frame. */
interface Leaf {
  texture: Gray;
  middle: readonly [number, number];
  radii?: readonly [number, number];
  move: readonly [number, number];
  turn?: number;
  grow?: number;
}

const gaussian = (random: () => number): number => Math.sqrt(-2 * Math.log(Math.max(1e-12, random()))) * Math.cos(2 * Math.PI * random());

type Map2 = (x: number, y: number) => [number, number];

/** Where a leaf's place of the first frame is found at another time, and back. */
function motionOf({ middle: [cx, cy], move, turn = 0, grow = 1 }: Leaf, time: number): { there: Map2; back: Map2 } {
  const s = grow ** time;
  const [c, n] = [Math.cos(turn * time), Math.sin(turn * time)];
  return {
    there: (x, y) => {
      const [dx, dy] = [x - cx, y - cy];
      return [cx + move[0] * time + s * (c * dx - n * dy), cy + move[1] * time + s * (n * dx + c * dy)];
    },
    back: (x, y) => {
      const [dx, dy] = [(x - cx - move[0] * time) / s, (y - cy - move[1] * time) / s];
      return [cx + c * dx + n * dy, cy - n * dx + c * dy];
    },
  };
}

const covers = (leaf: Leaf, x: number, y: number): number => {
  if (!leaf.radii) return 1;
  const d = Math.hypot((x - leaf.middle[0]) / leaf.radii[0], (y - leaf.middle[1]) / leaf.radii[1]);
  return Math.max(0, Math.min(1, (1 - d) * Math.min(...leaf.radii) + 0.5));
};

/** Leaves, the last one in front, seen at a time, with the noise of a film. */
export function frameAt(leaves: readonly Leaf[], w: number, h: number, time: number, noise: number, seed: number): Gray {
  const data = new Float32Array(w * h);
  const moves = leaves.map((l) => motionOf(l, time));
  const random = randomOf(seed);
  for (let y = 0, o = 0; y < h; y++) {
    for (let x = 0; x < w; x++, o++) {
      let v = 0;
      leaves.forEach((leaf, k) => {
        const [a, b] = moves[k]!.back(x + 0.5, y + 0.5);
        const cover = covers(leaf, a, b);
        if (cover > 0) v += cover * (sampleAt(leaf.texture, a, b) - v);
      });
      data[o] = v + noise * gaussian(random);
    }
  }
  return { width: w, height: h, data };
}

export function clipOf(name: string, leaves: readonly Leaf[], w: number, h: number, noise: number): FlowClip {
  const [from, to] = [frameAt(leaves, w, h, 0, noise, 1), frameAt(leaves, w, h, 1, noise, 2)];
  const [u, v, hidden] = [new Float32Array(w * h), new Float32Array(w * h), new Uint8Array(w * h)];
  const moves = leaves.map((l) => motionOf(l, 1));
  const topAt = (place: (k: number) => [number, number]): number => {
    let top = 0;
    leaves.forEach((leaf, k) => {
      const [a, b] = place(k);
      if (covers(leaf, a, b) > 0.5) top = k;
    });
    return top;
  };
  for (let y = 0, o = 0; y < h; y++) {
    for (let x = 0; x < w; x++, o++) {
      const top = topAt(() => [x + 0.5, y + 0.5]);
      const [a, b] = moves[top]!.there(x + 0.5, y + 0.5);
      [u[o], v[o]] = [a - x - 0.5, b - y - 0.5];
      const outside = a < 0 || b < 0 || a > w || b > h;
      hidden[o] = Number(outside || topAt((k) => moves[k]!.back(a, b)) !== top);
    }
  }
  return { name, from, to, u, v, hidden };
}
