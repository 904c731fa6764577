import { choice, layer } from '../../param';
import { RGBA, splitChannel } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

/** Channels of a layer in the order in which they become red, green and blue. */
const ORDERS = [['R', 'G', 'B'], ['X', 'Y', 'Z'], ['U', 'V'], ['u', 'v'], ['x', 'y', 'z'], ['Y'], ['Z'], ['V']];

/** The full names of the three channels that stand for a layer's red, green and blue (fewer repeat the last); a lone channel's name stands for itself. */
export function colourOfLayer(all: readonly string[], name: string): string[] {
  if (name !== '' && all.includes(name)) return [name, name, name];
  const own = all.filter((c) => splitChannel(c).layer === name).map((c) => splitChannel(c).channel);
  const order = ORDERS.find((o) => o.every((c) => own.includes(c))) ?? own.filter((c) => c !== 'A').slice(0, 3);
  const full = order.map((c) => (name ? `${name}.${c}` : c));
  return full.length === 0 ? [] : [full[0]!, full[1] ?? full[0]!, full[2] ?? full[full.length === 2 ? 1 : 0]!];
}

export const pickLayer = defineStep({
  type: 'pickLayer',
  title: 'Pick layer',
  family: 'Channels',
  summary: 'Makes one layer of the picture its main colour, with alpha from where you say.',
  params: {
    layer: layer('Layer'),
    alpha: choice('Alpha from', 'main', [
      { value: 'own', title: "The layer's own" },
      { value: 'main', title: 'Main layer' },
      { value: 'luma', title: 'Luma of the layer' },
      { value: 'max', title: 'Brightest of R, G, B' },
      { value: 'none', title: 'None: solid' },
    ]),
  },
  feeds: [],
  neutral: (p) => p.layer === '' && (p.alpha === 'main' || p.alpha === 'own'),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (p, want, io) => {
    const all = io.inputs.main!.channels;
    const own = p.layer ? `${p.layer}.A` : 'A';
    return [{ input: 'main', region: want.region, channels: [...colourOfLayer(all, p.layer), p.alpha === 'own' ? own : 'A'] }];
  },
  render(ctx, p, out) {
    const from = ctx.tile('main')!;
    const colour = colourOfLayer(ctx.inputs.main!.channels, p.layer).map((c) => from.planes[c]);
    const n = pixelsOf(out);
    const { fn } = ctx.kernels;
    (['R', 'G', 'B'] as const).forEach((c, i) => {
      const plane = out.planes[c];
      if (plane && colour[i]) plane.set(colour[i]);
      else plane?.fill(0);
    });
    const a = out.planes.A;
    if (!a) return;
    const [r, g, b] = colour;
    if (p.alpha === 'none') a.fill(1);
    else if (p.alpha === 'luma' && r && g && b) {
      fn.affine(r.byteOffset, a.byteOffset, n, 0.2126, 0);
      fn.addScaled(a.byteOffset, g.byteOffset, a.byteOffset, n, 0.7152);
      fn.addScaled(a.byteOffset, b.byteOffset, a.byteOffset, n, 0.0722);
    } else if (p.alpha === 'max' && r && g && b) {
      fn.maxPlane(r.byteOffset, g.byteOffset, a.byteOffset, n);
      fn.maxPlane(a.byteOffset, b.byteOffset, a.byteOffset, n);
    } else {
      const given = from.planes[p.alpha === 'own' && p.layer ? `${p.layer}.A` : 'A'];
      if (given) a.set(given);
      else a.fill(1);
    }
  },
});
