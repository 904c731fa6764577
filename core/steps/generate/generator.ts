import type { Rect } from '../../geometry/rect';
import { width } from '../../geometry/rect';
import { number } from '../../param';
import type { Tile } from '../../picture';
import { RGBA, formatRect } from '../../picture';
import type { StepIo } from '../../step';

/** Coverage of what is made. */
export const opacity = number('Opacity', 1, [0, 1], { min: 0, max: 1 });

/** What every generator has: it fills the frame with R, G, B and A, and reads nothing. */
export const generator = {
  bounds: (_: unknown, io: StepIo<unknown>): Rect => formatRect(io.inputs.main!.format),
  channels: (_: unknown, io: StepIo<unknown>): readonly string[] => [...new Set([...RGBA, ...io.inputs.main!.channels])],
  writes: (_: unknown, channels: readonly string[]): readonly string[] => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  needs: () => [],
  locality: 'pixel' as const,
};

/** Fills the planes that are wanted with a colour at each pixel's centre, premultiplied by a coverage. */
export function fillPixels(out: Tile, colourAt: (x: number, y: number, to: Float64Array) => void, coverage: number): void {
  const { region } = out;
  const w = width(region);
  const colour = new Float64Array(3);
  const planes = RGBA.slice(0, 3).map((c) => out.planes[c]);
  for (let y = region.y0; y < region.y1; y++) {
    for (let x = region.x0; x < region.x1; x++) {
      colourAt(x + 0.5, y + 0.5, colour);
      const i = (y - region.y0) * w + x - region.x0;
      for (let c = 0; c < 3; c++) if (planes[c]) planes[c]![i] = coverage * colour[c]!;
    }
  }
  out.planes.A?.fill(coverage);
}
