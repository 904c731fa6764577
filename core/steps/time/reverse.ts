import { integer, toggle } from '../../param';
import type { TimeIo } from '../../step';
import { defineStep } from '../../step';
import { MOST_FRAME, needsOfFrames, renderFrames } from './frames';

interface Range {
  own: boolean;
  first: number;
  last: number;
}

const own = { own: [true] } as const;

/** The frame that is seen at another when a range is played backwards. */
const mirrored = (p: Range, { frame, range }: Pick<TimeIo<unknown>, 'frame' | 'range'>): number =>
  p.own ? p.first + p.last - frame : range.first + range.last - frame;

export const reverse = defineStep({
  type: 'reverse',
  title: 'Reverse',
  family: 'Time',
  summary: 'Plays backwards: the last frame is seen first.',
  params: {
    own: toggle('A range of its own', false, { help: "The shot's range is turned round, or this one.", animatable: false }),
    first: integer('First', 1, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, animatable: false, when: own }),
    last: integer('Last', 48, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, animatable: false, when: own }),
  },
  feeds: [],
  frames: (p, io) => ({ main: [mirrored(p, io)] }),
  neutral: (p, io) => mirrored(p, io) === io.frame,
  locality: 'pixel',
  needs: (p, want, io) => needsOfFrames([mirrored(p, io)], want),
  render: (ctx, p, out) => renderFrames(ctx, [mirrored(p, ctx)], 0, out),
});
