import type { Plane } from '@/kernels';
import type { Aperture } from '../../filters/aperture';
import { spansOf } from '../../filters/aperture';
import type { Ghost } from '../../light/ghosts';
import { WAVES, ghostsAt } from '../../light/ghosts';
import { patternAt, starburst } from '../../light/starburst';
import { width } from '../../geometry/rect';
import type { Rect } from '../../geometry/rect';
import { choice, colour, integer, number, place, reading } from '../../param';
import { COLOUR, domainOf } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';
import { copyMain } from './halo';
import { sourceAt } from './rays';

/** Ghosts of a strength below this, beside the strongest, are not seen. */
const FAINT = 1e-3;
/** And what adds less than this part of the light. */
const SEEN = 2e-4;
/** Pixels around a light in which it is looked for whether something stands before it. */
const DISC = 4;

/**
 * What a bright light does in a lens: ghosts, images of the stop that pairs of surfaces throw (ray transfer through a lens of our own, its coatings giving them their
 * colours), and a star, the Fraunhofer pattern of the aperture, at each wavelength as large as that is long.
 */
export const flare = defineStep({
  type: 'flare',
  title: 'Flare',
  family: 'Light & air',
  summary: 'Adds what a lens makes of a bright light: ghosts and a star, hidden with the light itself.',
  params: {
    from: choice('Light', 'place', [
      { value: 'place', title: 'A place' },
      { value: 'brightest', title: 'The brightest place', help: 'Found on each frame.' },
    ]),
    at: place('At', [-200, -140], { when: { from: ['place'] } }),
    follow: reading('Moves with', 'any', { when: { from: ['place'] } }),
    tint: colour('Its colour', [1, 0.92, 0.8], { pick: true }),
    ghosts: number('Ghosts', 1, [0, 4], { min: 0, max: 1000, group: 'Ghosts' }),
    size: number('Size', 1, [0.2, 3], { min: 0.05, max: 20, group: 'Ghosts', help: 'Of the ghosts: 1 is at full aperture.' }),
    star: number('Star', 0.5, [0, 4], { min: 0, max: 1000, group: 'Star' }),
    reach: number('Reach', 160, [20, 600], { unit: 'px', min: 4, max: 8000, pixels: true, group: 'Star' }),
    blades: integer('Blades', 7, [0, 11], { min: 0, max: 16, group: 'Aperture', animatable: false, help: 'Below 3 it is round.' }),
    roundness: number('Roundness', 0.2, [0, 1], { min: 0, max: 1, group: 'Aperture' }),
    turn: number('Turn', 8, [-90, 90], { unit: '°', group: 'Aperture' }),
  },
  feeds: [{ name: 'before', title: 'In front', help: 'Where its alpha covers the light there is no flare.', matte: true }],
  neutral: (p) => p.ghosts === 0 && p.star === 0,
  bounds: (_, io) => domainOf(io.inputs.main!),
  writes: (_, channels) => channels.filter((c) => (COLOUR as readonly string[]).includes(c)),
  locality: 'whole',
  needs: (_, __, io) => [
    { input: 'main', region: io.inputs.main!.bounds, channels: COLOUR },
    ...(io.inputs.before ? [{ input: 'before', region: io.inputs.before.bounds, channels: ['A'] as readonly string[] }] : []),
  ],
  render(ctx, p, out) {
    const { region } = out;
    const { format } = ctx.inputs.main!;
    const at = p.from === 'brightest' ? brightest(ctx) : sourceAt(p, format, ctx.frame);
    COLOUR.forEach((c) => out.planes[c] && copyMain(ctx, c, out.planes[c], region));
    if (!at) return;
    const seen = visible(ctx, at);
    if (!(seen > 0)) return;
    const aperture: Aperture = { blades: p.blades, turn: p.turn, squeeze: 1, roundness: p.roundness };
    const middle = [format.width / 2, format.height / 2] as const;
    // A lens of the normal angle: its focal length is the frame's diagonal.
    const focal = Math.hypot(format.width, format.height);
    COLOUR.forEach((c, k) => {
      const plane = out.planes[c];
      if (!plane) return;
      ctx.poll();
      const light = seen * p.tint[k]!;
      if (p.ghosts > 0) addGhosts(plane, region, ghostsAt(WAVES[k]!), light * p.ghosts, { at, middle, focal, size: p.size, aperture });
      if (p.star > 0) addStar(plane, region, starburst(aperture), light * p.star, at, (p.reach * WAVES[k]!) / WAVES[1]);
    });
  },
});

type Place = readonly [number, number];

/** The middle of the brightest light: of pixels that are nearly as bright as the brightest. */
function brightest(ctx: RenderContext<unknown>): Place | null {
  const { region, planes } = ctx.tile('main')!;
  const [r, g, b] = COLOUR.map((c) => planes[c]!) as [Plane, Plane, Plane];
  const light = (i: number): number => r[i]! + g[i]! + b[i]!;
  let most = 0;
  for (let i = 0; i < r.length; i++) if (light(i) > most) most = light(i);
  if (!(most > 0)) return null;
  const w = width(region);
  let [x, y, n] = [0, 0, 0];
  for (let i = 0; i < r.length; i++) {
    if (light(i) < 0.9 * most) continue;
    x += region.x0 + (i % w) + 0.5;
    y += region.y0 + Math.floor(i / w) + 0.5;
    n++;
  }
  return [x / n, y / n];
}

/** How much of the light is not covered, 0 to 1. */
function visible(ctx: RenderContext<unknown>, [x, y]: Place): number {
  const before = ctx.tile('before');
  if (!before) return 1;
  const { region, planes } = before;
  const w = width(region);
  let [open, n] = [0, 0];
  for (let v = Math.floor(y - DISC); v <= y + DISC; v++) {
    for (let u = Math.floor(x - DISC); u <= x + DISC; u++) {
      const inside = u >= region.x0 && u < region.x1 && v >= region.y0 && v < region.y1;
      open += inside ? 1 - Math.min(1, Math.max(0, planes.A![(v - region.y0) * w + u - region.x0]!)) : 1;
      n++;
    }
  }
  return open / n;
}

interface Lit {
  at: Place;
  middle: Place;
  focal: number;
  size: number;
  aperture: Aperture;
}

/** Brightness of a ghost as large as the picture's diagonal, of a light of 1. */
const GHOST = 60;

function addGhosts(plane: Plane, region: Rect, ghosts: readonly Ghost[], light: number, { at, middle, focal, size, aperture }: Lit): void {
  const most = Math.max(...ghosts.map((g) => g.strength));
  const w = width(region);
  const stride = w + 2;
  // Where each row gets brighter and darker: ghosts are large, and what they add is summed up once for all.
  const steps = new Float64Array(stride * (region.y1 - region.y0));
  for (const g of ghosts) {
    if (g.strength < FAINT * most) continue;
    const radius = Math.max(1.5, g.radius * focal * size);
    if (radius > focal) continue;
    const [cx, cy] = [middle[0] + g.place * (at[0] - middle[0]), middle[1] + g.place * (at[1] - middle[1])];
    // Light on a ghost of another size: as much, on another area; seen as a part of white.
    const value = Math.min(light * 2, light * GHOST * g.strength);
    if (value < SEEN * light) continue;
    const { list } = spansOf(radius, aperture);
    const step = (row: number, x: number, by: number): void => {
      const u = Math.max(0, Math.min(w, x - region.x0));
      const k = Math.floor(u);
      steps[row + k]! += by * (1 - (u - k));
      steps[row + k + 1]! += by * (u - k);
    };
    for (let s = 0; s < list.length; s += 4) {
      const y = Math.round(cy - 0.5 + list[s]!);
      if (y < region.y0 || y >= region.y1) continue;
      const row = (y - region.y0) * stride;
      step(row, cx + list[s + 1]!, value);
      step(row, cx + list[s + 2]!, -value);
    }
  }
  for (let y = 0, i = 0; y < region.y1 - region.y0; y++) {
    let sum = 0;
    for (let x = 0, o = y * stride; x < w; x++, i++, o++) {
      sum += steps[o]!;
      plane[i]! += sum;
    }
  }
}

/** Samples of the pattern that its reach stands for. */
const FOLLOWED = 100;
/** The pattern falls with the cube of the distance: so that rays are seen and the middle does not burn out, a point is as bright as this. */
const POINT = 400;

function addStar(plane: Plane, region: Rect, star: ReturnType<typeof starburst>, light: number, [cx, cy]: Place, reach: number): void {
  const w = width(region);
  const k = FOLLOWED / reach;
  const [x0, x1] = [Math.max(region.x0, Math.floor(cx - reach)), Math.min(region.x1, Math.ceil(cx + reach))];
  for (let y = Math.max(region.y0, Math.floor(cy - reach)); y < Math.min(region.y1, Math.ceil(cy + reach)); y++) {
    for (let x = x0; x < x1; x++) {
      const [dx, dy] = [x + 0.5 - cx, y + 0.5 - cy];
      const d = Math.hypot(dx, dy) / reach;
      if (d >= 1) continue;
      const v = POINT * patternAt(star, dx * k, dy * k);
      // It ends softly at its reach, and the middle is no brighter than the light.
      plane[(y - region.y0) * w + x - region.x0]! += light * Math.min(2, v) * (1 - d * d) ** 2;
    }
  }
}
