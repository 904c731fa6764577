'use client';
import dynamic from 'next/dynamic';
import { isFrozen } from '@/store/readings';
import { useSelectedStep } from '../../workbench/context';
import type { StagePlace } from '../Stage';

/** Konva draws on a canvas of its own and does not run on the server. */
const HANDLES: Record<string, React.ComponentType<{ place: StagePlace }>> = {
  transform: dynamic(() => import('./TransformHandle').then((m) => m.TransformHandle), { ssr: false }),
  cornerPin: dynamic(() => import('./CornersHandle').then((m) => m.CornersHandle), { ssr: false }),
  crop: dynamic(() => import('./CropHandle').then((m) => m.CropHandle), { ssr: false }),
};

/** The handles of the selected step, if it is one that is touched on the picture. */
export function Handles({ place }: { place: StagePlace }) {
  const selected = useSelectedStep();
  // Corners that a reading drives are moved there, not here.
  const driven = selected?.step.type === 'cornerPin' && !isFrozen(selected.step);
  const Handle = selected?.step.on && !driven ? HANDLES[selected.step.type] : undefined;
  return Handle ? <Handle place={place} /> : null;
}
