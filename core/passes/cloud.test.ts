import { plainCamera } from './camera';
import { cloudOf } from './cloud';

test('a cloud is spread over what is covered, with straight colours', () => {
  const [w, h] = [40, 20];
  const plane = (f: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: w * h }, (_, i) => f(i % w, Math.floor(i / w)));
  const alpha = plane((x) => (x < 20 ? 1 : x < 30 ? 0.5 : 0.2));
  const format = { width: w, height: h, pixelAspect: 1 };
  const surface = {
    camera: plainCamera(w, format),
    placed: true,
    x: plane((x) => x),
    y: plane((_, y) => y),
    z: plane(() => -3),
    distance: plane((x) => (x === 0 ? Infinity : 3)),
  };
  const planes = { A: alpha, R: plane((x) => (x < 20 ? 0.6 : 0.3)), G: plane(() => 0), B: plane(() => -0.1) };
  const { places, colours } = cloudOf(surface, planes, w, 200);
  // Every other pixel of every other row, without those that are too thin or nowhere.
  expect(places.length / 3).toBe(14 * 10);
  for (let i = 0; i < places.length; i += 3) {
    expect(places[i]).toBeGreaterThan(0);
    expect(places[i]).toBeLessThan(30);
    expect(places[i + 2]).toBe(-3);
    expect([...colours.subarray(i, i + 3)].map((v) => v.toFixed(4))).toEqual(['0.6000', '0.0000', '0.0000']);
  }
});
