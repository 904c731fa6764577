import { strToU8 } from 'fflate';
import type { Shot, Source } from '@/core/document/types';
import { makePlan } from '@/core/evaluate/plan';
import { writePng } from '@/core/formats/codes';
import { STEPS } from '@/core/steps';
import { flat, testShot } from '@/core/testing/evaluate';
import { nodeKernels } from './node/host';
import { Renderer } from './renderer';

/** A curve that halves what goes in. */
const HALVES = strToU8('LUT_1D_SIZE 2\n0 0 0\n0.5 0.5 0.5\n');
const PICTURE = writePng({ width: 2, height: 2, bits: 8, channels: 3, data: new Uint8Array(12).fill(255) });

test('a plan of more tables than are kept is worked out, and what is kept goes when others come', async () => {
  const kernels = await nodeKernels();
  const count = 12;
  const bare = testShot({ main: flat(2, 2, 0) }, []);
  const table = (i: number): Source => ({
    ...bare.sources[0]!,
    id: `t${i}`,
    name: `table ${i}`,
    kind: 'lut',
    frames: [{ frame: 1, hash: String(i).padStart(64, '0'), name: 'halves.cube' }],
  });
  const main: Source = { ...bare.sources[0]!, frames: [{ frame: 1, hash: 'f'.repeat(64), name: 'main.png' }] };
  const shotOf = (from: number): Shot => ({
    ...bare,
    sources: [main, ...Array.from({ length: count }, (_, i) => table(from + i))],
    lanes: [
      {
        ...bare.lanes[0]!,
        steps: Array.from({ length: count }, (_, i) => ({
          id: `s${i}`,
          type: 'lut',
          name: `LUT ${i}`,
          on: true,
          params: { table: `t${from + i}` },
          feeds: {},
          mix: 1,
        })),
      },
    ],
  });
  const renderer = new Renderer(kernels, {
    file: async (_, source) => (source.kind === 'lut' ? HALVES : PICTURE),
    movie: () => Promise.reject(new Error('there is no movie here')),
  });
  const used: number[] = [];
  for (const from of [0, 20, 40]) {
    const plan = makePlan(shotOf(from), { tap: { lane: 'main' }, frame: 1, channels: ['R'], scale: 1 }, STEPS);
    const tile = await renderer.tile(plan);
    expect(tile.planes.R![0]).toBeCloseTo(2 ** -count, 8);
    Object.values(tile.planes).forEach((p) => kernels.give(p));
    renderer.cache.shrink(0);
    used.push(kernels.used);
  }
  expect(used[2]).toBe(used[1]);
});
