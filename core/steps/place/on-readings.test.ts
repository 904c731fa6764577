import type { Homography } from '../../geometry/homography';
import { newPlane, newPoint } from '../../readings/make';
import type { Reading } from '../../readings/types';
import type { TestPicture } from '../../testing/evaluate';
import { evaluate } from '../../testing/evaluate';

const [W, H] = [64, 48];
const about = { reference: 1, range: { first: 1, last: 4 } };
const moves = [
  [0, 0],
  [3, -2],
  [6.5, 1],
  [-4, 3],
] as const;
const point = (id: string, x: number, y: number): Reading => ({
  ...newPoint([x, y], { ...about, id }),
  frames: moves.map(([dx, dy], i) => ({ frame: i + 1, x: x + dx, y: y + dy, confidence: 1, error: 0 })),
});
const tilt: Homography = [1.05, 0.02, 2, -0.01, 0.98, 1, 0.0009, -0.0004, 1];
const plane: Reading = {
  ...newPlane([[10, 8, 50, 8, 50, 40, 10, 40]], { ...about, id: 'plane' }),
  frames: [1, 2].map((frame) => ({
    frame,
    homography: frame === 1 ? ([1, 0, 0, 0, 1, 0, 0, 0, 1] as const) : tilt,
    confidence: 1,
    error: 0,
  })),
};
const soft = (x: number, y: number): number => 0.5 + 0.3 * Math.sin(x / 6) * Math.cos(y / 5);
const still: TestPicture = { width: W, height: H, fill: { R: soft, G: soft, B: soft } };
/** The still as the point's motion shows it on a frame. */
const shaken = (frame: number): TestPicture => {
  const [dx, dy] = moves[frame - 1]!;
  const at = (x: number, y: number): number => soft(x - dx, y - dy);
  return { width: W, height: H, fill: { R: at, G: at, B: at } };
};
const inside = [
  [20, 20],
  [32, 24],
  [44, 30],
] as const;

describe('steps on readings', () => {
  test('stabilise takes the motion out: every frame is the reference frame again', async () => {
    for (const frame of [2, 3, 4]) {
      const got = await evaluate({ main: shaken(frame) }, [{ type: 'stabilise', params: { reading: 'p', fill: 'none' } }], {
        frame,
        readings: [point('p', 30, 20)],
      });
      for (const [x, y] of inside) expect(got.at('R', x, y)).toBeCloseTo(soft(x, y), 2);
    }
  });

  test('filled, no pixel of any frame is empty', async () => {
    for (const fill of ['constant', 'varying']) {
      for (const frame of [1, 2, 3, 4]) {
        const got = await evaluate(
          { main: { width: W, height: H, fill: { R: 0.7, G: 0.7, B: 0.7 } } },
          [{ type: 'stabilise', params: { reading: 'p', fill, window: 3 } }],
          {
            frame,
            readings: [point('p', 30, 20)],
          },
        );
        for (const c of ['R', 'A']) expect(Math.min(...got.planes[c]!)).toBeCloseTo(c === 'A' ? 1 : 0.7, 4);
      }
    }
  });

  test('follow goes where the point goes, and a shutter smears along the way', async () => {
    const spot: TestPicture = {
      width: W,
      height: H,
      fill: { R: (x, y) => +(Math.hypot(x - 30, y - 20) < 4), G: 0, B: 0, A: (x, y) => +(Math.hypot(x - 30, y - 20) < 4) },
    };
    const readings = [point('p', 30, 20)];
    const sharp = await evaluate({ main: spot }, [{ type: 'follow', params: { reading: 'p' } }], { frame: 2, readings });
    expect(sharp.at('R', 33, 18)).toBeCloseTo(1, 3);
    expect(sharp.at('R', 27, 21)).toBeCloseTo(0, 3);
    const smeared = await evaluate(
      { main: spot },
      [{ type: 'follow', params: { reading: 'p', shutter: 360, shutterSamples: 8, filter: 'bilinear' } }],
      {
        frame: 3,
        readings,
      },
    );
    const sum = (p: Float32Array): number => p.reduce((s, v) => s + v, 0);
    expect(sum(smeared.planes.R!) / sum(sharp.planes.R!)).toBeCloseTo(1, 1);
    expect(Math.max(...smeared.planes.R!)).toBeLessThanOrEqual(1.0001);
    expect(smeared.planes.R!.filter((v) => v > 0.05).length).toBeGreaterThan(sharp.planes.R!.filter((v) => v > 0.05).length + 15);
  });

  test('follow on a plane and stabilise on it undo each other, perspective included', async () => {
    const steps = [
      { type: 'follow', params: { reading: 'plane' } },
      { type: 'stabilise', params: { reading: 'plane', fill: 'none' } },
    ];
    const got = await evaluate({ main: still }, steps, { frame: 2, readings: [plane] });
    for (const [x, y] of inside) expect(got.at('G', x, y)).toBeCloseTo(soft(x, y), 2);
  });

  test('a corner pin by four points is one by a plane with those corners, and unwrapping takes it back', async () => {
    const four = [point('a', 10, 8), point('b', 50, 8), point('c', 50, 40), point('d', 10, 40)];
    const byPoints = { from: 'points', first: 'a', second: 'b', third: 'c', fourth: 'd' };
    const shifted: Reading = {
      ...(plane as typeof plane & { kind: 'plane' }),
      frames: moves.map(([dx, dy], i) => ({ frame: i + 1, homography: [1, 0, dx, 0, 1, dy, 0, 0, 1] as const, confidence: 1, error: 0 })),
    };
    const readings = [...four, shifted];
    const one = await evaluate({ main: still }, [{ type: 'cornerPin', params: byPoints }], { frame: 2, readings });
    const other = await evaluate({ main: still }, [{ type: 'cornerPin', params: { from: 'plane', plane: 'plane' } }], {
      frame: 2,
      readings,
    });
    for (let i = 0; i < one.planes.R!.length; i++) expect(one.planes.R![i]!).toBeCloseTo(other.planes.R![i]!, 5);
    const back = await evaluate(
      { main: still },
      [
        { type: 'cornerPin', params: byPoints },
        { type: 'cornerPin', params: { ...byPoints, unwrap: true } },
      ],
      { frame: 2, readings },
    );
    for (const [x, y] of inside) expect(Math.abs(back.at('R', x, y) - soft(x, y))).toBeLessThan(0.03);
  });

  test('keys of corners stand for any map', async () => {
    const keys = { from: 'keys', topLeft: [3, -2], topRight: [3, -2], bottomRight: [3, -2], bottomLeft: [3, -2] };
    const live = await evaluate({ main: still }, [{ type: 'follow', params: { reading: 'p' } }], {
      frame: 2,
      readings: [point('p', 30, 20)],
    });
    const frozen = await evaluate({ main: still }, [{ type: 'follow', params: { ...keys, reading: 'p' } }], {
      frame: 4,
      readings: [point('p', 30, 20)],
    });
    for (const [x, y] of inside) expect(frozen.at('R', x, y)).toBeCloseTo(live.at('R', x, y), 4);
  });

  test('a reading that is gone is told, and the step passed by', async () => {
    const got = await evaluate({ main: still }, [{ type: 'follow', params: { reading: 'gone' } }], { frame: 2 });
    expect(got.plan.remarks.map((r) => r.message).join()).toContain('no longer there');
    expect(got.at('R', 20, 20)).toBeCloseTo(soft(20, 20), 5);
  });

  test('another frame is another picture even where the source is a still', async () => {
    const key = async (frame: number): Promise<string> =>
      (await evaluate({ main: still }, [{ type: 'follow', params: { reading: 'p' } }], { frame, readings: [point('p', 30, 20)] })).plan.key;
    expect(await key(2)).not.toBe(await key(3));
  });
});
