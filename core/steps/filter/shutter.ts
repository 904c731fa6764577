import { number } from '../../param';

/** How long a shutter is open, and when it opens: degrees of a frame. */
export const shutterParams = {
  shutter: number('Shutter', 180, [0, 360], { unit: '°', min: 0, max: 1440 }),
  phase: number('Shutter opens at', -90, [-180, 180], {
    unit: '°',
    min: -720,
    max: 720,
    help: 'Before the frame: −90° of a 180° shutter is in its middle.',
  }),
};
