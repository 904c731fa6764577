interface Held {
  mode: LockMode;
}
type Run = (lock: Held | null) => unknown;

/** The browser's locks in one process: shared ones stand beside each other, an exclusive one alone. */
export function testLocks(): Pick<LockManager, 'request'> {
  const held = new Map<string, Held[]>();
  const waiting: { name: string; mode: LockMode; go(): void }[] = [];
  const free = (name: string, mode: LockMode): boolean => {
    const now = held.get(name) ?? [];
    return now.length === 0 || (mode === 'shared' && now.every((l) => l.mode === 'shared'));
  };
  const next = (): void => {
    const i = waiting.findIndex((w) => free(w.name, w.mode));
    if (i >= 0) waiting.splice(i, 1)[0]!.go();
  };
  const request = async (name: string, options: LockOptions, run: Run): Promise<unknown> => {
    const mode = options.mode ?? 'exclusive';
    if (!free(name, mode)) {
      if (options.ifAvailable) return run(null);
      await new Promise<void>((go, fail) => {
        waiting.push({ name, mode, go });
        options.signal?.addEventListener('abort', () => fail(new DOMException('aborted', 'AbortError')));
      });
    }
    const lock = { mode };
    held.set(name, [...(held.get(name) ?? []), lock]);
    try {
      return await run(lock);
    } finally {
      held.set(
        name,
        held.get(name)!.filter((l) => l !== lock),
      );
      next();
    }
  };
  return { request: request as LockManager['request'] };
}
