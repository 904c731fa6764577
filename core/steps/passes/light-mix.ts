import { temperatureFactors } from '../../colour/temperature';
import type { LightValues } from '../../passes/adjust';
import { factorsOf, isUnity, lightParams } from '../../passes/adjust';
import { choice, number, parts, toggle } from '../../param';
import { COLOUR } from '../../picture';
import { defineStep, pixelsOf } from '../../step';
import { colourOfLayer } from '../channels/pick-layer';
import { notThere } from './data';
import { LEAST_LIGHT, beautyChannels } from './rebuild-beauty';

const DAYLIGHT = 6500;

const lampParams = {
  ...lightParams,
  solo: toggle('Solo', false, { animatable: false, help: 'Only lamps on solo shine.' }),
  kelvin: number('Temperature', DAYLIGHT, [2000, 12000], {
    unit: 'K',
    min: 1667,
    max: 25000,
    decimals: 0,
    help: '6500 K leaves it as it is.',
  }),
};

type Lamp = LightValues & { solo: boolean; kelvin: number };

/** What each lamp's light is multiplied with, R, G, B. */
function lampFactors(lamps: readonly Lamp[]): [number, number, number][] {
  const solo = lamps.some((l) => l.solo);
  return lamps.map((l) => {
    if (solo && !l.solo) return [0, 0, 0];
    const warm = temperatureFactors(DAYLIGHT, l.kelvin);
    return factorsOf(l).map((v, i) => v * warm[i]!) as [number, number, number];
  });
}

export const lightMix = defineStep({
  type: 'lightMix',
  title: 'Light mix',
  family: 'Passes',
  summary: 'Sets every lamp of a render anew by its light group: gain, tint, temperature, solo; keyed, a lamp flickers.',
  params: {
    lamps: parts('Lamps', 'pass', lampParams, { roles: ['light'] }),
    method: choice('Apply as', 'ratio', [
      {
        value: 'ratio',
        title: 'On every material',
        help: 'By ratio: a lamp dims its share of the rebuilt parts; where there is next to no light, by difference.',
      },
      { value: 'sum', title: 'By difference', help: 'Adds what the light groups have become less what they were.' },
    ]),
    floor: number('Ratio from', LEAST_LIGHT, [0, 0.05], {
      min: 1e-6,
      max: 10,
      decimals: 4,
      when: { method: ['ratio'] },
      help: 'Below this light the difference is added instead, smoothly.',
    }),
  },
  feeds: [],
  neutral: (p) => lampFactors(p.lamps).every(isUnity),
  remark: (p, io) => {
    if (p.lamps.length === 0) return 'no lamps are listed: add the light groups of the render';
    return notThere(p.lamps, io.inputs.main!, 'light group');
  },
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'pixel',
  needs: (p, { region }, io) => {
    const { main } = io.inputs;
    const layers = p.lamps.flatMap((l) => colourOfLayer(main!.channels, l.name));
    return [{ input: 'main', region, channels: [...COLOUR, ...beautyChannels(main!), ...layers] }];
  },
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const n = pixelsOf(out);
    const { main } = ctx.inputs;
    const from = ctx.tile('main')!.planes;
    const beauty = beautyChannels(main!);
    // Where the picture still is the beauty, ratio and difference are the same.
    const plain = p.method === 'sum' || beauty[0] === 'R';
    const factors = lampFactors(p.lamps);
    const lamps = p.lamps.map((l) => colourOfLayer(main!.channels, l.name));
    COLOUR.forEach((c, i) => {
      const plane = out.planes[c];
      if (!plane) return;
      const before = plain ? from[c]! : from[beauty[i]!]!;
      const after = plain ? plane : ctx.scratch(n);
      after.set(before);
      lamps.forEach((channels, k) => {
        const lamp = from[channels[i]!];
        const gain = factors[k]![i]! - 1;
        if (lamp && gain !== 0) fn.addScaled(after.byteOffset, lamp.byteOffset, after.byteOffset, n, gain);
      });
      if (!plain) fn.ratioMix(from[c]!.byteOffset, before.byteOffset, after.byteOffset, plane.byteOffset, n, p.floor);
    });
  },
});
