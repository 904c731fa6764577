import type { Param } from '../document/types';
import type { Filling, TestPicture, TestStep } from './evaluate';

export const [W, H] = [96, 64];
export const plate: TestPicture = { width: W, height: H, fill: { R: 0.2, G: 0.2, B: 0.2, A: 1 } };
export const plain = (R: number, G: number, B: number): TestPicture => ({ width: 48, height: 48, fill: { R, G, B, A: 1 } });
export const soft: TestPicture = {
  width: 64,
  height: 48,
  fill: Object.fromEntries([
    ...['R', 'G', 'B'].map((c, k) => [c, (x: number, y: number) => 0.5 + 0.3 * Math.sin(x / 7 + k) * Math.cos(y / 6)] as const),
    ['A', 1],
  ]) as Filling,
};

export type Values = Record<string, Param>;
export const sceneOf = (things: Record<string, Values>, more: Values = {}, taps: NonNullable<TestStep['taps']> = {}): TestStep => ({
  type: 'scene',
  params: {
    seen: 'keyed',
    eye: [0, 0, 3],
    focal: 36,
    filmWidth: 36,
    things: Object.keys(things).map((id) => ({ id, name: id })) as unknown as Param,
    ...Object.fromEntries(Object.entries(things).flatMap(([id, v]) => Object.entries(v).map(([k, p]) => [`${id}.${k}`, p]))),
    ...more,
  },
  taps,
});
export const card = { what: 'card', casts: false };
/** Where the camera above shows a place. */
export const seen = ([x, y, z]: readonly number[]): [number, number] => [W / 2 + (96 * x!) / (3 - z!), H / 2 - (96 * y!) / (3 - z!)];
