import { formatRect, COLOUR, RGBA } from '../../picture';
import { grow, height, width } from '../../geometry/rect';
import { signsOf } from '../../passes/positions';
import { passOf } from '../../passes/roles';
import { Texture } from '../../passes/texture';
import { choice, layer, number, point, toggle } from '../../param';
import type { PictureInfo } from '../../picture';
import { defineStep } from '../../step';
import { colourOfLayer } from '../channels/pick-layer';
import { positionIn } from './data';

const uvIn = (main: PictureInfo | undefined, name: string) => passOf(main?.passes, name, 'uv');
const PLANES = { above: [0, 2], front: [0, 1], side: [2, 1] } as const;

export const uvTexture = defineStep({
  type: 'uvTexture',
  title: 'UV texture',
  family: 'Passes',
  summary: 'Lays a picture on what was rendered, through its texture coordinates or straight onto its positions, its shading kept.',
  readsData: true,
  params: {
    by: choice('Placed by', 'uv', [
      { value: 'uv', title: 'By texture coordinates' },
      { value: 'above', title: 'From above, by position' },
      { value: 'front', title: 'From the front, by position' },
      { value: 'side', title: 'From the side, by position' },
    ]),
    uv: layer('Texture coordinates', { role: 'uv', when: { by: ['uv'] } }),
    position: layer('Position', { role: 'position', when: { by: ['above', 'front', 'side'] } }),
    offset: point('Offset', [0, 0], { help: 'In widths and heights of the picture, or in units of the scene.' }),
    repeat: point('Repeats', [1, 1], { help: 'Times in 0..1 of the coordinates, or a unit of the scene.' }),
    flip: toggle('v points up', true, { animatable: false, help: 'v = 0 is the bottom of the picture, as in most renders.' }),
    wrap: choice('Beyond the edges', 'repeat', [
      { value: 'repeat', title: 'Repeat' },
      { value: 'mirror', title: 'Mirrored' },
      { value: 'clamp', title: 'The edge goes on' },
      { value: 'none', title: 'Nothing' },
    ]),
    shading: choice('Shading', 'diffuse', [
      {
        value: 'diffuse',
        title: 'Kept: new diffuse by albedo',
        help: 'Only the diffuse part changes; needs the albedo and diffuse passes.',
      },
      { value: 'all', title: 'Kept: all light by albedo' },
      { value: 'none', title: 'None: the picture itself' },
    ]),
    albedo: layer('Albedo', { role: 'albedo', when: { shading: ['diffuse', 'all'] } }),
    diffuse: layer('Diffuse', { role: 'diffuse', when: { shading: ['diffuse'] } }),
    opacity: number('Opacity', 1, [0, 1], { min: 0, max: 1 }),
  },
  feeds: [{ name: 'texture', title: 'Texture', help: 'The picture that is laid on.', required: true }],
  remark: (p, io) => {
    const { main } = io.inputs;
    if (p.by === 'uv' && !uvIn(main, p.uv))
      return 'the picture has no texture coordinates: choose a layer, or say in the layer grid which one they are';
    if (p.by !== 'uv' && !positionIn(main, p.position))
      return 'the picture has no positions: choose a layer, or say in the layer grid which one they are';
    return p.shading !== 'none' && !passOf(main!.passes, p.albedo, 'albedo')
      ? 'the picture has no albedo, so the shading is taken from the light as it is'
      : null;
  },
  neutral: (p, io) => p.opacity === 0 || !(p.by === 'uv' ? uvIn(io.inputs.main, p.uv) : positionIn(io.inputs.main, p.position)),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'region',
  needs(p, { region }, io) {
    const main = io.inputs.main!;
    const texture = io.inputs.texture!;
    const data = p.by === 'uv' ? uvIn(main, p.uv)!.channels : positionIn(main, p.position)!.channels;
    const of = (name: string, role: 'albedo' | 'diffuse') => {
      const pass = passOf(main.passes, name, role);
      return pass ? colourOfLayer(main.channels, pass.name) : [];
    };
    return [
      { input: 'main', region: grow(region, 1), channels: [...RGBA, ...data, ...of(p.albedo, 'albedo'), ...of(p.diffuse, 'diffuse')] },
      { input: 'texture', region: formatRect(texture.format), channels: RGBA },
    ];
  },
  render(ctx, p, out) {
    const main = ctx.inputs.main!;
    const { region, planes } = ctx.tile('main')!;
    const texture = new Texture(ctx.tile('texture')!, formatRect(ctx.inputs.texture!.format), p.wrap);
    const pass = (p.by === 'uv' ? uvIn(main, p.uv) : positionIn(main, p.position))!;
    const [a, b] = p.by === 'uv' ? [0, 1] : PLANES[p.by];
    const signs = p.by === 'uv' ? ([1, signsOf(pass.facts)[1]] as const) : ([signsOf(pass.facts)[a]!, signsOf(pass.facts)[b]!] as const);
    const [us, vs] = [planes[pass.channels[a]!]!, planes[pass.channels[b] ?? pass.channels[a]!]!];
    const layerPlanes = (name: string, role: 'albedo' | 'diffuse') => {
      const found = passOf(main.passes, name, role);
      return found && colourOfLayer(main.channels, found.name).map((c) => planes[c]!);
    };
    const albedo = p.shading === 'none' ? undefined : layerPlanes(p.albedo, 'albedo');
    const diffuse = p.shading === 'diffuse' ? layerPlanes(p.diffuse, 'diffuse') : undefined;
    const alpha = planes.A!;
    const [w, ow] = [width(region), width(out.region)];
    const { found } = texture;
    const uOf = (i: number): number => (us[i]! * signs[0] + p.offset[0]) * p.repeat[0];
    const vOf = (i: number): number => {
      const v = (vs[i]! * signs[1] + p.offset[1]) * p.repeat[1];
      return p.flip ? 1 - v : v;
    };
    for (let y = 0, o = 0; y < height(out.region); y++) {
      ctx.poll();
      for (let x = 0; x < ow; x++, o++) {
        const i = (y + out.region.y0 - region.y0) * w + x + out.region.x0 - region.x0;
        const [u, v] = [uOf(i), vOf(i)];
        if (alpha[i]! <= 0 || !Number.isFinite(u + v)) {
          COLOUR.forEach((c) => out.planes[c] && (out.planes[c][o] = planes[c]![i]!));
          continue;
        }
        // The smaller of the two differences: the other may cross a seam or an edge.
        const change = (of: (k: number) => number, here: number, step: number): number => {
          const [f, g] = [of(i + step) - here, here - of(i - step)];
          return Math.abs(f) < Math.abs(g) || !Number.isFinite(g) ? f : g;
        };
        texture.look(u, v, change(uOf, u, 1), change(vOf, v, 1), change(uOf, u, w), change(vOf, v, w));
        const cover = found[3]! * p.opacity;
        COLOUR.forEach((c, k) => {
          const plane = out.planes[c];
          if (!plane) return;
          const had = planes[c]![i]!;
          const ink = found[k]! * p.opacity;
          if (p.shading === 'none') plane[o] = had * (1 - cover) + ink * alpha[i]!;
          else {
            // New albedo over old, of what the light made of it.
            const old = albedo ? albedo[k]![i]! : 0.18 * alpha[i]!;
            const lit = diffuse ? diffuse[k]![i]! : had;
            plane[o] = had + lit * (old > 1e-5 ? (ink * alpha[i]!) / old - cover : 0);
          }
        });
      }
    }
  },
});
