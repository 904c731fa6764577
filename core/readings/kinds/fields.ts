import * as yup from 'yup';
import { flag as bool, frame, name, real, text } from '../../document/fields';
import { READING_CHANNELS } from '../gray';
import { FLAGS } from '../point';

export const ORDER = '${path} are not in order';
export const numbers = (count?: number) => {
  const list = yup.array(real()).required();
  return count === undefined ? list : list.length(count);
};
export const share = () => real().min(0).max(1);
export const tap = { lane: text(), after: yup.string().strict().optional() };
export const following = { threshold: share(), lost: text().oneOf(['stop', 'predict']) };
const flag = yup.string().strict().oneOf(FLAGS).optional();
export const seen = { frame: frame(), confidence: share(), error: real().min(0), flag, pinned: bool().optional() };
/** Left, top, right, bottom around the point that they are counted from. */
export const box = () =>
  numbers(4).test(
    'around',
    '${path} is not a box around its point',
    (v) => Array.isArray(v) && v[0]! < 0 && v[1]! < 0 && v[2]! > 0 && v[3]! > 0 && Math.max(v[2]! - v[0]!, v[3]! - v[1]!) <= 4096,
  );
export const inOrder = (list: unknown): boolean => {
  const frames = Array.isArray(list) ? list.map((f: { frame?: unknown } | null) => (typeof f?.frame === 'number' ? f.frame : NaN)) : [];
  return frames.every((f, i) => i === 0 || !(f <= frames[i - 1]!));
};
export const polygons = () => yup.array(numbers().min(6)).required();

/** Long lists of numbers are looked through by hand: thousands of schemas of a number each would be slow. */
export const numbersOf = (ok: (list: readonly unknown[]) => boolean) =>
  yup
    .array()
    .required()
    .test(
      'numbers',
      '${path} are not all numbers',
      (v) => Array.isArray(v) && v.every((n) => typeof n === 'number' && Number.isFinite(n)) && ok(v),
    );

/** What readings of all kinds have. */
export const common = {
  id: text(),
  name: name(),
  from: yup.object(tap).required(),
  channel: text().oneOf(READING_CHANNELS),
  reference: frame(),
  range: yup.object({ first: frame(), last: frame() }).required(),
  stale: bool().optional(),
};
