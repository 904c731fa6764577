/**
 * 3×3 convolution and rectifier max(v, leak·v) by its definition, for comparing: x is a map of w·h·cin with a border of one pixel,
 * weights are [ky][kx][cin][cout]. Gives w·h·cout floats without a border.
 */
export function naiveConv(
  x: Float32Array,
  weights: Float32Array,
  bias: Float32Array,
  w: number,
  h: number,
  cin: number,
  cout: number,
  leak: number,
): Float32Array {
  const out = new Float32Array(w * h * cout);
  for (let y = 0; y < h; y++)
    for (let i = 0; i < w; i++)
      for (let o = 0; o < cout; o++) {
        let sum = bias[o]!;
        for (let ky = 0; ky < 3; ky++)
          for (let kx = 0; kx < 3; kx++)
            for (let c = 0; c < cin; c++)
              sum += x[((y + ky) * (w + 2) + i + kx) * cin + c]! * weights[((ky * 3 + kx) * cin + c) * cout + o]!;
        out[(y * w + i) * cout + o] = Math.max(sum, leak * sum);
      }
  return out;
}
