import { lensSchema } from './schema';
import { fitName } from '../document/limits';
import { MediaError, messageOf } from '../errors';
import type { LensReading } from '../readings/types';
import type { Lens } from './lens';
import type { Crossing, SolvedLens } from './reading';
import { LENS_SETTINGS } from './reading';

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
    ...(frames[0] && { pattern: frames[0].pattern }),
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

interface Corner {
  frame: number;
  column: number;
  row: number;
  x: number;
  y: number;
  used: boolean;
}
const isCorner = (c: unknown): c is Corner =>
  typeof c === 'object' &&
  c !== null &&
  ['frame', 'column', 'row', 'x', 'y'].every((k) => Number.isFinite((c as Record<string, unknown>)[k])) &&
  typeof (c as Corner).used === 'boolean';

/** A reading of a lens file: its lens, and the crossings that it was solved from, where they are there. Throws MediaError. */
export function lensReadingOf(content: string, file: string): LensReading {
  const lens = parseLens(content, file);
  const json = JSON.parse(content) as { rms?: number; max?: number; pattern?: unknown; corners?: unknown; zoom?: unknown };
  const corners = Array.isArray(json.corners) ? json.corners.filter(isCorner) : [];
  const frames = [...new Set(corners.map((c) => c.frame))].sort((a, b) => a - b);
  const crossingsOn = (frame: number): Crossing[] =>
    corners
      .filter((c) => c.frame === frame)
      .map(({ column, row, x, y, used }) => ({ column, row, x, y, used, ...(!used && { why: 'not used in the file', hand: true }) }));
  const size = (v: unknown): number => (typeof v === 'number' && v >= 0 ? v : 0);
  const zoom = (Array.isArray(json.zoom) ? json.zoom : []).map(
    (z: { mm?: unknown; lens?: unknown; rms?: unknown; max?: unknown }): SolvedLens => {
      return { lens: parseLens(JSON.stringify(z.lens), file), mm: size(z.mm), rms: size(z.rms), max: size(z.max), rings: [] };
    },
  );
  const [first = 1, last = first] = [frames[0], frames[frames.length - 1]];
  return {
    kind: 'lens',
    id: 'lens',
    name: fitName(file.replace(/\.[^.]*$/, '')) || 'Lens',
    from: { lane: '' },
    channel: 'luma',
    reference: first,
    range: { first, last },
    settings: { ...LENS_SETTINGS, model: lens.model, squeeze: lens.squeeze },
    frames: frames.map((frame) => ({
      frame,
      pattern: json.pattern === 'grid' ? 'grid' : 'checker',
      crossings: crossingsOn(frame),
      confidence: 1,
      error: size(json.rms),
    })),
    lines: [],
    solved: zoom.length > 0 ? zoom : [{ lens, rms: size(json.rms), max: size(json.max), rings: [] }],
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
