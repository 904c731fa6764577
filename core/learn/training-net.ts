import type { Kernels, Plane } from '@/kernels';
import { COEFFICIENTS, COEFFICIENT_LAYER, FEATURE_LAYERS, LEAK, Layers, mapSize, placesOf } from './net';

type Map = readonly [plane: Plane, w: number, h: number, c: number];

/** The net over a crop of fixed size, with all that its gradients need. Planes are given back by `dispose`. */
export class TrainingNet {
  private readonly own: Plane[] = [];
  private readonly layers: Layers;
  private readonly maps: Record<string, Map> = {};
  private readonly slopes: Record<string, Map> = {};
  private readonly turned: Plane;
  private readonly none: Plane;
  /** What is seen: whitened colour and guess, four floats a pixel, with a border. */
  readonly input: Plane;
  /** `sets` floats a pixel. */
  readonly out: Plane;
  /** Their gradient, to be filled before `backward`. */
  readonly slope: Plane;

  constructor(
    readonly kernels: Kernels,
    weights: Plane,
    readonly sets: number,
    readonly side: number,
  ) {
    this.layers = new Layers(kernels, weights, sets);
    const q = side / 4;
    const map = (name: string, size: number, c: number): void => {
      this.maps[name] = [this.zeros(mapSize(size, size, c)), size, size, c];
      this.slopes[name] = [this.zeros(mapSize(size, size, c)), size, size, c];
    };
    map('pixels', side, 4);
    map('features', side, 8);
    map('features again', side, 8);
    map('in', q, 64);
    map('quarter', q, 24);
    map('quarter again', q, 24);
    map('eighth in', q / 2, 24);
    map('eighth', q / 2, 32);
    map('eighth again', q / 2, 32);
    map('sixteenth in', q / 4, 32);
    map('sixteenth', q / 4, 48);
    map('sixteenth again', q / 4, 48);
    map('up to an eighth', q / 2, 80);
    map('up', q / 2, 32);
    map('up again', q / 2, 32);
    map('up to a quarter', q, 56);
    map('last', q, 24);
    map('coefficients', q, COEFFICIENTS * sets);
    this.input = this.maps.pixels![0];
    this.out = this.zeros(side * side * sets);
    this.slope = this.zeros(side * side * sets);
    this.turned = this.zeros(Math.max(...placesOf(sets).layers.map((l) => 9 * l.cin * l.cout)));
    this.none = this.zeros(128);
  }

  private zeros(n: number): Plane {
    const plane = this.kernels.zeros(n);
    this.own.push(plane);
    return plane;
  }

  dispose(): void {
    this.own.forEach((p) => this.kernels.give(p));
    this.own.length = 0;
  }

  private run(layer: number, from: string, to: string, leak = LEAK): void {
    const [x, w, h] = this.maps[from]!;
    this.layers.forward(layer, x, this.maps[to]![0], w, h, leak);
  }

  private pool(from: string, to: string): void {
    const [x, w, h, c] = this.maps[from]!;
    this.kernels.fn.poolMap(x.byteOffset, this.maps[to]![0].byteOffset, w, h, c);
  }

  private lay(from: string, to: string, at: number, doubled: 0 | 1): void {
    const [x, , , c] = this.maps[from]!;
    const [out, w, h, total] = this.maps[to]!;
    this.kernels.fn.layMap(x.byteOffset, out.byteOffset, w, h, c, total, at, doubled);
  }

  /** From `input` to `out`. */
  forward(): void {
    const { fn } = this.kernels;
    const q = this.side / 4;
    fn.unshuffle(this.input.byteOffset, this.maps.in![0].byteOffset, q, q);
    this.run(0, 'in', 'quarter');
    this.run(1, 'quarter', 'quarter again');
    this.pool('quarter again', 'eighth in');
    this.run(2, 'eighth in', 'eighth');
    this.run(3, 'eighth', 'eighth again');
    this.pool('eighth again', 'sixteenth in');
    this.run(4, 'sixteenth in', 'sixteenth');
    this.run(5, 'sixteenth', 'sixteenth again');
    this.lay('sixteenth again', 'up to an eighth', 0, 1);
    this.lay('eighth again', 'up to an eighth', 48, 0);
    this.run(6, 'up to an eighth', 'up');
    this.run(7, 'up', 'up again');
    this.lay('up again', 'up to a quarter', 0, 1);
    this.lay('quarter again', 'up to a quarter', 32, 0);
    this.run(8, 'up to a quarter', 'last');
    this.run(COEFFICIENT_LAYER, 'last', 'coefficients', 1);
    this.run(FEATURE_LAYERS[0], 'pixels', 'features');
    this.run(FEATURE_LAYERS[1], 'features', 'features again');
    const at = (name: string): number => this.maps[name]![0].byteOffset;
    fn.blendFeatures(at('coefficients'), at('features again'), this.input.byteOffset, this.out.byteOffset, q, q, 0, this.side, this.sets);
  }

  /** Gradients of a layer from that of what it gave; adds to `gradients`, and fills the slope of what it read unless that is the input. */
  private back(layer: number, from: string, to: string, gradients: Plane, leak = LEAK, last = false): void {
    const { fn } = this.kernels;
    const { at, bias, cin, cout } = placesOf(this.sets).layers[layer]!;
    const [x, w, h] = this.maps[from]!;
    const d = this.slopes[to]![0];
    if (leak !== 1) fn.leakGradient(this.maps[to]![0].byteOffset, d.byteOffset, d.length, leak);
    fn.convWeightGradient(x.byteOffset, d.byteOffset, gradients.byteOffset + 4 * at, w, h, cin, cout);
    fn.convBiasGradient(d.byteOffset, gradients.byteOffset + 4 * bias, w, h, cout);
    if (last) return;
    fn.turnWeights(this.layers.weights.byteOffset + 4 * at, this.turned.byteOffset, cin, cout);
    fn.conv3(d.byteOffset, this.turned.byteOffset, this.none.byteOffset, this.slopes[from]![0].byteOffset, w, h, cout, cin, 1);
  }

  private unpool(from: string, to: string): void {
    const [d, w, h, c] = this.slopes[from]!;
    this.kernels.fn.poolGradient(this.slopes[to]![0].byteOffset, d.byteOffset, w, h, c);
  }

  private unlay(from: string, to: string, at: number, doubled: 0 | 1): void {
    const [dx, , , c] = this.slopes[from]!;
    const [d, w, h, total] = this.slopes[to]!;
    this.kernels.fn.layGradient(d.byteOffset, dx.byteOffset, w, h, c, total, at, doubled);
  }

  /** Adds the gradients of all weights to `gradients`, from `slope`. */
  backward(gradients: Plane): void {
    const { fn } = this.kernels;
    const q = this.side / 4;
    for (const name of ['coefficients', 'features again', 'up again', 'quarter again', 'eighth again', 'sixteenth again'])
      this.slopes[name]![0].fill(0);
    const map = (name: string): number => this.maps[name]![0].byteOffset;
    const slope = (name: string): number => this.slopes[name]![0].byteOffset;
    fn.blendGradient(
      this.slope.byteOffset,
      map('coefficients'),
      map('features again'),
      this.input.byteOffset,
      slope('coefficients'),
      slope('features again'),
      q,
      q,
      this.sets,
    );
    this.back(COEFFICIENT_LAYER, 'last', 'coefficients', gradients, 1);
    this.back(8, 'up to a quarter', 'last', gradients);
    this.unlay('up again', 'up to a quarter', 0, 1);
    this.unlay('quarter again', 'up to a quarter', 32, 0);
    this.back(7, 'up', 'up again', gradients);
    this.back(6, 'up to an eighth', 'up', gradients);
    this.unlay('sixteenth again', 'up to an eighth', 0, 1);
    this.unlay('eighth again', 'up to an eighth', 48, 0);
    this.back(5, 'sixteenth', 'sixteenth again', gradients);
    this.back(4, 'sixteenth in', 'sixteenth', gradients);
    this.unpool('eighth again', 'sixteenth in');
    this.back(3, 'eighth', 'eighth again', gradients);
    this.back(2, 'eighth in', 'eighth', gradients);
    this.unpool('quarter again', 'eighth in');
    this.back(1, 'quarter', 'quarter again', gradients);
    this.back(0, 'in', 'quarter', gradients, LEAK, true);
    this.back(FEATURE_LAYERS[1], 'features', 'features again', gradients);
    this.back(FEATURE_LAYERS[0], 'pixels', 'features', gradients, LEAK, true);
  }
}
