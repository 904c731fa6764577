import { SRGB } from '@/core/colour';

/** A scene-linear colour as the browser's colour field has it, held within what a display shows. */
export const hexOf = (colour: readonly number[]): string =>
  `#${colour
    .map((v) =>
      Math.round(255 * Math.min(1, Math.max(0, SRGB.encode(v))))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

export const fromHex = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => SRGB.decode(parseInt(hex.slice(i, i + 2), 16) / 255)) as [number, number, number];
