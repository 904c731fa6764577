'use client';
import type { Shot, Step } from '@/core/document';
import { Cancelled } from '@/core/errors';
import type { CameraReading } from '@/core/readings';
import type { View } from '@/core/render';
import { cameraSceneOf, exportedThing, sceneOf, viewOf, viewOfPasses } from '@/core/space';
import type { Viewer } from '@/engine/browser';
import { readingWorker } from '@/engine/browser';
import { startJob } from '../../jobs/jobs';
import { sceneViewAt } from '../../passes/surface';
import { saveBlob } from '../../theme/save-blob';
import { toastError } from '../../theme/toast';
import { useBench, useShot } from '../../workbench/context';
import { view } from '../../workbench/state';
import type { SceneAt } from './use-scene';
import { aspectOf, sceneAt } from './use-scene';

/** Of a render, its camera on each frame of the shot. Throws Cancelled where that is stopped. */
async function camerasOfRender(viewer: Viewer, shot: Shot, step: Step): Promise<Map<number, View>> {
  const { first, last } = shot.range;
  const job = startJob('scene', `Finding the camera of ${step.name}`, 'frames', last - first + 1);
  const found = new Map<number, View>();
  try {
    for (let f = first; f <= last; f++) {
      if (job.signal.aborted) throw new Cancelled();
      const seen = await sceneViewAt(viewer, shot, step, f);
      if (seen?.placed) found.set(f, viewOfPasses(seen.camera));
      job.tell(f - first + 1, last - first + 1);
    }
    return found;
  } finally {
    job.end();
  }
}

/** The scene for other programs: its camera frame by frame, points and groups, and its things as they stand at the frame that is seen. */
export function SceneOut({ step }: { step: Step }) {
  const shot = useShot();
  const { viewer } = useBench();
  const save = (ending: 'glb' | 'usda') => async (): Promise<void> => {
    try {
      const byPasses = step.params.seen === 'passes' ? await camerasOfRender(viewer, shot, step) : null;
      const sceneOn = (f: number): SceneAt => sceneAt(shot, step, f, byPasses?.get(f) ?? null);
      const now = sceneOn(view.get().frame);
      const things = await Promise.all(
        now.things
          .filter((t) => t.on)
          .map(async (t) => {
            const source = t.what === 'model' ? shot.sources.find((s) => s.id === t.model) : undefined;
            const shape = source && (await viewer.pool.modelShape(source));
            const pieces = shape?.pieces.map((p) => ({ mesh: p, matrix: p.matrix, colour: p.colour })) ?? null;
            const world = { at: now.inWorld(t, t.at), aim: now.inWorld(t, t.aim) };
            return exportedThing(t, now.place(t), aspectOf(shot, step, t.id), world, pieces);
          }),
      );
      const reading =
        step.params.seen === 'passes'
          ? undefined
          : shot.readings.find((r): r is CameraReading => r.id === step.params.camera && r.kind === 'camera');
      const camera = reading && viewOf(reading, shot.readings);
      const list = things.filter((t) => t !== null);
      const made =
        reading && camera
          ? { ...sceneOf(reading, camera, shot.frameRate, (id) => shot.readings.find((r) => r.id === id)?.name ?? id), things: list }
          : cameraSceneOf(step.name, shot.frameRate, shot.format, shot.range, (f) => sceneOn(f).view, list);
      const content = await readingWorker.call((w) => w.writeScene(made, ending));
      saveBlob(new Blob([content as BlobPart]), `${step.name}.${ending}`);
    } catch (e) {
      if (!(e instanceof Cancelled)) toastError(e);
    }
  };
  return (
    <div className="inline" title="Camera, points, groups and things, y up">
      <button className="pill" onClick={() => void save('glb')()}>
        Save .glb
      </button>
      <button className="pill" onClick={() => void save('usda')()}>
        Save .usda
      </button>
    </div>
  );
}
