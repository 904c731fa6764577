import { SRGB, parseCube } from '@/core/colour';
import type { Rect } from '@/core/geometry';
import type { KeyedPicture, ScreenSample } from '@/core/keying';
import { findScreen, matteFigures } from '@/core/keying';
import type { Axis, ScopePicture } from '@/core/scopes';
import { alphaCounts, findTrouble, histogramOf, vectorscopeOf, waveformOf } from '@/core/scopes';
import { workerKernels } from './kernels';
import { serve } from './protocol';

/** Values as light, or as the codes that an sRGB display is given. */
export type ScopeAxis = 'light' | 'display';

const AXES: Record<ScopeAxis, Axis> = { light: (v) => v, display: (v) => (v < 0 ? v : SRGB.encode(v)) };

const api = {
  histogram: (p: ScopePicture, axis: ScopeAxis, box: Rect | null) => histogramOf(p, AXES[axis], box),
  waveform: (p: ScopePicture, axis: ScopeAxis, parade: boolean, box: Rect | null) => waveformOf(p, AXES[axis], parade, box),
  vectorscope: (p: ScopePicture, axis: ScopeAxis, box: Rect | null) => vectorscopeOf(p, AXES[axis], box),
  alpha: (p: ScopePicture) => alphaCounts(p),
  trouble: (p: ScopePicture) => findTrouble(p),
  /** Figures of a keyed frame against the one before it. */
  matte: async (p: KeyedPicture, before: KeyedPicture | null, screenColour: readonly number[]) =>
    matteFigures(await workerKernels(), p, before, screenColour),
  /** The screen that frames of a plate share. */
  screen: (samples: readonly ScreenSample[]) => findScreen(samples),
  /** A .cube file, read here since a large one takes longer than the page may. */
  cube: (text: string, file: string) => parseCube(text, file),
};

export type ScopeWorker = typeof api;
serve(api);
