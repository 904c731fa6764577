'use client';
import { useEffect, useRef } from 'react';
import { SRGB } from '@/core/colour';
import { CROP } from '@/core/learn';

/** Code values by scene-linear light times 1023, so that a crop is drawn by looking up. */
const CODES = Uint8ClampedArray.from({ length: 1024 }, (_, i) => Math.round(255 * SRGB.encode(i / 1023)));
const N = CROP * CROP;

/** A crop as the display shows it: coverage as grey, or R, G, B one after the other. */
export function CropCanvas({ values, label }: { values: Float32Array; label: string }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = ref.current?.getContext('2d');
    if (!context) return;
    const image = context.createImageData(CROP, CROP);
    const grey = values.length === N;
    for (let i = 0; i < N; i++) {
      for (let c = 0; c < 3; c++) {
        const v = Math.min(1, Math.max(0, values[grey ? i : c * N + i]!));
        image.data[4 * i + c] = grey ? Math.round(255 * v) : CODES[Math.round(1023 * v)]!;
      }
      image.data[4 * i + 3] = 255;
    }
    context.putImageData(image, 0, 0);
  }, [values]);
  return <canvas ref={ref} width={CROP} height={CROP} role="img" aria-label={label} />;
}
