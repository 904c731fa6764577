type Loop = 'loop' | 'bounce' | 'once';

/** What to show now: a frame, or none while the one that is due is not there yet. */
export interface PlayStep {
  frame: number | null;
  dropped: number;
  ended: boolean;
}

/**
 * Says which frame is due. To keep time, frames whose turn has passed are left out and counted; where every frame is wanted,
 * a frame that is not ready is waited for and the clock waits with it.
 */
export class PlayClock {
  private direction = 1;
  private at: number;
  private due: number;

  constructor(
    private readonly first: number,
    private readonly last: number,
    private readonly rate: number,
    frame: number,
    now: number,
  ) {
    this.at = Math.min(last, Math.max(first, frame));
    this.due = now + 1000 / rate;
  }

  next(now: number, loop: Loop, pace: 'every' | 'time', ready: (frame: number) => boolean): PlayStep {
    // A display refreshes between frames: half a millisecond early is in time.
    if (now < this.due - 0.5) return { frame: null, dropped: 0, ended: false };
    const period = 1000 / this.rate;
    const late = pace === 'time' ? Math.floor((now - this.due + 0.5) / period) : 0;
    let [at, direction] = [this.at, this.direction];
    for (let i = 0; i <= late; i++) {
      const after = this.after(at, direction, loop);
      if (!after) return { frame: null, dropped: 0, ended: true };
      [at, direction] = after;
    }
    if (!ready(at)) {
      if (pace === 'every') {
        this.due = now;
        return { frame: null, dropped: 0, ended: false };
      }
      // Nothing to show at this moment; the clock goes on.
      this.move(at, direction, this.due + (late + 1) * period);
      return { frame: null, dropped: late + 1, ended: false };
    }
    this.move(at, direction, pace === 'time' ? this.due + (late + 1) * period : Math.max(this.due + period, now));
    return { frame: at, dropped: late, ended: false };
  }

  /** The frames that come next, in order, each once. */
  ahead(count: number, loop: Loop): number[] {
    const frames = new Set<number>();
    let place: [number, number] | null = [this.at, this.direction];
    for (let i = 0; i < 2 * count && place && frames.size < count; i++) {
      place = this.after(...place, loop);
      if (place) frames.add(place[0]);
    }
    return [...frames];
  }

  private move(at: number, direction: number, due: number): void {
    this.at = at;
    this.direction = direction;
    this.due = due;
  }

  private after(at: number, direction: number, loop: Loop): [number, number] | null {
    const next = at + direction;
    if (next >= this.first && next <= this.last) return [next, direction];
    if (loop === 'once') return null;
    if (loop === 'loop' || this.first === this.last) return [this.first, 1];
    return [at - direction, -direction];
  }
}
