import { LUMA } from '../../colour/transfer';
import { choice, layer } from '../../param';
import { COLOUR, RGBA } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { colourOfLayer } from './pick-layer';

const FROM = [
  { value: 'R', title: 'Red' },
  { value: 'G', title: 'Green' },
  { value: 'B', title: 'Blue' },
  { value: 'A', title: 'Alpha' },
  { value: 'luma', title: 'Luma' },
  { value: 'otherR', title: 'Other: red' },
  { value: 'otherG', title: 'Other: green' },
  { value: 'otherB', title: 'Other: blue' },
  { value: 'otherA', title: 'Other: alpha' },
  { value: 'otherLuma', title: 'Other: luma' },
  { value: 'zero', title: '0' },
  { value: 'one', title: '1' },
] as const;
type From = (typeof FROM)[number]['value'];

const from = (title: string, value: 'R' | 'G' | 'B' | 'A') => choice(title, value, FROM);

export const routeChannels = defineStep({
  type: 'routeChannels',
  title: 'Route channels',
  family: 'Channels',
  summary: 'Fills each channel from any channel of the picture, of one of its layers, of another picture, or with 0 or 1.',
  params: {
    layer: layer('Of layer', { help: 'What red, green and blue are taken from.' }),
    R: from('Red from', 'R'),
    G: from('Green from', 'G'),
    B: from('Blue from', 'B'),
    A: from('Alpha from', 'A'),
    otherLayer: layer('Other: of layer'),
  },
  feeds: [{ name: 'other', title: 'Other picture', help: 'Channels may be taken from it, too.' }],
  neutral: (p) => p.layer === '' && RGBA.every((c) => p[c] === c),
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (p, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c) && !(p.layer === '' && p[c as 'R'] === c)),
  locality: 'pixel',
  needs: (p, want, io) => {
    const { main, other } = io.inputs;
    return [
      { input: 'main', region: want.region, channels: [...new Set([...colourOfLayer(main!.channels, p.layer), 'A'])] },
      ...(other
        ? [{ input: 'other', region: want.region, channels: [...new Set([...colourOfLayer(other.channels, p.otherLayer), 'A'])] }]
        : []),
    ];
  },
  render(ctx, p, out) {
    const n = pixelsOf(out);
    const planeOf = (input: 'main' | 'other', name: string, k: number): Float32Array | undefined => {
      const info = ctx.inputs[input];
      const tile = ctx.tile(input);
      return info && tile && (k < 0 ? tile.planes.A : tile.planes[colourOfLayer(info.channels, name)[k]!]);
    };
    const fill = (how: From, plane: Float32Array): void => {
      if (how === 'zero' || how === 'one') return void plane.fill(how === 'one' ? 1 : 0);
      const other = how.startsWith('other');
      const [input, name] = other ? (['other', p.otherLayer] as const) : (['main', p.layer] as const);
      const what = other ? how.slice(5) : how;
      if (what === 'luma' || what === 'Luma') {
        plane.fill(0);
        LUMA.forEach((weight, k) => {
          const source = planeOf(input, name, k);
          if (source) ctx.kernels.fn.addScaled(plane.byteOffset, source.byteOffset, plane.byteOffset, n, weight);
        });
        return;
      }
      const source = planeOf(input, name, (COLOUR as readonly string[]).indexOf(what));
      if (source) plane.set(source);
      else plane.fill(0);
    };
    for (const [c, plane] of Object.entries(out.planes)) fill(p[c as 'R'], plane);
  },
});
