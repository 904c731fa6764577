import { grow, height, width } from '../../geometry/rect';
import { onlyChannel, viewParams } from '../../passes/depth';
import { idChannels, idSets } from '../../passes/id';
import { giveMatte, matteChannels, matteNeeds, matteOutput } from '../../passes/matte-output';
import { passOf } from '../../passes/roles';
import { layer, number, toggle } from '../../param';
import type { PictureInfo } from '../../picture';
import { RGBA } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { depthIn, distanceOf } from './data';

/** The first channel of the picture's ids: what is another thing has another number there. */
const idChannel = (main: PictureInfo | undefined): string | undefined => {
  const set = main && idSets(main)[0];
  return set && idChannels(set)[0];
};
const normalIn = (main: PictureInfo | undefined) => passOf(main?.passes, '', 'normal');

export const edgesFromData = defineStep({
  type: 'edgesFromData',
  title: 'Edges from data',
  family: 'Passes',
  summary: 'Makes the matte of edges that the data show: where the depth steps, surfaces crease, or one thing ends and another begins.',
  readsData: true,
  params: {
    depth: layer('Depth', { role: 'depth' }),
    steps: number('Steps of depth', 0.03, [0.002, 0.3], {
      min: 0,
      max: 10,
      decimals: 3,
      help: 'As a part of the distance; 0 leaves them out.',
    }),
    creases: number('Creases', 40, [0, 120], { unit: '°', min: 0, max: 180, help: 'Between neighbouring normals; 0 leaves them out.' }),
    things: toggle('Object borders', true, { animatable: false, help: 'By their ids.' }),
    reach: number('Width', 1.5, [1, 12], { unit: 'px', min: 1, max: 60, pixels: true }),
    gives: matteOutput,
    ...viewParams,
  },
  feeds: [],
  remark: (p, { inputs: { main } }) =>
    depthIn(main, p.depth) || normalIn(main) || idChannel(main) ? null : 'the picture has no depth, normals or ids to find edges in',
  neutral: (p, { inputs: { main } }) => !depthIn(main, p.depth) && !normalIn(main) && !idChannel(main),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => matteChannels(channels),
  locality: 'region',
  needs: (p, { region, channels }, { inputs: { main } }) => {
    const depth = depthIn(main, p.depth);
    const id = idChannel(main);
    const data = [...(depth ? [onlyChannel(depth)] : []), ...(normalIn(main)?.channels ?? []), ...(id ? [id] : [])];
    return [{ input: 'main', region: grow(region, Math.ceil(p.reach) + 1), channels: [...data, ...matteNeeds(p.gives, channels)] }];
  },
  render(ctx, p, out) {
    const main = ctx.inputs.main!;
    const { region, planes } = ctx.tile('main')!;
    const w = width(region);
    const n = w * height(region);
    const edge = ctx.scratch(n).fill(0);
    const depth = depthIn(main, p.depth);
    const distance = depth && distanceOf(ctx, depth, p);
    const normal = normalIn(main)?.channels.map((c) => planes[c]!);
    const id = idChannel(main);
    const ids = id === undefined ? undefined : planes[id]!;
    const cosine = Math.cos((p.creases * Math.PI) / 180);
    const differ = (i: number, j: number): boolean => {
      if (distance && p.steps > 0) {
        const [a, b] = [distance[i]!, distance[j]!];
        if (a !== b && Math.abs(a - b) > p.steps * Math.min(a, b)) return true;
      }
      if (normal && p.creases > 0) {
        const dot = normal[0]![i]! * normal[0]![j]! + normal[1]![i]! * normal[1]![j]! + normal[2]![i]! * normal[2]![j]!;
        if (dot < cosine && dot !== 0) return true;
      }
      return p.things && ids !== undefined && ids[i] !== ids[j];
    };
    for (let y = 0; y < height(region); y++) {
      for (let x = 0; x < w; x++) {
        const i = y * w + x;
        const [right, below] = [x + 1 < w && differ(i, i + 1), i + w < n && differ(i, i + w)];
        if (right || below) edge[i] = 1;
        if (right) edge[i + 1] = 1;
        if (below) edge[i + w] = 1;
      }
    }
    const matte = ctx.scratch(pixelsOf(out));
    const reach = Math.ceil(p.reach);
    const ow = width(out.region);
    for (let y = 0, o = 0; y < height(out.region); y++) {
      ctx.poll();
      for (let x = 0; x < ow; x++, o++) {
        const [u, v] = [x + out.region.x0 - region.x0, y + out.region.y0 - region.y0];
        let best = 0;
        for (let dy = -reach; dy <= reach; dy++) {
          for (let dx = -reach; dx <= reach; dx++) {
            const [a, b] = [u + dx, v + dy];
            if (a < 0 || b < 0 || a >= w || b * w + a >= n || edge[b * w + a] === 0) continue;
            best = Math.max(best, p.reach - Math.hypot(dx, dy));
          }
        }
        matte[o] = Math.min(1, best);
      }
    }
    giveMatte(ctx, p.gives, matte, out);
  },
});
