'use client';
import dynamic from 'next/dynamic';
import { useMemo } from 'react';
import type { CameraReading } from '@/core/readings';
import { useSelectedLimited, useShot } from '../../workbench/context';
import { useView } from '../../workbench/state';

const Room = dynamic(() => import('./Room').then((m) => m.Room), { ssr: false });

/** Whether the browser draws in three dimensions at all. */
function canDraw(): boolean {
  try {
    return document.createElement('canvas').getContext('webgl2') !== null;
  } catch {
    return false;
  }
}

/** The selected scene, or the points of the selected camera, from anywhere. */
export function RoomView() {
  const shot = useShot();
  const selection = useView((s) => s.selection);
  const selected = useSelectedLimited();
  const able = useMemo(canDraw, []);
  const step = selected?.step.type === 'scene' ? selected.step : undefined;
  const id = step ? step.params.camera : selection?.kind === 'reading' ? selection.id : undefined;
  const reading = shot.readings.find((r): r is CameraReading => r.id === id && r.kind === 'camera');
  if (!step && !reading) return null;
  return (
    <div className="room" data-testid="room">
      {able ? (
        <Room step={step} reading={reading} />
      ) : (
        <div className="stage-message">
          <div className="error" role="alert">
            This browser draws nothing in three dimensions (WebGL 2 is off): things are placed on the picture and by numbers as before.
          </div>
        </div>
      )}
    </div>
  );
}
