import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Source } from '@/core/document/types';
import { writeExr } from '@/core/formats/exr/write';
import type { Rect } from '@/core/geometry/rect';
import { rect } from '@/core/geometry/rect';
import { flat, testShot } from '@/core/testing/evaluate';
import { inspectMedia } from './inspect';
import { sourceOf } from './media-source';
import { nodeHost, nodeKernels } from './node/host';
import { joinPasses, passName } from './pass-files';

describe('passes by the names of their files', () => {
  test.each([
    ['diver_beauty', 'diver', ''],
    ['diver.specular', 'diver', 'specular'],
    ['SG030-diver_diffuse_indirect', 'SG030-diver', 'diffuse_indirect'],
    ['diver_N', 'diver', 'N'],
    ['diver.Z', 'diver', 'Z'],
  ] as const)('%s', (name, render, layer) => expect(passName(name)).toEqual({ render, layer }));

  test.each(['harbour', 'keeper plate', 'diver_v002', 'sg010_night'])('%s is no pass', (name) => expect(passName(name)).toBeNull());
});

/** Files of flat channels on disk, as sources, with where they lie by hash. */
async function flats(files: Record<string, { bounds: Rect; channels: Record<string, number> }>) {
  const folder = mkdtempSync(join(tmpdir(), 'saltgate-passes-'));
  const kernels = await nodeKernels();
  const paths = new Map<string, string>();
  const sources: Source[] = [];
  for (const [name, { bounds, channels }] of Object.entries(files)) {
    const n = (bounds.x1 - bounds.x0) * (bounds.y1 - bounds.y0);
    const list = Object.entries(channels).map(([c, v]) => ({ name: c, type: 'float' as const, plane: kernels.take(n).fill(v) }));
    const bytes = writeExr({ format: { width: 8, height: 4, pixelAspect: 1 }, bounds, channels: list, compression: 'ZIP' }, kernels);
    list.forEach((c) => kernels.give(c.plane));
    const path = join(folder, `${name}.exr`);
    writeFileSync(path, bytes);
    const hash = String(paths.size).repeat(64).slice(0, 64);
    paths.set(hash, path);
    const info = await inspectMedia(bytes, path);
    const frame = { frame: 1, hash, name: `${name}.exr`, ...(info.bounds && { bounds: info.bounds }) };
    sources.push({ id: name, name, ...sourceOf(info, [frame], true) });
  }
  return { sources, paths };
}

test('files of one render are one source whose layers come from each, wherever their pixels lie', async () => {
  const { sources, paths } = await flats({
    diver_specular: { bounds: rect(2, 1, 6, 3), channels: { R: 0.5, G: 0.25, B: 0.125 } },
    diver_beauty: { bounds: rect(0, 0, 8, 4), channels: { R: 1, G: 2, B: 3, A: 1 } },
    diver_Z: { bounds: rect(0, 0, 8, 4), channels: { Z: 7 } },
    quay: { bounds: rect(0, 0, 8, 4), channels: { R: 0, G: 0, B: 0 } },
  });
  const found = joinPasses(sources);
  expect(found.map((s) => s.name).sort()).toEqual(['diver', 'quay']);
  const set = found.find((s) => s.name === 'diver')!;
  expect([...set.channels].sort()).toEqual(['A', 'B', 'G', 'R', 'Z.Z', 'specular.B', 'specular.G', 'specular.R']);
  const base = testShot({ main: flat(8, 4, 0) }, []);
  const shot = { ...base, sources: [{ ...set, id: 'source main' }] };
  const held = (await nodeKernels()).used;
  const host = await nodeHost(paths);
  const look = async (channels: string[], x: number, y: number): Promise<number[]> => {
    const { pixels } = await host.render(shot, { tap: { lane: 'main' }, frame: 1, channels, scale: 1 });
    return [...pixels.subarray(4 * (y * 8 + x), 4 * (y * 8 + x) + 4)];
  };
  expect(await look(['R', 'G', 'B', 'A'], 7, 3)).toEqual([1, 2, 3, 1]);
  expect(await look(['specular.R', 'specular.G', 'specular.B', 'A'], 3, 2)).toEqual([0.5, 0.25, 0.125, 1]);
  expect(await look(['specular.R', 'specular.G', 'specular.B', 'A'], 0, 0)).toEqual([0, 0, 0, 1]);
  expect(await look(['Z.Z', 'Z.Z', 'Z.Z', 'A'], 5, 0)).toEqual([7, 7, 7, 1]);
  host.renderer.cache.shrink(0);
  expect((await nodeKernels()).used).toBe(held);
});

test('renders of another size, or with other frames, stay apart', async () => {
  const { sources } = await flats({
    diver_beauty: { bounds: rect(0, 0, 8, 4), channels: { R: 1 } },
    diver_N: { bounds: rect(0, 0, 8, 4), channels: { X: 1 } },
  });
  const [a, b] = sources as [Source, Source];
  expect(joinPasses([a, { ...b, format: { ...b.format, width: 9 } }])).toHaveLength(2);
  expect(joinPasses([a, { ...b, frames: [{ ...b.frames![0]!, frame: 2 }] }])).toHaveLength(2);
  expect(joinPasses([a, b])).toHaveLength(1);
});
