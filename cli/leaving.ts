/** What is to be tidied up when the command is interrupted; it must not wait for anything. */
const tidies = new Set<() => void>();

/** Has something done when the command is interrupted; what is returned takes that back. */
export function whenLeft(tidy: () => void): () => void {
  tidies.add(tidy);
  return () => void tidies.delete(tidy);
}

/** Ends the command on SIGINT and SIGTERM with what was begun tidied up; worker threads end with the process. */
export function leaveOnSignals(): void {
  for (const [signal, number] of [
    ['SIGINT', 2],
    ['SIGTERM', 15],
    ['SIGHUP', 1],
  ] as const) {
    process.on(signal, () => {
      tidies.forEach((tidy) => tidy());
      process.exit(128 + number);
    });
  }
}
