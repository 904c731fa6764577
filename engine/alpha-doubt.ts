import type { Kernels } from '@/kernels';
import { decodeMedia } from './codecs';
import type { MediaInfo } from './inspect';

/** Share of the pixels that must speak against alpha before it is said. */
const ENOUGH = 0.002;

/** What the pixels of a file say against the alpha that its header leads to; undefined where they agree, or it has none. */
export async function alphaDoubt(file: File, info: MediaInfo, kernels: Kernels): Promise<string | undefined> {
  if (info.movie || !info.channels.includes('A')) return undefined;
  const bytes = new Uint8Array(await file.arrayBuffer());
  // As it stands in the file: nothing divided, nothing multiplied.
  const as = { colourSpace: info.colourSpace, alpha: 'premultiplied' } as const;
  const { planes } = await decodeMedia(bytes, file.name, as, kernels, ['A', 'B', 'G', 'R']);
  try {
    return judge(planes as Record<string, Float32Array>, info.alpha);
  } finally {
    Object.values(planes).forEach((p) => kernels.give(p));
  }
}

/** The same for planes R, G, B and A as a file holds them. */
export function judge(planes: Readonly<Record<string, Float32Array>>, alpha: MediaInfo['alpha']): string | undefined {
  const { R, G, B, A } = planes;
  if (!R || !G || !B || !A || (alpha !== 'premultiplied' && alpha !== 'straight')) return undefined;
  const n = A.length;
  let [clear, lit, partial, above] = [0, 0, 0, 0];
  for (let i = 0; i < n; i++) {
    const most = Math.max(R[i]!, G[i]!, B[i]!);
    const a = A[i]!;
    if (a <= 0) {
      clear++;
      if (most > 1e-4) lit++;
    } else if (a < 0.999) {
      partial++;
      if (most > a * 1.02 + 1e-3) above++;
    }
  }
  const percent = (count: number): string => `${Math.max(1, Math.round((100 * count) / n))} %`;
  if (clear === n && lit > ENOUGH * n) return 'alpha is 0 everywhere although there is colour: it may have to be ignored';
  if (alpha === 'straight') return undefined;
  if (lit > ENOUGH * n) return `colour stands where alpha is 0, in ${percent(lit)} of the pixels: it may be straight, or light that adds`;
  if (above > ENOUGH * n && above > partial / 2) return `colour lies above alpha in ${percent(above)} of the pixels: it may be straight`;
  return undefined;
}
