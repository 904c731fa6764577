'use client';
import { useEffect, useMemo } from 'react';
import { BufferAttribute, BufferGeometry, Color } from 'three';
import type { ThreeEvent } from '@react-three/fiber';
import { useThree } from '@react-three/fiber';
import type { CameraReading } from '@/core/readings';
import type { Cloud, View } from '@/core/render';
import { backTo } from '@/core/render';
import type { CameraData } from '@/core/space';
import { tokens } from '../../theme/tokens';
import { useView, view } from '../../workbench/state';
import { errorColour } from '../CameraOverlay';

/** The ground, a line each unit. */
export function Grid() {
  return (
    <group>
      <gridHelper args={[40, 40, '#565656', '#333333']} />
      <axesHelper args={[1]} />
    </group>
  );
}

/** The places of points that were used. */
export const pointPlaces = (reading: CameraReading, camera: CameraData): { id: string; at: readonly number[]; error: number }[] =>
  (reading.solved?.points ?? []).flatMap((p) => {
    const m = p.used ? camera.anchor(`point:${p.track}`) : null;
    return m ? [{ id: p.track, at: [m[3]!, m[7]!, m[11]!], error: p.error }] : [];
  });

/** The points of a camera, coloured by error, those of groups as those are. A click chooses one. */
export function Points({ reading, camera, canChoose }: { reading: CameraReading; camera: CameraData; canChoose: boolean }) {
  const chosen = useView((s) => s.tracks);
  const { raycaster } = useThree();
  const list = useMemo(() => pointPlaces(reading, camera), [reading, camera]);
  const geometry = useMemo(() => {
    const g = new BufferGeometry();
    const groups = new Map(reading.groups.flatMap((x) => x.tracks.map((t) => [t, x.colour] as const)));
    const colour = new Color();
    const colours = list.flatMap((p) => {
      colour.set(chosen.includes(p.id) ? tokens.bone : (groups.get(p.id) ?? errorColour(p.error).replaceAll(' ', ', ')));
      return [colour.r, colour.g, colour.b];
    });
    g.setAttribute('position', new BufferAttribute(Float32Array.from(list.flatMap((p) => [...p.at])), 3));
    g.setAttribute('color', new BufferAttribute(Float32Array.from(colours), 3));
    return g;
  }, [list, reading.groups, chosen]);
  raycaster.params.Points.threshold = 0.06;
  const choose = (e: ThreeEvent<MouseEvent>): void => {
    const id = e.index === undefined ? undefined : list[e.index]?.id;
    if (!canChoose || id === undefined) return;
    e.stopPropagation();
    const { tracks } = view.get();
    view.set({ tracks: e.nativeEvent.shiftKey ? (tracks.includes(id) ? tracks.filter((t) => t !== id) : [...tracks, id]) : [id] });
  };
  return (
    <points geometry={geometry} onClick={choose}>
      <pointsMaterial size={5} sizeAttenuation={false} vertexColors />
    </points>
  );
}

export type Place = readonly [number, number, number];

export const cloudPlaces = (cloud: Cloud | null): Place[] =>
  Array.from({ length: (cloud?.places.length ?? 0) / 3 }, (_, i) => [...cloud!.places.subarray(3 * i, 3 * i + 3)] as unknown as Place);

/** What a render shows, as points in its colours: things are placed among them. */
export function CloudPoints({ cloud }: { cloud: Cloud }) {
  const { invalidate } = useThree();
  const geometry = useMemo(() => {
    const g = new BufferGeometry();
    g.setAttribute('position', new BufferAttribute(cloud.places, 3));
    g.setAttribute(
      'color',
      new BufferAttribute(
        cloud.colours.map((v) => Math.min(1, v)),
        3,
      ),
    );
    return g;
  }, [cloud]);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  return (
    <points geometry={geometry} raycast={() => undefined}>
      <pointsMaterial size={3} sizeAttenuation={false} vertexColors toneMapped={false} />
    </points>
  );
}

const line = (places: readonly (readonly number[])[]): BufferGeometry =>
  new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(places.flatMap((p) => [...p])), 3));

const eyeOf = (v: View): readonly number[] => backTo(v, 0, 0, 0);

/** The way of the camera, and where it stands now. */
export function CameraWay({ camera, frame, now }: { camera: CameraData; frame: number; now: View | null }) {
  const way = useMemo(() => line(camera.frames.flatMap((f) => (camera.viewAt(f) ? [eyeOf(camera.viewAt(f)!)] : []))), [camera]);
  const cone = useMemo(() => {
    if (!now) return null;
    const [w, h] = [2 * now.centre[0], 2 * now.centre[1]];
    const far = 0.7;
    const eye = eyeOf(now);
    const corners = [
      [0, 0],
      [w, 0],
      [w, h],
      [0, h],
    ].map(([x, y]) => backTo(now, x!, y!, far));
    return line([...corners.flatMap((c) => [eye, c]), ...corners.flatMap((c, i) => [c, corners[(i + 1) % 4]!])]);
    // Where the camera stands is told by its frame.
  }, [now]);
  return (
    <group>
      <lineSegments key={`cone ${frame}`} geometry={cone ?? undefined}>
        <lineBasicMaterial color={tokens.ochre} />
      </lineSegments>
      <points geometry={way}>
        <pointsMaterial size={2.5} sizeAttenuation={false} color={tokens.ochre} />
      </points>
    </group>
  );
}
