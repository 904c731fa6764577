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

/**
 * Every correction in a .cc, .ccc or .cdl file (they differ only in what stands around the corrections). What a correction
 * leaves out is neutral. Throws MediaError.
 */
export function parseCdl(text: string, file: string): Cdl[] {
  if (text.length > LIMIT) throw new MediaError(file, 'it is too large to be a CDL file');
  const found = [...text.matchAll(/<(?:\w+:)?ColorCorrection\b([^>]*)>([\s\S]*?)<\/(?:\w+:)?ColorCorrection>/g)];
  if (found.length === 0) throw new MediaError(file, 'there is no ColorCorrection in it');
  return found.map(([, attributes, body], i) => {
    const id = /\bid\s*=\s*["']([^"']*)["']/.exec(attributes!)?.[1] ?? String(i + 1);
    const numbers = (name: string, count: number, neutral: number, least: number): number[] => {
      const given = new RegExp(`<(?:\\w+:)?${name}\\s*>([^<]*)<`).exec(body!)?.[1];
      if (given === undefined) return Array.from({ length: count }, () => neutral);
      const values = given.trim().split(/\s+/).map(Number);
      if (values.length !== count || !values.every((v) => Number.isFinite(v) && v >= least)) {
        throw new MediaError(
          file,
          `the ${name} of correction "${id}" should be ${count === 1 ? 'a number' : `${count} numbers`}${least === 0 ? ', none below 0' : ''}, not "${given.trim().slice(0, 60)}"`,
        );
      }
      return values;
    };
    const triple = (name: string, neutral: number, least: number) => numbers(name, 3, neutral, least) as [number, number, number];
    return {
      id,
      slope: triple('Slope', 1, 0),
      offset: triple('Offset', 0, -Infinity),
      power: triple('Power', 1, 0),
      saturation: numbers('Saturation', 1, 1, 0)[0]!,
    };
  });
}

export type CdlKind = 'cc' | 'ccc' | 'cdl';

/** One correction as a file of the kind asked for. */
export const formatCdl = (c: Cdl, kind: CdlKind): string => formatCdls([c], kind);

/** Corrections as a file of the kind asked for; of a .cc, which holds one, the first. */
export function formatCdls(all: readonly Cdl[], kind: CdlKind): string {
  const list = (v: readonly number[]): string => v.map((x) => Number(x.toPrecision(9))).join(' ');
  const escape = (s: string): string => s.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');
  const correctionOf = (c: Cdl): string => `<ColorCorrection id="${escape(c.id)}">
  <SOPNode>
    <Slope>${list(c.slope)}</Slope>
    <Offset>${list(c.offset)}</Offset>
    <Power>${list(c.power)}</Power>
  </SOPNode>
  <SatNode>
    <Saturation>${list([c.saturation])}</Saturation>
  </SatNode>
</ColorCorrection>`;
  const corrections = all.map(correctionOf);
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
