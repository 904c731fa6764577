import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { nodeKernels } from '@/engine/node/host';
import { readExr } from '../formats/exr/read';
import { writeExr } from '../formats/exr/write';
import { rect } from '../geometry/rect';
import type { TestPicture } from '../testing/evaluate';
import { evaluate } from '../testing/evaluate';
import { lensJob, stMapOf } from './apply';
import type { Lens } from './lens';

const format = { width: 96, height: 60, pixelAspect: 1 };
const lens: Lens = {
  model: 'radial2',
  coefficients: { k1: -0.2, k2: 0.04 },
  centre: [50, 29],
  focal: 70,
  squeeze: 1,
  format: { width: 96, height: 60 },
};

async function mapOf(direction: 'straighten' | 'bend', up: boolean): Promise<TestPicture> {
  const k = await nodeKernels();
  const job = lensJob(lens, format, direction);
  const planes = stMapOf(k, job, format, up);
  const w = job.bounds.x1 - job.bounds.x0;
  const fill = Object.fromEntries(
    Object.entries(planes).map(([c, p]) => {
      const kept = Float32Array.from(p);
      return [c, (x: number, y: number) => kept[(y - job.bounds.y0) * w + x - job.bounds.x0]!];
    }),
  );
  Object.values(planes).forEach((p) => k.give(p));
  return { width: 96, height: 60, bounds: job.bounds, fill };
}

describe('an ST map', () => {
  // Light that says where it is, so that a place can be read off it.
  const ramp: TestPicture = { width: 96, height: 60, fill: { R: (x) => (x + 0.5) / 100, G: (_, y) => (y + 0.5) / 100, B: 0, A: 1 } };
  const typed = { from: 'typed', model: 'radial2', k1: -0.2, k2: 0.04, focal: 70 / 96, centre: [2, -1], filter: 'catmullRom' };

  test.each(['straighten', 'bend'] as const)('does the same as the lens: %s', async (direction) => {
    const by = await evaluate({ main: ramp }, [{ type: 'lens', params: { ...typed, direction } }]);
    for (const up of [true, false]) {
      const map = await mapOf(direction, up);
      const step = { type: 'stMap', params: { filter: 'catmullRom', y: up ? 'less' : 'more' }, feeds: ['map'] };
      const got = await evaluate({ main: ramp, map }, [step]);
      for (let y = 4; y < 56; y += 5) {
        for (let x = 4; x < 92; x += 6) {
          if (by.at('A', x, y) < 0.999) continue;
          // A hundredth of a value is a pixel.
          expect(Math.abs(got.at('R', x, y) - by.at('R', x, y))).toBeLessThan(1e-4);
          expect(Math.abs(got.at('G', x, y) - by.at('G', x, y))).toBeLessThan(1e-4);
        }
      }
    }
  });

  test('says nothing where there is nothing, and nothing is shown there', async () => {
    const map: TestPicture = { width: 8, height: 8, fill: { R: 0.5, G: (x) => (x === 3 ? NaN : 0.5), B: 0, A: (x) => +(x > 1) } };
    const got = await evaluate({ main: ramp, map }, [{ type: 'stMap', feeds: ['map'] }]);
    expect([0, 1, 3, 5].map((x) => got.at('A', x, 4))).toEqual([0, 0, 0, expect.closeTo(1, 5)]);
    expect(got.plan.root.info.format).toMatchObject({ width: 8, height: 8 });
  });

  test('a map of another size is looked up in shares of the frame', async () => {
    const map: TestPicture = { width: 48, height: 30, fill: { R: (x) => (x + 0.5) / 48, G: (_, y) => 1 - (y + 0.5) / 30, B: 0, A: 1 } };
    const got = await evaluate({ main: ramp, map }, [{ type: 'stMap', params: { filter: 'bilinear' }, feeds: ['map'] }]);
    expect(got.at('R', 20, 10)).toBeCloseTo(0.41, 3);
    expect(got.at('G', 20, 10)).toBeCloseTo(0.21, 3);
  });

  test('written as 32-bit OpenEXR it comes back through another program pixel for pixel', async () => {
    const k = await nodeKernels();
    const folder = mkdtempSync(join(tmpdir(), 'saltgate-st-'));
    const job = lensJob(lens, format, 'straighten');
    const planes = stMapOf(k, job, format, true);
    const channels = Object.entries(planes).map(([name, plane]) => ({ name, type: 'float' as const, plane }));
    const bytes = writeExr({ bounds: job.bounds, format, channels, compression: 'ZIP' }, k);
    writeFileSync(join(folder, 'st.exr'), bytes);
    execFileSync('oiiotool', ['st.exr', '--compression', 'none', '-o', 'again.exr'], { cwd: folder });
    const back = readExr(readFileSync(join(folder, 'again.exr')), 'again.exr', k);
    expect(back.bounds).toEqual(rect(job.bounds.x0, job.bounds.y0, job.bounds.x1, job.bounds.y1));
    for (const c of ['R', 'G', 'A'] as const) expect(Float32Array.from(back.planes[c]!)).toEqual(Float32Array.from(planes[c]));
    [...Object.values(back.planes), ...Object.values(planes)].forEach((p) => k.give(p));
  });
});
