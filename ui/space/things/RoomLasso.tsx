'use client';
import { useThree } from '@react-three/fiber';
import type { RefObject } from 'react';
import { useEffect, useState } from 'react';
import { Vector3 } from 'three';
import { inPolygon } from '@/core/geometry';
import type { CameraReading } from '@/core/readings';
import type { CameraData } from '@/core/space';
import { follow } from '../../workbench/follow';
import { view } from '../../workbench/state';
import { pointPlaces } from './room-parts';

/** Where a place of the world is seen on the room's canvas, px; null of one behind. */
export type Project = (at: readonly number[]) => readonly [number, number] | null;

/** Gives it to what lies over the canvas. */
export function Projecting({ to }: { to: RefObject<Project | null> }) {
  const { camera, size } = useThree();
  useEffect(() => {
    to.current = ([x, y, z]) => {
      const seen = new Vector3(x, y, z).project(camera);
      return seen.z > -1 && seen.z < 1 ? [((seen.x + 1) / 2) * size.width, ((1 - seen.y) / 2) * size.height] : null;
    };
  }, [camera, size, to]);
  return null;
}

interface Props {
  reading: CameraReading;
  camera: CameraData;
  project: RefObject<Project | null>;
}

/** A line drawn around points chooses them; with Shift they join those that are chosen. */
export function RoomLasso({ reading, camera, project }: Props) {
  const [line, setLine] = useState<readonly number[]>([]);
  const finish = (drawn: readonly number[], add: boolean): void => {
    setLine([]);
    if (drawn.length < 6) return;
    const caught = pointPlaces(reading, camera).flatMap((p) => {
      const at = project.current?.(p.at);
      return at && inPolygon(drawn, ...at) ? [p.id] : [];
    });
    view.set({ tracks: add ? [...new Set([...view.get().tracks, ...caught])] : caught });
  };
  return (
    <svg
      className="room-lasso"
      data-testid="room-lasso"
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        const { left, top } = e.currentTarget.getBoundingClientRect();
        const [x, y] = [e.clientX - left, e.clientY - top];
        let drawn: readonly number[] = [x, y];
        follow(
          e,
          (dx, dy) => setLine((drawn = [...drawn, x + dx, y + dy])),
          () => finish(drawn, e.shiftKey),
        );
      }}
    >
      <polygon points={line.join(' ')} />
    </svg>
  );
}
