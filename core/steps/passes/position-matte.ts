import { grow, width } from '../../geometry/rect';
import { viewParams } from '../../passes/depth';
import { giveMatte, matteChannels, matteNeeds, matteOutput } from '../../passes/matte-output';
import { solidNoise } from '../../passes/noise';
import { readSurface, surfaceChannels, surfacePasses } from '../../passes/positions';
import { choice, layer, number, triple } from '../../param';
import { RGBA } from '../../picture';
import { defineStep } from '../../step';
import { NO_DEPTH, within } from './data';

const round = ['sphere'];
const boxed = ['box'];
const flat = ['slab', 'ramp'];

const smooth = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t));

export const positionMatte = defineStep({
  type: 'positionMatte',
  title: 'Position matte',
  family: 'Passes',
  summary: 'Makes a matte of a place in the scene: what lies inside a sphere, a box or a slab, along a ramp, or in front of a point.',
  readsData: true,
  params: {
    position: layer('Position', { role: 'position', help: 'Without one, positions are made of the depth.' }),
    depth: layer('Depth', { role: 'depth' }),
    shape: choice('Shape', 'sphere', [
      { value: 'sphere', title: 'Sphere' },
      { value: 'box', title: 'Box' },
      { value: 'slab', title: 'Slab: between two planes' },
      { value: 'ramp', title: 'Ramp along a direction' },
      { value: 'front', title: 'In front of the point', help: 'A hold-out for an element that stands there.' },
    ]),
    centre: triple('Centre', 0, [-5, 5], { help: 'x, y, z of the scene.' }),
    radius: number('Radius', 0.5, [0.01, 5], { min: 0, max: 1e6, when: { shape: round } }),
    size: triple('Size', 1, [0.01, 5], { min: 0, max: 1e6, when: { shape: boxed } }),
    turn: number('Turn', 0, [-180, 180], { unit: '°', when: { shape: boxed }, help: 'About the vertical.' }),
    direction: triple('Direction', 0, [-1, 1], { when: { shape: flat }, help: 'At right angles to the planes; 0, 0, 0 is up.' }),
    thick: number('Thickness', 1, [0.01, 5], { min: 0, max: 1e6, when: { shape: flat } }),
    soft: number('Soft edge', 0.1, [0, 2], { min: 0, max: 1e6, help: 'In the units of the scene, inward.' }),
    rough: number('Uneven', 0, [0, 1], { min: 0, max: 100, help: 'Moves the edge by noise of the scene, in its units.' }),
    grain: number('Uneven: size', 0.3, [0.02, 3], { min: 1e-4, max: 1e6 }),
    gives: matteOutput,
    ...viewParams,
  },
  feeds: [],
  remark: (p, io) => {
    const { position, depth } = surfacePasses(io.inputs.main, p);
    return position || depth ? null : NO_DEPTH;
  },
  neutral: (p, io) => {
    const { position, depth } = surfacePasses(io.inputs.main, p);
    return !position && !depth;
  },
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => matteChannels(channels),
  // The camera is found from the whole picture.
  locality: 'whole',
  needs: (p, { region, channels }, io) => [
    {
      input: 'main',
      region: grow(region, 1),
      channels: ['A', ...surfaceChannels(surfacePasses(io.inputs.main, p)), ...matteNeeds(p.gives, channels)],
    },
  ],
  render(ctx, p, out) {
    const main = ctx.inputs.main!;
    const { region, planes } = ctx.tile('main')!;
    const s = readSurface(surfacePasses(main, p), planes, region, main.format, p, (n) => ctx.scratch(n));
    const at = insideOf(p, s.camera);
    const alpha = planes.A!;
    const matte = ctx.scratch(alpha.length);
    const w = width(region);
    for (let i = 0; i < alpha.length; i++) {
      if (i % (64 * w) === 0) ctx.poll();
      const cover = alpha[i]!;
      if (!(s.distance[i]! < Infinity) || cover <= 0) {
        matte[i] = 0;
        continue;
      }
      const uneven = p.rough > 0 ? p.rough * solidNoise(s.x[i]! / p.grain, s.y[i]! / p.grain, s.z[i]! / p.grain) : 0;
      const inside = at(s.x[i]!, s.y[i]!, s.z[i]!, s.distance[i]!) + uneven;
      matte[i] = cover * (p.soft > 0 ? smooth(inside / p.soft) : Number(inside >= 0));
    }
    giveMatte(ctx, p.gives, within(ctx, matte, region, out.region), out);
  },
});

interface Shape {
  shape: string;
  centre: readonly [number, number, number];
  radius: number;
  size: readonly [number, number, number];
  turn: number;
  direction: readonly [number, number, number];
  thick: number;
  soft: number;
}
type Camera = { eye: readonly [number, number, number]; forward: readonly [number, number, number] };

/** How far inside the shape a point is, in units of the scene; on a ramp, how far along it, so that the soft edge spans the ramp. */
function insideOf(p: Shape, { eye, forward }: Camera): (x: number, y: number, z: number, distance: number) => number {
  const [cx, cy, cz] = p.centre;
  if (p.shape === 'front') {
    const far = (cx - eye[0]) * forward[0] + (cy - eye[1]) * forward[1] + (cz - eye[2]) * forward[2];
    return (_x, _y, _z, distance) => far - distance;
  }
  if (p.shape === 'sphere') return (x, y, z) => p.radius - Math.hypot(x - cx, y - cy, z - cz);
  if (p.shape === 'box') {
    const [s, c] = [Math.sin((p.turn * Math.PI) / 180), Math.cos((p.turn * Math.PI) / 180)];
    const [hx, hy, hz] = p.size.map((v) => v / 2) as [number, number, number];
    return (x, y, z) => {
      const [dx, dz] = [x - cx, z - cz];
      return Math.min(hx - Math.abs(c * dx - s * dz), hy - Math.abs(y - cy), hz - Math.abs(s * dx + c * dz));
    };
  }
  const length = Math.hypot(...p.direction);
  const [nx, ny, nz] = length > 0 ? p.direction.map((v) => v / length) : [0, 1, 0];
  const along = (x: number, y: number, z: number): number => (x - cx) * nx! + (y - cy) * ny! + (z - cz) * nz!;
  if (p.shape === 'slab') return (x, y, z) => p.thick / 2 - Math.abs(along(x, y, z));
  return (x, y, z) => (along(x, y, z) / Math.max(1e-9, p.thick) + 0.5) * (p.soft || 1);
}
