const SIDE = 32;
const LOOKS = 96;
let table: Float64Array | null = null;

/** The second factor of the split sum (Karis 2013), worked out once by roughness and by the cosine towards the eye: what a white mirror of that roughness gives back, and what its edge adds. */
function splitTable(): Float64Array {
  if (table) return table;
  table = new Float64Array(2 * SIDE * SIDE);
  for (let j = 0; j < SIDE; j++) {
    const rough = Math.max(0.045, j / (SIDE - 1));
    const a2 = rough ** 4;
    for (let i = 0; i < SIDE; i++) {
      const nv = Math.max(1e-3, i / (SIDE - 1));
      const vx = Math.sqrt(1 - nv * nv);
      let scale = 0;
      let bias = 0;
      for (let k = 0; k < LOOKS; k++) {
        const e = (k + 0.5) / LOOKS;
        const c = Math.sqrt((1 - e) / (1 + (a2 - 1) * e));
        const angle = k * 2.399963229728653;
        const hx = Math.sqrt(Math.max(0, 1 - c * c)) * Math.cos(angle);
        const vh = Math.max(0, vx * hx + nv * c);
        const nl = 2 * vh * c - nv;
        if (!(nl > 0)) continue;
        const see = (2 * nl * nv) / (nl * Math.sqrt(nv * nv * (1 - a2) + a2) + nv * Math.sqrt(nl * nl * (1 - a2) + a2));
        const share = (see * vh) / (c * nv);
        const edge = (1 - vh) ** 5;
        scale += (1 - edge) * share;
        bias += edge * share;
      }
      table[2 * (j * SIDE + i)] = scale / LOOKS;
      table[2 * (j * SIDE + i) + 1] = bias / LOOKS;
    }
  }
  return table;
}

/** Both numbers for a roughness and the cosine towards the eye. Into `to`. */
export function splitSum(rough: number, nv: number, to: Float64Array): void {
  const t = splitTable();
  const x = Math.min(SIDE - 1.001, Math.max(0, nv * (SIDE - 1)));
  const y = Math.min(SIDE - 1.001, Math.max(0, rough * (SIDE - 1)));
  const i = Math.floor(x);
  const j = Math.floor(y);
  const fx = x - i;
  const fy = y - j;
  const at = 2 * (j * SIDE + i);
  for (let k = 0; k < 2; k++)
    to[k] =
      (1 - fy) * ((1 - fx) * t[at + k]! + fx * t[at + 2 + k]!) + fy * ((1 - fx) * t[at + 2 * SIDE + k]! + fx * t[at + 2 * SIDE + 2 + k]!);
}
