import { agreeOn } from '../../cleaning/agree';
import { betweenFrames, carryParams } from '../../cleaning/carry';
import { fitLight, NO_FIT } from '../../cleaning/fit-light';
import { tapsOf } from '../../filters/resample';
import { Packed, sampleThrough } from '../../filters/sample';
import { area, isEmpty } from '../../geometry/rect';
import { choice, integer, number, toggle } from '../../param';
import { COLOUR, RGBA } from '../../picture';
import type { ReadingData } from '../../readings/track-data';
import { defineStep } from '../../step';
import { MOST_FRAME } from '../time/frames';

interface Values {
  reading: ReadingData | null;
  second: ReadingData | null;
  home: number;
  count: number;
  first: number;
  last: number;
}

/** How many of the frames that see a place agree on it, as a share. */
const CONFIDENCE = 'confidence';
/** A frame sees a place where it holds so much of it, and nothing in front. */
const SEES = 0.98;
/** One pixel in so many, each way, is looked at for a frame's light. */
const SPARSE = 3;

/** The frame that it is made for, and others spread evenly over the span. */
function framesOf(p: Values, range: { first: number; last: number }): number[] {
  const [low, high] = p.first === 0 && p.last === 0 ? [range.first, range.last] : [Math.min(p.first, p.last), Math.max(p.first, p.last)];
  const n = Math.max(2, Math.min(p.count, high - low + 1));
  const all = Array.from({ length: n }, (_, i) => Math.round(low + ((high - low) * i) / (n - 1)));
  return [...new Set([p.home, ...all])];
}

export const cleanPlate = defineStep({
  type: 'cleanPlate',
  title: 'Clean plate',
  family: 'Shape & touch-up',
  summary: 'Lays many frames over each other and keeps what they agree on: what passes in front goes.',
  params: {
    ...carryParams,
    home: integer('Made for frame', 1, [1, 240], { min: -MOST_FRAME, max: MOST_FRAME, animatable: false }),
    count: integer('Frames', 12, [3, 25], { min: 2, max: 48, animatable: false, help: 'Spread evenly; each costs memory.' }),
    first: integer('From', 0, [0, 240], {
      min: -MOST_FRAME,
      max: MOST_FRAME,
      animatable: false,
      help: 'Both 0: the whole range of the shot.',
    }),
    last: integer('To', 0, [0, 240], { min: -MOST_FRAME, max: MOST_FRAME, animatable: false }),
    keeps: choice('Method', 'median', [
      { value: 'median', title: 'The median' },
      { value: 'mode', title: 'The most agreed', help: 'Also where what passes is there on most frames.' },
    ]),
    light: toggle('Match the light', true, { animatable: false, help: 'Flicker and exposure are evened out frame by frame.' }),
    tolerance: number('Tolerance', 0.03, [0.005, 0.2], {
      min: 0.001,
      max: 4,
      help: 'What differs by less is the same, apart from noise; a share of white.',
    }),
  },
  feeds: [{ name: 'matte', title: 'What passes', help: 'Where its alpha is, a frame does not count.', matte: true }],
  frames: (p, io) => {
    const all = framesOf(p as Values, io.range);
    return { main: all, matte: all };
  },
  /** It is of the frames that it reads, on whichever it is looked at. */
  still: () => true,
  channels: (_, io) => [...new Set([...io.inputs.main!.channels, 'A', CONFIDENCE])],
  writes: (_, channels) => channels.filter((c) => (RGBA as readonly string[]).includes(c) || c === CONFIDENCE),
  locality: 'whole',
  needs: (p, _, io) =>
    framesOf(p as Values, io.range).flatMap((frame) => {
      const region = io.info('main', frame)?.bounds;
      if (!region) return [];
      return [
        { input: 'main', frame, region, channels: RGBA },
        ...(io.inputs.matte ? [{ input: 'matte', frame, region, channels: ['A'] }] : []),
      ];
    }),
  render(ctx, p, out) {
    const { region } = out;
    const n = area(region);
    for (const plane of Object.values(out.planes)) plane.fill(0);
    if (isEmpty(region)) return;
    const looks: { colour: Float32Array[]; sees: Float32Array }[] = [];
    for (const frame of framesOf(p as Values, ctx.range)) {
      ctx.poll();
      const from = ctx.tile('main', frame);
      const map = betweenFrames(p as Values, p.home, frame);
      if (!from || !map || isEmpty(from.region)) continue;
      const matte = ctx.tile('matte', frame)?.planes.A;
      const given = area(from.region);
      // What is seen, without what passes in front.
      const clear = ctx.scratch(given);
      for (let i = 0; i < given; i++) clear[i] = from.planes.A![i]! * (matte && matte[i]! > 0.02 ? 0 : 1);
      const made = [...COLOUR, 'A'].map(() => ctx.scratch(n));
      const packed = Packed.of(ctx.kernels, [...COLOUR.map((c) => from.planes[c]!), clear], from.region);
      try {
        sampleThrough(ctx.kernels, packed, made, region, map, tapsOf('catmullRom'), { most: 2, poll: () => ctx.poll() });
      } finally {
        packed.give();
      }
      looks.push({ colour: made.slice(0, 3), sees: made[3]! });
    }
    const [home] = looks;
    if (!home) return;
    const w = region.x1 - region.x0;
    const use = new Uint8Array(n);
    const gains = looks.map((look) => {
      if (!p.light || look === home) return NO_FIT.gain;
      use.fill(0);
      for (let i = 0; i < n; i++) {
        if ((i % w) % SPARSE || Math.floor(i / w) % SPARSE) continue;
        if (look.sees[i]! >= SEES && home.sees[i]! >= SEES) use[i] = 1;
      }
      return fitLight(look.colour, home.colour, use).gain;
    });
    const values = [0, 1, 2].map(() => new Float64Array(looks.length));
    const agreed = new Float64Array(3);
    // Noise grows with the root of the light, about.
    const tolerance = (v: number): number => p.tolerance * Math.sqrt(Math.max(0.01, v));
    const planes = COLOUR.map((c) => out.planes[c]);
    for (let i = 0; i < n; i++) {
      if (i % 65536 === 0) ctx.poll();
      let seen = 0;
      for (let k = 0; k < looks.length; k++) {
        const { colour, sees } = looks[k]!;
        if (sees[i]! < SEES) continue;
        for (let c = 0; c < 3; c++) values[c]![seen] = colour[c]![i]! * gains[k]![c]!;
        seen++;
      }
      const agree = agreeOn(values, seen, p.keeps, tolerance, agreed);
      planes.forEach((plane, c) => plane && (plane[i] = agreed[c]!));
      if (out.planes.A) out.planes.A[i] = seen > 0 ? 1 : 0;
      if (out.planes[CONFIDENCE]) out.planes[CONFIDENCE][i] = seen > 0 ? agree / seen : 0;
    }
  },
});
