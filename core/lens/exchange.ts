import { lensSchema } from '../document/reading-schema';
import { MediaError, messageOf } from '../errors';
import type { LensReading } from '../readings/types';
import type { Lens } from './lens';

/** What `read lens --json` prints of a lens: the lens itself, and how well it explains what it was solved from. */
export function lensFile({ solved, frames }: Pick<LensReading, 'solved' | 'frames'>): object {
  const [first] = solved;
  if (!first) throw new Error('nothing is solved');
  const round = (v: number): number => Number(v.toFixed(4));
  return {
    ...first.lens,
    rms: round(first.rms),
    max: round(first.max),
    ...(first.assumed && { focalAssumed: true }),
    ...(solved.length > 1 && { zoom: solved.map((s) => ({ mm: s.mm, lens: s.lens, rms: round(s.rms), max: round(s.max) })) }),
    corners: frames.flatMap((f) =>
      f.crossings.map((c) => ({
        frame: f.frame,
        column: c.column,
        row: c.row,
        x: round(c.x),
        y: round(c.y),
        residual: c.off ? round(Math.hypot(...c.off)) : null,
        used: c.used,
        ...(c.why && { why: c.why }),
      })),
    ),
  };
}

/** A lens of a file as written here; more than that in it is passed by. Throws MediaError. */
export function parseLens(content: string, file: string): Lens {
  try {
    const { model, coefficients, centre, focal, squeeze, format } = lensSchema.validateSync(JSON.parse(content)) as unknown as Lens;
    return { model, coefficients, centre, focal, squeeze, format };
  } catch (e) {
    throw new MediaError(file, `it holds no lens: it needs model, coefficients, centre, focal, squeeze and format (${messageOf(e)})`);
  }
}
