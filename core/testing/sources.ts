import type { Source } from '../document/types';

/** A still of 64×36 pixels for tests. */
export const stillSource = (id: string, name: string): Source => ({
  id,
  name,
  kind: 'still',
  frames: [
    {
      frame: 1,
      hash: id
        .charCodeAt(id.length - 1)
        .toString(16)
        .padStart(2, '0')
        .repeat(32),
      name: `${name}.png`,
    },
  ],
  format: { width: 64, height: 36, pixelAspect: 1 },
  channels: ['R', 'G', 'B'],
  container: 'PNG',
  colourSpace: 'sRGB',
  alpha: 'ignore',
  missing: 'error',
  start: 1,
});
