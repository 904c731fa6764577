import { COLOUR } from '../picture';

/** Which channels of the main layer a step acts on: one choice, used by every step that asks. */
export const channelSet = {
  options: [
    { value: 'all', title: 'Colour and alpha' },
    { value: 'colour', title: 'Colour' },
    { value: 'alpha', title: 'Alpha' },
  ],
  pick(set: 'all' | 'colour' | 'alpha', channels: readonly string[]): readonly string[] {
    return channels.filter((c) => (set === 'all' ? true : set === 'alpha' ? c === 'A' : (COLOUR as readonly string[]).includes(c)));
  },
} as const;
