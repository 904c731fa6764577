import { strToU8 } from 'fflate';
import type { Shot, Source } from '@/core/document/types';
import { Commons, layoutOf } from '@/core/evaluate';
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

describe('the bands of a frame', () => {
  const shot = testShot({ main: flat(2, 2, 0), like: flat(2, 2, 0) }, [{ type: 'matchColour', params: { amount: 0.5 }, feeds: ['like'] }]);
  const request = { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 };
  const bands = [0, 1].map((y) => ({ x0: 0, y0: y, x1: 2, y1: y + 1 }));

  /** Two workers of one frame, whose files come a moment after they are asked for; `fails` says which do not. */
  async function two(fails: (asked: number) => boolean = () => false) {
    const kernels = await nodeKernels();
    const before = kernels.used;
    const layout = layoutOf(makePlan(shot, request, STEPS));
    const memory = new Float32Array(new SharedArrayBuffer(4 * layout.floats));
    const asked: string[] = [];
    const workers = bands.map(
      () =>
        new Renderer(kernels, {
          file: async (media) => {
            const count = asked.push(media.name);
            await new Promise((next) => setTimeout(next, 10));
            if (fails(count)) throw new Error('the disk is gone');
            return PICTURE;
          },
          movie: () => Promise.reject(new Error('there is no movie here')),
        }),
    );
    const got = await Promise.allSettled(
      workers.map((w, i) => w.render(shot, { ...request, region: bands[i]! }, { commons: new Commons(layout, memory, kernels) })),
    );
    workers.forEach((w) => w.cache.shrink(0));
    return { asked, got, left: kernels.used - before };
  }

  test('read each file once between them, one this and one that, and are what each makes alone', async () => {
    const { asked, got, left } = await two();
    expect(asked.sort()).toEqual(['like', 'main']);
    for (const g of got) expect(g).toMatchObject({ status: 'fulfilled', value: { pixels: new Float32Array(8).fill(1) } });
    expect(left).toBe(0);
  });

  test('a file that the first cannot read is tried by the other', async () => {
    const { asked, got, left } = await two((count) => count === 1);
    expect(asked).toHaveLength(3);
    expect(got.map((g) => g.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(left).toBe(0);
  });
});
