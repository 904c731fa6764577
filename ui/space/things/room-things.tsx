'use client';
import { useThree } from '@react-three/fiber';
import type { RefObject } from 'react';
import { useEffect, useMemo, useRef } from 'react';
import {
  BackSide,
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Euler,
  FrontSide,
  Matrix4,
  Object3D,
  Quaternion,
  Vector3,
} from 'three';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import type { Value } from '@/core/document';
import type { Affine3 } from '@/core/render';
import { inverseA3, pointA3 } from '@/core/render';
import type { CameraReading } from '@/core/readings';
import type { Thing } from '@/core/space';
import { setParams } from '@/core/commands';
import { newGesture } from '../../controls/NumberField';
import { useRun, useShot } from '../../workbench/context';
import { tokens } from '../../theme/tokens';
import { useView, view } from '../../workbench/state';
import { useLaneTexture } from './lane-texture';
import type { Place } from './room-parts';
import { CloudPoints, cloudPlaces, pointPlaces } from './room-parts';
import { useRenderCloud } from './render-cloud';
import type { SceneAt } from './use-scene';
import { aspectOf, useModelShape } from './use-scene';

export type Grip = 'translate' | 'rotate' | 'scale';

/** A thing snaps to a point that is as near as this, units. */
const SNAP = 0.08;

const matrix4 = (m: Affine3): Matrix4 =>
  new Matrix4().set(m[0]!, m[1]!, m[2]!, m[3]!, m[4]!, m[5]!, m[6]!, m[7]!, m[8]!, m[9]!, m[10]!, m[11]!, 0, 0, 0, 1);

/** Where the dots of things of points stand in the world, by thing: others snap to them. */
type DotPlaces = Map<string, readonly Place[]>;

interface InScene {
  scene: SceneAt;
  thing: Thing;
  reading: CameraReading | undefined;
  dots: RefObject<DotPlaces>;
}

/** The things of a scene, and grips for the chosen one. */
export function RoomThings({ scene, grip, reading }: { scene: SceneAt; grip: Grip; reading: CameraReading | undefined }) {
  const chosen = useView((s) => s.thing);
  const thing = scene.things.find((t) => t.id === chosen && t.on);
  const dots = useRef<DotPlaces>(new Map());
  return (
    <>
      {scene.things
        .filter((t) => t.on)
        .map((t) => (
          <InRoom key={t.id} scene={scene} thing={t} chosen={t.id === chosen} reading={reading} dots={dots} />
        ))}
      {thing && <Grips key={`${thing.id} ${grip}`} scene={scene} thing={thing} grip={grip} reading={reading} dots={dots} />}
    </>
  );
}

function InRoom({ scene, thing, chosen, reading, dots }: InScene & { chosen: boolean }) {
  const shot = useShot();
  const { invalidate } = useThree();
  const group = useRef<Object3D>(null);
  const place = thing.what === 'light' ? null : scene.place(thing);
  const at = thing.what === 'light' ? scene.inWorld(thing, thing.at) : null;
  const key = JSON.stringify(place ?? at);
  useEffect(() => {
    const g = group.current;
    if (!g) return;
    g.matrix.copy(place ? matrix4(place) : new Matrix4().makeTranslation(...at!));
    g.matrixWorldNeedsUpdate = true;
    invalidate();
    // The matrix is told by its numbers.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, invalidate]);
  const tap = scene.step.feeds[`${thing.id}.picture`];
  const shows = ['card', 'ball', 'box'].includes(thing.what) && thing.shows === 'laid';
  const texture = useLaneTexture(shows ? tap : undefined, 0.25, thing.offset);
  const model = useModelShape(thing.what === 'model' ? shot.sources.find((s) => s.id === thing.model) : undefined);
  const pieces = useMemo(
    () =>
      model?.pieces.map((p) => {
        const geometry = new BufferGeometry();
        geometry.setAttribute('position', new BufferAttribute(p.positions, 3));
        geometry.setAttribute('normal', new BufferAttribute(p.normals, 3));
        geometry.setIndex(new BufferAttribute(p.indices, 1));
        geometry.applyMatrix4(matrix4(p.matrix));
        return { geometry, colour: new Color(...p.colour) };
      }) ?? [],
    [model],
  );
  const tint = useMemo(() => new Color(...thing.tint), [thing.tint]);
  const aspect = aspectOf(shot, scene.step, thing.id);
  // A stand-in is seen through, so that what it stands for is seen.
  const clear = thing.holds ? 0.25 : thing.shows === 'thrown' ? 0.35 : thing.opacity;
  const plain = (
    <meshBasicMaterial
      key={texture ? texture.uuid : 'plain'}
      map={texture}
      color={texture ? tint : chosen ? tokens.ochre : thing.holds ? tokens.glaze : tokens.dust}
      transparent={clear < 1 || texture !== null}
      opacity={clear}
      side={thing.what === 'ball' && thing.inside ? BackSide : thing.what === 'card' ? DoubleSide : FrontSide}
      depthWrite={clear === 1 && !texture}
      toneMapped={false}
    />
  );
  const edge = chosen ? tokens.bone : tokens.ash;
  return (
    <group
      ref={group as never}
      matrixAutoUpdate={false}
      onClick={(e) => {
        e.stopPropagation();
        view.set({ thing: thing.id });
      }}
    >
      {thing.what === 'card' && (
        <mesh>
          <CardShape aspect={aspect} />
          {plain}
        </mesh>
      )}
      {thing.what === 'box' && (
        <mesh>
          <boxGeometry />
          {plain}
        </mesh>
      )}
      {thing.what === 'ball' && (
        <mesh>
          <sphereGeometry args={[0.5, 48, 24]} />
          {plain}
        </mesh>
      )}
      {pieces.map(({ geometry, colour }, i) => (
        <mesh key={i} geometry={geometry}>
          <meshStandardMaterial color={colour} roughness={0.5} transparent={clear < 1} opacity={clear} />
        </mesh>
      ))}
      {thing.what === 'catcher' && (
        <mesh rotation={[-Math.PI / 2, 0, 0]}>
          <planeGeometry args={[thing.wide, thing.wide]} />
          <meshBasicMaterial color={edge} transparent opacity={0.14} side={DoubleSide} depthWrite={false} />
        </mesh>
      )}
      {thing.what === 'light' && (
        <mesh>
          <octahedronGeometry args={[0.14]} />
          <meshBasicMaterial color={chosen ? tokens.bone : tokens.ochre} wireframe />
        </mesh>
      )}
      {thing.what === 'points' && <Dots scene={scene} thing={thing} reading={reading} dots={dots} />}
      {thing.what === 'holder' && <axesHelper args={[0.4]} />}
    </group>
  );
}

/** A thing of points: those of the camera, or of a render. */
function Dots({ scene, thing, reading, dots }: InScene) {
  const solved = useMemo(
    () => (thing.dots === 'camera' && reading ? (scene.camera?.cloud(thing.group) ?? null) : null),
    [thing.dots, thing.group, reading, scene.camera],
  );
  const render = useRenderCloud(scene, thing);
  const cloud = thing.dots === 'camera' ? solved : render;
  const { id } = thing;
  const place = JSON.stringify(scene.place(thing));
  useEffect(() => {
    const { current } = dots;
    const m = JSON.parse(place) as Affine3;
    current.set(
      id,
      cloudPlaces(cloud).map((p) => pointA3(m, p)),
    );
    return () => void current.delete(id);
  }, [dots, cloud, id, place]);
  return cloud && <CloudPoints cloud={cloud} />;
}

/** A card with its picture's first row on top. */
function CardShape({ aspect }: { aspect: number }) {
  const geometry = useMemo(() => {
    const [w, h] = [aspect / 2, 0.5];
    const g = new BufferGeometry();
    g.setAttribute('position', new BufferAttribute(Float32Array.of(-w, h, 0, w, h, 0, w, -h, 0, -w, -h, 0), 3));
    g.setAttribute('uv', new BufferAttribute(Float32Array.of(0, 0, 1, 0, 1, 1, 0, 1), 2));
    g.setIndex([0, 2, 1, 0, 3, 2]);
    return g;
  }, [aspect]);
  return <primitive object={geometry} attach="geometry" />;
}

/** The nearest of some places, where it is near enough to snap to. */
function nearestOf(places: readonly Place[], [x, y, z]: Place): Place | null {
  let best: Place | null = null;
  let least = SNAP;
  for (const p of places) {
    const far = Math.hypot(p[0] - x, p[1] - y, p[2] - z);
    if (far < least) [best, least] = [p, far];
  }
  return best;
}

/** Move, turn and size by grips; a move snaps to points of the camera, of what a render shows, or of things of points. */
function Grips({ scene, thing, grip, reading, dots }: InScene & { grip: Grip }) {
  const { camera, gl, scene: root, invalidate, controls } = useThree();
  const run = useRun();
  const helper = useMemo(() => new Object3D(), []);
  const now = useRef({ scene, thing, gesture: newGesture(), size: thing.size });
  const dragging = useRef(false);
  useEffect(() => {
    now.current.scene = scene;
    now.current.thing = thing;
  }, [scene, thing]);
  const place = thing.what === 'light' ? null : scene.place(thing);
  const at = scene.inWorld(thing, thing.at);
  const key = JSON.stringify(place ?? at);
  useEffect(() => {
    if (dragging.current) return;
    if (place) matrix4(place).decompose(helper.position, helper.quaternion, helper.scale);
    else helper.position.set(...at);
    helper.scale.set(1, 1, 1);
    invalidate();
    // Told by its numbers.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, helper, invalidate]);
  useEffect(() => {
    const made = new TransformControls(camera, gl.domElement);
    root.add(helper);
    made.attach(helper);
    made.setMode(grip);
    made.setSize(0.8);
    const shown = made.getHelper();
    root.add(shown);
    const points = reading && scene.camera ? pointPlaces(reading, scene.camera).map((p) => p.at as Place) : cloudPlaces(scene.cloud);
    const changed = (): void => {
      const { scene: s, thing: t, gesture, size } = now.current;
      const values: Record<string, Value> = {};
      const four = (v: number): number => Number(v.toPrecision(6));
      if (grip === 'translate') {
        const others = [...dots.current].flatMap(([id, places]) => (id === t.id ? [] : places));
        values.at = s.inOwn(t, nearestOf([...points, ...others], helper.position.toArray()) ?? helper.position.toArray()).map(four);
      } else if (grip === 'rotate') {
        // Back to what it hangs on.
        const own = inverseA3(s.place({ ...t, at: [0, 0, 0], turn: [0, 0, 0], size: 1, sides: [1, 1, 1], facing: false }));
        const ground = new Quaternion();
        if (own) matrix4(own).decompose(new Vector3(), ground, new Vector3());
        const e = new Euler().setFromQuaternion(ground.multiply(helper.quaternion), 'ZYX');
        values.turn = [e.x, e.y, e.z].map((r) => Number(((r * 180) / Math.PI).toFixed(2)));
      } else {
        const most = helper.scale.toArray().sort((a, b) => Math.abs(b - 1) - Math.abs(a - 1))[0]!;
        values.size = Number(Math.max(1e-3, size * most).toPrecision(4));
      }
      const label = grip === 'translate' ? 'Move' : grip === 'rotate' ? 'Turn' : 'Size';
      const named = Object.fromEntries(Object.entries(values).map(([k, v]) => [`${t.id}.${k}`, v]));
      run(`${label} ${t.name}`, setParams(s.step.id, named, view.get().frame), gesture);
    };
    const drag = (e: { value: unknown }): void => {
      dragging.current = e.value === true;
      if (dragging.current) {
        now.current.gesture = newGesture();
        now.current.size = now.current.thing.size;
      } else helper.scale.set(1, 1, 1);
      if (controls) (controls as OrbitControls).enabled = !dragging.current;
      view.set({ dragging: dragging.current });
    };
    const draw = (): void => invalidate();
    made.addEventListener('objectChange', changed);
    made.addEventListener('dragging-changed', drag as never);
    made.addEventListener('change', draw);
    invalidate();
    return () => {
      made.detach();
      made.dispose();
      root.remove(shown, helper);
    };
    // Grips are made once for a thing and a way of moving it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [camera, gl, root, grip, helper, controls, scene.cloud]);
  return null;
}
