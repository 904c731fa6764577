import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { setWasmPaths } from '@tensorflow/tfjs-backend-wasm';
import * as tf from '@tensorflow/tfjs-core';
import { LEAK, layersOf } from '@/core/learn/net';

/** The same layers by a library's WASM back end, on one thread, for comparing. */
export interface OtherNet {
  /** A 3×3 layer with its rectifier over one map, and what its slope gives for its input. */
  layer(w: number, h: number, cin: number, cout: number): { forward: () => void; back: () => void };
  /** The net over a picture of four channels whose sides are multiples of 16. */
  net(w: number, h: number): () => void;
}

type Map4 = tf.Tensor4D;

/** All of a step of training cannot be had there: its WASM back end has no gradient for the weights of a convolution. */
export async function otherNet(): Promise<OtherNet> {
  const wasm = createRequire(join(process.cwd(), 'package.json')).resolve('@tensorflow/tfjs-backend-wasm');
  setWasmPaths(`${dirname(wasm)}/`);
  await tf.setBackend('wasm');
  const random = (cin: number, cout: number): Map4 => tf.randomNormal([3, 3, cin, cout], 0, 0.1);
  const conv = (x: Map4, weights: Map4): Map4 =>
    tf.leakyRelu(tf.add(tf.conv2d(x, weights, 1, 'same'), tf.zeros([weights.shape[3]])), LEAK) as Map4;
  const wait = (make: () => tf.Tensor): void => void tf.tidy(() => make().dataSync());
  const up = (x: Map4): Map4 => tf.image.resizeBilinear(x, [2 * x.shape[1], 2 * x.shape[2]]);
  const weights = layersOf(1).map((l) => random(l.cin, l.cout));
  const run = (picture: Map4): tf.Tensor => {
    const [, h, w] = picture.shape;
    const folded = tf.reshape(tf.transpose(tf.reshape(picture, [h / 4, 4, w / 4, 4, 4]), [0, 2, 1, 3, 4]), [1, h / 4, w / 4, 64]);
    const through = (x: Map4, from: number): Map4 => conv(conv(x, weights[from]!), weights[from + 1]!);
    const quarter = through(folded as Map4, 0);
    const eighth = through(tf.avgPool(quarter, 2, 2, 'valid'), 2);
    const sixteenth = through(tf.avgPool(eighth, 2, 2, 'valid'), 4);
    const upper = through(tf.concat([up(sixteenth), eighth], 3), 6);
    const top = conv(tf.concat([up(upper), quarter], 3), weights[8]!);
    const coefficients = tf.image.resizeBilinear(tf.conv2d(top, weights[9]!, 1, 'same'), [h, w]);
    const features = through(picture, 10);
    const all = tf.concat([features, picture, tf.ones([1, h, w, 1]), tf.zeros([1, h, w, 3])], 3);
    return tf.sum(tf.mul(coefficients, all), 3);
  };
  return {
    layer(w, h, cin, cout) {
      const [x, slope, own]: Map4[] = [tf.randomNormal([1, h, w, cin]), tf.randomNormal([1, h, w, cout]), random(cin, cout)] as never;
      return {
        forward: () => wait(() => conv(x!, own!)),
        back: () => wait(() => tf.conv2dTranspose(slope!, own!, [1, h, w, cin], 1, 'same')),
      };
    },
    net(w, h) {
      const picture = tf.randomUniform([1, h, w, 4]) as Map4;
      return () => wait(() => run(picture));
    },
  };
}
