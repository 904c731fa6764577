import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Applied } from '@/core/learn/apply';
import { guessOf, variationFor } from '@/core/learn/lesson';
import type { Example } from '@/core/learn/lesson';
import { lookOf } from '@/core/learn/look';
import { firstWeights, mapSize } from '@/core/learn/net';
import { Trainer } from '@/core/learn/trainer';
import { TrainingNet } from '@/core/learn/training-net';
import { CROP } from '@/core/learn/variation';
import { naiveConv } from '@/core/testing/naive-conv';
import { nodeKernels } from '@/engine/node/host';
import { learningKernels, trainInNode } from '@/engine/node/training';
import { makeKernels } from '@/engine/wasm';
import type { Kernels } from '@/kernels';
import { otherNet } from './learning-tfjs';
import { ms, table, timeOf, times } from './timing';

const [W, H] = [960, 540];

/** A frame with a soft disc of the ground's own colours. */
function example(frame: number, w = W, h = H): Example {
  const n = w * h;
  const target = Float32Array.from({ length: n }, (_, i) =>
    Math.min(1, Math.max(0, (h / 3 - Math.hypot((i % w) - w / 2 - 9 * frame, Math.floor(i / w) - h / 2)) / 4 + 0.5)),
  );
  const input = Float32Array.from(
    { length: 3 * n },
    (_, i) => 0.2 + 0.1 * Math.sin((i % w) * (0.2 + 0.5 * target[i % n]!)) * Math.cos(i / w / 9),
  );
  return { frame, width: w, height: h, input, target, held: false };
}

/** Layers, steps of a training, and what was learnt applied to HD; one core unless said. */
export async function benchLearning(root: string, entry: URL): Promise<string> {
  const relaxed = await learningKernels();
  const plain = await makeKernels(await WebAssembly.compile(await readFile(join(root, 'kernels/build/kernels.wasm'))));
  await nodeKernels();
  const flops = 2 * 9 * 32 * 32 * 64 * 24;
  const conv = (k: Kernels): number => {
    const x = k.copy(Float32Array.from({ length: mapSize(32, 32, 64) }, (_, i) => Math.sin(i)));
    const weights = k.copy(Float32Array.from({ length: 9 * 64 * 24 }, (_, i) => Math.cos(i)));
    const [bias, out] = [k.zeros(24), k.zeros(mapSize(32, 32, 24))];
    return timeOf(() => k.fn.conv3(x.byteOffset, weights.byteOffset, bias.byteOffset, out.byteOffset, 32, 32, 64, 24, 0.1));
  };
  const net = (k: Kernels): number => {
    const weights = k.copy(firstWeights(guessOf('matte'), 1));
    const t = new TrainingNet(k, weights, 1, CROP);
    t.input.forEach((_, i) => (t.input[i] = Math.sin(i)));
    t.slope.fill(1e-4);
    const g = k.zeros(weights.length);
    return timeOf(() => {
      t.forward();
      t.backward(g);
    });
  };
  const [a, b] = [conv(plain), conv(relaxed)];
  const [map, taps] = [new Float32Array(mapSize(32, 32, 64)).fill(0.5), new Float32Array(9 * 64 * 24).fill(0.1)];
  const loops = timeOf(() => void naiveConv(map, taps, new Float32Array(24), 32, 32, 64, 24, 0.1));
  const examples = [example(0), example(5)];
  const input = {
    teaches: 'matte' as const,
    examples,
    variation: variationFor('matte'),
    look: lookOf(examples, 'matte'),
    seed: 1,
  };
  const step = (k: Kernels): number => {
    const t = new Trainer(k, input);
    const g = [k.zeros(t.length), k.zeros(t.length)] as const;
    const time = timeOf(() => {
      t.half(0, g[0]);
      t.half(1, g[1]);
      t.update(g[0], g[1]);
    });
    t.dispose();
    return time;
  };
  const [alone, fused] = [step(plain), step(relaxed)];
  const crops = new Trainer(relaxed, input);
  let number = 0;
  const crop = timeOf(() => void crops.varied.crop(1, number++));
  crops.dispose();
  const rate = async (with2: boolean): Promise<number> => {
    const { session, stop } = await trainInNode(input, (r) => r.seconds > 12, undefined, with2 ? entry : undefined);
    const { step: made, seconds } = session.report();
    await stop();
    return made / seconds;
  };
  const [one, two] = [await rate(false), await rate(true)];
  const hd = example(0, 1920, 1080);
  const n = 1920 * 1080;
  const learnt = { teaches: 'matte' as const, weights: firstWeights(guessOf('matte'), 1), look: input.look };
  const apply = (k: Kernels): number => {
    const applied = new Applied(k, learnt);
    const out = [new Float32Array(n)];
    const time = timeOf(
      () =>
        applied.run(
          [0, 1, 2].map((c) => hd.input.subarray(c * n, (c + 1) * n)),
          1920,
          1080,
          out,
          () => undefined,
        ),
      3,
    );
    applied.dispose();
    return time;
  };
  const [hdPlain, hdFused] = [apply(plain), apply(relaxed)];
  const other = await otherNet();
  const otherLayer = other.layer(32, 32, 64, 24);
  const [otherForward, otherBack] = [timeOf(otherLayer.forward), timeOf(otherLayer.back)];
  const forward = (k: Kernels): number => {
    const t = new TrainingNet(k, k.copy(firstWeights(guessOf('matte'), 1)), 1, CROP);
    return timeOf(() => t.forward());
  };
  const [otherCrop, otherHd] = [timeOf(other.net(CROP, CROP)), timeOf(other.net(1920, 1088), 3)];
  const gigaflops = (t: number): string => `${(flops / t / 1e6).toFixed(1)} GFLOP/s`;
  return table(
    ['Learning', 'figure', 'beside'],
    [
      ['a 3×3 layer, 64 to 24 channels, 32×32', `${ms(a)} ms, ${gigaflops(a)}`, `loops in JavaScript ${ms(loops)} ms: ${times(loops / a)}`],
      ['the same, multiply and add fused (relaxed SIMD)', `${ms(b)} ms, ${gigaflops(b)}`, `${times(a / b)} the plain one`],
      ['the net forward and back over a crop of 128²', `${ms(net(plain))} ms plain`, `${ms(net(relaxed))} ms fused`],
      [
        'the layer again, tfjs (WASM, SIMD, one thread)',
        `${ms(otherForward)} ms, its input’s slope ${ms(otherBack)} ms`,
        `${times(otherForward / a)} ours; its weights’ slope it has not`,
      ],
      ['the net forward alone over a crop of 128²', `${ms(forward(plain))} ms plain`, `tfjs ${ms(otherCrop)} ms`],
      ['the net over an HD frame, tfjs', `${ms(otherHd)} ms`, `${times(otherHd / hdPlain)} ours, plain`],
      ['a crop drawn and varied', `${ms(crop)} ms`, ''],
      ['a step of four crops, one core', `${ms(alone)} ms plain`, `${ms(fused)} ms fused: ${times(alone / fused)}`],
      ['steps a second, fused', `${one.toFixed(1)} with one worker`, `${two.toFixed(1)} with two: ${times(two / one)}`],
      ['an HD frame, as it is applied', `${ms(hdPlain)} ms plain, as in shots`, `${ms(hdFused)} ms fused`],
    ],
  );
}
