'use client';
import dynamic from 'next/dynamic';
import { isFrozen } from '@/core/commands';
import { FocusOverlay } from '../../passes/FocusOverlay';
import { useView } from '../../workbench/state';
import { useSelectedLimited } from '../../workbench/context';
import { drawsShapes } from '../../shapes/shaping';
import type { StagePlace } from '../place';
import { placesOf } from './places';

/** Konva draws on a canvas of its own and does not run on the server. */
const HANDLES: Record<string, React.ComponentType<{ place: StagePlace }>> = {
  transform: dynamic(() => import('./TransformHandle').then((m) => m.TransformHandle), { ssr: false }),
  cornerPin: dynamic(() => import('./CornersHandle').then((m) => m.CornersHandle), { ssr: false }),
  zone: dynamic(() => import('./ZoneHandle').then((m) => m.ZoneHandle), { ssr: false }),
  relight: dynamic(() => import('../../passes/ScenePointHandle').then((m) => m.ScenePointHandle), { ssr: false }),
  positionMatte: dynamic(() => import('../../passes/ScenePointHandle').then((m) => m.ScenePointHandle), { ssr: false }),
  depthOfField: FocusMarks,
  scene: dynamic(() => import('../../space/things/ThingHandle').then((m) => m.ThingHandle), { ssr: false }),
  crop: dynamic(() => import('./CropHandle').then((m) => m.CropHandle), { ssr: false }),
};

/** Marks of the focus, where they are wished. */
function FocusMarks({ place }: { place: StagePlace }) {
  const marks = useView((s) => s.focusMarks);
  return marks && <FocusOverlay place={place} />;
}

const PlacesHandle = dynamic(() => import('./PlacesHandle').then((m) => m.PlacesHandle), { ssr: false });

const ShapesHandle = dynamic(() => import('../../shapes/ShapesHandle').then((m) => m.ShapesHandle), { ssr: false });

/** The handles of the selected step or zone, if it is one that is touched on the picture. */
export function Handles({ place }: { place: StagePlace }) {
  const selected = useSelectedLimited();
  // Corners that a reading drives are moved there, not here.
  const driven = selected?.step.type === 'cornerPin' && !isFrozen(selected.step);
  if (!selected?.step.on || driven) return null;
  const { step } = selected;
  if (drawsShapes(step)) return <ShapesHandle place={place} />;
  const boxless = step.type === 'zone' && step.params.within !== 'box';
  const Handle = boxless ? undefined : (HANDLES[step.type] ?? (placesOf(step).length > 0 ? PlacesHandle : undefined));
  return Handle ? <Handle place={place} /> : null;
}
