import { validateBytes } from 'gltf-validator';
import type { Group, Light, Mesh as ThreeMesh, SpotLight } from 'three';
import { Box3, Vector3 } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { USDLoader } from 'three/examples/jsm/loaders/USDLoader.js';
import type { Vec3 } from '../../geometry/vec3';
import { pointA3, placedA3, quaternionOfDegrees } from '../../render/affine';
import { seenBy } from '../../render/screen';
import { lookingFrom } from '../../testing/render';
import { boxMesh } from '../../render/shapes';
import { writeGlb } from '../exchange/gltf';
import { writeUsda } from '../exchange/usda';
import { cameraSceneOf, exportedThing, frameOfView } from './exchange';
import type { Thing } from './params';

const thing = (name: string, more: Partial<Thing>): Thing =>
  ({
    id: name,
    name,
    what: 'card',
    tint: [1, 1, 1],
    bend: 0,
    cells: 8,
    wide: 3,
    inside: false,
    light: 'sun',
    strength: 2,
    cone: 40,
    ...more,
  }) as Thing;
const place = placedA3([1, 2, -3], quaternionOfDegrees([10, 40, 5]), [1.5, 1.5, 1.5]);
const world: { at: Vec3; aim: Vec3 } = { at: [4, 6, 3], aim: [0, 0, 0] };
const things = [
  exportedThing(thing('Poster', {}), place, 1.6, world, null)!,
  exportedThing(thing('Crate', { what: 'box' }), place, 1, world, null)!,
  exportedThing(thing('Marker', { what: 'model' }), place, 1, world, [
    { mesh: boxMesh(), matrix: placedA3([0, 1, 0], [0, 0, 0, 1], [1, 2, 1]), colour: [0.8, 0.5, 0.2] },
  ])!,
  exportedThing(thing('Ground', { what: 'catcher' }), placedA3([0, 0, 0], [0, 0, 0, 1], [1, 1, 1]), 1, world, null)!,
  exportedThing(thing('Sun', { what: 'light' }), place, 1, world, null)!,
  exportedThing(thing('Spot', { what: 'light', light: 'spot', cone: 50 }), place, 1, world, null)!,
  exportedThing(thing('Sky', { what: 'light', light: 'around' }), place, 1, world, null)!,
];
const viewAt = (f: number) => lookingFrom([0.1 * f, 1, 3], 800, 960, 540);
const scene = cameraSceneOf('Slip', 24, { width: 960, height: 540 }, { first: 1, last: 5 }, viewAt, things);

const boxesIn = (root: Group): Map<string, Box3> => {
  root.updateMatrixWorld(true);
  const made = new Map<string, Box3>();
  root.traverse((o) => {
    if (!(o as ThreeMesh).isMesh) return;
    const box = new Box3().setFromObject(o, true);
    made.set(o.name.replace(/_/g, ' '), box);
  });
  return made;
};

/** The corners of the box's box in the world. */
const expected = (at: (p: Vec3) => Vec3): Box3 => {
  const box = new Box3();
  for (let k = 0; k < 8; k++) box.expandByPoint(new Vector3(...at([(k & 1) - 0.5, ((k >> 1) & 1) - 0.5, (k >> 2) - 0.5])));
  return box;
};
const close = (a: Box3, b: Box3): void => {
  expect(a.min.distanceTo(b.min)).toBeLessThan(1e-4);
  expect(a.max.distanceTo(b.max)).toBeLessThan(1e-4);
};

describe('a scene with its things', () => {
  test('as .glb: without errors, and where it was through three’s reader', async () => {
    const bytes = await writeGlb(scene);
    const { issues } = await validateBytes(bytes);
    expect(issues.numErrors).toBe(0);
    const { scene: root } = await new GLTFLoader().parseAsync(bytes.slice().buffer, '');
    const boxes = boxesIn(root);
    close(
      boxes.get('Crate 1')!,
      expected((p) => pointA3(place, p)),
    );
    close(
      boxes.get('Marker 1')!,
      expected(([x, y, z]) => pointA3(place, [x, 1 + 2 * y, z])),
    );
    const sun = root.getObjectByName('Sun')!;
    expect(sun.userData.light).toMatchObject({ kind: 'sun', strength: 2 });
    const lamps: Light[] = [];
    root.traverse((o) => (o as Light).isLight && lamps.push(o as Light));
    expect(lamps.map((l) => l.type).sort()).toEqual(['DirectionalLight', 'SpotLight']);
    const [shines, spot] = ['DirectionalLight', 'SpotLight'].map((type) => lamps.find((l) => l.type === type)!);
    // Lights a white matt surface to 2.
    expect(shines!.intensity).toBeCloseTo(2 * Math.PI, 5);
    expect((spot as SpotLight).angle).toBeCloseTo((25 * Math.PI) / 180, 5);
    // It shines along −z towards where it points.
    const ahead = new Vector3(0, 0, -1).transformDirection(sun.matrixWorld);
    expect(ahead.distanceTo(new Vector3(-4, -6, -3).normalize())).toBeLessThan(1e-5);
  });

  test('as .usda: the same through three’s reader', () => {
    const boxes = boxesIn(new USDLoader().parse(writeUsda(scene)) as Group);
    close(
      boxes.get('Crate 1')!,
      expected((p) => pointA3(place, p)),
    );
    close(
      boxes.get('Marker 1')!,
      expected(([x, y, z]) => pointA3(place, [x, 1 + 2 * y, z])),
    );
    expect(writeUsda(scene)).toContain('def DistantLight "Sun"');
  });

  test('the camera goes out as it sees', () => {
    const { eye, turn, focal } = frameOfView(1, viewAt(1));
    expect(eye.map((v) => Number(v.toFixed(9)))).toEqual([0.1, 1, 3]);
    const p: Vec3 = [0.4, 1.3, -2];
    const own = [0, 1, 2].map((c) => [0, 1, 2].reduce((s, k) => s + turn[3 * k + c]! * (p[k]! - eye[k]!), 0));
    const [x, y] = seenBy(viewAt(1), p);
    expect(480 + (focal * own[0]!) / -own[2]!).toBeCloseTo(x, 6);
    expect(270 - (focal * own[1]!) / -own[2]!).toBeCloseTo(y, 6);
  });

  test('without a camera it is refused with words', () => {
    expect(() => cameraSceneOf('x', 24, { width: 9, height: 9 }, { first: 1, last: 2 }, () => null, [])).toThrow('no camera yet');
  });
});
