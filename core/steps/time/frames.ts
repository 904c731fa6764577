import type { Tile } from '../../picture';
import { splitChannel } from '../../picture';
import type { Rect } from '../../geometry/rect';
import { EMPTY, union } from '../../geometry/rect';
import type { Need, RenderContext, StepIo, Want } from '../../step';

/** Frames that any time step may name; see LIMITS.frame. */
export const MOST_FRAME = 1e6;

/** Two frames of a picture, and how much of the second is seen; at a whole time it is one alone. */
export function aroundTime(time: number): { frames: readonly number[]; share: number } {
  const first = Math.floor(time + 1e-6);
  const share = Math.max(0, time - first);
  return share < 1e-6 ? { frames: [first], share: 0 } : { frames: [first, first + 1], share };
}

export const needsOfFrames = (frames: readonly number[], want: Want): readonly Need[] =>
  frames.map((frame) => ({ input: 'main', frame, ...want }));

/** Where any of some frames of `main` has pixels. */
export const boundsOver = (frames: readonly number[], io: StepIo<unknown>): Rect =>
  frames.reduce<Rect>((all, f) => union(all, io.info('main', f)?.bounds ?? EMPTY), EMPTY);

/** Colour and coverage can be mixed; depth, positions and IDs cannot: of those the nearer frame's are taken. */
const mixes = (channel: string): boolean => ['R', 'G', 'B', 'A'].includes(splitChannel(channel).channel);

/** Fills `out` from one frame of `main`, or from two mixed. */
export function renderFrames(ctx: RenderContext<unknown>, frames: readonly number[], share: number, out: Tile): void {
  const tiles = frames.map((f) => ctx.tile('main', f)!);
  const [first, second] = tiles as [Tile, Tile?];
  const nearer = second && share >= 0.5 ? second : first;
  for (const [c, plane] of Object.entries(out.planes)) {
    if (!second || !mixes(c)) plane.set(nearer.planes[c]!);
    else ctx.kernels.fn.mixPlane(first.planes[c]!.byteOffset, second.planes[c]!.byteOffset, plane.byteOffset, plane.length, share);
  }
}
