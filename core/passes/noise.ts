const hash3 = (x: number, y: number, z: number): number => {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(z, 2147483647 - 1640531527);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  h = Math.imul(h ^ (h >>> 16), 2654435761);
  return ((h ^ (h >>> 15)) >>> 0) / 2147483648 - 1;
};
const ease = (t: number): number => t * t * (3 - 2 * t);

/** Value noise in space, −1..1, smooth, of cells one unit wide, two octaves. */
export function solidNoise(x: number, y: number, z: number): number {
  return (octave(x, y, z) + 0.5 * octave(2 * x + 17, 2 * y + 31, 2 * z + 47)) / 1.5;
}

function octave(x: number, y: number, z: number): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [u, v, w] = [ease(x - i), ease(y - j), ease(z - k)];
  const row = (dj: number, dk: number): number => {
    const a = hash3(i, j + dj, k + dk);
    return a + u * (hash3(i + 1, j + dj, k + dk) - a);
  };
  const near = row(0, 0) + v * (row(1, 0) - row(0, 0));
  const far = row(0, 1) + v * (row(1, 1) - row(0, 1));
  return near + w * (far - near);
}
