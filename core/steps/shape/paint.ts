import { isEmpty, union } from '../../geometry/rect';
import { choice, strokes } from '../../param';
import { RGBA, formatRect } from '../../picture';
import type { Canvas } from '../../paint/canvas';
import { brush } from '../../paint/canvas';
import { BLOCK, keep, resume } from '../../paint/checkpoints';
import { layRegion } from '../../paint/lay-strokes';
import type { StrokesValue } from '../../paint/pose';
import { copies } from '../../paint/strokes';
import type { Tile } from '../../picture';
import { defineStep, pixelsOf } from '../../step';

/** Fewer strokes than these are laid again each time. */
const FEW = 24;

const isMain = (c: string): boolean => (RGBA as readonly string[]).includes(c);

/** Frames that its strokes copy from, of one picture or the other. */
const framesFrom = ({ list }: StrokesValue, other: boolean, frame: number): number[] => [
  ...new Set(
    list.flatMap(({ stroke: s }) =>
      copies(s.tool) && (s.other ?? false) === other && (other || s.from !== undefined) ? [s.from ?? frame] : [],
    ),
  ),
];

export const paint = defineStep({
  type: 'paint',
  title: 'Paint',
  family: 'Shape & touch-up',
  summary: 'Brushes on the picture: colour, tint, clone, heal, another frame revealed, smeared, blurred, lightened; or brushes a matte.',
  params: {
    strokes: strokes('Strokes', {
      coloured: true,
      help: 'On the stage; each on a frame, a span or all of the shot, still or following a reading.',
    }),
    output: choice('Gives', 'picture', [
      { value: 'picture', title: 'The picture' },
      { value: 'matte', title: 'A matte', help: 'Alpha is what is brushed: a region drawn by hand.' },
    ]),
  },
  feeds: [{ name: 'other', title: 'Other picture', help: 'Clone, heal and reveal can take from it.' }],
  frames: (p, io) => ({
    main: [io.frame, ...framesFrom(p.strokes, false, io.frame).filter((f) => f !== io.frame)],
    other: framesFrom(p.strokes, true, io.frame),
  }),
  neutral: (p) => p.strokes.list.length === 0 && p.output !== 'matte',
  // Colour can be laid on a clear place, inside the frame.
  bounds: (p, io) => {
    const { bounds, format } = io.inputs.main!;
    return p.output === 'matte' || p.strokes.list.length > 0 ? union(bounds, formatRect(format)) : bounds;
  },
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, ...RGBA])],
  writes: (p, channels) => channels.filter((c) => (p.output === 'matte' ? c === 'A' : isMain(c))),
  // A stroke may copy from anywhere, also from what an earlier one made there.
  locality: 'whole',
  needs: (p, want, io) => {
    const whole = (input: string, frame: number) => {
      const bounds = (io.info(input, frame) ?? (frame === io.frame ? io.inputs[input] : undefined))?.bounds;
      return bounds ? [{ input, frame, region: bounds, channels: RGBA }] : [];
    };
    if (p.output === 'matte') return [{ input: 'main', region: want.region, channels: ['A'] }];
    return [
      { input: 'main', region: want.region, channels: RGBA },
      ...framesFrom(p.strokes, false, io.frame).flatMap((f) => whole('main', f)),
      ...framesFrom(p.strokes, true, io.frame).flatMap((f) => whole('other', f)),
    ];
  },
  render(ctx, p, out) {
    const n = pixelsOf(out);
    if (isEmpty(out.region)) return;
    const { A } = out.planes;
    if (p.output === 'matte') {
      if (A) layRegion(p.strokes.list, ctx.scale, out.region, A);
      return;
    }
    const main = ctx.tile('main')!;
    const before = RGBA.map((c) => main.planes[c]!);
    const planes = RGBA.map((c, k) => {
      const plane = out.planes[c] ?? ctx.scratch(n);
      plane.set(before[k]!);
      return plane;
    });
    const canvas: Canvas = {
      kernels: ctx.kernels,
      scale: ctx.scale,
      region: out.region,
      planes,
      before,
      picture: (frame, other): Tile | undefined => ctx.tile(other ? 'other' : 'main', frame ?? ctx.frame),
      poll: () => ctx.poll(),
    };
    const { list } = p.strokes;
    const key = `${ctx.scale} ${ctx.inputsKey}`;
    const names = list.map((l) => l.name);
    const from = list.length < FEW ? 0 : resume(key, out.region, names, planes);
    for (let k = from; k < list.length; k++) {
      ctx.poll();
      brush(canvas, list[k]!);
      const done = k + 1;
      if (list.length >= FEW && (done % BLOCK === 0 || done === list.length)) keep(key, out.region, names.slice(0, done), planes);
    }
  },
});
