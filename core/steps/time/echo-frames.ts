import { choice, integer, number } from '../../param';
import { defineStep } from '../../step';
import { boundsOver, needsOfFrames } from './frames';

interface Echo {
  count: number;
  spacing: number;
  when: 'before' | 'after' | 'around';
}

/** Other frames that are seen, the one farthest away first, each with how many echoes away it is. */
function echoes({ count, spacing, when }: Echo, frame: number): { frame: number; away: number }[] {
  const sides = when === 'before' ? [-1] : when === 'after' ? [1] : [-1, 1];
  return Array.from({ length: count }, (_, k) => count - k).flatMap((away) =>
    sides.map((side) => ({ frame: frame + side * away * spacing, away })),
  );
}

const all = (p: Echo, frame: number): number[] => [...echoes(p, frame).map((e) => e.frame), frame];

export const echoFrames = defineStep({
  type: 'echoFrames',
  title: 'Echo frames',
  family: 'Time',
  summary: 'Leaves a trail: earlier or later frames are seen with this one, each weaker than the one before.',
  params: {
    count: integer('Echoes', 6, [1, 24], { min: 1, max: 64 }),
    spacing: integer('Spacing', 1, [1, 8], { unit: 'frames', min: 1, max: 1000 }),
    when: choice('Frames', 'before', [
      { value: 'before', title: 'Earlier ones' },
      { value: 'after', title: 'Later ones' },
      { value: 'around', title: 'Both' },
    ]),
    decay: number('Strength kept', 0.75, [0, 1], { min: 0, max: 1, help: 'Of its strength each echo keeps this part of the one before.' }),
    by: choice('Laid by', 'max', [
      { value: 'max', title: 'The brightest', help: 'For lights.' },
      { value: 'plus', title: 'Plus', help: 'Light adds up.' },
      { value: 'over', title: 'Over', help: 'This frame lies over its echoes.' },
      { value: 'mean', title: 'Mean', help: 'As long a shutter as all of them.' },
    ]),
  },
  feeds: [],
  frames: (p, { frame }) => ({ main: all(p as Echo, frame) }),
  neutral: (p) => p.decay === 0,
  bounds: (p, io) => boundsOver(all(p as Echo, io.frame), io),
  writes: (_, channels) => channels.filter((c) => ['R', 'G', 'B', 'A'].includes(c)),
  locality: 'pixel',
  needs: (p, want, io) => needsOfFrames(all(p as Echo, io.frame), { ...want, channels: [...new Set([...want.channels, 'A'])] }),
  render(ctx, p, out) {
    const { fn } = ctx.kernels;
    const list = echoes(p as Echo, ctx.frame);
    const now = ctx.tile('main', ctx.frame)!;
    const sum = 1 + list.reduce((s, e) => s + p.decay ** e.away, 0);
    const channels = Object.keys(out.planes);
    for (const c of channels) out.planes[c]!.fill(0);
    const layers = [...list.map((e) => ({ tile: ctx.tile('main', e.frame)!, share: p.decay ** e.away })), { tile: now, share: 1 }];
    // Alpha comes last: what lies over the others asks what it was.
    channels.sort((a, b) => Number(a === 'A') - Number(b === 'A'));
    for (const { tile, share } of layers) {
      ctx.poll();
      for (const c of channels) {
        const to = out.planes[c]!;
        const from = tile.planes[c]!;
        const n = to.length;
        if (p.by === 'plus') fn.addScaled(to.byteOffset, from.byteOffset, to.byteOffset, n, share);
        else if (p.by === 'mean') fn.addScaled(to.byteOffset, from.byteOffset, to.byteOffset, n, share / sum);
        else if (p.by === 'max') for (let i = 0; i < n; i++) to[i] = Math.max(to[i]!, share * from[i]!);
        else {
          const a = tile.planes.A!;
          for (let i = 0; i < n; i++) to[i] = share * from[i]! + to[i]! * (1 - share * a[i]!);
        }
      }
    }
    // Coverage is never more than whole.
    const a = out.planes.A;
    if (a && p.by === 'plus') fn.clampPlane(a.byteOffset, a.byteOffset, a.length, 0, 1);
  },
});
