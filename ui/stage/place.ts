/** Where a picture lies on the stage. */
export interface StagePlace {
  /** CSS pixels of the stage at which the picture's corner lies, and CSS pixels a full-size pixel. */
  x: number;
  y: number;
  zoom: number;
  width: number;
  height: number;
}

/** CSS pixels around a fitted picture. */
const MARGIN = 22;

/** The place of a picture that is fitted, or zoomed about an offset from its middle in picture pixels. */
export function placeOf(
  size: { width: number; height: number },
  format: { width: number; height: number },
  zoom: number | 'fit',
  centre: readonly [number, number],
): StagePlace {
  const fit = Math.max(0.01, Math.min((size.width - 2 * MARGIN) / format.width, (size.height - 2 * MARGIN) / format.height));
  const z = zoom === 'fit' ? fit : zoom;
  const [cx, cy] = zoom === 'fit' ? [0, 0] : centre;
  return {
    x: Math.round(size.width / 2 - (format.width / 2 + cx) * z),
    y: Math.round(size.height / 2 - (format.height / 2 + cy) * z),
    zoom: z,
    ...size,
  };
}
