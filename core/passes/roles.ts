import { passesOf } from '../layers';
import type { Pass, PassFacts, PassNote, PassRole, RoledPass } from './pass';

export * from './pass';

/** Passes of these add up to the beauty. */
export const MATERIAL_ROLES: readonly PassRole[] = [
  'diffuse',
  'specular',
  'reflection',
  'refraction',
  'transmission',
  'subsurface',
  'emission',
  'coat',
  'sheen',
  'volume',
  'part',
  'raw',
];

const NAMES: readonly [PassRole, RegExp][] = [
  ['raw', /(^|[_. -])raw([_. -]|$)|(diff(use)?|refl(ection)?|spec(ular)?|gi|light(ing)?)raw$/i],
  ['filter', /(filter|_?flt)$/i],
  ['albedo', /albedo|base_?colou?r|diff(use)?_?(colou?r|col)$/i],
  ['diffuse', /^(direct_?|indirect_?)?diff(use)?(_?(direct|indirect|dir|ind))?$/i],
  ['subsurface', /^(sss|sub_?surface(_?scattering)?)$/i],
  ['specular', /^(direct_?|indirect_?)?spec(ular)?(_?(direct|indirect|dir|ind))?$|^gloss(y)?(_?(direct|indirect|dir|ind))?$/i],
  ['reflection', /^refl(ect(ion)?s?)?$/i],
  ['refraction', /^refr(act(ion)?s?)?$/i],
  ['transmission', /^trans(mission|missive)?(_?(direct|indirect|dir|ind))?$/i],
  ['emission', /^(emi(t|ssion|ssive)?|self_?illum(ination)?|incandescence|glow)$/i],
  ['coat', /^(clear_?)?coat(ing)?(_?(direct|indirect))?$/i],
  ['sheen', /^sheen(_?(direct|indirect))?$/i],
  ['volume', /^(volume|atmospher\w*|fog|smoke)(_?(direct|indirect|dir|ind))?$/i],
  ['occlusion', /^(ao|occlusion|ambient_?occlusion)$/i],
  ['beauty', /^(beauty|rgba?|combined|final|c|main)$/i],
];

/** The role that a pass's name speaks for. */
export function roleByName({ name, kind }: Pass): PassRole {
  if (name === '') return 'beauty';
  const last = name.slice(name.lastIndexOf('.') + 1);
  if (kind === 'id') return /crypto/i.test(name) ? 'cryptomatte' : 'id';
  if (kind !== 'colour' && kind !== 'matte') return kind;
  return NAMES.find(([, pattern]) => pattern.test(name) || pattern.test(last))?.[0] ?? 'other';
}

/** The passes of a channel list with what is noted of them; where nothing is, with what their names say. */
export const roledPasses = (channels: readonly string[], notes: Readonly<Record<string, PassNote>> = {}): RoledPass[] =>
  passesOf(channels).map((pass) => ({ ...pass, ...(notes[pass.name] ?? { role: roleByName(pass) }) }));

/** The pass that a step's parameter names, or the picture's first of the role where it names none. */
export const passOf = (passes: readonly RoledPass[] | undefined, layer: string, role: PassRole): RoledPass | undefined =>
  layer === '' ? passes?.find((p) => p.role === role) : passes?.find((p) => p.name === layer);

/** The choices of each fact by role, the first is what counts where nothing is said. */
export const FACTS: Partial<
  Record<PassRole, readonly { fact: keyof PassFacts; title: string; options: readonly (readonly [string, string])[] }[]>
> = {
  depth: [
    {
      fact: 'along',
      title: 'Measured',
      options: [
        ['view', 'Along the view'],
        ['ray', 'Along each ray'],
      ],
    },
    {
      fact: 'as',
      title: 'Is',
      options: [
        ['distance', 'Distance'],
        ['inverse', '1 / distance'],
        ['nearness', '0 far, 1 near'],
      ],
    },
  ],
  position: [
    {
      fact: 'space',
      title: 'In',
      options: [
        ['world', 'World'],
        ['camera', 'Camera'],
      ],
    },
  ],
  normal: [
    {
      fact: 'space',
      title: 'In',
      options: [
        ['world', 'World'],
        ['camera', 'Camera'],
      ],
    },
    {
      fact: 'packed',
      title: 'Stored',
      options: [
        ['', '−1 to 1'],
        ['true', '0 to 1'],
      ],
    },
  ],
  motion: [
    {
      fact: 'unit',
      title: 'In',
      options: [
        ['px', 'Pixels'],
        ['frame', 'Widths and heights'],
        ['half', 'Half widths and heights'],
      ],
    },
    {
      fact: 'towards',
      title: 'Points',
      options: [
        ['next', 'Along the movement'],
        ['previous', 'Back along it'],
      ],
    },
  ],
};
/** Axes that may be turned, by role. */
export const AXES: Partial<Record<PassRole, string>> = { position: 'xyz', normal: 'xyz', motion: 'xy', uv: 'y' };
