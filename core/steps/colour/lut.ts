import { applyCube } from '../../colour/cube';
import type { Planes3 } from '../../colour/convert';
import { fromWorking, toWorking } from '../../colour/convert';
import { SPACES, SPACE_NAMES } from '../../colour/spaces';
import type { ColourSpace } from '../../document/types';
import type { ChoiceParam } from '../../param';
import { choice, table } from '../../param';
import type { Tile } from '../../picture';
import { COLOUR } from '../../picture';
import type { RenderContext } from '../../step';
import { defineStep } from '../../step';

/** A choice among the colour spaces. */
export const spaceChoice = (title: string, help: string): ChoiceParam<ColourSpace> =>
  choice<ColourSpace>(
    title,
    'linear',
    SPACE_NAMES.map((s) => ({ value: s, title: SPACES[s].title })),
    { help },
  );

const isColour = (c: string): boolean => (COLOUR as readonly string[]).includes(c);

/** Copies the picture's colour to `out` where it is wanted, else to scratch, so that all three are there to work on. */
export function colourPlanes(ctx: Pick<RenderContext<unknown>, 'tile' | 'scratch'>, out: Tile): Planes3 {
  const from = ctx.tile('main')!;
  return COLOUR.map((c) => {
    const given = from.planes[c]!;
    const to = out.planes[c] ?? ctx.scratch(given.length);
    to.set(given);
    return to;
  }) as unknown as Planes3;
}

export const lut = defineStep({
  type: 'lut',
  title: 'LUT',
  family: 'Colour',
  summary: 'Puts colours through a table from a .cube file, in the values that the table was made for.',
  params: {
    table: table('Table'),
    takes: spaceChoice('It takes', 'What values the table expects: the picture is turned into them first.'),
    gives: spaceChoice('It gives', 'What values come out of the table: they are turned back into light.'),
  },
  feeds: [],
  colour: true,
  neutral: (p) => p.table === '',
  writes: (_, channels) => channels.filter(isColour),
  locality: 'pixel',
  needs: (_, want) => [{ input: 'main', region: want.region, channels: COLOUR }],
  render(ctx, p, out) {
    const planes = colourPlanes(ctx, out);
    fromWorking(planes, p.takes, ctx.kernels);
    applyCube(ctx.table('table')!, planes, ctx.kernels);
    toWorking(planes, p.gives, ctx.kernels);
  },
});
