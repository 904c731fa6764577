import { colour } from '../../param';
import { defineStep } from '../../step';
import { generator, opacity } from './generator';

export const solid = defineStep({
  type: 'solid',
  title: 'Solid',
  family: 'Generate',
  summary: 'Fills the frame with one colour.',
  params: { colour: colour('Colour', [0.18, 0.18, 0.18], { pick: true }), opacity },
  feeds: [],
  ...generator,
  render(_, p, out) {
    (['R', 'G', 'B'] as const).forEach((c, i) => out.planes[c]?.fill(p.colour[i]! * p.opacity));
    out.planes.A?.fill(p.opacity);
  },
});
