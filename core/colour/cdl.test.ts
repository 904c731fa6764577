import { evaluate, flat } from '../testing/evaluate';
import { cdlOfGrade, formatCdl, gradeOfCdl, parseCdl } from './cdl';

const grade = {
  exposure: 1,
  contrast: 1,
  slope: [1.1, 1, 0.9],
  masterSlope: 0.8,
  offset: [0.01, 0, -0.02],
  masterOffset: 0.005,
  power: [1, 1.2, 1],
  masterPower: 0.9,
  saturation: 0.7,
};

describe('CDL files', () => {
  test.each(['cc', 'ccc', 'cdl'] as const)('a .%s comes back as it was written', (kind) => {
    const cdl = cdlOfGrade(grade, 'SG010 "night" & day');
    const [back] = parseCdl(formatCdl(cdl, kind), `a.${kind}`);
    (['slope', 'offset', 'power'] as const).forEach((k) => cdl[k].forEach((v, i) => expect(back![k][i]).toBeCloseTo(v, 8)));
    expect(back!.saturation).toBe(0.7);
  });

  test('a grade and the CDL written of it give the same picture', async () => {
    const main = flat(2, 2, 0.3, 0.2, 0.15);
    const own = await evaluate({ main }, [{ type: 'grade', params: grade }]);
    const from = gradeOfCdl(parseCdl(formatCdl(cdlOfGrade(grade, 'x'), 'cc'), 'x.cc')[0]!);
    const read = await evaluate({ main }, [{ type: 'grade', params: { ...from } }]);
    for (const c of ['R', 'G', 'B']) expect(read.at(c, 0, 0)).toBeCloseTo(own.at(c, 0, 0), 5);
  });

  test('what is left out is neutral, and several corrections keep their order', () => {
    const text =
      '<a><ColorCorrection id="one"><SatNode><Saturation>2</Saturation></SatNode></ColorCorrection><ColorCorrection id="two"></ColorCorrection></a>';
    expect(parseCdl(text, 'a.ccc').map((c) => [c.id, c.saturation, c.slope])).toEqual([
      ['one', 2, [1, 1, 1]],
      ['two', 1, [1, 1, 1]],
    ]);
  });

  test.each([
    ['no correction', '<ColorDecisionList/>', /a\.cdl: there is no ColorCorrection/],
    ['two slopes', '<ColorCorrection id="k"><Slope>1 2</Slope></ColorCorrection>', /the Slope of correction "k" should be 3 numbers/],
    ['a negative power', '<ColorCorrection id="k"><Power>1 -1 1</Power></ColorCorrection>', /none below 0/],
    ['a word', '<ColorCorrection id="k"><Saturation>much</Saturation></ColorCorrection>', /should be a number/],
  ])('%s is refused in words', (_, text, message) => expect(() => parseCdl(text, 'a.cdl')).toThrow(message));

  test.each([
    ['openings without an end', '<ColorCorrection id="a">'.repeat(60_000)],
    ['tags without an end', '<'.repeat(1_000_000)],
    ['comments without an end', '<!--'.repeat(200_000)],
    ['names without an end', `<${'x'.repeat(2_000_000)}`],
  ])('%s are read through once, and refused', (_, text) => {
    expect(() => parseCdl(text, 'odd.ccc')).toThrow('there is no ColorCorrection in it');
  });
});
