'use client';
import { useThree } from '@react-three/fiber';
import { useEffect, useState } from 'react';
import { DataTexture, LinearFilter, RGBAFormat, SRGBColorSpace, UnsignedByteType } from 'three';
import { SRGB } from '@/core/colour';
import type { Tap } from '@/core/document';
import type { Rendered } from '@/engine';
import { RGBA } from '@/core/picture';
import { useBench, useShot } from '../../workbench/context';
import { useView } from '../../workbench/state';
import { requestFor } from '../../workbench/use-picture';

/** Codes of light from 0 to 1 in 4096 steps. */
const CODES = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(255 * SRGB.encode(i / 4096)));
const code = (v: number): number => CODES[v <= 0 ? 0 : v >= 1 ? 4096 : Math.round(4096 * v)]!;

/** A picture as a texture, rows from the top, straight alpha. */
export function textureOf(r: Rendered): DataTexture {
  const [w, h] = [r.region.x1 - r.region.x0, r.region.y1 - r.region.y0];
  const data = new Uint8Array(4 * w * h);
  for (let i = 0; i < 4 * w * h; i += 4) {
    const a = Math.min(1, Math.max(0, r.pixels[i + 3]!));
    const k = a > 1e-4 ? 1 / a : 0;
    data[i] = code(r.pixels[i]! * k);
    data[i + 1] = code(r.pixels[i + 1]! * k);
    data[i + 2] = code(r.pixels[i + 2]! * k);
    data[i + 3] = Math.round(255 * a);
  }
  const made = new DataTexture(data, w, h, RGBAFormat, UnsignedByteType);
  made.colorSpace = SRGBColorSpace;
  made.magFilter = LinearFilter;
  made.minFilter = LinearFilter;
  made.needsUpdate = true;
  return made;
}

/** What a point of a lane shows at the frame that is seen, some frames later where said; the last one until the next is there. */
export function useLaneTexture(tap: Tap | undefined, scale: 0.25 | 0.5, later = 0): DataTexture | null {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame) + later;
  const invalidate = useThree((s) => s.invalidate);
  const [texture, setTexture] = useState<DataTexture | null>(null);
  useEffect(() => {
    if (!tap) return undefined;
    const controller = new AbortController();
    viewer
      .fetch(shot, requestFor(tap, frame, scale, [...RGBA]), 'thumbnail', controller.signal)
      .then((r) => {
        if (controller.signal.aborted) return;
        setTexture((old) => {
          old?.dispose();
          return textureOf(r);
        });
        invalidate();
      })
      .catch(() => undefined);
    return () => controller.abort();
    // What comes after the point does not change it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, tap?.lane, tap?.after, frame, scale, invalidate]);
  return texture;
}
