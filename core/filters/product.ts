/** A new plane: the one times the other. */
export function product(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length);
  for (let i = 0; i < out.length; i++) out[i] = a[i]! * b[i]!;
  return out;
}
