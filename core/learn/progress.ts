import type { Losses } from './reading';

/** Entries that a history of losses keeps; where it grows longer every second one goes. */
const MOST = 600;

export function withLoss(losses: Losses, entry: Losses[number]): Losses {
  const all = [...losses, entry];
  return all.length <= MOST ? all : all.filter((_, i) => i % 2 === 1);
}

/** What counts of an entry: the loss on what is held back where that is measured. */
const lossOf = ([, loss, held]: Losses[number]): number => (held >= 0 ? held : loss);

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0;

/** Whether the last third of a training was hardly better than the third before: less than 3 %. */
export function levelledOff(losses: Losses): boolean {
  const some = losses.filter(([step]) => step > 200);
  if (some.length < 24) return false;
  const third = Math.floor(some.length / 3);
  const before = median(some.slice(-2 * third, -third).map(lossOf));
  const last = median(some.slice(-third).map(lossOf));
  return last > 0.97 * before;
}

/** Doubtful frames: those whose looks differ by more than this times the median of all. */
const DOUBTFUL = 1.6;

/** Sureness of frames from how far their looks differ on average. */
export function judged(
  spreads: readonly { frame: number; spread: number }[],
): { frame: number; confidence: number; error: number; flag?: 'doubtful' }[] {
  const usual = Math.max(1e-5, median(spreads.map((s) => s.spread)));
  return [...spreads]
    .sort((a, b) => a.frame - b.frame)
    .map(({ frame, spread }) => ({
      frame,
      error: spread,
      confidence: Math.min(1, Math.max(0, 1 / (1 + (spread / usual / 2) ** 2))),
      ...(spread > DOUBTFUL * usual && { flag: 'doubtful' as const }),
    }));
}
