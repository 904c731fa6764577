import { area } from '@/core/geometry';
import { crc32Text } from '@/core/crc32';
import type { ExrPart } from '@/core/formats';
import { exrChannels, idLayers, inspectExr } from '@/core/formats';
import { layersOf } from '@/core/picture';
import { statisticsOf } from '@/core/statistics';
import { parseCdl } from '@/core/colour';
import { decodeMedia, inspectAny, isMovie } from '@/engine';
import { findFrames, nodeKernels, readBytes } from '@/engine/node';
import { movieInfo } from './movie-info';
import { UsageError, only, parseArguments, userPath } from './arguments';

/** Header, parts, layers, channels, bounds; of each channel's values the least, the greatest, the mean, how many are NaN or infinite, and the CRC-32 of its float32 rows. */
export async function inspect(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, ['json']);
  only(options, ['json']);
  if (words.length === 0) throw new UsageError('inspect takes one file or more');
  const reports = [];
  for (const word of words) {
    const found = await findFrames(userPath(word));
    for (const { path } of found.length ? found : [{ path: userPath(word) }]) reports.push(await inspectFile(path));
  }
  if (options.has('json')) process.stdout.write(`${JSON.stringify(reports, null, 2)}\n`);
  else for (const r of reports) process.stdout.write(describe(r));
}

type Report = Awaited<ReturnType<typeof inspectFile>>;

async function inspectFile(path: string) {
  const kernels = await nodeKernels();
  const bytes = await readBytes(path);
  if (/\.(cdl|ccc|cc)$/i.test(path)) return { file: path, container: 'CDL', corrections: parseCdl(new TextDecoder().decode(bytes), path) };
  const info = isMovie(bytes) ? await movieInfo(path) : await inspectAny(bytes, path);
  if (info.movie || info.channels.length === 0) {
    // Their pixels, if they have any, are decoded by a browser only.
    const { container, format, bits, attributes, movie } = info;
    return { file: path, container, bits, ...(movie && { format, ...movie }), attributes };
  }
  const exr = info.container === 'OpenEXR' ? inspectExr(bytes, path) : null;
  // Code values are reported as they are, 0..1; only OpenEXR holds light.
  const picture = await decodeMedia(
    bytes,
    path,
    { colourSpace: 'linear', alpha: exr ? 'premultiplied' : info.alpha === 'straight' ? 'premultiplied' : 'ignore' },
    kernels,
  );
  const stored = exr && new Map(exrChannels(exr).map((c) => [c.name, exr.parts[c.part]!.channels.find((k) => k.name === c.stored[0])!]));
  const channels = info.channels.map((name) => {
    const plane = picture.planes[name]!;
    const { min, max, mean, nan, infinite } = statisticsOf(kernels, plane);
    const type = stored?.get(name)?.type ?? info.bits;
    const crc = crc32Text(new Uint8Array(plane.buffer, plane.byteOffset, plane.byteLength));
    return { name, type, min, max, mean, nan, infinite, crc32: crc };
  });
  const report = {
    file: path,
    container: info.container,
    colourSpace: info.colourSpace,
    format: info.format,
    bounds: picture.bounds,
    pixels: area(picture.bounds),
    layers: layersOf(info.channels),
    ids: idLayers(Object.fromEntries(info.attributes), info.channels).map((l) => ({ name: l.name, objects: Object.values(l.manifest) })),
    ...(exr ? { parts: exr.parts.map((p) => ({ ...p, layers: layersOf(p.channels.map((c) => c.name)) })) } : {}),
    channels,
  };
  Object.values(picture.planes).forEach((p) => kernels.give(p));
  return report;
}

const partText = (p: ExrPart): string =>
  `${p.name ? `${p.name} ` : ''}${p.compression}${p.tiles ? ` tiles ${p.tiles.width}×${p.tiles.height}` : ''}`;

function describe(r: Report): string {
  if (!('channels' in r)) {
    const { file, ...rest } = r;
    return `${file}\n${Object.entries(rest)
      .map(([k, v]) => `  ${k} ${typeof v === 'string' || typeof v === 'number' ? v : JSON.stringify(v)}\n`)
      .join('')}`;
  }
  const b = r.bounds;
  const head = `${r.file}\n  ${r.container}, ${r.colourSpace}, ${r.format.width}×${r.format.height}, pixels ${b.x0},${b.y0} to ${b.x1},${b.y1}${r.parts ? `, ${r.parts.map(partText).join('; ')}` : ''}\n`;
  const n = (v: number): string => v.toPrecision(6);
  return (
    head +
    r.channels
      .map(
        (c) =>
          `  ${c.name.padEnd(16)} ${c.type.padEnd(7)} min ${n(c.min)}  max ${n(c.max)}  mean ${n(c.mean)}  NaN ${c.nan}  infinite ${c.infinite}  CRC ${c.crc32}\n`,
      )
      .join('')
  );
}
