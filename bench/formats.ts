import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Kernels } from '@/kernels';
import { readExr } from '@/core/formats/exr/read';
import { writeExr } from '@/core/formats/exr/write';
import { writePng } from '@/core/formats/codes';
import { rect } from '@/core/geometry/rect';
import type { Picture } from '@/core/picture';
import { decodeMedia } from '@/engine/codecs';
import { ms, table, timeOf, timeOfAsync, times } from './timing';

const FORMAT = { width: 1920, height: 1080, pixelAspect: 1 };
const BOUNDS = rect(0, 0, 1920, 1080);

/** Reading and writing HD pictures, one core, against OpenEXR's own library (through oiiotool) and libvips. */
export async function benchFormats(kernels: Kernels): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'saltgate-bench-'));
  const at = (name: string): string => join(folder, name);
  // A smooth picture with noise in its last bits, like a render or a plate.
  const noise = (i: number): number => ((Math.imul(i, 2654435761) >>> 8) & 1023) / 1023 - 0.5;
  const channels = ['R', 'G', 'B', 'A'].map((name, c) => {
    const plane = kernels.take(1920 * 1080);
    for (let i = 0; i < plane.length; i++) {
      const [x, y] = [i % 1920, Math.floor(i / 1920)];
      plane[i] = c === 3 ? Number(x > 200 && x < 1700) : 0.4 + 0.3 * Math.sin(x / (90 + 40 * c)) * Math.cos(y / 70) + 0.01 * noise(i + c);
    }
    return { name, type: 'half' as const, plane };
  });
  const give = (p: Picture): void => Object.values(p.planes).forEach((x) => kernels.give(x));
  const rows: string[][] = [];
  const native = existsSync('/usr/bin/oiiotool');
  const run = (...args: string[]): void => void execFileSync('oiiotool', ['--threads', '1', ...args], { cwd: folder, stdio: 'ignore' });
  const write = (compression: 'NONE' | 'ZIP' | 'PIZ'): Uint8Array =>
    writeExr({ format: FORMAT, bounds: BOUNDS, channels, compression }, kernels);
  writeFileSync(at('plain.exr'), write('NONE'));
  /** Milliseconds of one more of something that the program does in one start: many less few. */
  const each = (args: (count: number) => string[]): number =>
    native ? (timeOf(() => run(...args(12)), 900, 3) - timeOf(() => run(...args(2)), 900, 3)) / 10 : NaN;
  const repeat = (count: number, ...args: string[]): string[] => Array.from({ length: count }, () => args).flat();
  const row = (name: string, ours: number, theirs: number): void =>
    void rows.push([name, ms(ours), theirs > 0 ? ms(theirs) : '–', theirs > 0 ? times(ours / theirs) : '']);
  for (const compression of ['zip', 'piz', 'dwaa']) {
    if (!native && compression === 'dwaa') continue;
    if (native) run('plain.exr', '--compression', compression, '-d', 'half', '-o', 'a.exr');
    else writeFileSync(at('a.exr'), write(compression.toUpperCase() as 'ZIP'));
    const bytes = readFileSync(at('a.exr'));
    const ours = timeOf(() => give(readExr(bytes, 'a.exr', kernels)), 900, 3);
    const theirs = each((count) => repeat(count, '-i:now=1', 'a.exr', '--pop'));
    row(`decode EXR ${compression.toUpperCase()}, half RGBA`, ours, theirs);
  }
  for (const compression of ['ZIP', 'PIZ'] as const) {
    const ours = timeOf(() => write(compression), 900, 3);
    const theirs = each((count) => [
      'plain.exr',
      '-d',
      'half',
      '--compression',
      compression.toLowerCase(),
      ...repeat(count, '-o', 'b.exr'),
    ]);
    row(`encode EXR ${compression}, half RGBA`, ours, theirs);
  }
  sharp.concurrency(1);
  sharp.cache(false);
  const codes = Uint16Array.from(
    { length: 3 * 1920 * 1080 },
    (_, i) => 65535 * Math.min(1, Math.max(0, channels[i % 3]!.plane[Math.floor(i / 3)]!)),
  );
  const png = Buffer.from(writePng({ width: 1920, height: 1080, bits: 16, channels: 3, data: codes }));
  const jpeg = await sharp(png).toColourspace('srgb').jpeg({ quality: 92 }).toBuffer();
  for (const [name, bytes] of [
    ['decode PNG, 16 bit RGB', png],
    ['decode JPEG, quality 92', jpeg],
  ] as const) {
    const about = { colourSpace: 'sRGB', alpha: 'ignore' } as const;
    const ours = await timeOfAsync(async () => give(await decodeMedia(bytes, 'a', about, kernels)), 900, 3);
    const theirs = await timeOfAsync(() => sharp(bytes).raw().toBuffer(), 900, 3);
    row(`${name}, to light in planes`, ours, theirs);
  }
  channels.forEach((c) => kernels.give(c.plane));
  return `HD pictures, one core; beside OpenEXR's library through oiiotool (one more read or write in the same run of the program, its conversions and its file access included) and libvips.\n\n${table(['', 'ms', 'native ms', 'ours against native'], rows)}`;
}
