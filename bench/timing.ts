/** Milliseconds of the quickest third of many runs, in the middle: what the machine gives when nothing else disturbs it. */
export function timeOf(run: () => void, budget = 400, least = 7): number {
  run();
  const times: number[] = [];
  for (const start = performance.now(); times.length < least || performance.now() - start < budget;) {
    const t = performance.now();
    run();
    times.push(performance.now() - t);
  }
  times.sort((a, b) => a - b);
  return times[Math.floor(times.length / 6)]!;
}

/** The same for work that is awaited. */
export async function timeOfAsync(run: () => Promise<unknown>, budget = 600, least = 5): Promise<number> {
  await run();
  const times: number[] = [];
  for (const start = performance.now(); times.length < least || performance.now() - start < budget;) {
    const t = performance.now();
    await run();
    times.push(performance.now() - t);
  }
  times.sort((a, b) => a - b);
  return times[Math.floor(times.length / 6)]!;
}

export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;

export const ms = (t: number): string => (t < 10 ? t.toFixed(2) : t < 100 ? t.toFixed(1) : t.toFixed(0));
export const times = (r: number): string => `${r.toFixed(2)}×`;

/** A table in Markdown. */
export function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const line = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`;
  return [line(head), line(head.map((_, i) => (i === 0 ? '---' : '---:'))), ...rows.map(line)].join('\n');
}
