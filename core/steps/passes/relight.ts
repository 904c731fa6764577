import { grow, width } from '../../geometry/rect';
import { factorsOf, lightParams } from '../../passes/adjust';
import { viewParams } from '../../passes/depth';
import { normalsOf, readSurface, surfaceChannels, surfacePasses } from '../../passes/positions';
import { passOf } from '../../passes/roles';
import { addLampLight } from '../../passes/shading';
import { environmentLight } from '../../passes/environment';
import { choice, integer, layer, number, parts, toggle, triple } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep } from '../../step';
import { colourOfLayer } from '../channels/pick-layer';
import { NO_DEPTH, within } from './data';

const placed = ['point', 'spot'];

export const relight = defineStep({
  type: 'relight',
  title: 'Relight',
  family: 'Passes',
  summary: 'Sets new lamps into a finished render: they shade it by its normals and positions, and what stands between throws a shadow.',
  readsData: true,
  params: {
    lamps: parts('Lamps', 'lamp', {
      ...lightParams,
      kind: choice('Kind', 'point', [
        { value: 'point', title: 'Point' },
        { value: 'spot', title: 'Spot' },
        { value: 'sun', title: 'Sun: from one direction' },
      ]),
      at: triple('At', 0, [-5, 5], { help: 'x, y, z of the scene; of the sun, the direction to it.' }),
      aim: triple('Points at', 0, [-5, 5], { when: { kind: ['spot'] } }),
      radius: number('Radius', 0.05, [0, 2], { min: 0, max: 1e6, when: { kind: placed }, help: 'Nearer than this it gets no brighter.' }),
      cone: number('Half angle', 30, [1, 85], { unit: '°', min: 0.1, max: 89, when: { kind: ['spot'] } }),
      soft: number('Soft edge', 0.3, [0, 1], { min: 0, max: 1, when: { kind: ['spot'] } }),
      shadow: toggle('Shadow', true, { animatable: false }),
    }),
    gives: choice('Gives', 'added', [
      { value: 'added', title: 'The picture with the light' },
      { value: 'light', title: 'The light alone' },
      { value: 'ratio', title: 'The picture, times 1 + light', help: 'For renders without albedo: what is there gets brighter.' },
    ]),
    position: layer('Position', { role: 'position', group: 'Surface', help: 'Without one, positions are made of the depth.' }),
    depth: layer('Depth', { role: 'depth', group: 'Surface' }),
    normal: layer('Normal', { role: 'normal', group: 'Surface', help: 'Without one, normals are made of the positions.' }),
    albedo: layer('Albedo', { role: 'albedo', group: 'Surface', help: 'Without one, 0.18 grey.' }),
    gloss: number('Gloss', 0, [0, 1], { min: 0, max: 10, group: 'Surface', help: 'How much of the glossy reflection is added.' }),
    roughness: number('Roughness', 0.35, [0.05, 1], { min: 0.03, max: 1, group: 'Surface' }),
    reflectance: number('Reflectance', 0.04, [0.02, 1], {
      min: 0,
      max: 1,
      group: 'Surface',
      help: 'Straight on: 0.04 of most things, more of metals.',
    }),
    thick: number('Thickness of things', 0.3, [0.02, 2], {
      min: 0,
      max: 1e6,
      group: 'Shadow',
      help: 'How far they reach behind what is seen of them.',
    }),
    steps: integer('Steps', 48, [8, 256], { min: 4, max: 1024, group: 'Shadow', animatable: false }),
    surround: number('Surround', 1, [0, 4], {
      min: 0,
      max: 1000,
      group: 'Surround',
      help: 'Gain of the picture all around, where one is connected.',
    }),
    surroundTurn: number('Surround turn', 0, [-180, 180], { unit: '°', group: 'Surround' }),
    ...viewParams,
  },
  feeds: [{ name: 'surround', title: 'Surround', help: 'A picture of all directions, twice as wide as high, that lights the scene.' }],
  remark(p, io) {
    const { position, depth } = surfacePasses(io.inputs.main, p);
    if (!position && !depth) return NO_DEPTH;
    return p.lamps.length === 0 && !io.inputs.surround ? 'no lamp is there yet: click the picture to set one' : null;
  },
  neutral(p, io) {
    const { position, depth } = surfacePasses(io.inputs.main, p);
    return (!position && !depth) || (p.gives === 'added' && p.lamps.length === 0 && !io.inputs.surround);
  },
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'whole',
  needs(p, { region }, io) {
    const main = io.inputs.main!;
    const albedo = passOf(main.passes, p.albedo, 'albedo');
    const channels = [
      ...COLOUR,
      'A',
      ...surfaceChannels(surfacePasses(main, p)),
      ...(albedo ? colourOfLayer(main.channels, albedo.name) : []),
    ];
    const { surround } = io.inputs;
    return [
      { input: 'main', region: grow(region, 1), channels },
      ...(surround ? [{ input: 'surround', region: surround.bounds, channels: COLOUR }] : []),
    ];
  },
  render(ctx, p, out) {
    const main = ctx.inputs.main!;
    const { region, planes } = ctx.tile('main')!;
    const take = (k: number): Float32Array => ctx.scratch(k);
    const w = width(region);
    const read = readSurface(surfacePasses(main, p), planes, region, main.format, p, take);
    const normals = read.normals ?? normalsOf(read, w, take);
    const alpha = planes.A!;
    const n = alpha.length;
    const stands = take(n);
    for (let i = 0; i < n; i++) stands[i] = alpha[i]! >= 0.5 ? read.distance[i]! : Infinity;
    const albedoPass = passOf(main.passes, p.albedo, 'albedo');
    // Premultiplied, as albedo passes are.
    const grey = (): Float32Array => {
      const plane = take(n);
      ctx.kernels.fn.affine(alpha.byteOffset, plane.byteOffset, n, 0.18, 0);
      return plane;
    };
    const albedo = albedoPass ? colourOfLayer(main.channels, albedoPass.name).map((c) => planes[c]!) : COLOUR.map(grey);
    const light = COLOUR.map(() => take(n).fill(0)) as [Float32Array, Float32Array, Float32Array];
    const lit = { ...read, normals, stands, albedo, alpha };
    for (const lamp of p.lamps) {
      if (lamp.on) addLampLight(ctx.kernels, lit, w, region, { ...lamp, light: factorsOf(lamp) }, p, light, () => ctx.poll());
    }
    const around = ctx.tile('surround');
    if (around) {
      const surround = environmentLight(around, ctx.inputs.surround!.format, p.surroundTurn);
      for (let i = 0; i < n; i++) {
        if (i % (64 * w) === 0) ctx.poll();
        if (!(read.distance[i]! < Infinity) || alpha[i]! <= 0) continue;
        const e = surround([normals[0][i]!, normals[1][i]!, normals[2][i]!]);
        for (let k = 0; k < 3; k++) light[k]![i]! += p.surround * e[k]! * albedo[k]![i]!;
      }
    }
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      plane.set(within(ctx, light[k]!, region, out.region));
      if (p.gives === 'light') return;
      const from = within(ctx, planes[c]!, region, out.region).byteOffset;
      const at = plane.byteOffset;
      if (p.gives === 'ratio') {
        // As light of the surface, not of what it covers.
        ctx.kernels.fn.unpremultiply(at, within(ctx, alpha, region, out.region).byteOffset, at, plane.length);
        ctx.kernels.fn.multiply(at, from, at, plane.length);
      }
      ctx.kernels.fn.addScaled(from, at, at, plane.length, 1);
    });
  },
});
