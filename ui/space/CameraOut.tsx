'use client';
import type { CameraReading } from '@/core/readings';
import { formatReadings, formatTable } from '@/core/readings';
import { sceneOf } from '@/core/space';
import { readingWorker } from '@/engine/browser';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';
import { useShot } from '../workbench/context';
import { useCameraView } from './camera-view';

/** Pixels by which the lens's axis may miss the picture's middle before it is told. */
const OFF = 0.5;

/** The camera with its points, groups and cards, for other programs. */
export function CameraOut({ reading }: { reading: CameraReading }) {
  const shot = useShot();
  const cameraView = useCameraView(reading);
  if (!cameraView) return null;
  const scene = () => sceneOf(reading, cameraView, shot.frameRate, (id) => shot.readings.find((r) => r.id === id)?.name ?? id);
  const { centre, format, zooms, bend } = cameraView.solved;
  const save = (ending: string, made: () => Promise<string | Uint8Array> | string) => (): void => {
    Promise.resolve()
      .then(made)
      .then((content) => saveBlob(new Blob([content as string]), `${reading.name}.${ending}`))
      .catch(toastError);
  };
  const tellMiddle = (): void => {
    const [dx, dy] = [centre[0] - format.width / 2, centre[1] - format.height / 2];
    if (Math.hypot(dx, dy) > OFF)
      toast(
        'warning',
        `glTF knows no lens whose axis misses the picture’s middle, and this one does by ${dx.toFixed(1)}, ${dy.toFixed(1)} px: .usda holds it.`,
      );
    if (zooms)
      toast('info', 'glTF knows one focal length only: those of the zoom stand in the camera’s extras, and in .usda frame by frame.');
  };
  return (
    <>
      <div className="group">Out</div>
      <p className="said dust">
        Y is up, {shot.frameRate} frames a second, frames {cameraView.frames[0]}–{cameraView.frames[cameraView.frames.length - 1]}. The
        camera is for straight pixels
        {reading.settings.lens !== '' || bend.some((k) => k !== 0) ? ': take the lens out of the plate there too' : ''}.
      </p>
      <div className="uses">
        <button
          className="pill"
          title="glTF 2.0: camera with its way, points, groups, cards"
          onClick={save('glb', () => {
            tellMiddle();
            return readingWorker.call((w) => w.writeScene(scene(), 'glb'));
          })}
        >
          Save .glb
        </button>
        <button
          className="pill"
          title="USD as text: the same, with the film back and a zoom frame by frame"
          onClick={save('usda', () => readingWorker.call((w) => w.writeScene(scene(), 'usda')))}
        >
          Save .usda
        </button>
        <button className="pill" title="Points as a table: track, x, y, z, error" onClick={save('csv', () => formatTable(reading))}>
          Save points .csv
        </button>
        <button
          className="pill"
          title="Everything of this reading, to be brought in again"
          onClick={save('json', () => formatReadings([reading]))}
        >
          Save .json
        </button>
      </div>
    </>
  );
}
