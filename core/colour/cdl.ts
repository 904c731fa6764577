import { MediaError } from '../errors';

/** One colour correction of the ASC CDL v1.2: out = (in·slope + offset)^power, then saturation. */
export interface Cdl {
  id: string;
  slope: readonly [number, number, number];
  offset: readonly [number, number, number];
  power: readonly [number, number, number];
  saturation: number;
}

const LIMIT = 4 * 2 ** 20;

/** A tag of XML: its name without prefix, what else stands in it, whether it ends an element, and where it ends. */
interface Tag {
  name: string;
  rest: string;
  ends: boolean;
  empty: boolean;
  start: number;
  after: number;
}

/** The tags of an XML text in their order; comments and the like are passed over. One pass, whatever the text holds. */
function* tagsOf(text: string): Generator<Tag> {
  for (let at = text.indexOf('<'); at >= 0; at = text.indexOf('<', at)) {
    const comment = text.startsWith('<!--', at);
    const close = text.indexOf(comment ? '-->' : '>', at);
    if (close < 0) return;
    const after = close + (comment ? 3 : 1);
    const inside = text.slice(at + 1, close);
    const found = comment ? null : /^(\/?)(?:[\w-]{1,60}:)?([\w-]{1,60})/.exec(inside);
    if (found) {
      const rest = inside.slice(found[0].length);
      yield { name: found[2]!, rest, ends: found[1] === '/', empty: rest.endsWith('/'), start: at, after };
    }
    at = after;
  }
}

/**
 * Every correction in a .cc, .ccc or .cdl file (they differ only in what stands around the corrections). What a correction
 * leaves out is neutral. Throws MediaError.
 */
export function parseCdl(text: string, file: string): Cdl[] {
  if (text.length > LIMIT) throw new MediaError(file, 'it is too large to be a CDL file');
  const all: Cdl[] = [];
  let open: { id: string; given: Map<string, string> } | null = null;
  for (const tag of tagsOf(text)) {
    if (tag.name === 'ColorCorrection') {
      if (tag.ends) {
        if (open) all.push(correctionOf(open.id, open.given, file));
        open = null;
      } else if (!tag.empty) {
        open = { id: /\bid\s{0,20}=\s{0,20}["']([^"']*)["']/.exec(tag.rest)?.[1] ?? String(all.length + 1), given: new Map() };
      }
    } else if (open && !tag.ends && NUMBERS[tag.name] && !open.given.has(tag.name)) {
      const end = text.indexOf('<', tag.after);
      open.given.set(tag.name, tag.empty || end < 0 ? '' : text.slice(tag.after, end));
    }
  }
  if (all.length === 0) throw new MediaError(file, 'there is no ColorCorrection in it');
  return all;
}

/** How many numbers each part has, what is neutral, and the least that is allowed. */
const NUMBERS: Record<string, readonly [count: number, neutral: number, least: number]> = {
  Slope: [3, 1, 0],
  Offset: [3, 0, -Infinity],
  Power: [3, 1, 0],
  Saturation: [1, 1, 0],
};

function correctionOf(id: string, given: ReadonlyMap<string, string>, file: string): Cdl {
  const numbers = (name: string): number[] => {
    const [count, neutral, least] = NUMBERS[name]!;
    const text = given.get(name)?.trim();
    if (text === undefined) return Array.from({ length: count }, () => neutral);
    const values = text.slice(0, 400).split(/\s+/).map(Number);
    if (values.length !== count || !values.every((v) => Number.isFinite(v) && v >= least)) {
      throw new MediaError(
        file,
        `the ${name} of correction "${id.slice(0, 60)}" should be ${count === 1 ? 'a number' : `${count} numbers`}${least === 0 ? ', none below 0' : ''}, not "${text.slice(0, 60)}"`,
      );
    }
    return values;
  };
  const triple = (name: string) => numbers(name) as [number, number, number];
  return { id, slope: triple('Slope'), offset: triple('Offset'), power: triple('Power'), saturation: numbers('Saturation')[0]! };
}

export type CdlKind = 'cc' | 'ccc' | 'cdl';

/** One correction as a file of the kind asked for. */
export const formatCdl = (c: Cdl, kind: CdlKind): string => formatCdls([c], kind);

/** Corrections as a file of the kind asked for; of a .cc, which holds one, the first. */
export function formatCdls(all: readonly Cdl[], kind: CdlKind): string {
  const list = (v: readonly number[]): string => v.map((x) => Number(x.toPrecision(9))).join(' ');
  const escape = (s: string): string => s.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');
  const elementOf = (c: Cdl): string => `<ColorCorrection id="${escape(c.id)}">
  <SOPNode>
    <Slope>${list(c.slope)}</Slope>
    <Offset>${list(c.offset)}</Offset>
    <Power>${list(c.power)}</Power>
  </SOPNode>
  <SatNode>
    <Saturation>${list([c.saturation])}</Saturation>
  </SatNode>
</ColorCorrection>`;
  const corrections = all.map(elementOf);
  const around: Record<CdlKind, string> = {
    cc: corrections[0]!.replace('<ColorCorrection ', '<ColorCorrection xmlns="urn:ASC:CDL:v1.2" '),
    ccc: `<ColorCorrectionCollection xmlns="urn:ASC:CDL:v1.2">\n${corrections.join('\n')}\n</ColorCorrectionCollection>`,
    cdl: `<ColorDecisionList xmlns="urn:ASC:CDL:v1.2">\n${corrections.map((c) => `<ColorDecision>\n${c}\n</ColorDecision>`).join('\n')}\n</ColorDecisionList>`,
  };
  return `<?xml version="1.0" encoding="UTF-8"?>\n${around[kind]}\n`;
}

interface GradeValues {
  exposure: number;
  contrast: number;
  slope: readonly number[];
  masterSlope: number;
  offset: readonly number[];
  masterOffset: number;
  power: readonly number[];
  masterPower: number;
  saturation: number;
}

/** A grade as one correction: exposure and the masters are folded in. Contrast has no place in a CDL; the caller tells. */
export function cdlOfGrade(g: GradeValues, id: string): Cdl {
  const each = (f: (i: number) => number): [number, number, number] => [f(0), f(1), f(2)];
  return {
    id,
    slope: each((i) => g.slope[i]! * g.masterSlope * 2 ** g.exposure),
    offset: each((i) => g.offset[i]! + g.masterOffset),
    power: each((i) => g.power[i]! * g.masterPower),
    saturation: g.saturation,
  };
}

/** The grade that is this correction. */
export const gradeOfCdl = (c: Cdl): GradeValues => ({
  exposure: 0,
  contrast: 1,
  masterSlope: 1,
  masterOffset: 0,
  masterPower: 1,
  slope: c.slope,
  offset: c.offset,
  power: c.power,
  saturation: c.saturation,
});
