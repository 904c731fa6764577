import { guessPasses } from '@/core/passes/guess';
import type { PassFrame } from '@/core/passes/guess';
import type { Param } from '@/core/document/types';
import { evaluate } from '@/core/testing/evaluate';
import { EYE, project } from './diver-camera';
import { renderDiver } from './sg030';

const o = { width: 240, height: 135, samples: 2 };

function frameOf(frame: number, size = o): PassFrame {
  const { bounds, planes } = renderDiver(frame, size);
  return { bounds, planes, format: { width: size.width, height: size.height, pixelAspect: 1 }, channels: Object.keys(planes) };
}
const now = frameOf(1);
/** The frame with its motion in shares of the frame, from where things come, y upward. */
const motionOtherwise = (from: PassFrame): PassFrame =>
  otherwise((_, put) => {
    put('motion.X', (i) => -from.planes['motion.X']![i]! / from.format.width);
    put('motion.Y', (i) => from.planes['motion.Y']![i]! / from.format.height);
  }, from);
const next = frameOf(2);

/** The same frame with some channels made anew, renamed or left out. */
function otherwise(
  change: (planes: Record<string, Float32Array>, put: (name: string, of: (i: number) => number) => void) => void,
  from = now,
): PassFrame {
  const planes = Object.fromEntries(Object.entries(from.planes).map(([c, p]) => [c, Float32Array.from(p)]));
  change(planes, (name, of) => (planes[name] = from.planes.Z!.map((_, i) => of(i))));
  return { ...from, planes, channels: Object.keys(planes) };
}
const Z = now.planes.Z!;
const P = ['P.X', 'P.Y', 'P.Z'].map((c) => now.planes[c]!);
const rayOf = (i: number): number => Math.hypot(P[0]![i]! - EYE[0], P[1]![i]! - EYE[1], P[2]![i]! - EYE[2]);

/** Mean light of a frame whose parts are the diffuse light as raw by filter, and the others; or of what those leave out. */
async function mean({ planes, bounds }: PassFrame, show: 'beauty' | 'residual'): Promise<number> {
  const w = bounds.x1 - bounds.x0;
  const fill = Object.fromEntries(
    Object.entries(planes).map(([c, p]) => [c, (x: number, y: number) => p[(y - bounds.y0) * w + x - bounds.x0]!]),
  );
  const parts = ['diffuseRaw', 'specular', 'reflection', 'emission'].map((name) => ({ id: name, name }));
  const params = { parts, 'diffuseRaw.filter': 'diffuseFilter', show } as unknown as Record<string, Param>;
  const got = await evaluate({ main: { ...o, bounds, fill } }, [{ type: 'rebuildBeauty', params }]);
  return got.planes.G!.reduce((s, v) => s + Math.abs(v), 0) / got.planes.G!.length;
}

describe('what the passes of a render are for', () => {
  test('the film’s own', () => {
    const notes = guessPasses(now, next);
    expect(notes.Z).toMatchObject({ role: 'depth', facts: { along: 'view', as: 'distance', nothing: 1000 } });
    expect(notes.P).toMatchObject({ role: 'position', facts: { space: 'world' } });
    expect(notes.P!.facts!.turned).toBeUndefined();
    expect(notes.N).toMatchObject({ role: 'normal', facts: { space: 'world' } });
    expect(notes.N!.facts!.turned ?? '').toBe('');
    expect(notes.motion).toMatchObject({ facts: { unit: 'px', towards: 'next' } });
    for (const p of ['Z', 'P', 'N']) expect(notes[p]!.doubt).toBeUndefined();
    expect(notes.CryptoObject00!.role).toBe('cryptomatte');
    expect(notes.light_key!.role).toBe('light');
  });

  test('depth along the ray, inverted, or as nearness is told by the positions', () => {
    const ray = guessPasses(otherwise((_, put) => put('Z', (i) => (now.planes.A![i]! > 0 ? rayOf(i) : 1e10))));
    expect(ray.Z).toMatchObject({ facts: { along: 'ray', as: 'distance', nothing: Math.fround(1e10) } });
    const inverse = guessPasses(otherwise((_, put) => put('Z', (i) => (Z[i]! < 1000 ? 1 / Z[i]! : 0))));
    expect(inverse.Z).toMatchObject({ facts: { along: 'view', as: 'inverse' } });
    const nearness = guessPasses(otherwise((_, put) => put('Z', (i) => (Z[i]! < 1000 ? (10 - Z[i]!) / 8 : 0))));
    expect(nearness.Z!.facts!.as).toBe('nearness');
    expect(nearness.Z!.facts!.from![0]).toBeCloseTo(10, -0.3);
    expect(nearness.Z!.facts!.from![1]).toBeCloseTo(2, -0.3);
  });

  test('without positions what cannot be told is asked for', () => {
    const bare = guessPasses(otherwise((planes) => ['P.X', 'P.Y', 'P.Z'].forEach((c) => delete planes[c])));
    expect(bare.Z!.doubt).toMatch(/rays/);
    const far = otherwise((planes, put) => {
      ['P.X', 'P.Y', 'P.Z'].forEach((c) => delete planes[c]);
      put('Z', (i) => (Z[i]! < 1000 ? (10 - Z[i]!) / 8 : 0));
    });
    expect(guessPasses(far).Z).toMatchObject({ facts: { as: 'nearness' }, doubt: expect.stringMatching(/type them in/) as unknown });
  });

  test('normals of the camera, with y turned, or packed into 0 to 1', () => {
    const N = ['N.X', 'N.Y', 'N.Z'].map((c) => now.planes[c]!);
    const c = Math.cos(-0.055);
    const s = Math.sin(-0.055);
    // Right, up and back of the film's camera.
    const seen = [(i: number) => N[0]![i]!, (i: number) => c * N[1]![i]! + s * N[2]![i]!, (i: number) => c * N[2]![i]! - s * N[1]![i]!];
    const camera = guessPasses(
      otherwise((_, put) => 'XYZ'.split('').forEach((a, k) => put(`N.${a}`, (i) => (k === 1 ? -1 : 1) * seen[k]!(i)))),
    );
    expect(camera.N!.facts!.turned).toBe('y');
    const packed = guessPasses(otherwise((_, put) => 'XYZ'.split('').forEach((a, k) => put(`N.${a}`, (i) => 0.5 + 0.5 * N[k]![i]!))));
    expect(packed.N!.facts).toMatchObject({ space: 'world', packed: true });
    const long = guessPasses(otherwise((_, put) => 'XYZ'.split('').forEach((a, k) => put(`N.${a}`, (i) => 2 * N[k]![i]!))));
    expect(long.N!.doubt).toMatch(/2.00 long/);
  });

  test('positions of the camera', () => {
    const seen = otherwise((_, put) =>
      'XYZ'.split('').forEach((a, k) =>
        put(`P.${a}`, (i) => {
          if (now.planes.A![i] === 0) return 0;
          const [x, y, d] = project([P[0]![i]!, P[1]![i]!, P[2]![i]!], o);
          const f = 2.45 * o.height;
          return [((x - o.width / 2) / f) * d, ((o.height / 2 - y) / f) * d, -d][k]!;
        }),
      ),
    );
    expect(guessPasses(seen).P).toMatchObject({ facts: { space: 'camera' } });
  });

  test('a world whose axes are mirrored: positions and normals are turned alike', () => {
    const mirrored = guessPasses(
      otherwise((_, put) => {
        put('P.Z', (i) => -P[2]![i]!);
        put('N.Z', (i) => -now.planes['N.Z']![i]!);
      }),
    );
    expect(mirrored.P).toMatchObject({ facts: { space: 'world', turned: 'z' }, doubt: expect.stringMatching(/mirrored/) as unknown });
    expect(mirrored.N).toMatchObject({ facts: { space: 'world', turned: 'z' } });
  });

  test('motion in shares of the frame, backwards, y upward', () => {
    expect(guessPasses(motionOtherwise(now), next).motion).toMatchObject({
      facts: { towards: 'previous' },
      doubt: expect.stringMatching(/too little moves/) as unknown,
    });
    const large = { width: 480, height: 270, samples: 1 };
    const [a, b] = [frameOf(1, large), frameOf(2, large)];
    expect(guessPasses(motionOtherwise(a), b).motion).toMatchObject({ facts: { unit: 'frame', towards: 'previous' } });
    expect(guessPasses(motionOtherwise(a), b).motion!.doubt ?? '').not.toMatch(/unit/);
    expect(guessPasses(now).motion!.doubt).toMatch(/could not be tried out/);
  });

  test('raw light goes with its filter, and then the parts add up', async () => {
    const raw = otherwise((planes, put) => {
      for (const k of 'RGB') {
        put(`diffuseFilter.${k}`, (i) => now.planes[`albedo.${k}`]![i]!);
        put(`diffuseRaw.${k}`, (i) => now.planes[`diffuse.${k}`]![i]! / Math.max(1e-6, now.planes[`albedo.${k}`]![i]!));
        delete planes[`diffuse.${k}`];
      }
    });
    const notes = guessPasses(raw);
    expect(notes.diffuseRaw).toMatchObject({ role: 'raw', facts: { times: 'diffuseFilter' } });
    expect(notes.diffuseFilter!.role).toBe('filter');
    // What is left of the beauty once the parts are taken off: no more than the glass and the rims.
    const [light, left] = [await mean(raw, 'beauty'), await mean(raw, 'residual')];
    expect(left).toBeLessThan(0.02 * light);
    const lonely = otherwise((planes) => 'RGB'.split('').forEach((k) => delete planes[`diffuseFilter.${k}`]), raw);
    expect(guessPasses(lonely).diffuseRaw!.doubt).toMatch(/no filter/);
  });

  test('a pass that is the sum of others does not count twice', () => {
    const split = otherwise((_, put) => {
      for (const k of 'RGB') {
        put(`diffuse_direct.${k}`, (i) => 0.7 * now.planes[`diffuse.${k}`]![i]!);
        put(`diffuse_indirect.${k}`, (i) => 0.3 * now.planes[`diffuse.${k}`]![i]!);
      }
    });
    const notes = guessPasses(split);
    expect(notes.diffuse).toMatchObject({ role: 'other', reason: expect.stringMatching(/sum of/) as unknown });
    expect(notes.diffuse_direct!.role).toBe('diffuse');
  });

  test('nothing but a beauty has nothing to tell', () => {
    const bare = otherwise((planes) => Object.keys(planes).forEach((c) => !['R', 'G', 'B', 'A'].includes(c) && delete planes[c]));
    expect(guessPasses(bare, next)).toEqual({});
  });
});
