import type { Lab } from './delta-e';
import { deltaE2000, labOf } from './delta-e';

// Pairs of the supplementary data of Sharma, Wu and Dalal 2005.
test.each([
  [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
  [[50, -1.3802, -84.2814], [50, 0, -82.7485], 1.0],
  [[50, 2.5, 0], [50, 0, -2.5], 4.3065],
  [[50, 2.5, 0], [73, 25, -18], 27.1492],
  [[50, 2.5, 0], [58, 24, 15], 19.4535],
  [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
  [[22.7233, 20.0904, -46.694], [23.0331, 14.973, -42.5619], 2.0373],
  [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
] as [Lab, Lab, number][])('%j and %j are %s apart', (a, b, wanted) => {
  expect(deltaE2000(a, b)).toBeCloseTo(wanted, 4);
  expect(deltaE2000(b, a)).toBeCloseTo(wanted, 4);
});

test('white is 100 and without colour, mid grey is 49.5, and light below nothing is black', () => {
  labOf(1, 1, 1).forEach((v, i) => expect(v).toBeCloseTo([100, 0, 0][i]!, 1));
  expect(labOf(0.18, 0.18, 0.18)[0]).toBeCloseTo(49.496, 1);
  expect(labOf(-1, -1, -1)[0]).toBeCloseTo(0, 6);
});
