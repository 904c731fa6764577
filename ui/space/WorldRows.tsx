'use client';
import { useState } from 'react';
import type { CameraReading } from '@/core/readings';
import type { CameraView, Placing } from '@/core/space';
import { alongAxis, nudged, onGround, onLevelLines, onUprightLines, scaledTo, withOrigin } from '@/core/space';
import { space } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { Row } from '../readings/rows';
import { toastError } from '../theme/toast';
import { useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { useCameraView } from './camera-view';

/** Where the world's ground, origin and axes lie, and how large it is: by points that are chosen, or typed. */
export function WorldRows({ reading }: { reading: CameraReading }) {
  const run = useRun();
  const cameraView = useCameraView(reading);
  const chosen = useView((s) => s.tracks);
  const [distance, setDistance] = useState(1);
  if (!cameraView) return null;
  const place = (label: string, made: (view: CameraView) => Placing) => (): void => {
    try {
      run(label, space.setPlacing(reading.id, made(cameraView)));
    } catch (e) {
      toastError(e);
    }
  };
  const turning = reading.solved?.kind === 'turning';
  const button = (text: string, label: string, need: number, help: string, made: (view: CameraView) => Placing) => (
    <button
      className="pill"
      disabled={chosen.length < need || turning}
      title={`${help} (${need === 1 ? 'one point or more' : need === 2 ? 'two points, in order' : need === 4 ? 'two points a line, in order' : 'three points or more'})`}
      onClick={place(label, made)}
    >
      {text}
    </button>
  );
  return (
    <>
      <div className="group">World</div>
      <div className="uses">
        {button('Ground', 'Lay the ground', 3, 'The plane through the chosen points is the ground, at height 0', (v) =>
          onGround(v, chosen, view.get().frame),
        )}
        {button(
          'Level',
          'Level by lines',
          4,
          'Each two points are a line that is level; two lines at least, that run different ways',
          (v) => onLevelLines(v, chosen, view.get().frame),
        )}
        {button('Upright', 'Upright by lines', 2, 'Each two points are a line that stands upright', (v) =>
          onUprightLines(v, chosen, view.get().frame),
        )}
        {button('Origin', 'Set the origin', 1, 'The middle of the chosen points is the origin', (v) => withOrigin(v, chosen))}
        {button('X axis', 'Set the x axis', 2, 'From the first chosen point to the second', (v) => alongAxis(v, chosen, 'x'))}
        {button('Z axis', 'Set the z axis', 2, 'From the second chosen point to the first: away from the camera is −z', (v) =>
          alongAxis(v, chosen, 'z'),
        )}
      </div>
      <Row title="They lie apart by">
        <span className="inline">
          <NumberField
            label="Distance of two points"
            value={distance}
            min={0.0001}
            max={1e6}
            decimals={3}
            step={0.1}
            onChange={setDistance}
            onProblem={() => undefined}
          />
          {button('Set', 'Set the scale', 2, 'What the two chosen points are apart in truth, metres for instance', (v) =>
            scaledTo(v, chosen, distance),
          )}
        </span>
      </Row>
      <Nudge
        title="Move by, x y z"
        label="Move the world"
        step={0.1}
        apply={(v) => place('Move the world', ({ placing }) => nudged(placing, v, [0, 0, 0]))()}
      />
      <Nudge
        title="Turn by, °"
        label="Turn the world"
        step={1}
        apply={(v) => place('Turn the world', ({ placing }) => nudged(placing, [0, 0, 0], v))()}
      />
    </>
  );
}

/** Three numbers that are added to where the world is. */
function Nudge({ title, label, step, apply }: { title: string; label: string; step: number; apply(v: [number, number, number]): void }) {
  const [by, setBy] = useState<[number, number, number]>([0, 0, 0]);
  return (
    <Row title={title}>
      <span className="inline">
        {(['x', 'y', 'z'] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={`${label}: ${axis}`}
            value={by[i]!}
            min={-1e6}
            max={1e6}
            decimals={2}
            step={step}
            onChange={(v) => setBy(by.map((b, k) => (k === i ? v : b)) as [number, number, number])}
            onProblem={() => undefined}
          />
        ))}
        <button
          className="pill"
          aria-label={label}
          disabled={by.every((v) => v === 0)}
          onClick={() => {
            apply(by);
            setBy([0, 0, 0]);
          }}
        >
          Apply
        </button>
      </span>
    </Row>
  );
}
