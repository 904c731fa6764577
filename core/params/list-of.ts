import type * as yup from 'yup';
import { ShotError } from '../errors';

/**
 * Checks a structured value, a list of objects, item by item. A frozen item that was right is not looked at again, so that a change
 * costs what it touches; `quick` says of plain items that they are right without a look at the schema. Throws
 * ShotError with the words given.
 */
export function listOf<T extends object>(
  item: yup.Schema<unknown>,
  problem: string,
  quick?: (v: T) => boolean,
): (value: unknown) => readonly T[] {
  const passed = new WeakSet<object>();
  return (value) => {
    if (!Array.isArray(value)) throw new ShotError(problem);
    for (const v of value as unknown[]) {
      if (typeof v === 'object' && v !== null && (passed.has(v) || quick?.(v as T))) continue;
      try {
        item.validateSync(v, { strict: true });
      } catch {
        throw new ShotError(problem);
      }
      if (Object.isFrozen(v)) passed.add(v as object);
    }
    return value as unknown as readonly T[];
  };
}

export const isNumbers = (v: unknown): v is number[] => Array.isArray(v) && v.every((n) => Number.isFinite(n));
