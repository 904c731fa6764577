import { area } from '@/core/geometry/rect';
import { inspectExr } from '@/core/formats/exr/read';
import { decodeMedia, inspectMedia } from '@/engine/codecs';
import { findFrames, nodeKernels, readBytes } from '@/engine/node/host';
import { UsageError, only, parseArguments, userPath } from './arguments';

/** Header, layers, channels, bounds; minimum, maximum, mean and NaN count of each channel's stored values. */
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
  const info = await inspectMedia(bytes, path);
  const exr = info.container === 'OpenEXR' ? inspectExr(bytes, path) : null;
  // Code values are reported as they are, 0..1; only OpenEXR holds light.
  const picture = await decodeMedia(
    bytes,
    path,
    { colourSpace: 'linear', alpha: exr ? 'premultiplied' : info.alpha === 'straight' ? 'premultiplied' : 'ignore' },
    kernels,
  );
  const channels = info.channels.map((name) => {
    const plane = picture.planes[name]!;
    let [min, max, sum, nan] = [Infinity, -Infinity, 0, 0];
    for (const v of plane) {
      if (Number.isNaN(v)) nan++;
      else {
        min = Math.min(min, v);
        max = Math.max(max, v);
        sum += v;
      }
    }
    const type = exr?.channels.find((c) => c.name === name)?.type ?? info.bits;
    return { name, type, min, max, mean: sum / Math.max(1, plane.length - nan), nan };
  });
  const report = {
    file: path,
    container: info.container,
    format: info.format,
    bounds: picture.bounds,
    pixels: area(picture.bounds),
    ...(exr ? { compression: exr.compression, attributes: exr.attributes } : {}),
    channels,
  };
  Object.values(picture.planes).forEach((p) => kernels.give(p));
  return report;
}

function describe(r: Report): string {
  const b = r.bounds;
  const head = `${r.file}\n  ${r.container} ${r.format.width}×${r.format.height}, pixels ${b.x0},${b.y0} to ${b.x1},${b.y1}${r.compression ? `, ${r.compression}` : ''}\n`;
  const n = (v: number): string => v.toPrecision(6);
  return (
    head +
    r.channels
      .map((c) => `  ${c.name.padEnd(16)} ${c.type.padEnd(7)} min ${n(c.min)}  max ${n(c.max)}  mean ${n(c.mean)}  NaN ${c.nan}\n`)
      .join('')
  );
}
