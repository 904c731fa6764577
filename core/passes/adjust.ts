import type { Kernels, Plane } from '@/kernels';
import { colour, number, toggle } from '../param';
import type { ParamValues } from '../param';

/** What is done to the light of one pass: parameters that parts and lamps share. */
export const lightParams = {
  on: toggle('On', true),
  gain: number('Gain', 0, [-4, 4], { unit: 'stops', min: -20, max: 20 }),
  tint: colour('Tint', [1, 1, 1]),
};
export type LightValues = ParamValues<typeof lightParams>;

/** Factors of R, G, B. */
export const factorsOf = ({ on, gain, tint }: LightValues): [number, number, number] =>
  on ? [2 ** gain * tint[0], 2 ** gain * tint[1], 2 ** gain * tint[2]] : [0, 0, 0];

export const isUnity = (f: readonly number[]): boolean => f.every((v) => v === 1);

export const partParams = {
  ...lightParams,
  saturation: number('Saturation', 1, [0, 2], { min: 0, max: 20 }),
  black: number('Black point', 0, [-0.1, 0.5], { min: -100, max: 100 }),
  white: number('White point', 1, [0.2, 4], { min: 1e-4, max: 1000 }),
  gamma: number('Gamma', 1, [0.3, 3], { min: 0.05, max: 20 }),
};
export type PartValues = ParamValues<typeof partParams>;

/** True of a part that is only multiplied. */
export const onlyScaled = (p: PartValues): boolean => p.saturation === 1 && p.black === 0 && p.white === 1 && p.gamma === 1;

/**
 * Changes premultiplied light in place: factors, levels (on light divided by `alpha`), then saturation. Levels map black..white to 0..1, then
 * raise to 1/gamma.
 */
export function adjustLight({ fn }: Kernels, planes: readonly Plane[], alpha: Plane, p: PartValues): void {
  const n = alpha.length;
  const factors = factorsOf(p);
  const span = Math.max(1e-4, p.white - p.black);
  planes.forEach(({ byteOffset: at }, i) => {
    fn.affine(at, at, n, factors[i]! / span, 0);
    if (p.black !== 0) fn.addScaled(at, alpha.byteOffset, at, n, -p.black / span);
    if (p.gamma === 1) return;
    fn.unpremultiply(at, alpha.byteOffset, at, n);
    fn.powerPlane(at, at, n, 1 / p.gamma, 1);
    fn.repremultiply(at, alpha.byteOffset, at, n);
  });
  if (p.saturation !== 1) fn.saturate(planes[0]!.byteOffset, planes[1]!.byteOffset, planes[2]!.byteOffset, n, p.saturation);
}
