import { integer } from '../../param';
import { defineStep } from '../../step';
import { MOST_FRAME, needsOfFrames, renderFrames } from './frames';

export const hold = defineStep({
  type: 'hold',
  title: 'Hold',
  family: 'Time',
  summary: 'Shows one frame at every frame.',
  params: {
    frame: integer('Frame', 1, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, help: 'Keyed, it steps from frame to frame.' }),
  },
  feeds: [],
  frames: (p) => ({ main: [p.frame] }),
  neutral: (p, io) => p.frame === io.frame,
  locality: 'pixel',
  needs: (p, want) => needsOfFrames([p.frame], want),
  render: (ctx, p, out) => renderFrames(ctx, [p.frame], 0, out),
});
