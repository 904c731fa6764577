import { focalPixels, onlyChannel, scaleRays, viewParams } from '../../passes/depth';
import { giveMatte, matteChannels, matteNeeds, matteOutput } from '../../passes/matte-output';
import { choice, layer, number, toggle } from '../../param';
import { RGBA } from '../../picture';
import { defineStep } from '../../step';
import { NO_DEPTH, depthIn, distanceOf } from './data';

export const depthRange = defineStep({
  type: 'depthRange',
  title: 'Depth range',
  family: 'Passes',
  summary: 'Makes a matte of distance: from near to far it goes from black to white, or back.',
  readsData: true,
  params: {
    depth: layer('Depth', { role: 'depth' }),
    near: number('Near', 1, [0, 20], { min: 0, max: 1e6, help: 'In the units of the scene, as all distances.' }),
    far: number('Far', 10, [0, 100], { min: 0, max: 1e6 }),
    gamma: number('Gamma', 1, [0.2, 4], { min: 0.05, max: 20 }),
    invert: toggle('White is near', false),
    nothing: choice('Empty pixels count as', 'far', [
      { value: 'far', title: 'Far' },
      { value: 'near', title: 'Near' },
    ]),
    measure: choice('Distance', 'view', [
      { value: 'view', title: 'Along the view' },
      { value: 'ray', title: 'From the camera', help: 'Along the ray of each pixel.' },
    ]),
    gives: matteOutput,
    ...viewParams,
  },
  feeds: [],
  remark: (p, io) =>
    !depthIn(io.inputs.main, p.depth) ? NO_DEPTH : p.near === p.far ? 'near and far are the same: it is a hard cut there' : null,
  neutral: (p, io) => !depthIn(io.inputs.main, p.depth),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => matteChannels(channels),
  locality: 'pixel',
  needs: (p, { region, channels }, io) => [
    { input: 'main', region, channels: [onlyChannel(depthIn(io.inputs.main, p.depth)!), ...matteNeeds(p.gives, channels)] },
  ],
  render(ctx, p, out) {
    const { main } = ctx.inputs;
    const { region } = ctx.tile('main')!;
    const matte = distanceOf(ctx, depthIn(main, p.depth)!, p);
    if (p.measure === 'ray') scaleRays(matte, region, focalPixels(p, main!.format), main!.format, 1);
    const span = p.far - p.near;
    const nothing = p.nothing === 'far' ? 1 : 0;
    for (let i = 0; i < matte.length; i++) {
      const z = matte[i]!;
      let v = z === Infinity ? nothing : span === 0 ? Number(z > p.near) : (z - p.near) / span;
      v = v < 0 ? 0 : v > 1 ? 1 : v;
      if (p.gamma !== 1) v = v ** (1 / p.gamma);
      matte[i] = p.invert ? 1 - v : v;
    }
    giveMatte(ctx, p.gives, matte, out);
  },
});
