import fc from 'fast-check';
import { nodeKernels } from '@/engine/node/host';
import type { Param } from '../document/types';
import type { ParamDefinition } from '../param';
import { ShotError } from '../errors';
import { evaluate } from '../testing/evaluate';
import type { TestPicture } from '../testing/evaluate';
import { renderPasses } from '../testing/render-passes';
import { STEPS } from '.';

const [W, H] = [20, 14];
const ramp = (r: number, a: (x: number) => number): TestPicture => ({
  width: W,
  height: H,
  fill: { R: (x, y) => r * a(x) * (0.1 + y / H), G: (x) => a(x) * (x / W), B: (_, y) => a(y) * 0.3, A: a },
});

/** Of steps that live on data: with holes, NaN and infinity in them. */
const withPasses = (p: TestPicture): TestPicture => ({ ...p, fill: { ...renderPasses(W, H, true), ...p.fill } });

/** Numbers that people and files give by mistake. */
const ODD = [0, -0, 1, -1, 0.5, 1e-30, -1e-12, 3, 359.9999, 1e4, -1e4, 1e5, 1e9, -1e9, 1e38, 1e308, -1e308, Infinity, -Infinity, NaN];
const odd = fc.oneof(fc.constantFrom(...ODD), fc.double({ noNaN: true }));

function valueOf(d: ParamDefinition): fc.Arbitrary<Param | undefined> {
  switch (d.kind) {
    case 'toggle':
      return fc.boolean();
    case 'choice':
      return fc.constantFrom(...d.options.map((o) => o.value));
    case 'number':
    case 'integer':
      return odd;
    case 'colour':
    case 'triple':
      return fc.array(odd, { minLength: 3, maxLength: 3 });
    case 'point':
      return fc.array(odd, { minLength: 2, maxLength: 2 });
    case 'box':
      return fc.array(odd, { minLength: 4, maxLength: 4 });
    case 'parts':
      return fc.constantFrom(
        ...[
          [],
          [{ id: 'a', name: 'diffuse' }],
          [
            { id: 'b', name: 'light_key' },
            { id: 'c', name: 'none' },
          ],
        ],
      ) as fc.Arbitrary<never>;
    case 'picks':
      return fc.constantFrom(...[[], [{ id: '12345678' }], [{ id: 'not an id' }]]) as fc.Arbitrary<never>;
    default:
      return fc.constantFrom('', 'nothing', '[{}]', '[1,2', '[{"points":[1e308,1e308],"size":1e308}]');
  }
}

const RUNS = 80;

describe('extreme parameters', () => {
  test.each([...STEPS.keys()])('%s works them out or leaves the picture, in time, and keeps no memory', async (type) => {
    const d = STEPS.get(type)!;
    const feeds = d.feeds.map((f) => f.name);
    const pictures = {
      main: d.family === 'Passes' ? withPasses(ramp(0.8, (x) => Math.min(1, x / 8))) : ramp(0.8, (x) => Math.min(1, x / 8)),
      ...Object.fromEntries(feeds.map((f) => [f, ramp(0.3, (x) => (x % 5) / 4)])),
    };
    const kernels = await nodeKernels();
    const before = kernels.used;
    const params = fc.record(Object.fromEntries(Object.entries(d.params).map(([name, p]) => [name, valueOf(p)])), { requiredKeys: [] });
    await fc.assert(
      fc.asyncProperty(params, odd, async (values, mix) => {
        const steps = [{ type, params: values as Record<string, Param>, feeds, mix }];
        const out = await evaluate(pictures, steps).catch((e: unknown) => {
          // A step may say in words what is wrong with its parameters.
          if (e instanceof ShotError) return { planes: {} };
          throw e;
        });
        // Numbers, however large: never a value that is none.
        for (const [c, plane] of Object.entries(out.planes)) {
          const wrong = plane.findIndex((v) => !Number.isFinite(v));
          if (wrong >= 0) throw new Error(`${c} of pixel ${wrong} is ${plane[wrong]}`);
        }
        expect(kernels.used).toBe(before);
      }),
      { numRuns: RUNS },
    );
  });

  test('a plane of no number of pixels is refused, and the pool goes on', async () => {
    const kernels = await nodeKernels();
    const before = kernels.used;
    for (const n of [NaN, -1, Infinity, 1e308, 2 ** 31]) expect(() => kernels.take(n)).toThrow();
    const plane = kernels.take(16).fill(2);
    expect(plane[15]).toBe(2);
    kernels.give(plane);
    expect(kernels.used).toBe(before);
  });
});
