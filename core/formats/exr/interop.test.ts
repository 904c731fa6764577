import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { nodeKernels } from '@/engine/node/host';
import { rect } from '../../geometry/rect';
import type { Picture } from '../../picture';
import { exrChannels, inspectExr, readExr } from './read';
import { WRITTEN, writeExr } from './write';

// Against other programs that read and write the format; the test script installs them.
const folder = mkdtempSync(join(tmpdir(), 'saltgate-exr-'));
const at = (name: string): string => join(folder, name);
const oiio = (...args: string[]): string => execFileSync('oiiotool', args, { encoding: 'utf8', cwd: folder });

async function read(name: string): Promise<Picture> {
  const k = await nodeKernels();
  const picture = readExr(readFileSync(at(name)), name, k);
  const planes = Object.fromEntries(Object.entries(picture.planes).map(([c, p]) => [c, Float32Array.from(p)]));
  Object.values(picture.planes).forEach((p) => k.give(p));
  return { ...picture, planes };
}

function largest(a: Picture, b: Picture): number {
  let most = 0;
  for (const c of b.channels) b.planes[c]!.forEach((v, i) => (most = Math.max(most, Math.abs(v - a.planes[c]![i]!))));
  return most;
}

beforeAll(() => {
  oiio(
    ...['--pattern', 'fill:top=0.1,0.4,0.9:bottom=0.9,0.3,0.05', '203x147', '3'],
    ...['--noise:type=gaussian:stddev=0.05', '--ch', 'R,G,B,A=0.5', '-d', 'half', '-o', 'base.exr'],
  );
});

describe('files that another program wrote', () => {
  const COMPRESSIONS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'];
  // DWA transforms in floats: its halves may come out one step apart.
  const tolerance = (c: string): number => (c.startsWith('dwa') ? 1e-3 : 0);

  test.each(COMPRESSIONS)('%s: halves, floats and tiles hold the pixels that it reads itself', async (c) => {
    const kinds: Record<string, string[]> = { half: ['-d', 'half'], float: ['-d', 'float'], tiled: ['-d', 'half', '--tile', '64', '32'] };
    // All in one call of the program, which takes longer to start than to write and read.
    const plain = ['--compression', 'none', '--scanline', '-d', 'float'];
    const calls = Object.entries(kinds).map(([kind, args]) => [
      ...['base.exr', '--compression', c, ...args, '-o', `${kind}.exr`],
      ...['-i', `${kind}.exr`, ...plain, '-o', `${kind}-plain.exr`],
    ]);
    oiio(...calls.flat());
    for (const kind of Object.keys(kinds)) {
      expect(inspectExr(readFileSync(at(`${kind}.exr`)), kind).parts[0]!.compression).toBe(c.toUpperCase());
      expect(largest(await read(`${kind}.exr`), await read(`${kind}-plain.exr`))).toBeLessThanOrEqual(tolerance(c));
    }
  });

  test('a data window that reaches outside the display window', async () => {
    oiio('base.exr', '--origin', '-20-10', '--fullsize', '128x96+0+0', '-o', 'window.exr');
    const got = await read('window.exr');
    expect(got.format).toMatchObject({ width: 128, height: 96 });
    expect(got.bounds).toEqual(rect(-20, -10, 183, 137));
    expect(largest(got, await read('base.exr'))).toBe(0);
  });

  test('mip-mapped tiles give their largest level', async () => {
    execFileSync('exrmaketiled', ['-m', '-t', '32', '32', at('base.exr'), at('mip.exr')]);
    expect(inspectExr(readFileSync(at('mip.exr')), 'mip').parts[0]!.tiles).toMatchObject({ width: 32, levels: 'mipmap' });
    expect(largest(await read('mip.exr'), await read('base.exr'))).toBe(0);
  });

  test('several parts become layers of one picture', async () => {
    oiio('base.exr', '--mulc', '0.5', '-d', 'half', '-o', 'second.exr');
    execFileSync('exrmultipart', ['-combine', '-i', at('base.exr'), at('second.exr'), '-o', at('parts.exr')]);
    const header = inspectExr(readFileSync(at('parts.exr')), 'parts');
    expect(header.parts).toHaveLength(2);
    const names = exrChannels(header).map((c) => c.name);
    expect(new Set(names).size).toBe(8);
    const got = await read('parts.exr');
    const second = names.filter((n) => n.endsWith('.R'))[0]!;
    const base = await read('base.exr');
    got.planes[second]!.forEach((v, i) => expect(Math.abs(v - base.planes.R![i]! / 2)).toBeLessThan(1e-3));
    expect(largest({ ...got, channels: base.channels }, base)).toBe(0);
  });
});

describe('files that other programs read', () => {
  test.each(WRITTEN)('%s: the same pixels, layers and windows', async (compression) => {
    const k = await nodeKernels();
    const bounds = rect(-3, 2, 98, 77);
    const n = 101 * 75;
    const channels = (['R', 'G', 'B', 'N.X', 'id.V'] as const).map((name, c) => ({
      name,
      type: name === 'id.V' ? ('uint' as const) : name === 'N.X' ? ('float' as const) : ('half' as const),
      plane: k.copy(Array.from({ length: n }, (_, i) => (name === 'id.V' ? i % 700 : ((i * 31 + c) % 512) / 256))),
    }));
    writeFileSync(at('ours.exr'), writeExr({ format: { width: 90, height: 80, pixelAspect: 1 }, bounds, compression, channels }, k));
    // Written again by the other program, plain and as floats; the integers are looked at by themselves.
    oiio('ours.exr', '--ch', 'R,G,B,N.X', '--compression', 'none', '-d', 'float', '-o', 'theirs.exr');
    const theirs = await read('theirs.exr');
    expect(theirs.bounds).toEqual(bounds);
    for (const c of channels) if (c.name !== 'id.V') expect([...theirs.planes[c.name]!]).toEqual([...c.plane]);
    expect(oiio('--info', '-v', 'ours.exr')).toMatch(/id\.V/);
    channels.forEach((c) => k.give(c.plane));
  });
});
