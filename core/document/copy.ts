/** A copy of a plain value, to be changed: nothing in it is shared or frozen. */
export function copyOf<T>(value: T): T {
  if (Array.isArray(value)) return value.map(copyOf) as T;
  if (value === null || typeof value !== 'object') return value;
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, copyOf(v as unknown)])) as T;
}
