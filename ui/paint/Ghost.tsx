'use client';
import { useEffect, useRef } from 'react';
import { SRGB } from '@/core/colour';
import type { Rendered } from '@/engine';

interface Props {
  picture: Rendered;
  /** What the picture's pixels are of full size. */
  scale: number;
  /** Where in the picture, full size, the middle of the brush would copy from. */
  from: readonly [number, number];
  /** CSS pixels of the stage: the middle of the brush and its radius; and how many a full-size pixel has. */
  at: readonly [number, number];
  radius: number;
  zoom: number;
}

/** Display codes by the root of light: a ghost is drawn at each move of the hand. */
const CODES = Uint8ClampedArray.from({ length: 1025 }, (_, i) => 255 * SRGB.encode((i / 1024) ** 2));

/** Pixels a side that are drawn at most: a ghost need not be sharp. */
const MOST = 160;

/** What the brush would lay down, seen under it. */
export function Ghost({ picture, scale, from, at, radius, zoom }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const side = Math.max(2, Math.min(MOST, Math.round(2 * radius)));
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const { pixels, region } = picture;
    const w = region.x1 - region.x0;
    const image = context.createImageData(side, side);
    const step = (2 * radius) / side / zoom;
    for (let y = 0; y < side; y++) {
      for (let x = 0; x < side; x++) {
        const u = Math.floor((from[0] + (x + 0.5 - side / 2) * step) * scale) - region.x0;
        const v = Math.floor((from[1] + (y + 0.5 - side / 2) * step) * scale) - region.y0;
        if (u < 0 || v < 0 || u >= w || v >= region.y1 - region.y0) continue;
        const [i, o] = [4 * (v * w + u), 4 * (y * side + x)];
        for (let c = 0; c < 3; c++) image.data[o + c] = CODES[Math.round(1024 * Math.sqrt(Math.min(1, Math.max(0, pixels[i + c]!))))]!;
        image.data[o + 3] = 200;
      }
    }
    context.putImageData(image, 0, 0);
  });
  const [x, y] = at;
  return (
    <canvas
      ref={canvas}
      className="ghost"
      data-testid="ghost"
      width={side}
      height={side}
      style={{ left: x - radius, top: y - radius, width: 2 * radius, height: 2 * radius }}
    />
  );
}
