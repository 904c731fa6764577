import { grow, width } from '../../geometry/rect';
import { focalPixels, onlyChannel, takeFromSolid, viewParams } from '../../passes/depth';
import { colour, layer, number, toggle } from '../../param';
import { COLOUR } from '../../picture';
import type { PictureInfo } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { NO_DEPTH, copyOf, depthIn, distanceOf, positionIn, within } from './data';

const usesHeight = (p: { byHeight: boolean; position: string }, main: PictureInfo | undefined) =>
  p.byHeight ? positionIn(main, p.position) : undefined;

/** Optical depth beyond which nothing is seen. */
const DENSE = 60;

/** A height over the ground, in scale heights, kept within what an exponent holds. */
const scaled = (height: number, p: { ground: number; falloff: number }): number =>
  Math.max(-DENSE, Math.min(DENSE, (height - p.ground) / p.falloff));

/** Henyey & Greenstein 1941, so that g = 0 gives 1 in every direction. */
const phase = (cos: number, g: number): number => (1 - g * g) / (1 + g * g - 2 * g * cos) ** 1.5;

/**
 * Light through air by Beer and Lambert: out = c·T + α·(1 − T)·air, T = exp(−∫ density). With a falloff by height the integral along the ray of
 * an exponential atmosphere is exact.
 */
export const haze = defineStep({
  type: 'haze',
  title: 'Haze',
  family: 'Passes',
  summary: 'Lets air stand between the camera and what is seen, thicker with distance, thinner with height, lit from a side.',
  readsData: true,
  params: {
    depth: layer('Depth', { role: 'depth' }),
    colour: colour('Air', [0.05, 0.07, 0.1], { pick: true, help: 'The light of air that is endlessly thick.' }),
    density: number('Density', 0.1, [0, 1], {
      min: 0,
      max: 1000,
      help: 'Of light, this part is lost a unit of distance: 0.1 a metre leaves 37 % after ten.',
    }),
    start: number('Starts at', 0, [0, 20], { min: 0, max: 1e6, help: 'Distance from the camera.' }),
    nothing: number('Empty pixels lie at', 100, [0, 200], {
      min: 0,
      max: 1e6,
      help: 'The distance that is taken where the depth says that nothing is there.',
    }),
    byHeight: toggle('By height', false, { group: 'Height' }),
    position: layer('Position', { role: 'position', group: 'Height', when: { byHeight: [true] } }),
    ground: number('Ground at', 0, [-5, 5], { group: 'Height', when: { byHeight: [true] }, help: 'Height y at which the density holds.' }),
    falloff: number('Falls to 37 % in', 2, [0.1, 20], { min: 1e-3, max: 1e6, group: 'Height', when: { byHeight: [true] } }),
    eye: number('Camera height', 1.5, [0, 10], { group: 'Height', when: { byHeight: [true] } }),
    glow: number('Light in the air', 0, [0, 4], { min: 0, max: 1000, group: 'Light', help: 'As much as the air itself where 1.' }),
    glowColour: colour('Its colour', [0.3, 0.25, 0.18], { group: 'Light', pick: true }),
    side: number('From the side', 0, [-180, 180], { unit: '°', group: 'Light', help: '0° is behind what is seen, 90° right.' }),
    above: number('From above', 20, [-90, 90], { unit: '°', min: -90, max: 90, group: 'Light' }),
    forward: number('Forward', 0.6, [-0.9, 0.9], {
      min: -0.95,
      max: 0.95,
      group: 'Light',
      help: 'g of Henyey and Greenstein: how much air scatters on.',
    }),
    uneven: number('Uneven', 0, [0, 1], { min: 0, max: 1, group: 'Clouds' }),
    size: number('Cloud size', 200, [20, 800], { unit: 'px', min: 2, max: 20_000, pixels: true, group: 'Clouds' }),
    drift: number('Changes', 0.2, [0, 2], { unit: '/s', min: 0, max: 100, group: 'Clouds', animatable: false }),
    ...viewParams,
  },
  feeds: [],
  remark: (p, io) => (depthIn(io.inputs.main, p.depth) ? null : NO_DEPTH),
  neutral: (p, io) => p.density === 0 || !depthIn(io.inputs.main, p.depth),
  identity: (p, io) => (p.uneven > 0 && p.drift > 0 ? io.frame : null),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'region',
  needs(p, { region, channels }, io) {
    const { main } = io.inputs;
    const position = usesHeight(p, main);
    return [
      {
        input: 'main',
        region: grow(region, 1),
        channels: [...channels, 'A', onlyChannel(depthIn(main, p.depth)!), ...(position ? [position.channels[1]!] : [])],
      },
    ];
  },
  render(ctx, p, out) {
    const { main } = ctx.inputs;
    const { region, planes } = ctx.tile('main')!;
    const position = usesHeight(p, main);
    const { fn } = ctx.kernels;
    const focal = focalPixels(p, main!.format);
    const whole = distanceOf(ctx, depthIn(main, p.depth)!, p);
    const tops = position ? copyOf(ctx, position.channels[1]!) : null;
    if (tops && position!.facts?.turned?.includes('y')) fn.affine(tops.byteOffset, tops.byteOffset, tops.length, -1, 0);
    takeFromSolid(tops ? [whole, tops] : [whole], planes.A!, width(region));
    const distance = within(ctx, whole, region, out.region);
    const heights = tops && within(ctx, tops, region, out.region);
    const alpha = within(ctx, planes.A!, region, out.region);
    const ow = width(out.region);
    const clouds = p.uneven > 0 ? ctx.scratch(pixelsOf(out)) : null;
    if (clouds) {
      const z = (p.drift * ctx.frame) / ctx.frameRate;
      const { x0, y0 } = out.region;
      fn.gradientNoise(clouds.byteOffset, ow, clouds.length / ow, x0, y0, p.size, z, 4, 4, 0.5, 11);
    }
    const [side, above] = [(p.side * Math.PI) / 180, (p.above * Math.PI) / 180];
    const light = [Math.sin(side) * Math.cos(above), -Math.sin(above), Math.cos(side) * Math.cos(above)];
    const { format } = main!;
    const through = ctx.scratch(pixelsOf(out));
    const lit = ctx.scratch(pixelsOf(out));
    for (let y = out.region.y0, o = 0; y < out.region.y1; y++) {
      if ((y & 63) === 0) ctx.poll();
      const v = (y + 0.5 - format.height / 2) / focal;
      for (let x = out.region.x0; x < out.region.x1; x++, o++) {
        const u = (x + 0.5 - format.width / 2) / focal;
        const ray = Math.sqrt(1 + u * u + v * v);
        const z = distance[o]!;
        const far = z === Infinity ? p.nothing : z * ray;
        let optical = p.density * Math.max(0, far - p.start);
        if (heights) {
          // The mean of exp(−h/H) along the ray.
          const top = z === Infinity ? p.eye : heights[o]!;
          const from = scaled(p.eye, p);
          const rise = scaled(top, p) - from;
          optical *= Math.exp(-from) * (Math.abs(rise) < 1e-4 ? 1 - rise / 2 : (1 - Math.exp(-rise)) / rise);
        }
        if (clouds) optical *= Math.max(0, 1 + p.uneven * 2.8 * clouds[o]!);
        through[o] = Math.exp(-Math.min(DENSE, optical));
        lit[o] = p.glow === 0 ? 0 : p.glow * phase((u * light[0]! + v * light[1]! + light[2]!) / ray, p.forward);
      }
    }
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      const from = within(ctx, planes[c]!, region, out.region);
      for (let o = 0; o < plane.length; o++) {
        const t = through[o]!;
        plane[o] = from[o]! * t + alpha[o]! * (1 - t) * (p.colour[k]! + lit[o]! * p.glowColour[k]!);
      }
    });
  },
});
