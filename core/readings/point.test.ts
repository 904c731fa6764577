import { nodeKernels } from '@/engine/node/host';
import { invert } from '../geometry/fit';
import type { Homography } from '../geometry/homography';
import { applyHomography } from '../geometry/homography';
import { correlation, peaks } from './correlate';
import type { GrayFrame } from './gray';
import { calmed, frameOf, grayFrame, halved, sampleAt } from './gray';
import { judgePlace, tellDoubt } from './judge';
import { followPoint, measurePoint } from './measure';
import type { PointFrame, PointSettings } from './point';
import { POINT_SETTINGS, PointTracker, reviewPath } from './point';
import { HARD_CLIPS, seenThrough } from './testing';
import type { PointReading } from './types';

const kernels = await nodeKernels();

const [W, H] = [200, 140];
const AT = [103.3, 68.6] as const;

/** Where the picture is on each frame: turned and scaled around its middle, then moved. */
function motion(frame: number, turn: number, scale: number): Homography {
  const t = (frame - 1) / 11;
  const a = (turn * t * Math.PI) / 180;
  const s = scale ** t;
  const [c, n] = [s * Math.cos(a), s * Math.sin(a)];
  const [dx, dy] = [14 * Math.sin(0.5 * (frame - 1)), 9 * Math.sin(0.33 * (frame - 1))];
  return [c, -n, 100 - 100 * c + 70 * n + dx, n, c, 70 - 100 * n - 70 * c + dy, 0, 0, 1];
}

const reading = (settings: Partial<PointSettings> = {}, change: Partial<PointReading> = {}): PointReading => ({
  id: 'r',
  name: 'r',
  kind: 'point',
  from: { lane: 'l' },
  channel: 'luma',
  reference: 1,
  range: { first: 1, last: 12 },
  settings: { ...POINT_SETTINGS, pattern: [-11, -11, 12, 12], search: [-34, -34, 35, 35], ...settings },
  at: AT,
  frames: [],
  ...change,
});

interface Clip {
  turn?: number;
  scale?: number;
  noise?: number;
  light?: (frame: number) => number;
  over?: (frame: number) => (x: number, y: number) => number | null;
}
const clip = ({ turn = 0, scale = 1, noise = 0, light = () => 1, over }: Clip) => ({
  frame: async (f: number): Promise<GrayFrame> =>
    seenThrough(invert(motion(f, turn, scale))!, W, H, { noise, seed: f, gain: light(f) }, over?.(f)),
});
const off = (frames: readonly PointFrame[], turn = 0, scale = 1): number[] =>
  frames.map((f) => {
    const [x, y] = applyHomography(motion(f.frame, turn, scale), ...AT);
    return Math.hypot(f.x - x, f.y - y);
  });
const rms = (list: readonly number[]): number => Math.sqrt(list.reduce((s, v) => s + v * v, 0) / list.length);

describe('point track', () => {
  test('a detail that moves is found to a few hundredths of a pixel', async () => {
    const frames = await measurePoint(kernels, reading(), clip({}));
    expect(frames).toHaveLength(12);
    expect(Math.max(...off(frames))).toBeLessThan(0.05);
    for (const f of frames) expect(f.confidence).toBeGreaterThan(0.8);
  });

  test('noise, and light that halves and doubles, cost little', async () => {
    const frames = await measurePoint(kernels, reading(), clip({ noise: 0.03, light: (f) => 2 ** Math.sin(f) }));
    expect(rms(off(frames))).toBeLessThan(0.12);
    expect(frames.every((f) => !f.flag)).toBe(true);
  });

  test('turn and scale are followed and told', async () => {
    const frames = await measurePoint(kernels, reading({ model: 'similarity' }), clip({ turn: 25, scale: 1.3 }));
    expect(rms(off(frames, 25, 1.3))).toBeLessThan(0.1);
    const last = frames[frames.length - 1]!;
    expect(last.turn!).toBeCloseTo(25, 0);
    expect(last.scale!).toBeCloseTo(1.3, 1);
  });

  test('the affine model does as well', async () => {
    const frames = await measurePoint(kernels, reading({ model: 'affine', renew: 'never' }), clip({ turn: -20, scale: 0.8 }));
    expect(rms(off(frames, -20, 0.8))).toBeLessThan(0.15);
  });

  test('renewed on every frame it follows a turn without knowing of turns, and drifts', async () => {
    const frames = await measurePoint(kernels, reading({ renew: 'every' }), clip({ turn: 30 }));
    expect(Math.max(...off(frames, 30))).toBeLessThan(2);
  });

  test('a detail that turns, followed as if it only moved, is flagged where it has changed too much', async () => {
    const frames = await measurePoint(kernels, reading(), clip({ turn: 40 }));
    const missed = off(frames, 40);
    expect(Math.max(...missed)).toBeGreaterThan(0.5);
    frames.forEach((f, i) => expect(missed[i]! < 1 || f.flag !== undefined).toBe(true));
    expect((await measurePoint(kernels, reading({ model: 'similarity' }), clip({ turn: 40 }))).every((f) => !f.flag)).toBe(true);
  });

  test('something passes in front: the frames are flagged, bridged, and it is found again', async () => {
    const over = (f: number) => (x: number) => (f >= 5 && f <= 7 && x > 60 && x < 160 ? 0.3 + 0.2 * Math.sin(x * 0.8 + f) : null);
    const frames = await measurePoint(kernels, reading(), clip({ over }));
    expect(frames.filter((f) => f.flag === 'predicted').map((f) => f.frame)).toEqual([5, 6, 7]);
    const missed = off(frames);
    for (const f of [8, 9, 10, 11, 12]) expect(missed[f - 1]!).toBeLessThan(0.1);
  });

  test('told to stop it stops there', async () => {
    const over = (f: number) => (x: number) => (f >= 5 && x > 60 && x < 160 ? 0.3 + 0.2 * Math.sin(x * 0.8 + f) : null);
    const frames = await measurePoint(kernels, reading({ lost: 'stop' }), clip({ over }));
    expect(frames[frames.length - 1]).toMatchObject({ frame: 5, flag: 'low' });
  });

  test('both ways from a frame in the middle, and from a place put there by hand', async () => {
    const at = applyHomography(motion(6, 0, 1), ...AT);
    const middle = reading({}, { reference: 6, at: [at[0], at[1]] });
    const frames = await measurePoint(kernels, middle, clip({}));
    expect(frames.map((f) => f.frame)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
    expect(Math.max(...off(frames))).toBeLessThan(0.05);
    const pin: PointFrame = { frame: 9, x: 60, y: 50, confidence: 1, error: 0, pinned: true };
    const again = await measurePoint(kernels, { ...middle, frames: [pin] }, clip({}));
    expect(again.find((f) => f.frame === 9)).toEqual(pin);
    const [a, b] = [9, 12].map((f) => again.find((g) => g.frame === f)!) as [PointFrame, PointFrame];
    const [u, v] = [applyHomography(motion(9, 0, 1), ...AT), applyHomography(motion(12, 0, 1), ...AT)];
    expect(b.x - a.x).toBeCloseTo(v[0] - u[0], 1);
  });

  test('one frame at a time finds what all at once finds: the first pattern stays the judge', async () => {
    for (const settings of [{}, { model: 'similarity' as const }]) {
      const whole = await measurePoint(kernels, reading(settings), clip({ turn: 12 }));
      let stepped = reading(settings, { frames: whole.slice(0, 1) });
      for (let frame = 1; frame < 12; frame++) {
        for await (const f of followPoint(kernels, stepped, { frame, direction: 1 }, clip({ turn: 12 }))) {
          stepped = { ...stepped, frames: [...stepped.frames, f] };
          break;
        }
      }
      stepped.frames.forEach((f, i) => {
        expect(Math.hypot(f.x - whole[i]!.x, f.y - whole[i]!.y)).toBeLessThan(0.05);
        if (settings.model) expect(f.turn ?? 0).toBeCloseTo(whole[i]!.turn ?? 0, 0);
      });
    }
  });

  test('a frame that was flagged for its place is not, once its neighbours are right', () => {
    const frames = Array.from({ length: 9 }, (_, i): PointFrame => ({ frame: i + 1, x: i, y: 5, confidence: 1, error: 0 }));
    const bad = reviewPath(frames.map((f) => (f.frame === 5 ? { ...f, y: 40 } : f)));
    expect(bad[4]!.flag).toBe('jump');
    expect(reviewPath(bad.map((f) => (f.frame === 5 ? { ...f, y: 5 } : f))).every((f) => !f.flag)).toBe(true);
  });

  test('a path is looked at: repeats and jumps are flagged', () => {
    const frames = Array.from({ length: 12 }, (_, i): PointFrame => ({
      frame: i + 1,
      x: i * 2 + 0.01 * i * i,
      y: 5,
      confidence: 1,
      error: 0,
    }));
    frames[4] = { ...frames[4]!, x: frames[3]!.x };
    frames[8] = { ...frames[8]!, y: 30 };
    const flags = reviewPath(frames).map((f) => f.flag ?? '');
    expect(flags[4]).toBe('repeat');
    expect(flags[8]).toBe('jump');
  });
});

describe('correlation', () => {
  test('equals the formula, and is 1 at the place that the template is cut from', () => {
    const image = seenThrough([1, 0, 0, 0, 1, 0, 0, 0, 1], 40, 30).read(0, 0, 40, 30);
    const template = frameOf(image).read(12, 9, 9, 7);
    const map = correlation(kernels, template, image);
    const [best] = peaks(map, 1, 3);
    expect([best!.x, best!.y]).toEqual([12, 9]);
    expect(best!.score).toBeCloseTo(1, 5);
    const naive = (x: number, y: number): number => {
      const a = [...template.data];
      const b = [...frameOf(image).read(x, y, 9, 7).data];
      const [ma, mb] = [a, b].map((l) => l.reduce((s, v) => s + v, 0) / l.length) as [number, number];
      const dot = (p: number[], mp: number, q: number[], mq: number): number => p.reduce((s, v, i) => s + (v - mp) * (q[i]! - mq), 0);
      return dot(a, ma, b, mb) / Math.sqrt(dot(a, ma, a, ma) * dot(b, mb, b, mb));
    };
    for (const [x, y] of [
      [0, 0],
      [31, 23],
      [7, 16],
    ] as const) {
      expect(map.data[y * map.width + x]!).toBeCloseTo(naive(x, y), 4);
    }
  });
});

describe('a channel of a frame', () => {
  test('edges are repeated, halves are means, constants stay', () => {
    const pixels = new Float32Array(4 * 6 * 4).fill(0.5);
    const frame = grayFrame(pixels, { x0: 0, y0: 0, x1: 6, y1: 4 }, { width: 6, height: 4 }, 'alpha');
    const read = frame.read(-3, -3, 12, 12);
    expect([...read.data].every((v) => v === 0.5)).toBe(true);
    for (const g of [calmed(read), halved(read)]) expect([...g.data].every((v) => Math.abs(v - 0.5) < 1e-6)).toBe(true);
    expect(sampleAt(read, -4, 20)).toBe(0.5);
  });

  test('saturation is 0 for grey and 1 for a primary; light is seen by sRGB’s curve', () => {
    const pixels = Float32Array.from([0.3, 0.3, 0.3, 1, 0.7, 0, 0, 1]);
    const of = (c: 'saturation' | 'luma' | 'red') =>
      grayFrame(pixels, { x0: 0, y0: 0, x1: 2, y1: 1 }, { width: 2, height: 1 }, c).read(0, 0, 2, 1).data;
    expect(of('saturation')[0]).toBeCloseTo(0, 6);
    expect(of('saturation')[1]).toBeCloseTo(1, 6);
    expect(of('luma')[0]).toBeCloseTo(0.5838, 3);
    expect(of('red')[1]).toBeCloseTo(0.8543, 3);
  });
});

describe('clips on which a track goes wrong', () => {
  test.each(HARD_CLIPS.map((c) => [c.name, c] as const))('%s: no frame is over a pixel off without a flag', (_, clip) => {
    const tracker = new PointTracker(kernels, { ...POINT_SETTINGS, pattern: clip.pattern }, clip.frame(1), ...clip.truth(1));
    const off: number[] = [];
    const silent: number[] = [];
    for (let f = 2; f <= clip.frames; f++) {
      const got = tracker.next(clip.frame(f), f);
      const [x, y] = clip.truth(f);
      const away = Math.hypot(got.x - x, got.y - y);
      off.push(away);
      if (away > 1 && !got.flag) silent.push(f);
      // A prediction stays within the search around where it was last seen for sure.
      expect(Math.hypot(got.x - clip.truth(1)[0], got.y - clip.truth(1)[1])).toBeLessThan(200);
      if (clip.name === 'good detail') expect([f, got.flag]).toEqual([f, undefined]);
    }
    expect(silent).toEqual([]);
    if (clip.name === 'good detail') expect(Math.max(...off)).toBeLessThan(0.3);
  });
});

describe('a place before it is followed', () => {
  const judged = (name: string) => {
    const clip = HARD_CLIPS.find((c) => c.name === name)!;
    return judgePlace(kernels, clip.frame(1), ...clip.truth(1), { ...POINT_SETTINGS, pattern: clip.pattern });
  };

  test('good detail is left alone', () => expect(judged('good detail')).toEqual({ edge: false, alike: null, better: null }));

  test('an edge and bare sky hold nothing, a rope and a board look like their neighbours', () => {
    expect(judged('straight edge')).toMatchObject({ edge: true, better: null });
    expect(judged('bare sky').edge).toBe(true);
    expect(judged('rope of equal strands').alike ?? judged('rope of equal strands').edge).toBeTruthy();
    const { alike } = judged('checkerboard');
    expect(alike!.score).toBeGreaterThan(0.9);
    expect(tellDoubt(judged('checkerboard'))).toMatch(/px away looks the same/);
  });

  test('beside an edge that ends, its end is offered', () => {
    // A bright box: the middle of its side slides, its corner holds.
    const data = new Float32Array(200 * 200);
    for (let y = 0; y < 200; y++) for (let x = 0; x < 200; x++) data[y * 200 + x] = x > 60 && y > 60 ? 0.8 : 0.2;
    const { edge, better } = judgePlace(kernels, frameOf({ width: 200, height: 200, data }), 61, 90, {
      ...POINT_SETTINGS,
      pattern: [-12, -12, 13, 13],
    });
    expect(edge).toBe(true);
    expect(Math.hypot(better![0] - 61, better![1] - 61)).toBeLessThan(4);
  });
});
