'use client';
import { Canvas } from '@react-three/fiber';
import { useMemo, useRef, useState } from 'react';
import type { Step } from '@/core/document';
import type { CameraReading } from '@/core/readings';
import { cameraDataOf } from '@/core/space';
import { useShotPart } from '../../workbench/context';
import { useView } from '../../workbench/state';
import { tokens } from '../../theme/tokens';
import { CameraWay, CloudPoints, Grid, Points } from './room-parts';
import type { Project } from './RoomLasso';
import { Projecting, RoomLasso } from './RoomLasso';
import type { Grip } from './room-things';
import { RoomThings } from './room-things';
import { Looking } from './room-looking';
import { useScene } from './use-scene';

const GRIPS: readonly (readonly [Grip, string])[] = [
  ['translate', 'Move'],
  ['rotate', 'Turn'],
  ['scale', 'Size'],
];

/** The scene from anywhere: orbited, framed, or through its camera with the plate behind. */
export function Room({ step, reading }: { step: Step | undefined; reading: CameraReading | undefined }) {
  const scene = useScene(step?.id, true);
  const readings = useShotPart('readings');
  const frame = useView((s) => s.frame);
  const [through, setThrough] = useState(false);
  const [grip, setGrip] = useState<Grip>('translate');
  const [framed, setFramed] = useState(0);
  const [around, setAround] = useState(false);
  const project = useRef<Project | null>(null);
  const camera = useMemo(() => (reading ? cameraDataOf(reading, readings, 1) : null), [reading, readings]);
  const seen = scene?.view ?? camera?.viewAt(frame) ?? null;
  return (
    <>
      <Canvas
        frameloop="demand"
        gl={{ antialias: true, preserveDrawingBuffer: true }}
        style={{ background: tokens.pit }}
        data-testid="room-canvas"
      >
        <hemisphereLight args={['#dfe4ea', '#6d675f', 1.6]} />
        <directionalLight position={[4, 8, 5]} intensity={1.4} />
        <Looking through={through ? seen : null} framed={framed} scene={scene} reading={reading} camera={camera} />
        {!through && <Grid />}
        {reading && camera && <Points reading={reading} camera={camera} canChoose={!step} />}
        {camera && !through && <CameraWay camera={camera} frame={frame} now={seen} />}
        <Projecting to={project} />
        {scene?.cloud && <CloudPoints cloud={scene.cloud} />}
        {scene && <RoomThings scene={scene} grip={grip} reading={reading} />}
      </Canvas>
      {around && reading && camera && !step && <RoomLasso reading={reading} camera={camera} project={project} />}
      <div className="room-bar" role="toolbar" aria-label="Room">
        <button className={`pill${through ? ' on' : ''}`} aria-pressed={through} disabled={!seen} onClick={() => setThrough(!through)}>
          Through the camera
        </button>
        <button className="pill" disabled={through} onClick={() => setFramed(framed + 1)} title="All of it, or the chosen thing">
          Show all
        </button>
        {!step && reading && (
          <button
            className={`pill${around ? ' on' : ''}`}
            aria-pressed={around}
            onClick={() => setAround(!around)}
            title="Draw around points to choose them; with Shift they join the others"
          >
            Draw around points
          </button>
        )}
        {scene &&
          GRIPS.map(([value, title]) => (
            <button
              key={value}
              className={`pill${grip === value ? ' on' : ''}`}
              aria-pressed={grip === value}
              onClick={() => setGrip(value)}
            >
              {title}
            </button>
          ))}
      </div>
    </>
  );
}
