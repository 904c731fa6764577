import { between } from '../../flow/between';
import type { Plane } from '@/kernels';
import type { Flow } from '../../flow/dense';
import type { FlowPair } from '../../flow/pair';
import { flowPair, givePair, knownPair, seenLuma } from '../../flow/pair';
import type { Rect } from '../../geometry/rect';
import { height, width } from '../../geometry/rect';
import { takeFromSolid } from '../../passes/depth';
import { toPixels } from '../../passes/merge';
import { passOf } from '../../passes/roles';
import { choice, integer, number } from '../../param';
import type { PictureInfo, Tile } from '../../picture';
import { RGBA } from '../../picture';
import type { RenderContext, StepIo } from '../../step';
import { defineStep } from '../../step';
import { MOST_FRAME, aroundTime, boundsOver, needsOfFrames, renderFrames } from './frames';

interface Speed {
  by: 'speed' | 'source';
  speed: number;
  reference: number;
  source: number;
  between: 'nearest' | 'blend' | 'motion';
  follows: 'measured' | 'pass';
}

/** Frames over which a speed is summed up, at most. */
const MOST_SUMMED = 20_000;

/** Whole frames from the reference frame to another, that one last, where it lies between two. */
function timesBetween(reference: number, frame: number): number[] {
  const step = frame < reference ? -1 : 1;
  const count = Math.min(MOST_SUMMED, Math.floor(Math.abs(frame - reference) + 1e-6));
  const times = Array.from({ length: count + 1 }, (_, i) => reference + step * i);
  if (Math.abs(times[count]! - frame) > 1e-6) times.push(frame);
  return times;
}

/** The time that is seen at a frame: of a speed its integral from the reference frame, by trapezia, which is exact for straight keys. */
export function sourceTime(p: Speed, frame: number, samples: readonly Speed[]): number {
  if (p.by === 'source') return p.source;
  const times = timesBetween(p.reference, frame);
  let time = p.reference;
  for (let i = 1; i < times.length; i++) time += (times[i]! - times[i - 1]!) * ((samples[i - 1]!.speed + samples[i]!.speed) / 2);
  return Math.min(MOST_FRAME, Math.max(-MOST_FRAME, time));
}

/** Times at which the speed is wanted for the time that is seen at a frame. */
export const timesOf = (p: Speed, frame: number): number[] => (p.by === 'speed' ? timesBetween(p.reference, frame) : []);

const framesOf = (p: Speed, frame: number, samples: readonly Speed[]): ReturnType<typeof aroundTime> => {
  const time = sourceTime(p, frame, samples);
  return aroundTime(p.between === 'nearest' ? Math.round(time) : time);
};

const motionOf = (info: PictureInfo | null | undefined) => passOf(info?.passes, '', 'motion');

/** Without a motion pass it is measured. */
const followed = (p: Speed, io: Pick<StepIo<unknown>, 'inputs'>): Pick<Speed, 'follows'> => ({
  follows: p.follows === 'pass' && motionOf(io.inputs.main) ? 'pass' : 'measured',
});

/** Motion of a render's own pass, in pixels: towards the next frame, and from that back as the next frame's pass goes on. */
function passPair(ctx: RenderContext<unknown>, frames: readonly number[], region: Rect): FlowPair {
  const { kernels } = ctx;
  const { format } = ctx.inputs.main!;
  const [there, back] = frames.map((f, k) => {
    const { planes } = ctx.tile('main', f)!;
    const pass = motionOf(ctx.info('main', f))!;
    const [u, v] = ([0, 1] as const).map((axis) => {
      const plane = kernels.copy(planes[pass.channels[axis]!]!);
      toPixels(plane, axis, pass.facts, format, ctx.scale);
      kernels.fn.affine(plane.byteOffset, plane.byteOffset, plane.length, (k === 0 ? 1 : -1) * ctx.scale, 0);
      return plane;
    }) as [Plane, Plane];
    takeFromSolid([u, v], planes.A!, width(region));
    return { u, v };
  }) as [Flow, Flow];
  return knownPair(kernels, there, back, width(region), height(region));
}

/** Puts light and coverage at a time between two frames where they were then. */
function alongMotion(ctx: RenderContext<unknown>, p: Pick<Speed, 'follows'>, frames: readonly number[], share: number, out: Tile): void {
  const [from, to] = frames.map((f) => ctx.tile('main', f)!.planes) as [Tile['planes'], Tile['planes']];
  const [w, h] = [width(out.region), height(out.region)];
  const channels = RGBA.filter((c) => out.planes[c]);
  if (channels.length === 0 || w === 0 || h === 0) return;
  const seen = [from, to].map((t) => seenLuma(t.R!, t.G!, t.B!)) as [Float32Array, Float32Array];
  const poll = (): void => ctx.poll();
  const pair = p.follows === 'pass' ? passPair(ctx, frames, out.region) : flowPair(ctx.kernels, ...seen, w, h, poll);
  const of = (planes: Tile['planes']): Float32Array[] => channels.map((c) => planes[c]!);
  between(ctx.kernels, of(from), of(to), seen, of(out.planes), out.region, pair, share, poll);
  givePair(ctx.kernels, pair);
}

const speed = { by: ['speed'] } as const;
const source = { by: ['source'] } as const;

export const retime = defineStep({
  type: 'retime',
  title: 'Retime',
  family: 'Time',
  summary: 'Plays faster, slower or as keyed, by a speed or by the frame that is seen.',
  params: {
    by: choice('Given by', 'speed', [
      { value: 'speed', title: 'Speed' },
      { value: 'source', title: 'Source frame' },
    ]),
    speed: number('Speed', 1, [0, 4], { unit: '×', min: -100, max: 100, decimals: 2, when: speed, help: 'Below 0 plays backwards.' }),
    reference: integer('Reference', 1, [1, 240], {
      min: -MOST_FRAME,
      max: MOST_FRAME,
      animatable: false,
      when: speed,
      help: 'The reference frame stays where it is.',
    }),
    source: number('Source frame', 1, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, decimals: 2, when: source }),
    between: choice('Between frames', 'blend', [
      { value: 'nearest', title: 'The nearest frame' },
      { value: 'blend', title: 'Blend of both' },
      {
        value: 'motion',
        title: 'Along the motion',
        help: 'What is seen on both is moved to where it was between them; slower to work out.',
      },
    ]),
    follows: choice(
      'Motion',
      'measured',
      [
        { value: 'measured', title: 'Measured' },
        { value: 'pass', title: 'Of the motion pass', help: 'As the render has it, where it has one.' },
      ],
      { when: { between: ['motion'] } },
    ),
  },
  feeds: [],
  remark: (p, io) =>
    p.between === 'motion' && p.follows === 'pass' && !motionOf(io.inputs.main)
      ? 'the picture has no motion pass: its motion is measured'
      : null,
  samples: timesOf,
  frames: (p, { frame, samples }) => ({ main: framesOf(p, frame, samples).frames }),
  identity: (p, io) => framesOf(p, io.frame, io.samples).share,
  neutral: (p, io) => {
    const { frames } = framesOf(p, io.frame, io.samples);
    return frames.length === 1 && frames[0] === io.frame;
  },
  bounds: (p, io) => boundsOver(framesOf(p, io.frame, io.samples).frames, io),
  locality: (p) => (p.between === 'motion' ? 'whole' : 'pixel'),
  needs(p, want, io) {
    const { frames } = framesOf(p, io.frame, io.samples);
    if (p.between !== 'motion' || frames.length === 1) return needsOfFrames(frames, want);
    const pass = followed(p, io).follows === 'pass' ? motionOf(io.inputs.main)!.channels.slice(0, 2) : [];
    return needsOfFrames(frames, { region: want.region, channels: [...new Set([...want.channels, ...RGBA, ...pass])] });
  },
  render(ctx, p, out) {
    const { frames, share } = framesOf(p, ctx.frame, ctx.samples);
    renderFrames(ctx, frames, share, out);
    if (p.between === 'motion' && frames.length === 2) alongMotion(ctx, followed(p, ctx), frames, share, out);
  },
});
