import fc from 'fast-check';
import { readNumber } from './arithmetic';

describe('numbers as they are typed', () => {
  test.each<[string, number]>([
    ['12', 12],
    [' 0,5 ', 0.5],
    ['-3', -3],
    ['−3', -3],
    ['2*3', 6],
    ['1+2*3', 7],
    ['(1+2)*3', 9],
    ['10/4', 2.5],
    ['7-2-1', 4],
    ['1920/2', 960],
    ['1e3', 1000],
    ['.5', 0.5],
    ['+=1', 9],
    ['-=0.5', 7.5],
    ['*=2', 16],
    ['/=4', 2],
    ['/2', 4],
    ['*1.5', 12],
    ['+5', 5],
    ['--2', 2],
  ])('%s is %d where 8 stands', (text, wanted) => expect(readNumber(text, 8)).toBeCloseTo(wanted, 12));

  test.each(['', 'two', '1 2', '2*', '(1+2', '1/0', '1e309', '3px', '*', '+=', '()', '1..2'])('"%s" is no number', (text) => {
    expect(readNumber(text, 8)).toBeNull();
  });

  test('any sum of sums is what it says', () => {
    const number = fc.integer({ min: 0, max: 999 });
    fc.assert(
      fc.property(number, number, number, fc.constantFrom('+', '-', '*'), fc.constantFrom('+', '-', '*'), (a, b, c, p, q) => {
        const text = `${a} ${p} (${b} ${q} ${c})`;
        expect(readNumber(text, 0)).toBe(new Function(`return ${text}`)() as number);
      }),
    );
  });
});
