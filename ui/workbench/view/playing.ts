/** Which frame is seen, and how frames follow. */
export interface Playing {
  frame: number;
  playing: boolean;
  loop: 'loop' | 'bounce' | 'once';
  /** Every frame is shown however long it takes, or frames are left out to keep time. */
  pace: 'every' | 'time';
  inOut: { first: number; last: number } | null;
}

export const playing: Playing = {
  frame: 1,
  playing: false,
  loop: 'loop',
  pace: 'time',
  inOut: null,
};
