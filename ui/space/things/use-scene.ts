'use client';
import { useEffect, useMemo, useState } from 'react';
import type { Shot, Source, Step } from '@/core/document';
import { findStep, stepValues } from '@/core/document';
import type { Vec3 } from '@/core/geometry';
import type { Affine3, Cloud, View } from '@/core/render';
import { inverseA3, pointA3 } from '@/core/render';
import type { CameraData, Thing } from '@/core/space';
import { groundOf, placeOf, viewOfPasses, viewSet } from '@/core/space';
import { STEPS } from '@/core/steps';
import type { ModelShape } from '@/engine';
import { useSceneView } from '../../passes/surface';
import type { Space } from '../../stage/handles/use-step-space';
import { useStepSpace } from '../../stage/handles/use-step-space';
import type { StagePlace } from '../../stage/place';
import { infoAt, useInput } from '../../passes/use-input';
import { useBench, useShot } from '../../workbench/context';
import { useView, view } from '../../workbench/state';

/** A scene step as it stands at a frame: what the handles and the room are drawn from. */
export interface SceneAt {
  readonly step: Step;
  readonly things: readonly Thing[];
  readonly camera: CameraData | null;
  /** Full size; null where there is no camera. */
  readonly view: View | null;
  /** Of a render: some of the places that it shows. */
  readonly cloud: Cloud | null;
  place(thing: Thing): Affine3;
  /** A place of the world as the thing's own parameter would have it. */
  inOwn(thing: Thing, at: Vec3): Vec3;
  /** A thing's parameter, such as its place, in the world. */
  inWorld(thing: Thing, at: Vec3): Vec3;
}

/** Puts it together; `passes` is the camera of a render, where that is wanted. */
export function sceneAt(shot: Shot, step: Step, frame: number, passes: View | null, cloud: Cloud | null = null): SceneAt {
  const p = stepValues(shot, STEPS.get('scene')!.params, step, frame, 1) as unknown as {
    things: readonly Thing[];
    seen: string;
    camera: CameraData | null;
    eye: Vec3;
    look: Vec3;
    focal: number;
    filmWidth: number;
  };
  const camera = p.seen === 'reading' ? p.camera : null;
  const view = p.seen === 'reading' ? (camera?.viewAt(frame) ?? null) : p.seen === 'passes' ? passes : viewSet(p, shot.format);
  const ground = (t: Thing): Affine3 => groundOf(t, p.things, camera, view);
  return {
    step,
    things: p.things,
    camera,
    view,
    cloud,
    place: (t) => placeOf(t, p.things, camera, view),
    inOwn: (t, at) => {
      const back = inverseA3(ground(t));
      return back ? pointA3(back, at) : at;
    },
    inWorld: (t, at) => pointA3(ground(t), at),
  };
}

/** The selected scene step at the frame that is seen; null where none is selected. */
export function useScene(id: string | undefined, withCloud = false): SceneAt | null {
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const step = id === undefined ? undefined : findStep(shot, id)?.step;
  const input = useInput(id ?? '');
  const surface = useSceneView(step?.type === 'scene' && step.params.seen === 'passes' ? step : undefined, input, withCloud);
  return useMemo(() => {
    if (step?.type !== 'scene') return null;
    const passes = surface ? viewOfPasses(surface.camera) : null;
    return sceneAt(shot, step, frame, passes, surface?.placed ? surface.cloud : null);
  }, [shot, step, frame, surface]);
}

/** Where a scene's picture lies on the stage: its own, or where that is not seen, the picture that its camera was found in, which has the same pixels. */
export function useSceneSpace(id: string, place: StagePlace): Space | null {
  const shot = useShot();
  const found = findStep(shot, id);
  const camera = shot.readings.find((r) => r.id === found?.step.params.camera && r.kind === 'camera');
  const own = useStepSpace({ lane: found?.lane.id ?? '', after: id }, place);
  const filmed = useStepSpace(camera?.from ?? { lane: '' }, place);
  return own ?? filmed;
}

/** Width over height of what a card shows. */
export function aspectOf(shot: Shot, step: Step, thing: string): number {
  const info = infoAt(shot, step.feeds[`${thing}.picture`] ?? null, view.get().frame);
  const { width, height, pixelAspect } = info?.format ?? { ...shot.format, pixelAspect: 1 };
  return (width * pixelAspect) / height;
}

const shapes = new Map<string, Promise<ModelShape>>();
/** A model's triangles; null until they are there. */
export function useModelShape(source: Source | undefined): ModelShape | null {
  const { viewer } = useBench();
  const [shape, setShape] = useState<ModelShape | null>(null);
  const key = source?.frames?.[0]?.hash ?? '';
  useEffect(() => {
    if (!source || key === '') return undefined;
    let live = true;
    let made = shapes.get(key);
    if (!made) shapes.set(key, (made = viewer.pool.modelShape(source)));
    made.then(
      (s) => live && setShape(s),
      () => shapes.delete(key),
    );
    return () => {
      live = false;
    };
    // A model is told by its contents.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, key]);
  return key === '' ? null : shape;
}
