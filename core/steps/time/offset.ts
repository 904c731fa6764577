import { integer } from '../../param';
import { defineStep } from '../../step';
import { MOST_FRAME, needsOfFrames, renderFrames } from './frames';

export const offset = defineStep({
  type: 'offset',
  title: 'Offset',
  family: 'Time',
  summary: 'Shows everything so many frames later, or earlier.',
  params: {
    by: integer('Shift by', 0, [-48, 48], { unit: 'frames', min: -MOST_FRAME, max: MOST_FRAME, help: 'Below 0 is earlier.' }),
  },
  feeds: [],
  frames: (p, { frame }) => ({ main: [frame - p.by] }),
  neutral: (p) => p.by === 0,
  locality: 'pixel',
  needs: (p, want, io) => needsOfFrames([io.frame - p.by], want),
  render: (ctx, p, out) => renderFrames(ctx, [ctx.frame - p.by], 0, out),
});
