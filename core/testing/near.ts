/** Expects numbers to be others, each to so many decimals. */
export function near(got: readonly number[], wanted: readonly number[], decimals = 9): void {
  expect(got).toHaveLength(wanted.length);
  got.forEach((v, i) => expect(v).toBeCloseTo(wanted[i]!, decimals));
}
