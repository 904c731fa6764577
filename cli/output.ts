import { extname } from 'node:path';
import { SPACE_NAMES } from '@/core/colour';
import type { ColourSpace } from '@/core/document';
import type { OutputSettings } from '@/core/formats';
import { CONTAINERS, DEFAULT_OUTPUT, OUTPUT_CONTAINERS, WRITTEN, isLight } from '@/core/formats';
import { UsageError } from './arguments';

/** Options that say how a picture is written, and those of them that take no value. */
export const OUTPUT_OPTIONS = ['to', 'bits', 'half', 'float', 'quality', 'compression'];
export const OUTPUT_FLAGS = ['half', 'float'];

/** How a file of this name is written, from its ending and the options. Throws UsageError. */
export function outputSettings(to: string, options: ReadonlyMap<string, string>): OutputSettings & { container: keyof typeof CONTAINERS } {
  const ending = extname(to).slice(1).toLowerCase().replace('tiff', 'tif').replace('jpeg', 'jpg');
  const container = OUTPUT_CONTAINERS.find((c) => c === ending);
  if (!container) throw new UsageError(`${OUTPUT_CONTAINERS.map((c) => `.${c}`).join(', ')} can be written, not "${extname(to)}"`);
  const compression = WRITTEN.find((c) => c === (options.get('compression') ?? 'ZIP').toUpperCase());
  if (!compression) throw new UsageError(`--compression is one of ${WRITTEN.join(', ')}`);
  const offered: readonly number[] = CONTAINERS[container].bits;
  const bits = wholeOption(options, 'bits', options.has('float') ? 32 : options.has('half') ? 16 : offered[0]!);
  if (!offered.includes(bits)) throw new UsageError(`.${container} is written with ${offered.join(' or ')} bits, not ${bits}`);
  const quality = wholeOption(options, 'quality', DEFAULT_OUTPUT.quality);
  if (quality < 1 || quality > 100) throw new UsageError('--quality is 1 to 100');
  const usual = isLight({ container, bits }) ? 'linear' : CONTAINERS[container].space;
  return { ...DEFAULT_OUTPUT, container, compression, bits, quality, colourSpace: spaceOption(options, 'to') ?? usual };
}

export function spaceOption(options: ReadonlyMap<string, string>, name: string): ColourSpace | undefined {
  const v = options.get(name);
  if (v === undefined) return undefined;
  const found = SPACE_NAMES.find((s) => s.toLowerCase() === v.toLowerCase());
  if (!found) throw new UsageError(`--${name} is one of ${SPACE_NAMES.join(', ')}, not "${v}"`);
  return found;
}

export function wholeOption(options: ReadonlyMap<string, string>, name: string, otherwise: number): number {
  const v = Number(options.get(name) ?? otherwise);
  if (!Number.isInteger(v)) throw new UsageError(`--${name} is a whole number`);
  return v;
}
