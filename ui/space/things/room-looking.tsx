'use client';
import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import { Box3, BufferAttribute, BufferGeometry, Matrix4, PerspectiveCamera, Vector3 } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { Tap } from '@/core/document';
import type { View } from '@/core/render';
import { backTo } from '@/core/render';
import type { CameraReading } from '@/core/readings';
import type { CameraData } from '@/core/space';
import { useShotPart } from '../../workbench/context';
import { useView } from '../../workbench/state';
import { cloudPlaces, pointPlaces } from './room-parts';
import { useLaneTexture } from './lane-texture';
import type { SceneAt } from './use-scene';

const NEAR = 0.02;
const FAR = 2000;
/** How far off the plate is drawn, behind everything. */
const BACK = 1500;

interface Props {
  through: View | null;
  /** Grows with each wish to see all. */
  framed: number;
  scene: SceneAt | null;
  reading: CameraReading | undefined;
  camera: CameraData | null;
}

/** How the room is looked at: orbited with the pointer, or through the scene's camera with its plate behind. */
export function Looking({ through, framed, scene, reading, camera }: Props) {
  const { gl, camera: eye, size, invalidate, set } = useThree();
  const format = useShotPart('format');
  const controls = useRef<OrbitControls | null>(null);
  const thing = useView((s) => s.thing);

  useEffect(() => {
    const made = new OrbitControls(eye, gl.domElement);
    made.addEventListener('change', () => invalidate());
    controls.current = made;
    set({ controls: made });
    return () => {
      made.dispose();
      controls.current = null;
    };
  }, [eye, gl, invalidate, set]);

  // What there is to see, once it is there and when it is wished.
  const cloud = scene?.cloud;
  const places = useMemo(
    () => (reading && camera ? pointPlaces(reading, camera).map((p) => p.at) : cloudPlaces(cloud ?? null)),
    [reading, camera, cloud],
  );
  const filled = places.length > 0;
  const ready = filled || scene !== null;
  useEffect(() => {
    const orbit = controls.current;
    if (!orbit || !ready) return;
    const box = new Box3();
    const one = framed > 0 ? scene?.things.find((t) => t.id === thing) : undefined;
    const center = (m: readonly number[]): Vector3 => new Vector3(m[3], m[7], m[11]);
    if (one) box.expandByPoint(center(scene!.place(one))).expandByScalar(1.5 * one.size);
    else {
      // Most of the points, about their middle: some of a solved camera lie far behind, few of a render.
      const left = reading ? 0.15 : 0.02;
      const sorted = [0, 1, 2].map((k) => places.map((p) => p[k]!).sort((a, b) => a - b));
      const n = places.length;
      if (n > 0) {
        box.expandByPoint(new Vector3(...(sorted.map((s) => s[Math.floor(left * n)]!) as [number, number, number])));
        box.expandByPoint(new Vector3(...(sorted.map((s) => s[Math.floor((1 - left) * n)]!) as [number, number, number])));
      }
      scene?.things.forEach((t) => t.what !== 'light' && box.expandByPoint(center(scene.place(t))));
    }
    if (box.isEmpty()) box.expandByPoint(new Vector3(0, 0, 0)).expandByScalar(3);
    const middle = box.getCenter(new Vector3());
    const wide = Math.max(1, box.getSize(new Vector3()).length());
    orbit.target.copy(middle);
    eye.position.copy(middle).add(new Vector3(0.35, 0.45, 0.85).multiplyScalar(0.95 * wide));
    orbit.update();
    invalidate();
    // Not at each change of the scene: what is looked at shall not jump.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [framed, ready, filled]);

  useEffect(() => {
    const orbit = controls.current;
    if (orbit) orbit.enabled = through === null;
    if (!(eye instanceof PerspectiveCamera)) return;
    eye.matrixAutoUpdate = through === null;
    if (through === null) {
      eye.near = NEAR;
      eye.far = FAR;
      eye.updateProjectionMatrix();
      orbit?.update();
    }
    invalidate();
  }, [through, eye, invalidate]);

  useFrame(() => {
    if (!through) return;
    const { matrix: m, focal, centre } = through;
    // The world as the camera has it, with y up and looking along −z.
    const turned = new Matrix4().set(
      m[0]!,
      m[1]!,
      m[2]!,
      m[3]!,
      -m[4]!,
      -m[5]!,
      -m[6]!,
      -m[7]!,
      -m[8]!,
      -m[9]!,
      -m[10]!,
      -m[11]!,
      0,
      0,
      0,
      1,
    );
    eye.matrixWorldInverse.copy(turned);
    eye.matrix.copy(turned).invert();
    eye.matrixWorld.copy(eye.matrix);
    eye.matrixWorldAutoUpdate = false;
    // The whole picture in the canvas, with what is beside it.
    const zoom = Math.min(size.width / format.width, size.height / format.height);
    const [dx, dy] = [(size.width / zoom - format.width) / 2, (size.height / zoom - format.height) / 2];
    const k = NEAR / focal;
    eye.projectionMatrix.makePerspective(
      (-centre[0] - dx) * k,
      (format.width - centre[0] + dx) * k,
      (centre[1] + dy) * k,
      (centre[1] - format.height - dy) * k,
      NEAR,
      FAR,
    );
    eye.projectionMatrixInverse.copy(eye.projectionMatrix).invert();
  });
  useEffect(() => {
    if (through === null) eye.matrixWorldAutoUpdate = true;
  }, [through, eye]);

  return through && reading ? <Plate view={through} from={reading.from} /> : null;
}

/** What the camera filmed, far behind everything. */
function Plate({ view: v, from }: { view: View; from: Tap }) {
  const format = useShotPart('format');
  const texture = useLaneTexture(from, 0.5);
  const geometry = useMemo(() => {
    const corners = [
      [0, 0],
      [format.width, 0],
      [format.width, format.height],
      [0, format.height],
    ].map(([x, y]) => backTo(v, x!, y!, BACK));
    const g = new BufferGeometry();
    g.setAttribute('position', new BufferAttribute(Float32Array.from(corners.flat()), 3));
    g.setAttribute('uv', new BufferAttribute(Float32Array.of(0, 0, 1, 0, 1, 1, 0, 1), 2));
    g.setIndex([0, 2, 1, 0, 3, 2]);
    return g;
  }, [v, format]);
  if (!texture) return null;
  return (
    <mesh geometry={geometry} renderOrder={-1}>
      <meshBasicMaterial map={texture} depthWrite={false} toneMapped={false} />
    </mesh>
  );
}
