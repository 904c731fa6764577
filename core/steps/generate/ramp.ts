import { choice, colour, point } from '../../param';
import { defineStep } from '../../step';
import { fillPixels, generator, opacity } from './generator';

const ends = { kind: ['linear', 'radial'] } as const;
const corners = { kind: ['corners'] } as const;
const smooth = (t: number): number => t * t * (3 - 2 * t);

export const ramp = defineStep({
  type: 'ramp',
  title: 'Ramp',
  family: 'Generate',
  summary: 'Runs from one colour to another: along a line, around a point, or between the four corners.',
  params: {
    kind: choice('Kind', 'linear', [
      { value: 'linear', title: 'Along a line' },
      { value: 'radial', title: 'Around a point' },
      { value: 'corners', title: 'Between four corners' },
    ]),
    from: point('From', [0, 0], { unit: 'px', pixels: true, place: 'corner', when: ends }),
    to: point('To', [0, 540], { unit: 'px', pixels: true, place: 'corner', when: ends }),
    first: colour('Colour there', [0, 0, 0], { pick: true, when: ends }),
    second: colour('Colour here', [1, 1, 1], { pick: true, when: ends }),
    topLeft: colour('Left top', [0, 0, 0], { pick: true, when: corners }),
    topRight: colour('Right top', [1, 0, 0], { pick: true, when: corners }),
    bottomLeft: colour('Left bottom', [0, 1, 0], { pick: true, when: corners }),
    bottomRight: colour('Right bottom', [1, 1, 0], { pick: true, when: corners }),
    between: choice('Between', 'linear', [
      { value: 'linear', title: 'Evenly' },
      { value: 'smooth', title: 'Slow at both ends' },
    ]),
    opacity,
  },
  feeds: [],
  ...generator,
  render(ctx, p, out) {
    const ease = p.between === 'smooth' ? smooth : (t: number): number => t;
    const { width: w, height: h } = ctx.inputs.main!.format;
    const [x0, y0] = p.from;
    const [dx, dy] = [p.to[0] - x0, p.to[1] - y0];
    const length = Math.max(1e-9, dx * dx + dy * dy);
    const along = (x: number, y: number): number =>
      p.kind === 'linear' ? ((x - x0) * dx + (y - y0) * dy) / length : Math.hypot(x - x0, y - y0) / Math.sqrt(length);
    const cut = (t: number): number => Math.min(1, Math.max(0, t));
    fillPixels(
      out,
      p.kind === 'corners'
        ? (x, y, to) => {
            const [u, v] = [ease(x / w), ease(y / h)];
            for (let c = 0; c < 3; c++) {
              const top = p.topLeft[c]! + u * (p.topRight[c]! - p.topLeft[c]!);
              const bottom = p.bottomLeft[c]! + u * (p.bottomRight[c]! - p.bottomLeft[c]!);
              to[c] = top + v * (bottom - top);
            }
          }
        : (x, y, to) => {
            const t = ease(cut(along(x, y)));
            for (let c = 0; c < 3; c++) to[c] = p.first[c]! + t * (p.second[c]! - p.first[c]!);
          },
      p.opacity,
    );
  },
});
