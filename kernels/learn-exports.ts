/** What kernels/assembly/learn.ts and learn-blend.ts export: layers of a net, forward and backward. */
export interface LearnExports {
  conv3(x: number, weights: number, bias: number, out: number, w: number, h: number, cin: number, cout: number, leak: number): void;
  turnWeights(weights: number, out: number, cin: number, cout: number): void;
  convWeightGradient(x: number, d: number, dw: number, w: number, h: number, cin: number, cout: number): void;
  convBiasGradient(d: number, db: number, w: number, h: number, cout: number): void;
  leakGradient(out: number, d: number, n: number, leak: number): void;
  poolMap(x: number, out: number, w: number, h: number, c: number): void;
  poolGradient(dout: number, d: number, w: number, h: number, c: number): void;
  layMap(x: number, out: number, w: number, h: number, c: number, total: number, from: number, doubled: number): void;
  layGradient(dout: number, dx: number, w: number, h: number, c: number, total: number, from: number, doubled: number): void;
  unshuffle(x: number, out: number, w: number, rows: number): void;
  blendFeatures(
    coefficients: number,
    features: number,
    pixels: number,
    out: number,
    wq: number,
    hq: number,
    y0: number,
    rows: number,
    sets: number,
  ): void;
  blendGradient(
    dout: number,
    coefficients: number,
    features: number,
    pixels: number,
    dcoefficients: number,
    dfeatures: number,
    wq: number,
    hq: number,
    sets: number,
  ): void;
  adamStep(
    weights: number,
    gradients: number,
    first: number,
    second: number,
    means: number,
    n: number,
    shrink: number,
    beta1: number,
    beta2: number,
    by: number,
    least: number,
    keep: number,
  ): void;
  sumSquares(x: number, n: number): number;
  whitenRow(
    r: number,
    g: number,
    b: number,
    out: number,
    n: number,
    matrix: number,
    bend: number,
    most: number,
    table: number,
    size: number,
    box: number,
  ): void;
}
