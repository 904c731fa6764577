import { PlayClock } from './play-clock';

const all = (): boolean => true;

/** Frames shown when the display refreshes every `tick` ms for a second, from frame 1 of 1–10 at 25 fps. */
function play(
  tick: number,
  pace: 'every' | 'time',
  ready: (f: number, now: number) => boolean = all,
  loop: 'loop' | 'bounce' | 'once' = 'loop',
) {
  const clock = new PlayClock(1, 10, 25, 1, 0);
  const shown: number[] = [];
  let dropped = 0;
  let ended = false;
  for (let now = tick; now <= 1000 && !ended; now += tick) {
    const step = clock.next(now, loop, pace, (f) => ready(f, now));
    dropped += step.dropped;
    ended = step.ended;
    if (step.frame !== null) shown.push(step.frame);
  }
  return { shown, dropped, ended };
}

describe('the play clock', () => {
  test.each([5, 8, 16.6, 20])('a display that refreshes every %s ms shows every frame once, at the exact rate', (tick) => {
    const { shown, dropped } = play(tick, 'time');
    expect(dropped).toBe(0);
    expect(Math.abs(shown.length - 25)).toBeLessThanOrEqual(1);
    shown.forEach((f, i) => expect(f).toBe(((i + 1) % 10) + 1));
  });

  test('a display that is too slow leaves frames out and counts them, and stays in time', () => {
    const { shown, dropped } = play(100, 'time');
    expect(shown.length + dropped).toBe(25);
    expect(shown.length).toBe(10);
  });

  test('every frame: the same display shows each frame, later', () => {
    const { shown, dropped } = play(100, 'every');
    expect(dropped).toBe(0);
    expect(shown).toEqual([2, 3, 4, 5, 6, 7, 8, 9, 10, 1]);
  });

  test('a frame that is not ready is waited for, or left out', () => {
    const ready = (f: number, now: number): boolean => f !== 4 || now > 500;
    expect(play(20, 'every', ready).shown.slice(0, 4)).toEqual([2, 3, 4, 5]);
    const time = play(20, 'time', ready);
    expect(time.shown.slice(0, 3)).toEqual([2, 3, 5]);
    expect(time.dropped).toBe(1);
  });

  test('bounce turns at both ends without repeating them; once ends', () => {
    expect(play(40, 'every', all, 'bounce').shown.slice(7, 13)).toEqual([9, 10, 9, 8, 7, 6]);
    const once = play(40, 'every', all, 'once');
    expect(once.shown[once.shown.length - 1]).toBe(10);
    expect(once.ended).toBe(true);
  });

  test('what comes next is asked for in playing order, round the end', () => {
    const clock = new PlayClock(1, 10, 25, 8, 0);
    expect(clock.ahead(5, 'loop')).toEqual([9, 10, 1, 2, 3]);
    expect(clock.ahead(5, 'bounce')).toEqual([9, 10, 8, 7, 6]);
    expect(clock.ahead(5, 'once')).toEqual([9, 10]);
  });
});
