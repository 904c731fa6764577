import { useEffect, useState } from 'react';
import { SPACES, matricesOf } from '@/core/colour';
import type { Shot } from '@/core/document';
import { blobOf, scopeWorker } from '@/engine/browser';
import { toastError } from '../theme/toast';
import type { ViewTransform } from '../workbench/state';
import type { ViewLut } from './gl-lut';
import { LUT_RANGE } from './gl-lut';
import { view } from '../workbench/state';

const ENTRIES = 4096;

const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1];

export const lutIdOf = (transform: ViewTransform): string | null => (transform.startsWith('lut ') ? transform.slice(4) : null);

/** The table that is looked through, when it has been read. */
export function useViewLut(shot: Shot, transform: ViewTransform): ViewLut | null {
  const id = lutIdOf(transform);
  const source = id === null ? undefined : shot.sources.find((s) => s.id === id && s.kind === 'lut');
  const [lut, setLut] = useState<ViewLut | null>(null);
  const media = source?.frames?.[0];
  const space = source?.colourSpace;
  useEffect(() => {
    let live = true;
    setLut(null);
    if (id !== null && (!media || !space)) view.set({ transform: 'sRGB' });
    if (!media || !space) return undefined;
    blobOf(media.hash, media.name)
      .then((b) => b.text())
      .then((text) => scopeWorker.call((w) => w.cube(text, media.name)))
      .then((cube) => {
        const { transfer } = SPACES[space];
        const encode = Float32Array.from({ length: ENTRIES }, (_, i) =>
          transfer.encode(i === 0 ? 0 : 2 ** (LUT_RANGE.low + ((LUT_RANGE.high - LUT_RANGE.low) * i) / (ENTRIES - 1))),
        );
        const made = {
          key: `${media.hash} ${space}`,
          matrix: matricesOf(space)?.toSpace ?? IDENTITY,
          encode,
          cube,
        };
        if (live) setLut(made);
      })
      .catch((e: unknown) => {
        toastError(e);
        view.set({ transform: 'sRGB' });
      });
    return () => {
      live = false;
    };
  }, [id, media, space]);
  return lut;
}
